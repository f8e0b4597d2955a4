"""A rig has supplies, joints and parts of its own, and leads left open on purpose"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("rig", sa.Column("circuit", JSONB(), nullable=False, server_default="{}"))
    op.alter_column("rig", "circuit", server_default=None)


def downgrade() -> None:
    op.drop_column("rig", "circuit")
