"""Plans with their history, recorded courses, runs of the packing solver."""

from datetime import datetime

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None


def _moment(name: str) -> sa.Column[datetime]:
    return sa.Column(name, sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False)


def upgrade() -> None:
    """Make the tables."""
    op.create_table(
        "course",
        sa.Column("hash", sa.Text(), nullable=False),
        sa.Column("points", sa.Integer(), nullable=False),
        sa.Column("latitudes_deg", sa.LargeBinary(), nullable=False),
        sa.Column("longitudes_deg", sa.LargeBinary(), nullable=False),
        sa.Column("heights_m", sa.LargeBinary(), nullable=False),
        sa.CheckConstraint("points >= 2", name="ck_course_points"),
        sa.PrimaryKeyConstraint("hash", name="pk_course"),
    )
    op.create_table(
        "plan",
        sa.Column("id", sa.Uuid(), server_default=sa.text("gen_random_uuid()"), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("course_hash", sa.Text(), nullable=False),
        sa.Column("revision", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.Column("step", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.Column("demo", sa.Boolean(), server_default=sa.text("false"), nullable=False),
        _moment("created_at"),
        _moment("changed_at"),
        sa.CheckConstraint("revision >= 1", name="ck_plan_revision"),
        sa.CheckConstraint("step >= 1", name="ck_plan_step"),
        sa.CheckConstraint("length(name) between 1 and 80", name="ck_plan_name"),
        sa.ForeignKeyConstraint(["course_hash"], ["course.hash"], name="fk_plan_course_hash"),
        sa.PrimaryKeyConstraint("id", name="pk_plan"),
    )
    op.create_table(
        "plan_step",
        sa.Column("plan_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("body", postgresql.JSONB(), nullable=False),
        _moment("made_at"),
        sa.CheckConstraint("jsonb_typeof(body) = 'object'", name="ck_plan_step_body"),
        sa.ForeignKeyConstraint(["plan_id"], ["plan.id"], name="fk_plan_step_plan_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("plan_id", "number", name="pk_plan_step"),
    )
    op.create_table(
        "pack_run",
        sa.Column("id", sa.Integer(), sa.Identity(), nullable=False),
        sa.Column("plan_id", sa.Uuid(), nullable=False),
        sa.Column("variant_id", sa.Text(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("state", sa.Text(), server_default=sa.text("'waiting'"), nullable=False),
        sa.Column("stop_wanted", sa.Boolean(), server_default=sa.text("false"), nullable=False),
        sa.Column("best_min", sa.Float(), nullable=True),
        sa.Column("bound_min", sa.Float(), nullable=True),
        sa.Column("gap", sa.Float(), nullable=True),
        sa.Column("result", postgresql.JSONB(), nullable=True),
        _moment("made_at"),
        _moment("heard_at"),
        sa.CheckConstraint("state in ('waiting', 'running', 'done', 'failed')", name="ck_pack_run_state"),
        sa.ForeignKeyConstraint(["plan_id"], ["plan.id"], name="fk_pack_run_plan_id", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_pack_run"),
    )
    op.create_index(
        "uq_pack_run_active",
        "pack_run",
        ["plan_id", "variant_id"],
        unique=True,
        postgresql_where=sa.text("state in ('waiting', 'running')"),
    )
