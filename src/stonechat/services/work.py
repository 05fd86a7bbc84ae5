"""Work in the background: a run is asked for, taken up by a worker, watched and stopped; the plan is not changed by it.

How to add a kind of work: docs/builders/how-to/add-a-room.md.
"""

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any
from uuid import UUID

from stonechat.db import presence, runs
from stonechat.db.runs import Run as Run
from stonechat.db.runs import RunState as RunState
from stonechat.errors import Clash, Unavailable
from stonechat.jobs.app import RUN_TASK
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace

_MOST_ATTEMPTS = 3  # a run that ends its worker so often is given up
_REPORT_S = 0.5  # between two reports


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """What came of a run."""

    result: dict[str, Any]
    progress: dict[str, float]
    is_done: bool = True  # else there is none, and the result says why


class Reporter:
    """Writes progress at most every half second, and reads whether to stop."""

    def __init__(self, workspace: Workspace, run_id: int) -> None:
        self._workspace, self._run_id = workspace, run_id
        self._next, self._stop = 0.0, False

    def tell(self, progress: Mapping[str, float | None]) -> None:
        """Say how far it is; what is not known is left out."""
        if time.monotonic() >= self._next:
            self._write(progress={key: value for key, value in progress.items() if value is not None})

    def should_stop(self) -> bool:
        """Tell whether the run is to end with the best it has."""
        if time.monotonic() >= self._next:
            self._write()
        return self._stop

    def _write(self, **values: object) -> None:
        self._next = time.monotonic() + _REPORT_S
        with self._workspace.store.transaction() as session:
            runs.update_run(session, self._run_id, **values)
            self._stop = runs.read_run(session, self._run_id).stop_wanted


Answer = Callable[[Workspace, OpenPlan, Run, Reporter], Outcome]


@dataclass(frozen=True, kw_only=True)
class Family:
    """Kinds of work of which one runs at a time for a variant."""

    key: str
    answers: Mapping[str, Answer]  # by kind
    busy: str  # said where one is asked for while another runs
    cut_off: str  # said where its worker ended under it again and again
    failed: str  # said where it failed by a fault of ours


def start(
    workspace: Workspace, family: Family, plan_id: UUID, variant_id: str, *, kind: str, request: dict[str, Any]
) -> Run:
    """Ask for a run; refused while one of its family is active."""
    current = newest(workspace, family, plan_id, variant_id)
    opened = open_plan(workspace, plan_id)
    opened.plan.variant(variant_id)
    if current is not None and current.is_active:
        raise Clash(family.busy)
    with workspace.store.transaction() as session:
        run = runs.add_run(
            session,
            plan_id,
            variant_id,
            revision=opened.revision,
            family=family.key,
            kind=kind,
            request=request,
        )
    workspace.defer_run(run.id)
    return run


def newest(workspace: Workspace, family: Family, plan_id: UUID, variant_id: str, kind: str = "") -> Run | None:
    """Return the newest run of a family, of one kind or of any; one whose worker is gone waits for another."""
    with workspace.store.transaction() as session:
        run = runs.latest_run(session, plan_id, variant_id, family.key, kind)
        if run is None or not run.is_active:
            return run
        if run.state == RunState.WAITING:
            return replace(run, waits_for_worker=not presence.workers(session))
        if presence.is_worked_on(session, run.id):
            return run
        run = runs.let_go(session, run.id, most_attempts=_MOST_ATTEMPTS, reason=family.cut_off)
    if run.state == RunState.WAITING:
        workspace.defer_run(run.id)
    return run


def take_up_lost_runs(workspace: Workspace, families: Mapping[str, Family]) -> None:
    """Queue again what no living worker works on and what waits without a job, as after a kill."""
    with workspace.store.transaction() as session:
        lost = []
        for run in runs.active_runs(session):
            if run.state == RunState.RUNNING:
                if presence.is_worked_on(session, run.id):
                    continue
                reason = families[run.family].cut_off
                run = runs.let_go(session, run.id, most_attempts=_MOST_ATTEMPTS, reason=reason)
            if run.state == RunState.WAITING and not runs.is_queued(session, run.id, RUN_TASK):
                lost.append(run.id)
    for run_id in lost:
        workspace.defer_run(run_id)


def see(workspace: Workspace, family: Family, plan_id: UUID, variant_id: str) -> None:
    """Note that the end of the newest run was shown, if it has ended."""
    with workspace.store.transaction() as session:
        run = runs.latest_run(session, plan_id, variant_id, family.key)
        if run is not None and not run.is_active and not run.seen:
            runs.mark_seen(session, run.id)


def stop(workspace: Workspace, family: Family, plan_id: UUID, variant_id: str) -> Run | None:
    """Ask the newest run to end with the best it has."""
    with workspace.store.transaction() as session:
        run = runs.latest_run(session, plan_id, variant_id, family.key)
        if run is None:
            return None
        if run.state == RunState.WAITING:
            runs.update_run(session, run.id, state=RunState.FAILED, result={"reasons": ["Stopped before it began."]})
        else:
            runs.want_stop(session, run.id)
        return runs.read_run(session, run.id)


def perform(workspace: Workspace, families: Mapping[str, Family], run_id: int) -> None:
    """Do what a run asks for and store what came of it; called by a worker.

    Where the database goes away the run stays as it is: it is taken up again when the database is back.
    """
    with presence.at_work_on(workspace.store.engine, run_id) as is_ours:
        if not is_ours:
            return
        with workspace.store.transaction() as session:
            run = runs.claim_run(session, run_id)
        if run is not None:
            _answer(workspace, families[run.family], run)


def _answer(workspace: Workspace, family: Family, run: Run) -> None:
    try:
        opened = open_plan(workspace, run.plan_id)
        outcome = family.answers[run.kind](workspace, opened, run, Reporter(workspace, run.id))
    except Unavailable:
        raise
    except Exception:
        with workspace.store.transaction() as session:
            runs.update_run(session, run.id, state=RunState.FAILED, result={"reasons": [family.failed]})
        raise
    with workspace.store.transaction() as session:
        runs.update_run(
            session,
            run.id,
            revision=opened.revision,
            state=RunState.DONE if outcome.is_done else RunState.FAILED,
            result=outcome.result,
            progress=outcome.progress,
        )
