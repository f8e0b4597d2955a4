"""Programs written for a rig's board, so that a line can be told by what its board runs"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "program",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("rig_id", sa.BigInteger(), sa.ForeignKey("rig.id"), nullable=False),
        sa.Column("identity", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("target", sa.Text(), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("columns", JSONB(), nullable=False),
        sa.Column("basis", JSONB(), nullable=False),
        sa.Column("written_at", sa.DateTime(timezone=True), nullable=False),
        sa.UniqueConstraint("rig_id", "identity"),
    )
    op.create_index("program_identity", "program", ["identity"])
    op.execute(
        "CREATE TRIGGER program_is_immutable BEFORE UPDATE ON program "
        "FOR EACH ROW EXECUTE FUNCTION refuse_update()"
    )
    op.create_table(
        "board_runs",
        sa.Column("rig_id", sa.BigInteger(), sa.ForeignKey("rig.id"), primary_key=True),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("identity", sa.Text(), nullable=False),
        sa.Column("is_changed", sa.Boolean(), nullable=False),
        sa.Column("heard_at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("board_runs")
    op.drop_table("program")
