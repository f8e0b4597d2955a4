"""A measurement of the wiring list can be skipped with a reason"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "wiring_tick", sa.Column("skipped_why", sa.Text(), nullable=False, server_default="")
    )


def downgrade() -> None:
    op.drop_column("wiring_tick", "skipped_why")
