"""Links by which a variant may be looked at."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    """Make the table of links."""
    op.create_table(
        "share",
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("plan_id", sa.Uuid(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.CheckConstraint("length(token) >= 32", name=op.f("ck_share_token")),
        sa.ForeignKeyConstraint(["plan_id"], ["plan.id"], name=op.f("fk_share_plan_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("token", name=op.f("pk_share")),
    )
    op.create_index(op.f("ix_share_plan_id"), "share", ["plan_id"])
