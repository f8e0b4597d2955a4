"""Rules over a rig and tuned controllers, kept as they were"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "decision",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("rig_id", sa.BigInteger(), sa.ForeignKey("rig.id"), nullable=False),
        sa.Column("slot", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("document", JSONB(), nullable=False),
        sa.Column("basis", JSONB(), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("decision_rig_id_slot", "decision", ["rig_id", "slot"])
    op.execute(
        "CREATE TRIGGER decision_is_immutable BEFORE UPDATE ON decision "
        "FOR EACH ROW EXECUTE FUNCTION refuse_update()"
    )
    op.create_table(
        "decision_in_use",
        sa.Column("rig_id", sa.BigInteger(), sa.ForeignKey("rig.id"), primary_key=True),
        sa.Column("slot", sa.Text(), primary_key=True),
        sa.Column("decision_id", sa.BigInteger(), sa.ForeignKey("decision.id"), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("decision_in_use")
    op.drop_table("decision")
