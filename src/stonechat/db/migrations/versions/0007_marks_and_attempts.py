"""A transaction leaves a mark by which one can tell whether it was kept; a packing knows how often it was begun."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Add the marks and the count; recorded courses on which nothing stands any more go."""
    op.create_table(
        "commit_mark",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_commit_mark"),
    )
    op.create_index("ix_commit_mark_made_at", "commit_mark", ["made_at"])
    # whether a course can go is asked after each step
    op.create_index("ix_plan_course_hash", "plan", ["course_hash"])
    op.create_index("ix_plan_step_course_hash", "plan_step", ["course_hash"])
    op.add_column("pack_run", sa.Column("attempts", sa.Integer(), server_default=sa.text("0"), nullable=False))
    op.execute(
        "delete from course where not exists (select from plan where plan.course_hash = course.hash) "
        "and not exists (select from plan_step where plan_step.course_hash = course.hash)"
    )
