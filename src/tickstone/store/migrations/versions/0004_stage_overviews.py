"""Overviews of channels after a stage of their chain are kept"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "stage_overview",
        sa.Column("take_id", sa.BigInteger(), nullable=False),
        sa.Column("channel", sa.BigInteger(), nullable=False),
        sa.Column("stage", sa.Text(), nullable=False),
        sa.Column("chain", sa.Text(), nullable=False),
        sa.Column("times", sa.LargeBinary(), nullable=False),
        sa.Column("overview", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["take_id"], ["take.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("take_id", "channel", "stage"),
    )


def downgrade() -> None:
    op.drop_table("stage_overview")
