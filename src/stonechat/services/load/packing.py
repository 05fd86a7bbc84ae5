"""Pack it for me: jobs of the solver that can be watched and stopped; nothing of the plan is changed by them."""

import math
import time
from collections.abc import Mapping
from dataclasses import replace
from typing import Any
from uuid import UUID

from stonechat.core.load.different import different_packings
from stonechat.core.load.greedy import RULES, pack_greedily
from stonechat.core.load.problem import HOME, PackingProblem
from stonechat.core.load.solve import Packing, PackingResult, Progress, lower_bound, solve_packing
from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.packing import AS_IT_IS, Trial, mounting_minutes, packing_problem
from stonechat.db import packing as runs
from stonechat.db import presence
from stonechat.db.packing import PackRun
from stonechat.errors import Conflict, NotFound, Unavailable
from stonechat.jobs.app import PACK_TASK
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.load.moving import move_items
from stonechat.services.workspace import Workspace

_MOST_ATTEMPTS = 3  # a run that ends its worker so often is given up
_CUT_OFF = "The solver was cut off three times without an answer. The load is as it was; start it again."
_DIFFERENT_SHARE = 0.2  # 1, share of the time limit for each different packing
_MOST_REFUSALS = 60  # moves whose refusal is priced
DECIDING = Trial(decides=True)


def problem_of(opened: OpenPlan, variant_id: str, evaluation: Evaluation, trial: Trial = AS_IT_IS) -> PackingProblem:
    """Return the packing problem of a variant."""
    return packing_problem(opened.plan, opened.plan.variant(variant_id), evaluation.ridden, trial)


def trial_of(run: PackRun) -> Trial:
    """Return what a run tries."""
    asked = run.request
    return Trial(
        held=dict(asked.get("held", {})),
        decides=True,
        **{name: frozenset(asked.get(name, ())) for name in ("closed", "opened", "kept")},
    )


def _request(trial: Trial) -> dict[str, Any]:
    lists = {name: sorted(getattr(trial, name)) for name in ("closed", "opened", "kept")}
    return {"held": dict(trial.held), **lists}


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


def start_packing(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, kind: str = "pack", trial: Trial = DECIDING
) -> PackRun:
    """Start a run; refused while one is active."""
    current = packing_run(workspace, plan_id, variant_id)
    opened = open_plan(workspace, plan_id)
    opened.plan.variant(variant_id)
    if current is not None and current.is_active:
        raise Conflict("This variant is being packed already. Wait for it, or stop it.")
    with workspace.store.transaction() as session:
        run = runs.add_run(session, plan_id, variant_id, opened.revision, kind, _request(trial))
    workspace.defer_pack(run.id)
    return run


def packing_run(workspace: Workspace, plan_id: UUID, variant_id: str, kind: str = "") -> PackRun | None:
    """Return the newest run, of one kind or of any; one whose worker is gone waits for another."""
    with workspace.store.transaction() as session:
        run = runs.latest_run(session, plan_id, variant_id, kind)
        if run is None or not run.is_active:
            return run
        if run.state == "waiting":
            return replace(run, waits_for_worker=not presence.workers(session))
        if presence.is_worked_on(session, run.id):
            return run
        run = runs.let_go(session, run.id, most_attempts=_MOST_ATTEMPTS, reason=_CUT_OFF)
    if run.state == "waiting":
        workspace.defer_pack(run.id)
    return run


def take_up_lost_runs(workspace: Workspace) -> None:
    """Queue again what no living worker works on and what waits without a job, as after a kill."""
    with workspace.store.transaction() as session:
        lost = []
        for run in runs.active_runs(session):
            if run.state == "running":
                if presence.is_worked_on(session, run.id):
                    continue
                run = runs.let_go(session, run.id, most_attempts=_MOST_ATTEMPTS, reason=_CUT_OFF)
            if run.state == "waiting" and not runs.is_queued(session, run.id, PACK_TASK):
                lost.append(run.id)
    for run_id in lost:
        workspace.defer_pack(run_id)


def see_packing(workspace: Workspace, plan_id: UUID, variant_id: str) -> None:
    """Note that the end of the newest run was shown, if it has ended."""
    with workspace.store.transaction() as session:
        run = runs.latest_run(session, plan_id, variant_id)
        if run is not None and not run.is_active and not run.seen:
            runs.mark_seen(session, run.id)


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
        known = progress.minutes < 1e20
        self._write(
            best_min=progress.minutes if known else None,
            bound_min=progress.bound if abs(progress.bound) < 1e20 else None,
            gap=progress.gap if known else None,
        )

    def _write(self, **values: float | None) -> None:
        self._next = time.monotonic() + 0.5
        with self._workspace.store.transaction() as session:
            runs.update_run(session, self._run_id, **values)
            self._stop = runs.read_run(session, self._run_id).stop_wanted

    def should_stop(self) -> bool:
        if time.monotonic() >= self._next:
            self._write()
        return self._stop


def run_packing(workspace: Workspace, run_id: int) -> None:
    """Solve a run and store what came out; called by a worker.

    Where the database goes away the run stays as it is: it is taken up again when the database is back.
    """
    with presence.at_work_on(workspace.store.engine, run_id) as is_ours:
        if not is_ours:
            return
        with workspace.store.transaction() as session:
            run = runs.claim_run(session, run_id)
        if run is not None:
            _answer(workspace, run)


def _answer(workspace: Workspace, run: PackRun) -> None:
    run_id = run.id
    try:
        opened = open_plan(workspace, run.plan_id)
        outcome = _ANSWERS[run.kind](workspace, opened, run, _Reporter(workspace, run_id))
    except Unavailable:
        raise
    except Exception:
        with workspace.store.transaction() as session:
            reason = "The solver failed; the fault is ours. The load is as it was."
            runs.update_run(session, run_id, state="failed", result={"reasons": [reason]})
        raise
    with workspace.store.transaction() as session:
        runs.update_run(session, run_id, revision=opened.revision, **outcome)


def _solved(
    workspace: Workspace, opened: OpenPlan, run: PackRun, reporter: _Reporter, trial: Trial
) -> tuple[PackingProblem, PackingResult]:
    problem = problem_of(opened, run.variant_id, evaluated(opened, run.variant_id), trial)
    present = {**opened.plan.variant(run.variant_id).places, **trial.held}
    result = solve_packing(
        problem,
        present=present,
        time_limit=workspace.settings.pack_limit_s,
        on_progress=reporter.progress,
        should_stop=reporter.should_stop,
    )
    return problem, result


def _pack(workspace: Workspace, opened: OpenPlan, run: PackRun, reporter: _Reporter) -> dict[str, object]:
    problem, result = _solved(workspace, opened, run, reporter, trial_of(run))
    present = opened.plan.variant(run.variant_id).places
    return _outcome(result, {"refusal": _refusals(problem, result, present)})


def _refusals(problem: PackingProblem, result: PackingResult, present: Mapping[str, str]) -> dict[str, float]:
    """Return what refusing each move costs at least, with all else packed anew. [min]"""
    able = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    moved = [
        (i, item.id)
        for i, item in enumerate(problem.items)
        if present.get(item.id, "") in able and result.places.get(item.id, present[item.id]) != present[item.id]
    ]
    if not moved:
        return {}
    base, found = lower_bound(problem), {}
    for i, key in moved[:_MOST_REFUSALS]:
        if problem.refusals[i][able[present[key]]] is not None:
            continue
        held = lower_bound(replace(problem, pins={**problem.pins, key: present[key]})) - base
        if math.isfinite(held):
            found[key] = max(0.0, held)
    return found


def _different(workspace: Workspace, opened: OpenPlan, run: PackRun, reporter: _Reporter) -> dict[str, object]:
    with workspace.store.transaction() as session:
        last = runs.latest_run(session, run.plan_id, run.variant_id, "pack")
    trial = trial_of(run)
    problem = problem_of(opened, run.variant_id, evaluated(opened, run.variant_id), trial)
    if last is not None and last.state == "done" and last.revision == opened.revision and last.request == run.request:
        known = last.result or {}
        best = Packing(places=known["places"], mounted=frozenset(known.get("mounted", ())))
        outcome: dict[str, object] = {
            "state": "done", "result": dict(known), "best_min": last.best_min, "bound_min": last.bound_min,
            "gap": last.gap,
        }  # fmt: skip
    else:
        problem, result = _solved(workspace, opened, run, reporter, trial)
        best, outcome = Packing(places=result.places, mounted=result.mounted), _outcome(result, {})
        if outcome["state"] == "failed":
            return outcome
    limit = _DIFFERENT_SHARE * workspace.settings.pack_limit_s
    others = different_packings(problem, best, time_limit=limit, should_stop=reporter.should_stop)
    plans = [
        {
            "places": dict(other.packing.places),
            "mounted": sorted(other.packing.mounted),
            "minutes": other.minutes,
            "words": list(other.words),
        }
        for other in others
    ]
    stored = outcome["result"]
    assert isinstance(stored, dict)  # noqa: S101  both branches made it so
    return {**outcome, "result": {**stored, "plans": plans}}


def _what_if(workspace: Workspace, opened: OpenPlan, run: PackRun, reporter: _Reporter) -> dict[str, object]:
    """Solve as things are and as they would be."""
    problem, base = _solved(workspace, opened, run, reporter, DECIDING)
    trial = trial_of(run)
    _, result = _solved(workspace, opened, run, reporter, trial)
    saved = _taken_off(opened, run.variant_id, trial, problem, evaluated(opened, run.variant_id))
    return _outcome(
        result,
        {
            "base_minutes": base.minutes if math.isfinite(base.minutes) else None,
            "base_gap": base.gap if math.isfinite(base.gap) else None,
            "base_unkept": [rule.words for rule in base.unkept],
            "saved": saved,
        },
    )


def _taken_off(
    opened: OpenPlan, variant_id: str, trial: Trial, problem: PackingProblem, evaluation: Evaluation
) -> float:
    """Return what taking off closed carriers saves beyond what the first packing could choose. [min]"""
    prices = evaluation.ridden.ledger.prices
    return sum(
        mounting_minutes(carrier, prices)
        for carrier in opened.plan.variant(variant_id).carriers
        if carrier.mounted and carrier.id in trial.closed and carrier.id not in problem.choices.carriers
    )


_ANSWERS = {"pack": _pack, "different": _different, "what-if": _what_if}


def _outcome(result: PackingResult, more: dict[str, object]) -> dict[str, object]:
    conflict = result.conflict
    stored = {
        "status": result.status,
        "places": dict(result.places),
        "mounted": sorted(result.mounted),
        "unkept": [rule.words for rule in result.unkept],
        "reasons": list(result.reasons),
        "is_smallest": conflict.is_smallest if conflict else False,
        "ways": [
            {"words": list(way.words), "leave": list(way.leave), "unpin": list(way.unpin)}
            for way in (conflict.ways if conflict else ())
        ],
        **more,
    }
    if not math.isfinite(result.minutes):
        return {"state": "failed", "result": stored}
    return {
        "state": "done",
        "result": stored,
        "best_min": result.minutes,
        "bound_min": result.bound,
        "gap": result.gap,
    }


def refuse_moves(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, items: frozenset[str], carriers: frozenset[str]
) -> PackRun:
    """Pack again with some moves of the last packing refused: those things and carriers stay as they are."""
    run = packing_run(workspace, plan_id, variant_id, "pack")
    if run is None or run.is_active:
        raise Conflict("There is no finished packing to refuse moves of. Pack first.")
    if not items and not carriers:
        raise Conflict("Nothing is refused. Untick what should not move, then pack again.")
    trial = trial_of(run)
    places = open_plan(workspace, plan_id).plan.variant(variant_id).places
    loose = [key for key in items if not places.get(key)]
    if loose:
        raise Conflict("A thing without a place cannot stay where it is. Give it a place by hand, or let it be packed.")
    held = {**trial.held, **{key: places[key] for key in items}}
    return start_packing(workspace, plan_id, variant_id, trial=replace(trial, held=held, kept=trial.kept | carriers))


def go_out(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, way: int) -> OpenPlan:
    """Take a way out of a packing that is impossible: leave things at home, let others go, as one step."""
    run = packing_run(workspace, plan_id, variant_id, "pack")
    ways = (run.result or {}).get("ways", []) if run is not None else []
    if not 0 <= way < len(ways):
        raise Conflict("That way out is no longer there. Pack again.")
    chosen = ways[way]
    opened = open_plan(workspace, plan_id)
    return move_items(
        workspace,
        opened,
        variant_id,
        revision=revision,
        places=dict.fromkeys(chosen["leave"], HOME),
        unpin=frozenset(chosen["unpin"]) | frozenset(chosen["leave"]),
        label=", ".join(chosen["words"])[:80],
    )
