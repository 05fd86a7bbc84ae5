"""Runs of every kind of work in one table: what is asked, how far it is, what came of it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    """Turn runs of the packing solver into runs of a family; their figures become progress."""
    op.rename_table("pack_run", "run")
    op.execute("alter index pk_pack_run rename to pk_run")
    op.execute("alter sequence pack_run_id_seq rename to run_id_seq")
    op.execute("alter table run rename constraint fk_pack_run_plan_id to fk_run_plan_id")
    op.execute("alter table run rename constraint ck_pack_run_ck_pack_run_state to ck_run_state")
    op.execute("alter table run drop constraint ck_pack_run_ck_pack_run_kind")
    op.alter_column("run", "kind", server_default=None)
    op.add_column("run", sa.Column("family", sa.Text(), server_default="packing", nullable=False))
    op.alter_column("run", "family", server_default=None)
    op.add_column("run", sa.Column("progress", JSONB(), server_default=sa.text("'{}'::jsonb"), nullable=False))
    # a run that was stopped before it knew a bound has an infinite one, for which JSON has no figure: it is not known
    known = ", ".join(
        f"'{name}', case when abs({name}) < 'Infinity'::float8 then {name} end"
        for name in ("best_min", "bound_min", "gap")
    )
    op.execute(f"update run set progress = jsonb_strip_nulls(jsonb_build_object({known}))")  # noqa: S608  names of ours
    for name in ("best_min", "bound_min", "gap"):
        op.drop_column("run", name)
    op.drop_index("uq_pack_run_active", "run")
    op.create_index(
        "uq_run_active",
        "run",
        ["plan_id", "variant_id", "family"],
        unique=True,
        postgresql_where=sa.text("state in ('waiting', 'running')"),
    )
    # jobs that wait are asked for anew by the worker's look for runs without one
    op.execute("delete from procrastinate_jobs where task_name = 'pack' and status = 'todo'")
