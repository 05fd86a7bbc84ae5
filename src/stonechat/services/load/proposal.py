"""What a finished packing proposes beside the load as it is: moves grouped by reason, and taking them."""

import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from stonechat.core.kit.item import HOME
from stonechat.core.load.judge import Verdict, judge
from stonechat.core.load.problem import PackingProblem, Prices
from stonechat.core.load.steps import Step, in_order
from stonechat.core.load.together.rule import UNKEPT, Rule
from stonechat.core.load.together.ways import WAYS
from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.packing import Trial, mounting_minutes
from stonechat.core.plan.plan import Variant
from stonechat.core.rig.places import WORN
from stonechat.db.runs import Run, RunState
from stonechat.errors import Clash
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.load.moving import move_items
from stonechat.services.load.packing import food_told, packing_run, problem_of, trial_of
from stonechat.services.workspace import Workspace

REASONS = {  # in the order in which they are shown
    "place": "It has no place yet",
    "rule": "It breaks a rule where it is",
    "choice": "Along or at home",
    "reach": "Nearer at hand",
    "wind": "Out of the wind",
    "room": "Makes room for the others",
}
_FELT = 0.02  # min, a move that gains less by itself is made for others
_MOST_OF_IT = 0.8  # 1, share of the gain that counts as most of it
_WORTH_IT = 0.05  # min, for which food alone is put elsewhere
_SOME_FOOD = 0.05e-3  # m³ of food from which it is told


@dataclass(frozen=True, kw_only=True)
class Move:
    """One move that a packing proposes."""

    item_id: str
    item: str
    origin: str  # name of the carrier, home, or "no place"
    target: str
    gain_min: float  # minutes saved by this move alone
    reason: str  # key of REASONS
    words: str  # the rule that it keeps; empty otherwise
    refused_min: float | None  # min that refusing it costs at least, all else packed anew; None where not known
    breaks_rule: bool  # whether that is a rule not kept, not time
    may_stay: bool  # whether it can be refused and held where it is


@dataclass(frozen=True, kw_only=True)
class Mounting:
    """A carrier that a packing would mount or take off."""

    carrier_id: str
    name: str
    mounts: bool
    gain_min: float  # min of its own mass and wind


@dataclass(frozen=True, kw_only=True)
class WayOut:
    """What could be conceded where no packing is possible."""

    words: tuple[str, ...]
    can_be_done: bool  # whether one step of the plan does all of it


@dataclass(frozen=True, kw_only=True)
class OtherPlan:
    """A clearly different packing."""

    index: int
    minutes: float
    words: tuple[str, ...]
    moved: int


@dataclass(frozen=True, kw_only=True)
class Proposal:
    """A finished packing beside the load as it is."""

    run: Run
    moves: tuple[Move, ...]
    mountings: tuple[Mounting, ...]
    minutes: float  # of the proposed load
    minutes_now: float  # of the present load, NaN where things lie about
    unkept: tuple[str, ...]  # rules that the proposed load does not keep
    unkept_now: tuple[str, ...]
    held: tuple[str, ...]  # names of what was refused before
    reasons: tuple[str, ...]  # why there is none
    is_smallest: bool
    ways: tuple[WayOut, ...]
    others: tuple[OtherPlan, ...]
    spared: float = 0.0  # min given up for fewer moves
    food: tuple[tuple[str, float], ...] = ()  # where it goes, when most is carried [m³]
    emptied: tuple[tuple[str, float], ...] = ()  # carriers that hold nothing then; min of taking each off
    way: str = ""  # name of the way of packing that was asked for
    way_min: float = 0.0  # min that it costs beside the best without it

    @property
    def changes(self) -> bool:
        """Whether anything would be moved: things, carriers, or food alone where that brings something."""
        gained = self.minutes_now - self.minutes
        return bool(self.moves or self.mountings) or (bool(self.food) and gained > _WORTH_IT)

    @property
    def first_few(self) -> tuple[int, float, float] | None:
        """How many moves bring most of what all bring, both in minutes; None where all are needed for it."""
        whole, so_far = sum(move.gain_min for move in self.moves), 0.0
        for count, move in enumerate(self.moves, start=1):
            so_far += move.gain_min
            if so_far >= _MOST_OF_IT * whole:
                return (count, so_far, whole) if 2 * count <= len(self.moves) and whole > 0.0 else None
        return None

    @property
    def grouped(self) -> tuple[tuple[str, tuple[Move, ...]], ...]:
        """Moves by reason, with the reason in words."""
        groups = ((words, tuple(move for move in self.moves if move.reason == key)) for key, words in REASONS.items())
        return tuple((words, moves) for words, moves in groups if moves)


def proposal_of(opened: OpenPlan, variant_id: str, evaluation: Evaluation, run: Run) -> Proposal:
    """Return what a finished run would move, by reason, dearest move first."""
    result = run.result or {}
    trial = trial_of(run)
    problem = problem_of(opened, variant_id, evaluation, trial)
    places: dict[str, str] = result.get("places", {})
    variant = opened.plan.variant(variant_id)
    now = {item.id: variant.places.get(item.id, "") for item in problem.items}
    verdict = judge(problem, now)
    known = {carrier.id for carrier in problem.carriers} | {HOME}
    names = {item.id: item.name for item in opened.plan.items}
    food = food_told(result) or {}
    return Proposal(
        run=run,
        spared=float(result.get("spared_min", 0.0)),
        food=tuple((c.name, food[c.id]) for c in problem.carriers if food.get(c.id, 0.0) > _SOME_FOOD),
        way=WAYS[variant.wishes.way] if "way_min" in result else "",
        way_min=float(result.get("way_min", 0.0)),
        emptied=_emptied(problem, now, places, food, evaluation.ridden.ledger.prices),
        moves=_moves(problem, now, places, verdict, result.get("refusal", {})),
        mountings=_mountings(problem, result),
        minutes=run.figure("best_min"),
        minutes_now=math.nan if any(place not in known for place in now.values()) else verdict.minutes,
        unkept=tuple(result.get("unkept", ())),
        unkept_now=tuple(rule.words for rule in verdict.unkept),
        held=tuple(names[key] for key in trial.held if key in names),
        reasons=tuple(result.get("reasons", ())),
        is_smallest=bool(result.get("is_smallest", False)),
        ways=_ways(result),
        others=_others(result, now),
    )


def _ways(result: Mapping[str, Any]) -> tuple[WayOut, ...]:
    return tuple(
        WayOut(words=tuple(way["words"]), can_be_done=len(way["leave"]) + len(way["unpin"]) == len(way["words"]))
        for way in result.get("ways", ())
    )


def _others(result: Mapping[str, Any], now: Mapping[str, str]) -> tuple[OtherPlan, ...]:
    """Return the clearly different plans of a run."""
    return tuple(
        OtherPlan(
            index=k,
            minutes=other["minutes"],
            words=tuple(other["words"]),
            moved=sum(1 for key, place in other["places"].items() if now.get(key) != place),
        )
        for k, other in enumerate(result.get("plans", ()))
    )


def _emptied(
    problem: PackingProblem,
    now: Mapping[str, str],
    places: Mapping[str, str],
    food: Mapping[str, float],
    prices: Prices,
) -> tuple[tuple[str, float], ...]:
    """Return the carriers of the bike that a packing leaves with nothing, and what taking each off brings. [min]"""
    left = set(places.values()) | {key for key, put in food.items() if put > _SOME_FOOD}
    return tuple(
        (carrier.name, mounting_minutes(carrier, prices))
        for carrier in problem.carriers
        if places
        and carrier.id in set(now.values()) - left
        and carrier.mounted
        and carrier.place not in WORN
        and not carrier.takes & {"water"}
        and carrier.id not in problem.choices.carriers
    )


def _moves(
    problem: PackingProblem,
    now: Mapping[str, str],
    places: Mapping[str, str],
    verdict: Verdict,
    refusal: Mapping[str, float],
) -> tuple[Move, ...]:
    names = {carrier.id: carrier.name for carrier in problem.carriers} | {HOME: "home", "": "no place"}
    known = {carrier.id for carrier in problem.carriers}
    broken = _broken_by(problem, now, verdict)
    moves = []
    for step in in_order(problem, now, {key: place for key, place in places.items() if place in names}):
        item, origin = problem.items[step.row], now[problem.items[step.row].id]
        reason = _reason(step, origin, broken.get(item.id, ""), known)
        words = broken.get(item.id, "").removeprefix(f"{item.name} ") if reason == "rule" else ""
        moves.append(
            Move(
                item_id=item.id,
                item=item.name,
                origin=names.get(origin, "no place"),
                target=names[step.target],
                gain_min=step.gain,
                reason=reason,
                words=words,
                refused_min=refusal.get(item.id),
                breaks_rule=refusal.get(item.id, 0.0) > 0.8 * UNKEPT,
                may_stay=origin in known or origin == HOME,
            )
        )
    return tuple(moves)


def _reason(step: Step, origin: str, rule: str, known: set[str]) -> str:
    """Return for what a thing moves, key of REASONS."""
    if origin not in known and origin != HOME:
        return "place"
    if rule:
        return "rule"
    if HOME in (origin, step.target):
        return "choice"
    if step.gain < _FELT:
        return "room"
    return "reach" if step.gain >= 2.0 * step.wind else "wind"


def _broken_by(problem: PackingProblem, now: Mapping[str, str], verdict: Verdict) -> dict[str, str]:
    """Return for each thing the rule that it breaks where it is."""
    found: dict[str, str] = {}
    columns = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    for i, item in enumerate(problem.items):
        c = columns.get(now[item.id])
        refusal = problem.refusals[i][c] if c is not None else None
        if refusal is not None and item.id not in problem.pins:
            found[item.id] = refusal.words
    for rule in verdict.unkept:
        for key in _things_of(rule):
            found.setdefault(key, rule.words)
    return found


def _things_of(rule: Rule) -> frozenset[str]:
    values = vars(rule)
    named = {values["thing"]} if "thing" in values else set()
    return frozenset(named).union(*(values[name] for name in ("things", "ones", "others", "masses") if name in values))


def _mountings(problem: PackingProblem, result: Mapping[str, object]) -> tuple[Mounting, ...]:
    listed = result.get("mounted", ())
    on = set(listed) if isinstance(listed, list) else set()
    return tuple(
        Mounting(
            carrier_id=carrier.id,
            name=carrier.name,
            mounts=carrier.id in on,
            gain_min=problem.choices.carriers[carrier.id] * (-1.0 if carrier.id in on else 1.0),
        )
        for carrier in problem.carriers
        if result.get("places") and carrier.id in problem.choices.carriers and (carrier.id in on) != carrier.mounted
    )


def _answer_of(result: dict[str, Any], other: int | None) -> dict[str, Any]:
    """Return the answer of a packing, or one of its different plans."""
    if other is None:
        return result
    plans: list[dict[str, Any]] = result.get("plans", [])
    if not 0 <= other < len(plans):
        raise Clash("That plan is no longer there. Ask for different plans again.")
    return plans[other]


def _mounted_by(variant: Variant, trial: Trial, result: Mapping[str, Any]) -> dict[str, bool]:
    """Return the carriers that a packing mounts or takes off."""
    left = (variant.wishes.free_carriers | trial.opened) - trial.kept - trial.closed
    wanted = {
        c.id: c.id in result.get("mounted", ()) for c in variant.carriers if c.id in left and "water" not in c.takes
    }
    wanted |= dict.fromkeys(trial.closed, False)
    on = {carrier.id: carrier.mounted for carrier in variant.carriers}
    return {key: is_on for key, is_on in wanted.items() if on.get(key) != is_on}


def take_packing(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    refused: Collection[str],
    kind: str = "pack",
    other: int | None = None,
) -> OpenPlan:
    """Take a finished packing, all moves and mountings but the refused ones, as one step."""
    opened = open_plan(workspace, plan_id)
    run = packing_run(workspace, plan_id, variant_id, kind)
    if run is None or run.state != RunState.DONE or run.result is None:
        raise Clash("There is no finished packing to take. Pack again.")
    if run.revision != opened.revision:
        raise Clash("The plan was changed since it was packed, so the moves may no longer fit. Pack again.")
    result = _answer_of(run.result, other)
    variant = opened.plan.variant(variant_id)
    now = variant.places
    places = {item: place for item, place in result["places"].items() if now.get(item) != place and item not in refused}
    mounted = {key: on for key, on in _mounted_by(variant, trial_of(run), result).items() if key not in refused}
    food = food_told(result)
    if not places and not mounted and not _moves_food(food, variant.food_in):
        raise Clash("No move is left to take.")
    return move_items(
        workspace,
        opened,
        variant_id,
        revision=revision,
        places=places,
        mounted=mounted,
        food=food,
        label=f"packed for me, {len(places)} moved",
    )


def _moves_food(told: Mapping[str, float] | None, wanted: Mapping[str, float]) -> bool:
    """Tell whether food is told to go elsewhere than it was wanted so far."""
    if told is None:
        return False
    return any(abs(told.get(key, 0.0) - wanted.get(key, 0.0)) > _SOME_FOOD for key in {*told, *wanted})
