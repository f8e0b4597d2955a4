"""Takes: many channels side by side; a recording becomes one sensor's channel of a take"""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

_AIR = (
    "temperature_c",
    "relative_humidity",
    "pressure_pa",
    "temperature_tolerance_c",
    "humidity_tolerance",
    "pressure_tolerance_pa",
)
_MOVED: tuple[tuple[str, Any], ...] = (
    ("name", sa.Text()),
    ("source_name", sa.Text()),
    ("sha256", sa.Text()),
    ("samples", sa.BigInteger()),
    ("bad_lines", sa.BigInteger()),
    ("first_time_us", sa.BigInteger()),
    ("last_time_us", sa.BigInteger()),
    ("recorded_at", sa.DateTime(timezone=True)),
    *((name, sa.Double()) for name in _AIR),
)
_JSON = postgresql.JSONB()
_ECHO_CHANNEL = (
    "jsonb_build_array(jsonb_build_object('name', 'echo', 'unit', 'µs', "
    "'quantity', 'echo time', 'sensor_id', recording.sensor_id))"
)
# Columns were whole ns without a header; as µs with three decimals they read the same.
_NS_AS_US = "'\\x0300000000'::bytea"


def upgrade() -> None:
    op.add_column("rig", sa.Column("line", _JSON, nullable=False, server_default="{}"))
    op.alter_column("rig", "line", server_default=None)
    op.create_table(
        "take",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("rig_id", sa.BigInteger(), nullable=False),
        sa.Column("source", _JSON, nullable=False),
        sa.Column("channels", _JSON, nullable=False),
        sa.Column("conditions", _JSON, nullable=False),
        sa.Column("tags", _JSON, nullable=False),
        sa.Column("gaps", _JSON, nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("shape", _JSON, nullable=False),
        sa.Column("time_source", sa.Text(), nullable=False),
        sa.Column("jitter_us", sa.Double(), nullable=True),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        *(sa.Column(name, kind, nullable=False) for name, kind in _MOVED),
        sa.ForeignKeyConstraint(["rig_id"], ["rig.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_take_rig_id"), "take", ["rig_id"])
    op.create_index(op.f("ix_take_sha256"), "take", ["sha256"])
    op.create_table(
        "take_chunk",
        sa.Column("take_id", sa.BigInteger(), nullable=False),
        sa.Column("sequence", sa.BigInteger(), nullable=False),
        sa.Column("samples", sa.BigInteger(), nullable=False),
        sa.Column("first_time_us", sa.BigInteger(), nullable=False),
        sa.Column("last_time_us", sa.BigInteger(), nullable=False),
        sa.Column("times", sa.LargeBinary(), nullable=False),
        sa.Column("host_times", sa.LargeBinary(), nullable=True),
        sa.Column("time_overview", sa.LargeBinary(), nullable=True),
        sa.ForeignKeyConstraint(["take_id"], ["take.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("take_id", "sequence"),
    )
    op.create_table(
        "take_column",
        sa.Column("take_id", sa.BigInteger(), nullable=False),
        sa.Column("channel", sa.BigInteger(), nullable=False),
        sa.Column("sequence", sa.BigInteger(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
        sa.Column("overview", sa.LargeBinary(), nullable=True),
        sa.ForeignKeyConstraint(
            ["take_id", "sequence"],
            ["take_chunk.take_id", "take_chunk.sequence"],
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("take_id", "channel", "sequence"),
    )
    op.create_table(
        "take_mark",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("take_id", sa.BigInteger(), nullable=False),
        sa.Column("channel", sa.BigInteger(), nullable=True),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("start_s", sa.Double(), nullable=False),
        sa.Column("end_s", sa.Double(), nullable=False),
        sa.Column("true_value", sa.Double(), nullable=True),
        sa.Column("true_u", sa.Double(), nullable=True),
        sa.Column("unit", sa.Text(), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["take_id"], ["take.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_take_mark_take_id"), "take_mark", ["take_id"])
    _move_recordings()
    for table in ("take_chunk", "take_column"):
        op.execute(
            f"CREATE TRIGGER {table}_is_immutable BEFORE UPDATE ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION refuse_update()"
        )


def _move_recordings() -> None:
    """Each recording becomes a take of the same number with one channel."""
    moved = ", ".join(name for name, _ in _MOVED)
    qualified = ", ".join(f"recording.{name}" for name, _ in _MOVED)
    op.execute(
        f"INSERT INTO take (id, rig_id, source, channels, conditions, tags, gaps, state, shape, "
        f"time_source, deleted_at, {moved}) SELECT recording.id, sensor.rig_id, "
        f"'{{\"kind\": \"file\"}}', {_ECHO_CHANNEL}, '{{}}', '[]', '[]', 'whole', '{{}}', 'board', "
        f"recording.deleted_at, {qualified} FROM recording JOIN sensor "
        "ON sensor.id = recording.sensor_id"
    )
    op.execute("SELECT setval(pg_get_serial_sequence('take', 'id'), max(id)) FROM take")
    op.execute(
        "INSERT INTO take_chunk (take_id, sequence, samples, first_time_us, last_time_us, times) "
        "SELECT recording_id, sequence, samples, first_time_us, last_time_us, times "
        "FROM recording_chunk"
    )
    op.execute(
        "INSERT INTO take_column (take_id, channel, sequence, body) "
        f"SELECT recording_id, 0, sequence, {_NS_AS_US} || echoes FROM recording_chunk"
    )
    op.drop_table("recording_chunk")
    op.drop_constraint("bad_line_chunk_recording_id_fkey", "bad_line_chunk")
    op.alter_column("bad_line_chunk", "recording_id", new_column_name="take_id")
    op.create_foreign_key(
        "bad_line_chunk_take_id_fkey",
        "bad_line_chunk",
        "take",
        ["take_id"],
        ["id"],
        ondelete="CASCADE",
    )
    op.add_column("recording", sa.Column("take_id", sa.BigInteger(), nullable=True))
    op.add_column(
        "recording", sa.Column("channel", sa.BigInteger(), nullable=False, server_default="0")
    )
    op.alter_column("recording", "channel", server_default=None)
    op.execute("UPDATE recording SET take_id = id")
    op.alter_column("recording", "take_id", nullable=False)
    op.create_foreign_key("recording_take_id_fkey", "recording", "take", ["take_id"], ["id"])
    op.create_index(op.f("ix_recording_take_id"), "recording", ["take_id"])
    op.drop_index(op.f("ix_recording_sha256"), table_name="recording")
    for name, _ in _MOVED:
        op.drop_column("recording", name)


def downgrade() -> None:
    """There is no way back: many channels do not fit into one."""
    raise NotImplementedError("takes with many channels do not fit into the tables of 0002")
