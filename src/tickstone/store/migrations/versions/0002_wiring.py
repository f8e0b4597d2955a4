"""Wiring: wires, ticks of the wiring list, families of one's own"""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "own_family",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("document", postgresql.JSONB(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("kind", "name"),
    )
    op.create_table(
        "wiring_tick",
        sa.Column("rig_id", sa.BigInteger(), nullable=False),
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("fingerprint", sa.Text(), nullable=False),
        sa.Column("done_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("seen_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("measured_v", sa.Double(), nullable=True),
        sa.ForeignKeyConstraint(["rig_id"], ["rig.id"]),
        sa.PrimaryKeyConstraint("rig_id", "key"),
    )
    op.create_table(
        "wire",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("sensor_id", sa.BigInteger(), nullable=False),
        sa.Column("lead", sa.Text(), nullable=False),
        sa.Column("to", sa.Text(), nullable=False),
        sa.Column("beads", postgresql.JSONB(), nullable=False),
        sa.Column("colour", sa.Text(), nullable=False),
        sa.Column("is_fixed", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["sensor_id"], ["sensor.id"]),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("sensor_id", "lead"),
    )
    op.create_index(op.f("ix_wire_sensor_id"), "wire", ["sensor_id"])
    for table, column in (
        ("rig", "wiring"),
        ("rig", "program"),
        ("sensor", "fitting"),
        ("sign_off", "grounds"),
    ):
        _add_filled(table, sa.Column(column, postgresql.JSONB(), nullable=False), "{}")
    _add_filled("rig", sa.Column("wiring_revision", sa.BigInteger(), nullable=False), "0")
    _name_families()
    # What somebody wrote about pins stays readable; the wires themselves say it from now on.
    op.execute(
        "UPDATE sensor SET place = concat_ws('; ', nullif(place, ''), leads) WHERE leads <> ''"
    )
    op.drop_column("sensor", "leads")


def _add_filled(table: str, column: "sa.Column[Any]", value: str) -> None:
    """Add a column that may not be empty to a table that may hold rows."""
    name = column.name
    column.server_default = sa.DefaultClause(value)
    op.add_column(table, column)
    op.alter_column(table, name, server_default=None)


def _name_families() -> None:
    """A board was a free text, and some families of sensors have been told apart since."""
    op.execute(
        "UPDATE rig SET description = concat_ws('; ', nullif(description, ''), board), "
        "board = '' WHERE board NOT IN ('', '5 V 8-bit board')"
    )
    op.execute("UPDATE rig SET board = 'five_volt_8bit_small' WHERE board = '5 V 8-bit board'")
    op.execute("UPDATE sensor SET family = 'reflective_array_5' WHERE family = 'reflective_array'")
    op.execute("UPDATE sensor SET family = 'hall_switch_unipolar' WHERE family = 'hall_switch'")


def downgrade() -> None:
    op.drop_column("sign_off", "grounds")
    _add_filled("sensor", sa.Column("leads", sa.Text(), nullable=False), "")
    op.drop_column("sensor", "fitting")
    for column in ("wiring_revision", "program", "wiring"):
        op.drop_column("rig", column)
    op.drop_index(op.f("ix_wire_sensor_id"), table_name="wire")
    op.drop_table("wire")
    op.drop_table("wiring_tick")
    op.drop_table("own_family")
