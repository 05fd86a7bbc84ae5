"""Each step of a plan's history names its own course, so that reversing or trimming it can be undone; uploads wait."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Give every step its plan's course, and make room for files that wait to be looked over."""
    op.add_column("plan_step", sa.Column("course_hash", sa.Text(), nullable=True))
    op.execute("update plan_step set course_hash = plan.course_hash from plan where plan.id = plan_step.plan_id")
    op.alter_column("plan_step", "course_hash", nullable=False)
    op.create_foreign_key("fk_plan_step_course_hash", "plan_step", "course", ["course_hash"], ["hash"])
    op.create_table(
        "upload",
        sa.Column("id", sa.Uuid(), server_default=sa.text("gen_random_uuid()"), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_upload"),
    )
