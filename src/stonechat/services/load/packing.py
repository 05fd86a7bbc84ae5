"""Pack it for me: jobs of the solver that can be watched and stopped; nothing of the plan is changed by them."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any
from uuid import UUID

from stonechat.core.kit.item import HOME
from stonechat.core.load.different import BUDGET as BUDGET
from stonechat.core.load.different import different_packings
from stonechat.core.load.greedy import RULES, pack_greedily
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.solve import Packing, PackingResult, Progress, lower_bound, solve_packing
from stonechat.core.load.together.ways import WayOfPacking
from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.packing import AS_IT_IS, Trial, mounting_minutes, packing_problem
from stonechat.db import runs
from stonechat.db.runs import Run, RunState
from stonechat.errors import Clash, InvalidInput, NotFound
from stonechat.services import work
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.load.moving import move_items
from stonechat.services.variant import item_named, refuse_impossible
from stonechat.services.work import Family, Outcome, Reporter
from stonechat.services.workspace import Workspace

_DIFFERENT_SHARE = 0.2  # 1, share of the time limit for each different packing
CALM_WITHIN = 2.0  # min that a proposal may give up for fewer moves
_WAY_TIME = 6.0  # s, to pack without the way of packing that the rider holds dear
_MOST_REFUSALS = 60  # moves whose refusal is priced
DECIDING = Trial(decides=True)


def problem_of(opened: OpenPlan, variant_id: str, evaluation: Evaluation, trial: Trial = AS_IT_IS) -> PackingProblem:
    """Return the packing problem of a variant."""
    return packing_problem(opened.plan, opened.plan.variant(variant_id), evaluation.ridden, trial)


def trial_of(run: Run) -> Trial:
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


def trial_asked(
    opened: OpenPlan,
    variant_id: str,
    *,
    thing: tuple[str, str],
    closed: Iterable[str],
    opened_ids: Iterable[str],
    emptied: frozenset[str],
) -> Trial:
    """Return what is tried: a thing in a bag, bags off or on, places left empty; refused where it is nothing."""
    variant = opened.plan.variant(variant_id)
    known = {carrier.id: carrier for carrier in variant.carriers}
    off = set(closed) & set(known)
    off |= {carrier.id for carrier in variant.carriers if carrier.mounted and carrier.place in emptied}
    on = frozenset(opened_ids) & set(known)
    item, place = thing
    held = {item: place} if item and place in known and place not in off else {}
    if held:
        refuse_impossible(opened.plan, item_named(opened.plan, item), known[place])
    if not held and not off and not on:
        raise InvalidInput(
            "Nothing is tried. Choose a thing and its bag, a bag off or on, or a school.", subject="item"
        )
    return Trial(held=held, closed=frozenset(off), opened=on, decides=True)


def pack_by_rule(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, rule: str) -> OpenPlan:
    """Pack a variant by a rule of thumb; what finds no room lies on the floor, pins stay."""
    found = next((entry for entry in RULES if entry.key == rule), None)
    if found is None:
        raise NotFound(f"There is no rule “{rule[:30]}”.", subject=rule)
    opened = open_plan(workspace, plan_id)
    problem = problem_of(opened, variant_id, evaluated(opened, variant_id))
    placed = pack_greedily(problem, found)
    places = {item.id: placed.get(item.id, "") for item in problem.items}
    return move_items(workspace, opened, variant_id, revision=revision, places=places, label=f"packed {found.name}")


def start_packing(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, kind: str = "pack", trial: Trial = DECIDING
) -> Run:
    """Start a run; refused while one is active."""
    return work.start(workspace, PACKING, plan_id, variant_id, kind=kind, request=_request(trial))


def packing_run(workspace: Workspace, plan_id: UUID, variant_id: str, kind: str = "") -> Run | None:
    """Return the newest run, of one kind or of any."""
    return work.newest(workspace, PACKING, plan_id, variant_id, kind)


def see_packing(workspace: Workspace, plan_id: UUID, variant_id: str) -> None:
    """Note that the end of the newest run was shown, if it has ended."""
    work.see(workspace, PACKING, plan_id, variant_id)


def stop_packing(workspace: Workspace, plan_id: UUID, variant_id: str) -> Run | None:
    """Ask the run to end with the best it has."""
    return work.stop(workspace, PACKING, plan_id, variant_id)


def _told(progress: Progress) -> dict[str, float | None]:
    known = progress.minutes < 1e20
    return {
        "best_min": progress.minutes if known else None,
        "bound_min": progress.bound if abs(progress.bound) < 1e20 else None,
        "gap": progress.gap if known else None,
    }


def _solved(
    workspace: Workspace, opened: OpenPlan, run: Run, reporter: Reporter, trial: Trial
) -> tuple[PackingProblem, PackingResult]:
    problem = problem_of(opened, run.variant_id, evaluated(opened, run.variant_id), trial)
    present = {**opened.plan.variant(run.variant_id).places, **trial.held}
    result = solve_packing(
        problem,
        present=present,
        tolerance=CALM_WITHIN,
        time_limit=workspace.settings.pack_limit_s,
        on_progress=lambda progress: reporter.tell(_told(progress)),
        should_stop=reporter.should_stop,
    )
    return problem, result


def _pack(workspace: Workspace, opened: OpenPlan, run: Run, reporter: Reporter) -> Outcome:
    problem, result = _solved(workspace, opened, run, reporter, trial_of(run))
    present = opened.plan.variant(run.variant_id).places
    return _outcome(
        result, {"refusal": _refusals(problem, result, present), **_price_of_way(problem, result, reporter)}
    )


def _price_of_way(problem: PackingProblem, result: PackingResult, reporter: Reporter) -> dict[str, float]:
    """Return what a way of packing that the rider holds dear costs beside the best without it. [min]"""
    free = replace(problem, rules=tuple(rule for rule in problem.rules if not isinstance(rule, WayOfPacking)))
    if len(free.rules) == len(problem.rules) or not math.isfinite(result.minutes):
        return {}
    without = solve_packing(free, time_limit=_WAY_TIME, should_stop=reporter.should_stop)
    if len(without.unkept) != len(result.unkept) or not math.isfinite(without.minutes):
        return {}  # another rule's price would be told as the way's
    return {"way_min": max(0.0, result.minutes - result.spared - without.minutes)}


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


def _different(workspace: Workspace, opened: OpenPlan, run: Run, reporter: Reporter) -> Outcome:
    with workspace.store.transaction() as session:
        last = runs.latest_run(session, run.plan_id, run.variant_id, PACKING.key, "pack")
    trial = trial_of(run)
    problem = problem_of(opened, run.variant_id, evaluated(opened, run.variant_id), trial)
    if (
        last is not None
        and last.state == RunState.DONE
        and last.revision == opened.revision
        and last.request == run.request
    ):
        known = last.result or {}
        mounted = frozenset(known.get("mounted", ()))
        best = Packing(places=known["places"], mounted=mounted, food=food_told(known))
        outcome = Outcome(result=dict(known), progress=last.progress)
    else:
        problem, result = _solved(workspace, opened, run, reporter, trial)
        best = Packing(places=result.places, mounted=result.mounted, food=result.food)
        outcome = _outcome(result, {})
        if not outcome.is_done:
            return outcome
    limit = _DIFFERENT_SHARE * workspace.settings.pack_limit_s
    others = different_packings(problem, best, time_limit=limit, should_stop=reporter.should_stop)
    plans = [
        {
            "places": dict(other.packing.places),
            "mounted": sorted(other.packing.mounted),
            "food_l": _food_document(other.packing.food or {}),
            "minutes": other.minutes,
            "words": list(other.words),
        }
        for other in others
    ]
    return replace(outcome, result={**outcome.result, "plans": plans})


def _what_if(workspace: Workspace, opened: OpenPlan, run: Run, reporter: Reporter) -> Outcome:
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


def _food_document(food: Mapping[str, float]) -> dict[str, float]:
    return {key: put * 1e3 for key, put in sorted(food.items())}


def food_told(result: Mapping[str, Any]) -> dict[str, float] | None:
    """Return where a packing puts food, None where it does not say, as those made before it was asked. [m³]"""
    told: Mapping[str, float] | None = result.get("food_l")
    return None if told is None else {key: put / 1e3 for key, put in told.items()}


def _outcome(result: PackingResult, more: dict[str, object]) -> Outcome:
    conflict = result.conflict
    stored = {
        "status": result.status,
        "places": dict(result.places),
        "mounted": sorted(result.mounted),
        "food_l": _food_document(result.food),
        "spared_min": result.spared,
        "unkept": [rule.words for rule in result.unkept],
        "reasons": list(result.reasons),
        "is_smallest": conflict.is_smallest if conflict else False,
        "ways": [
            {"words": list(way.words), "leave": list(way.leave), "unpin": list(way.unpin)}
            for way in (conflict.ways if conflict else ())
        ],
        **more,
    }
    if not math.isfinite(result.minutes) or result.status == "failed":
        return Outcome(result=stored, progress={}, is_done=False)
    figures = {"best_min": result.minutes, "bound_min": result.bound, "gap": result.gap}
    return Outcome(result=stored, progress={key: value for key, value in figures.items() if math.isfinite(value)})


PACKING = Family(
    key="packing",
    answers={"pack": _pack, "different": _different, "what-if": _what_if},
    busy="This variant is being packed already. Wait for it, or stop it.",
    cut_off="The solver was cut off three times without an answer. The load is as it was; start it again.",
    failed="The solver failed; the fault is ours. The load is as it was.",
)


def refuse_moves(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, items: frozenset[str], carriers: frozenset[str]
) -> Run:
    """Pack again with some moves of the last packing refused: those things and carriers stay as they are."""
    run = packing_run(workspace, plan_id, variant_id, "pack")
    if run is None or run.is_active:
        raise Clash("There is no finished packing to refuse moves of. Pack first.")
    if not items and not carriers:
        raise Clash("Nothing is refused. Untick what should not move, then pack again.")
    trial = trial_of(run)
    places = open_plan(workspace, plan_id).plan.variant(variant_id).places
    loose = [key for key in items if not places.get(key)]
    if loose:
        raise Clash("A thing without a place cannot stay where it is. Give it a place by hand, or let it be packed.")
    held = {**trial.held, **{key: places[key] for key in items}}
    return start_packing(workspace, plan_id, variant_id, trial=replace(trial, held=held, kept=trial.kept | carriers))


def go_out(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, way: int) -> OpenPlan:
    """Take a way out of a packing that is impossible: leave things at home, let others go, as one step."""
    run = packing_run(workspace, plan_id, variant_id, "pack")
    ways = (run.result or {}).get("ways", []) if run is not None else []
    if not 0 <= way < len(ways):
        raise Clash("That way out is no longer there. Pack again.")
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
