"""Queries on runs of work in the background."""

import math
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Any
from uuid import UUID

from sqlalchemy import func, select, text, update
from sqlalchemy.orm import Session

from stonechat.db.rows import RunRow
from stonechat.errors import NotFound


class RunState(StrEnum):
    """Where a run stands."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"


ACTIVE = (RunState.WAITING, RunState.RUNNING)


@dataclass(frozen=True, kw_only=True)
class Run:
    """Where a run of work in the background stands."""

    id: int
    plan_id: UUID
    variant_id: str
    revision: int
    family: str  # of a family one runs at a time for a variant
    kind: str  # of work, as its family knows it
    request: dict[str, Any]  # what is asked
    state: RunState
    seen: bool
    stop_wanted: bool
    progress: dict[str, float]  # figures by which its kind says how far it is
    result: dict[str, Any] | None
    heard_at: datetime
    attempts: int = 0
    waits_for_worker: bool = False  # nobody is there who could take it up

    def figure(self, name: str) -> float:
        """Return a figure of its progress, NaN where it is not known yet."""
        return self.progress.get(name, math.nan)

    @property
    def is_active(self) -> bool:
        """Whether it waits or runs."""
        return self.state in ACTIVE


def _run(row: RunRow) -> Run:
    return Run(
        id=row.id,
        plan_id=row.plan_id,
        variant_id=row.variant_id,
        revision=row.revision,
        family=row.family,
        kind=row.kind,
        request=row.request,
        state=RunState(row.state),
        seen=row.seen,
        stop_wanted=row.stop_wanted,
        progress=row.progress,
        result=row.result,
        heard_at=row.heard_at,
        attempts=row.attempts,
    )


def add_run(
    session: Session,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    family: str,
    kind: str,
    request: dict[str, Any],
) -> Run:
    """Store a new run that waits; refused by a constraint while another of its family is active."""
    row = RunRow(plan_id=plan_id, variant_id=variant_id, revision=revision, family=family, kind=kind, request=request)
    session.add(row)
    session.flush()
    return _run(session.get_one(RunRow, row.id, populate_existing=True))


def read_run(session: Session, run_id: int) -> Run:
    """Return a run."""
    row = session.get(RunRow, run_id)
    if row is None:
        raise NotFound("There is no such run. Start it again.")
    return _run(row)


def latest_run(session: Session, plan_id: UUID, variant_id: str, family: str, kind: str = "") -> Run | None:
    """Return the newest run of a family, of one kind or of any."""
    wanted = [RunRow.plan_id == plan_id, RunRow.variant_id == variant_id, RunRow.family == family]
    row = session.scalar(
        select(RunRow).where(*wanted, *([RunRow.kind == kind] if kind else [])).order_by(RunRow.id.desc()).limit(1)
    )
    return None if row is None else _run(row)


def update_run(session: Session, run_id: int, **values: Any) -> None:
    """Set figures of a run, and note that it was heard from."""
    session.execute(update(RunRow).where(RunRow.id == run_id).values(heard_at=func.now(), **values))


def claim_run(session: Session, run_id: int) -> Run | None:
    """Take up a run that waits, or return None where somebody else did or it was stopped."""
    claimed = session.execute(
        update(RunRow)
        .where(RunRow.id == run_id, RunRow.state == RunState.WAITING)
        .values(state=RunState.RUNNING, attempts=RunRow.attempts + 1, heard_at=func.now())
        .returning(RunRow.id)
    ).scalar()
    return None if claimed is None else _run(session.get_one(RunRow, run_id, populate_existing=True))


def let_go(session: Session, run_id: int, *, most_attempts: int, reason: str) -> Run:
    """Let a run whose worker is gone wait again, or fail with a reason where it was begun too often."""
    of_it = (RunRow.id == run_id, RunRow.state == RunState.RUNNING)
    session.execute(
        update(RunRow)
        .where(*of_it, RunRow.attempts >= most_attempts)
        .values(state=RunState.FAILED, result={"reasons": [reason]})
    )
    session.execute(update(RunRow).where(*of_it).values(state=RunState.WAITING, heard_at=func.now()))
    return _run(session.get_one(RunRow, run_id, populate_existing=True))


def active_runs(session: Session) -> tuple[Run, ...]:
    """Return all runs that wait or run, of all plans."""
    rows = session.scalars(select(RunRow).where(RunRow.state.in_(ACTIVE)).order_by(RunRow.id))
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
    session.execute(update(RunRow).where(RunRow.id == run_id).values(seen=True))


def want_stop(session: Session, run_id: int) -> None:
    """Ask a run to end with the best it has."""
    session.execute(update(RunRow).where(RunRow.id == run_id).values(stop_wanted=True))
