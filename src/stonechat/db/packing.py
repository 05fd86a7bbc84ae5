"""Queries on runs of the packing solver."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import func, select, text, update
from sqlalchemy.orm import Session

from stonechat.db.rows import PackRow
from stonechat.errors import NotFound


@dataclass(frozen=True, kw_only=True)
class PackRun:
    """Where a run of the packing solver stands."""

    id: int
    plan_id: UUID
    variant_id: str
    revision: int
    kind: str  # pack, different or what-if
    request: dict[str, Any]  # what is held, closed, opened and kept
    state: str  # waiting, running, done or failed
    seen: bool
    stop_wanted: bool
    best_min: float | None
    bound_min: float | None
    gap: float | None
    result: dict[str, Any] | None
    heard_at: datetime
    attempts: int = 0
    waits_for_worker: bool = False  # nobody is there who could take it up

    @property
    def is_active(self) -> bool:
        """Whether it waits or runs."""
        return self.state in ("waiting", "running")


def _run(row: PackRow) -> PackRun:
    return PackRun(
        id=row.id,
        plan_id=row.plan_id,
        variant_id=row.variant_id,
        revision=row.revision,
        kind=row.kind,
        request=row.request,
        state=row.state,
        seen=row.seen,
        stop_wanted=row.stop_wanted,
        best_min=row.best_min,
        bound_min=row.bound_min,
        gap=row.gap,
        result=row.result,
        heard_at=row.heard_at,
        attempts=row.attempts,
    )


def add_run(
    session: Session, plan_id: UUID, variant_id: str, revision: int, kind: str, request: dict[str, Any]
) -> PackRun:
    """Store a new run that waits; refused by a constraint while another is active."""
    row = PackRow(plan_id=plan_id, variant_id=variant_id, revision=revision, kind=kind, request=request)
    session.add(row)
    session.flush()
    return _run(session.get_one(PackRow, row.id, populate_existing=True))


def read_run(session: Session, run_id: int) -> PackRun:
    """Return a run."""
    row = session.get(PackRow, run_id)
    if row is None:
        raise NotFound("There is no such packing. Start it again.")
    return _run(row)


def latest_run(session: Session, plan_id: UUID, variant_id: str, kind: str = "") -> PackRun | None:
    """Return the newest run of a variant, of one kind or of any."""
    wanted = [PackRow.plan_id == plan_id, PackRow.variant_id == variant_id]
    row = session.scalar(
        select(PackRow).where(*wanted, *([PackRow.kind == kind] if kind else [])).order_by(PackRow.id.desc()).limit(1)
    )
    return None if row is None else _run(row)


def update_run(session: Session, run_id: int, **values: Any) -> None:
    """Set figures of a run, and note that it was heard from."""
    session.execute(update(PackRow).where(PackRow.id == run_id).values(heard_at=func.now(), **values))


def claim_run(session: Session, run_id: int) -> PackRun | None:
    """Take up a run that waits, or return None where somebody else did or it was stopped."""
    claimed = session.execute(
        update(PackRow)
        .where(PackRow.id == run_id, PackRow.state == "waiting")
        .values(state="running", attempts=PackRow.attempts + 1, heard_at=func.now())
        .returning(PackRow.id)
    ).scalar()
    return None if claimed is None else _run(session.get_one(PackRow, run_id, populate_existing=True))


def let_go(session: Session, run_id: int, *, most_attempts: int, reason: str) -> PackRun:
    """Let a run whose worker is gone wait again, or fail with a reason where it was begun too often."""
    of_it = (PackRow.id == run_id, PackRow.state == "running")
    session.execute(
        update(PackRow)
        .where(*of_it, PackRow.attempts >= most_attempts)
        .values(state="failed", result={"reasons": [reason]})
    )
    session.execute(update(PackRow).where(*of_it).values(state="waiting", heard_at=func.now()))
    return _run(session.get_one(PackRow, run_id, populate_existing=True))


def active_runs(session: Session) -> tuple[PackRun, ...]:
    """Return all runs that wait or run, of all plans."""
    rows = session.scalars(select(PackRow).where(PackRow.state.in_(("waiting", "running"))).order_by(PackRow.id))
    return tuple(_run(row) for row in rows)


def is_queued(session: Session, run_id: int, task: str) -> bool:
    """Tell whether the queue holds a job for a run."""
    query = text(
        "select count(*) from procrastinate_jobs where status = 'todo' and task_name = :task "
        "and args ->> 'run_id' = cast(:run as text)"
    )
    return bool(session.execute(query, {"task": task, "run": run_id}).scalar_one())


def mark_seen(session: Session, run_id: int) -> None:
    """Note that the end of a run was shown."""
    session.execute(update(PackRow).where(PackRow.id == run_id).values(seen=True))


def want_stop(session: Session, run_id: int) -> None:
    """Ask a run to end with the best it has."""
    session.execute(update(PackRow).where(PackRow.id == run_id).values(stop_wanted=True))
