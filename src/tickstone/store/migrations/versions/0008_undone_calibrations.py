"""Something changed since a calibration was made, and somebody says what"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column(
        "calibration_in_use", sa.Column("undone_by", sa.Text(), nullable=False, server_default="")
    )


def downgrade() -> None:
    op.drop_column("calibration_in_use", "undone_by")
