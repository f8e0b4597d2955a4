"""First tables"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "rig",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("description", sa.Text(), nullable=False),
        sa.Column("board", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("temperature_c", sa.Double(), nullable=False),
        sa.Column("relative_humidity", sa.Double(), nullable=False),
        sa.Column("pressure_pa", sa.Double(), nullable=False),
        sa.Column("temperature_tolerance_c", sa.Double(), nullable=False),
        sa.Column("humidity_tolerance", sa.Double(), nullable=False),
        sa.Column("pressure_tolerance_pa", sa.Double(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "sensor",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("rig_id", sa.BigInteger(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("family", sa.Text(), nullable=False),
        sa.Column("place", sa.Text(), nullable=False),
        sa.Column("leads", sa.Text(), nullable=False),
        sa.Column("position", sa.BigInteger(), nullable=False),
        sa.Column("parameters", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("calibration_id", sa.BigInteger(), nullable=True),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["rig_id"],
            ["rig.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_sensor_rig_id"), "sensor", ["rig_id"], unique=False)
    op.create_table(
        "recording",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("sensor_id", sa.BigInteger(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("source_name", sa.Text(), nullable=False),
        sa.Column("sha256", sa.Text(), nullable=False),
        sa.Column("samples", sa.BigInteger(), nullable=False),
        sa.Column("bad_lines", sa.BigInteger(), nullable=False),
        sa.Column("first_time_us", sa.BigInteger(), nullable=False),
        sa.Column("last_time_us", sa.BigInteger(), nullable=False),
        sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("temperature_c", sa.Double(), nullable=False),
        sa.Column("relative_humidity", sa.Double(), nullable=False),
        sa.Column("pressure_pa", sa.Double(), nullable=False),
        sa.Column("temperature_tolerance_c", sa.Double(), nullable=False),
        sa.Column("humidity_tolerance", sa.Double(), nullable=False),
        sa.Column("pressure_tolerance_pa", sa.Double(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["sensor_id"],
            ["sensor.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_recording_sensor_id"), "recording", ["sensor_id"], unique=False)
    op.create_index(op.f("ix_recording_sha256"), "recording", ["sha256"], unique=False)
    op.create_table(
        "sign_off",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("sensor_id", sa.BigInteger(), nullable=False),
        sa.Column("stage", sa.Text(), nullable=False),
        sa.Column("is_right", sa.Boolean(), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["sensor_id"],
            ["sensor.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_sign_off_sensor_id"), "sign_off", ["sensor_id"], unique=False)
    op.create_table(
        "bad_line_chunk",
        sa.Column("recording_id", sa.BigInteger(), nullable=False),
        sa.Column("sequence", sa.BigInteger(), nullable=False),
        sa.Column("first_index", sa.BigInteger(), nullable=False),
        sa.Column("lines", sa.BigInteger(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["recording_id"], ["recording.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("recording_id", "sequence"),
    )
    op.create_table(
        "calibration",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("sensor_id", sa.BigInteger(), nullable=False),
        sa.Column("recording_id", sa.BigInteger(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("offset_m", sa.Double(), nullable=False),
        sa.Column("scale", sa.Double(), nullable=False),
        sa.Column("var_offset", sa.Double(), nullable=False),
        sa.Column("var_scale", sa.Double(), nullable=False),
        sa.Column("cov", sa.Double(), nullable=False),
        sa.Column("scale_fitted", sa.Boolean(), nullable=False),
        sa.Column("chi_square", sa.Double(), nullable=False),
        sa.Column("degrees", sa.BigInteger(), nullable=False),
        sa.Column("grounds", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("marks", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("errors", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("temperature_c", sa.Double(), nullable=False),
        sa.Column("relative_humidity", sa.Double(), nullable=False),
        sa.Column("pressure_pa", sa.Double(), nullable=False),
        sa.Column("temperature_tolerance_c", sa.Double(), nullable=False),
        sa.Column("humidity_tolerance", sa.Double(), nullable=False),
        sa.Column("pressure_tolerance_pa", sa.Double(), nullable=False),
        sa.ForeignKeyConstraint(
            ["recording_id"],
            ["recording.id"],
        ),
        sa.ForeignKeyConstraint(
            ["sensor_id"],
            ["sensor.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_calibration_sensor_id"), "calibration", ["sensor_id"], unique=False)
    op.create_table(
        "mark",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("recording_id", sa.BigInteger(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("start_s", sa.Double(), nullable=False),
        sa.Column("end_s", sa.Double(), nullable=False),
        sa.Column("true_m", sa.Double(), nullable=False),
        sa.Column("true_u_m", sa.Double(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["recording_id"],
            ["recording.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_mark_recording_id"), "mark", ["recording_id"], unique=False)
    op.create_table(
        "recording_chunk",
        sa.Column("recording_id", sa.BigInteger(), nullable=False),
        sa.Column("sequence", sa.BigInteger(), nullable=False),
        sa.Column("samples", sa.BigInteger(), nullable=False),
        sa.Column("first_time_us", sa.BigInteger(), nullable=False),
        sa.Column("last_time_us", sa.BigInteger(), nullable=False),
        sa.Column("times", sa.LargeBinary(), nullable=False),
        sa.Column("echoes", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["recording_id"], ["recording.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("recording_id", "sequence"),
    )
    op.create_table(
        "threshold",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("sensor_id", sa.BigInteger(), nullable=False),
        sa.Column("calibration_id", sa.BigInteger(), nullable=True),
        sa.Column("set_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("stop_m", sa.Double(), nullable=False),
        sa.Column("go_m", sa.Double(), nullable=False),
        sa.Column("needed_m", sa.Double(), nullable=True),
        sa.Column("stopping", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["calibration_id"],
            ["calibration.id"],
        ),
        sa.ForeignKeyConstraint(
            ["sensor_id"],
            ["sensor.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(
        "threshold_sensor_id_set_at", "threshold", ["sensor_id", "set_at"], unique=False
    )
    op.create_foreign_key(
        "sensor_calibration_id_fkey", "sensor", "calibration", ["calibration_id"], ["id"]
    )
    op.execute(
        """
        CREATE FUNCTION refuse_update() RETURNS trigger LANGUAGE plpgsql AS $$
        BEGIN
            RAISE EXCEPTION 'a row of % is never changed once written', TG_TABLE_NAME;
        END $$
        """
    )
    for table in ("calibration", "recording_chunk", "bad_line_chunk"):
        op.execute(
            f"CREATE TRIGGER {table}_is_immutable BEFORE UPDATE ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION refuse_update()"
        )


def downgrade() -> None:
    op.drop_constraint("sensor_calibration_id_fkey", "sensor")
    op.drop_index("threshold_sensor_id_set_at", table_name="threshold")
    op.drop_table("threshold")
    op.drop_table("recording_chunk")
    op.drop_index(op.f("ix_mark_recording_id"), table_name="mark")
    op.drop_table("mark")
    op.drop_index(op.f("ix_calibration_sensor_id"), table_name="calibration")
    op.drop_table("calibration")
    op.drop_table("bad_line_chunk")
    op.drop_index(op.f("ix_sign_off_sensor_id"), table_name="sign_off")
    op.drop_table("sign_off")
    op.drop_index(op.f("ix_recording_sha256"), table_name="recording")
    op.drop_index(op.f("ix_recording_sensor_id"), table_name="recording")
    op.drop_table("recording")
    op.drop_index(op.f("ix_sensor_rig_id"), table_name="sensor")
    op.drop_table("sensor")
    op.drop_table("rig")
    op.execute("DROP FUNCTION refuse_update()")
