"""Pack it for me: a job that can be watched, stopped, looked over, and taken."""

import math
import time
from collections.abc import Collection
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from uuid import UUID

from stonechat.core.load.greedy import RULES, pack_greedily
from stonechat.core.load.problem import PackingProblem, judge
from stonechat.core.load.solve import PackingResult, Progress, solve_packing
from stonechat.core.plan.evaluate import Evaluation, packing_problem
from stonechat.db import packing as runs
from stonechat.db.packing import PackRun
from stonechat.errors import Conflict, NotFound
from stonechat.services.editing import move_items
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace

_SILENT = timedelta(seconds=90)  # a run not heard from for so long has lost its worker


@dataclass(frozen=True, kw_only=True)
class Move:
    """One move that a packing proposes."""

    item_id: str
    item: str
    origin: str  # name of the carrier, or "no place"
    target: str
    gain_min: float  # minutes saved by this move alone, of reaching and wind


@dataclass(frozen=True, kw_only=True)
class Proposal:
    """A finished packing beside the load as it is."""

    run: PackRun
    moves: tuple[Move, ...]
    minutes: float  # of the proposed load: reaching and wind
    minutes_now: float  # of the present load, NaN where things lie about
    reasons: tuple[str, ...]  # why there is none


def problem_of(opened: OpenPlan, variant_id: str, evaluation: Evaluation) -> PackingProblem:
    """Return the packing problem of a variant."""
    return packing_problem(opened.plan, opened.plan.variant(variant_id), evaluation.ridden)


def pack_by_rule(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, rule: str) -> OpenPlan:
    """Pack a variant by a rule of thumb; what finds no room lies on the floor, pins stay."""
    found = next((entry for entry in RULES if entry.key == rule), None)
    if found is None:
        raise NotFound(f"There is no rule “{rule[:30]}”.", subject=rule)
    opened = open_plan(workspace, plan_id)
    problem = problem_of(opened, variant_id, evaluated(opened, variant_id))
    placed = pack_greedily(problem, found)
    places = {item.id: placed.get(item.id, "") for item in problem.items if not item.worn}
    return move_items(workspace, opened, variant_id, revision=revision, places=places, label=f"packed {found.name}")


def start_packing(workspace: Workspace, plan_id: UUID, variant_id: str) -> PackRun:
    """Start a run; refused while one is active."""
    current = packing_run(workspace, plan_id, variant_id)
    opened = open_plan(workspace, plan_id)
    opened.plan.variant(variant_id)
    if current is not None and current.is_active:
        raise Conflict("This variant is being packed already. Wait for it, or stop it.")
    with workspace.store.transaction() as session:
        run = runs.add_run(session, plan_id, variant_id, opened.revision)
    workspace.defer_pack(run.id)
    return run


def packing_run(workspace: Workspace, plan_id: UUID, variant_id: str) -> PackRun | None:
    """Return the newest run; one whose worker fell silent is marked as failed."""
    with workspace.store.transaction() as session:
        run = runs.latest_run(session, plan_id, variant_id)
        if run is not None and run.is_active and datetime.now(UTC) - run.heard_at > _SILENT:
            reason = "No worker answered. Start it again; the load is as it was."
            runs.update_run(session, run.id, state="failed", result={"reasons": [reason]})
            run = runs.read_run(session, run.id)
        return run


def stop_packing(workspace: Workspace, plan_id: UUID, variant_id: str) -> PackRun | None:
    """Ask the run to end with the best it has."""
    with workspace.store.transaction() as session:
        run = runs.latest_run(session, plan_id, variant_id)
        if run is None:
            return None
        if run.state == "waiting":
            runs.update_run(session, run.id, state="failed", result={"reasons": ["Stopped before it began."]})
        else:
            runs.want_stop(session, run.id)
        return runs.read_run(session, run.id)


class _Reporter:
    """Writes progress at most every half second, and reads whether to stop."""

    def __init__(self, workspace: Workspace, run_id: int) -> None:
        self._workspace, self._run_id = workspace, run_id
        self._next, self._stop = 0.0, False

    def progress(self, progress: Progress) -> None:
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + 0.5
        known = progress.minutes < 1e20
        with self._workspace.store.transaction() as session:
            runs.update_run(
                session,
                self._run_id,
                best_min=progress.minutes if known else None,
                bound_min=progress.bound if abs(progress.bound) < 1e20 else None,
                gap=progress.gap if known else None,
            )
            self._stop = runs.read_run(session, self._run_id).stop_wanted

    def should_stop(self) -> bool:
        return self._stop


def run_packing(workspace: Workspace, run_id: int) -> None:
    """Solve a run and store what came out; called by a worker."""
    with workspace.store.transaction() as session:
        run = runs.read_run(session, run_id)
        if run.state != "waiting":
            return
        runs.update_run(session, run_id, state="running")
    try:
        opened = open_plan(workspace, run.plan_id)
        problem = problem_of(opened, run.variant_id, evaluated(opened, run.variant_id))
        reporter = _Reporter(workspace, run_id)
        result = solve_packing(
            problem,
            present=opened.plan.variant(run.variant_id).places,
            time_limit=workspace.settings.pack_limit_s,
            on_progress=reporter.progress,
            should_stop=reporter.should_stop,
        )
    except Exception:
        with workspace.store.transaction() as session:
            reason = "The solver failed; the fault is ours. The load is as it was."
            runs.update_run(session, run_id, state="failed", result={"reasons": [reason]})
        raise
    with workspace.store.transaction() as session:
        runs.update_run(session, run_id, **_outcome(result, opened.revision))


def _outcome(result: PackingResult, revision: int) -> dict[str, object]:
    stored = {"status": result.status, "places": dict(result.places), "reasons": list(result.reasons)}
    if not math.isfinite(result.minutes):
        return {"state": "failed", "result": stored, "revision": revision}
    return {
        "state": "done",
        "result": stored,
        "revision": revision,
        "best_min": result.minutes,
        "bound_min": result.bound,
        "gap": result.gap,
    }


def proposal_of(opened: OpenPlan, variant_id: str, evaluation: Evaluation, run: PackRun) -> Proposal:
    """Return what a finished run would move, dearest move first."""
    result = run.result or {}
    places: dict[str, str] = result.get("places", {})
    problem = problem_of(opened, variant_id, evaluation)
    now = {item.id: opened.plan.variant(variant_id).places.get(item.id, "") for item in problem.items}
    column = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    names = {carrier.id: carrier.name for carrier in problem.carriers}
    moves = []
    for i, item in enumerate(problem.items):
        target = places.get(item.id, "")
        if not target or target == now[item.id] or target not in column:
            continue
        before = float(problem.minutes[i, column[now[item.id]]]) if now[item.id] in column else 0.0
        moves.append(
            Move(
                item_id=item.id,
                item=item.name,
                origin=names.get(now[item.id], "no place"),
                target=names[target],
                gain_min=before - float(problem.minutes[i, column[target]]),
            )
        )
    verdict = judge(problem, now)
    loose = any(place not in column for place in now.values())
    return Proposal(
        run=run,
        moves=tuple(sorted(moves, key=lambda move: -move.gain_min)),
        minutes=run.best_min if run.best_min is not None else float("nan"),
        minutes_now=float("nan") if loose else verdict.minutes,
        reasons=tuple(result.get("reasons", ())),
    )


def take_packing(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, refused: Collection[str]
) -> OpenPlan:
    """Take a finished packing, all moves but the refused ones, as one step."""
    opened = open_plan(workspace, plan_id)
    run = packing_run(workspace, plan_id, variant_id)
    if run is None or run.state != "done" or run.result is None:
        raise Conflict("There is no finished packing to take. Pack again.")
    if run.revision != opened.revision:
        raise Conflict("The plan was changed since it was packed, so the moves may no longer fit. Pack again.")
    now = opened.plan.variant(variant_id).places
    places = {
        item: place for item, place in run.result["places"].items() if now.get(item) != place and item not in refused
    }
    if not places:
        raise Conflict("No move is left to take.")
    return move_items(
        workspace,
        opened,
        variant_id,
        revision=revision,
        places=places,
        label=f"packed for me, {len(places)} moved",
    )
