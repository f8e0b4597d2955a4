"""Heaps beside a calibration, marks of one lane, and studies"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("calibration", sa.Column("heaps", JSONB(), nullable=False, server_default="[]"))
    op.add_column("mark", sa.Column("lane", sa.BigInteger(), nullable=True))
    op.create_table(
        "study",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column(
            "sensor_id", sa.BigInteger(), sa.ForeignKey("sensor.id"), nullable=False, index=True
        ),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("plan", JSONB(), nullable=False),
        sa.Column("cells", JSONB(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
    )


def downgrade() -> None:
    op.drop_table("study")
    op.drop_column("mark", "lane")
    op.drop_column("calibration", "heaps")
