"""Recordings, marks, calibrations and rules of every kind of sensor"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

JSONB = postgresql.JSONB(astext_type=sa.Text())
_AIR = (
    "temperature_c",
    "relative_humidity",
    "pressure_pa",
    "temperature_tolerance_c",
    "humidity_tolerance",
    "pressure_tolerance_pa",
)


def upgrade() -> None:
    _recordings()
    _calibrations()
    _marks()
    _rules()
    _overviews()


def _recordings() -> None:
    op.create_table(
        "recording_input",
        sa.Column("recording_id", sa.BigInteger(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("lane", sa.BigInteger(), nullable=False),
        sa.Column("channel", sa.BigInteger(), nullable=False),
        sa.Column("form", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["recording_id"], ["recording.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("recording_id", "role", "lane"),
    )
    op.execute(
        "INSERT INTO recording_input (recording_id, role, lane, channel, form) "
        "SELECT id, 'echo', 0, channel, 'time' FROM recording"
    )
    op.drop_column("recording", "channel")


def _calibrations() -> None:
    for name in ("parameters", "covariance", "statistics", "surroundings", "evidence"):
        op.add_column("calibration", sa.Column(name, JSONB, nullable=True))
    op.add_column("calibration", sa.Column("kind", sa.Text(), nullable=True))
    air = ", ".join(f"'{name}', {name}" for name in _AIR)
    op.execute("ALTER TABLE calibration DISABLE TRIGGER calibration_is_immutable")
    op.execute(
        f"""
        UPDATE calibration SET
            kind = 'offset-scale',
            parameters = jsonb_build_object('offset', offset_m, 'scale', scale),
            covariance = jsonb_build_array(
                jsonb_build_array(var_offset, cov), jsonb_build_array(cov, var_scale)),
            statistics = jsonb_build_object('chi_square', chi_square, 'degrees', degrees,
                'scale_fitted', CASE WHEN scale_fitted THEN 1 ELSE 0 END),
            surroundings = jsonb_build_object('air', jsonb_build_object({air})),
            evidence = (
                SELECT coalesce(jsonb_agg(jsonb_build_object(
                    'name', m->'name', 'true', m->'true_m', 'u', m->'true_u_m',
                    'read', m->'read_m', 'scatter', m->'scatter_m', 'drift', m->'drift_m',
                    'count', m->'count', 'flagged', m->'flagged', 'wild', m->'wild',
                    'is_still', m->'still', 'is_used', m->'used', 'residual', m->'residual_m',
                    'start_s', m->'start_s', 'end_s', m->'end_s') ORDER BY place), '[]')
                FROM jsonb_array_elements(marks) WITH ORDINALITY AS of_marks(m, place))
        """
    )
    op.execute("ALTER TABLE calibration ENABLE TRIGGER calibration_is_immutable")
    for name in ("kind", "parameters", "covariance", "statistics", "surroundings", "evidence"):
        op.alter_column("calibration", name, nullable=False)
    for name in (
        *("offset_m", "scale", "var_offset", "var_scale", "cov", "scale_fitted"),
        *("chi_square", "degrees", "marks", *_AIR),
    ):
        op.drop_column("calibration", name)
    op.create_table(
        "calibration_in_use",
        sa.Column("sensor_id", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("calibration_id", sa.BigInteger(), nullable=False),
        sa.ForeignKeyConstraint(["sensor_id"], ["sensor.id"]),
        sa.ForeignKeyConstraint(["calibration_id"], ["calibration.id"]),
        sa.PrimaryKeyConstraint("sensor_id", "kind"),
    )
    op.execute(
        "INSERT INTO calibration_in_use (sensor_id, kind, calibration_id) "
        "SELECT id, 'offset-scale', calibration_id FROM sensor WHERE calibration_id IS NOT NULL"
    )
    op.drop_column("sensor", "calibration_id")


def _marks() -> None:
    op.rename_table("mark", "ranger_mark")
    op.execute("ALTER INDEX ix_mark_recording_id RENAME TO ix_ranger_mark_recording_id")
    op.execute("ALTER INDEX mark_pkey RENAME TO ranger_mark_pkey")
    op.rename_table("take_mark", "mark")
    op.execute("ALTER INDEX ix_take_mark_take_id RENAME TO ix_mark_take_id")
    op.execute("ALTER INDEX take_mark_pkey RENAME TO mark_pkey")
    op.execute("ALTER SEQUENCE mark_id_seq RENAME TO ranger_mark_id_seq")
    op.execute("ALTER SEQUENCE take_mark_id_seq RENAME TO mark_id_seq")
    op.alter_column("mark", "true_value", new_column_name="value")
    op.alter_column("mark", "true_u", new_column_name="u")
    op.add_column("mark", sa.Column("sensor_id", sa.BigInteger(), nullable=True))
    for name in ("calibration", "pose"):
        op.add_column("mark", sa.Column(name, sa.Text(), nullable=False, server_default=""))
        op.alter_column("mark", name, server_default=None)
    op.create_foreign_key("mark_sensor_id_fkey", "mark", "sensor", ["sensor_id"], ["id"])
    op.create_index("ix_mark_sensor_id", "mark", ["sensor_id"])
    op.execute(
        """
        INSERT INTO mark (take_id, sensor_id, channel, calibration, pose, name, start_s, end_s,
            value, u, unit, deleted_at)
        SELECT recording.take_id, recording.sensor_id, recording_input.channel, 'offset-scale', '',
            ranger_mark.name, start_s, end_s, true_m, true_u_m, 'm', ranger_mark.deleted_at
        FROM ranger_mark JOIN recording ON recording.id = ranger_mark.recording_id
            JOIN recording_input ON recording_input.recording_id = recording.id
        ORDER BY ranger_mark.id
        """
    )
    op.drop_table("ranger_mark")


def _rules() -> None:
    op.create_table(
        "rule",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("sensor_id", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("parameters", JSONB, nullable=False),
        sa.Column("basis", JSONB, nullable=False),
        sa.Column("set_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["sensor_id"], ["sensor.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("rule_sensor_id_set_at", "rule", ["sensor_id", "set_at"])
    op.execute(
        """
        INSERT INTO rule (id, sensor_id, kind, parameters, basis, set_at, deleted_at)
        SELECT id, sensor_id, 'stop-and-go',
            jsonb_build_object('stop_m', stop_m, 'go_m', go_m),
            jsonb_build_object(
                'evidence', CASE WHEN stopping = '{}' THEN NULL ELSE stopping - 'stop_m' END,
                'needed', needed_m,
                'calibrations', coalesce(calibration_id::text, '')),
            set_at, deleted_at
        FROM threshold
        """
    )
    op.execute("SELECT setval(pg_get_serial_sequence('rule', 'id'), max(id)) FROM rule")
    op.drop_table("threshold")


def _overviews() -> None:
    """They are worked out anew when somebody looks."""
    op.drop_table("stage_overview")
    op.create_table(
        "result_overview",
        sa.Column("take_id", sa.BigInteger(), nullable=False),
        sa.Column("source", sa.Text(), nullable=False),
        sa.Column("node", sa.Text(), nullable=False),
        sa.Column("chain", sa.Text(), nullable=False),
        sa.Column("times", sa.LargeBinary(), nullable=False),
        sa.Column("overview", sa.LargeBinary(), nullable=False),
        sa.Column("states", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["take_id"], ["take.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("take_id", "source", "node"),
    )


def downgrade() -> None:
    """There is no way back: the tables before knew one kind of sensor only."""
    raise NotImplementedError("other kinds of sensors do not fit into the tables of 0006")
