"""What a move would cost, and which place is best for what lies about."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from stonechat.core.ledger.loaded import LegLoad
from stonechat.core.load.balance import turning_lever
from stonechat.core.load.moves import MoveOption, move_options, options_together
from stonechat.core.load.problem import PackingProblem
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.places import TURNING
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.load.packing import problem_of
from stonechat.services.variant import item_named


@dataclass(frozen=True, kw_only=True)
class Stance:
    """How the bike would stand on a leg."""

    front_share: float  # 1
    lean: float  # °, positive to the left
    sway: float  # kg·m
    steering: float  # kg·m²


def options_for(
    opened: OpenPlan, variant_id: str, item_ids: Sequence[str], leg: int = 0
) -> tuple[tuple[MoveOption, Stance | None], ...]:
    """Return what things would cost together in each mounted carrier, and how the bike would stand then.

    Nothing for what stays at home; no stance for what has no place yet. Food stays where it is.
    """
    for item_id in item_ids:
        item_named(opened.plan, item_id)
    problem = problem_of(opened, variant_id, evaluated(opened, variant_id))
    packed = {item.id for item in problem.items}
    if not set(item_ids) <= packed:
        return ()
    ridden, places = evaluated(opened, variant_id).ridden, opened.plan.variant(variant_id).places
    load = ridden.film[max(0, min(leg, len(ridden.film) - 1))]
    return tuple(
        (
            option,
            _stance(
                problem, ridden.rig.bike, load, [(key, places.get(key, ""), option.carrier_id) for key in item_ids]
            ),
        )
        for option in options_together(problem, places, item_ids)
    )


def _stance(problem: PackingProblem, bike: Bike, load: LegLoad, moves: Sequence[tuple[str, str, str]]) -> Stance | None:
    """Return how the bike stands after moves of things from carrier to carrier; None where one has no place."""
    column = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    masses = {item.id: item.total_mass for item in problem.items}
    place = [load.balance.x * load.mass, load.balance.y * load.mass, load.balance.z * load.mass]
    sway, steering = load.sway, load.steering
    for key, origin, target in moves:
        if origin not in column:
            return None
        for carrier_id, sign in ((origin, -1.0), (target, 1.0)):
            c = column[carrier_id]
            carrier, mass = problem.carriers[c], sign * masses[key]
            at = (float(problem.positions[c, 0]), float(problem.positions[c, 1]), float(problem.positions[c, 2]))
            place = [moment + mass * distance for moment, distance in zip(place, at, strict=True)]
            sway += mass * carrier.sway_lever / carrier.steadiness
            steering += mass * turning_lever(at, bike) if carrier.place in TURNING else 0.0
    return Stance(
        front_share=place[0] / load.mass / problem.wheelbase,
        lean=math.degrees(math.atan2(place[1], place[2])),
        sway=sway,
        steering=steering,
    )


def best_places(opened: OpenPlan, variant_id: str) -> dict[str, MoveOption | None]:
    """Return the cheapest possible place for each thing that has none; None where there is none."""
    evaluation = evaluated(opened, variant_id)
    problem = problem_of(opened, variant_id, evaluation)
    places = opened.plan.variant(variant_id).places
    best: dict[str, MoveOption | None] = {}
    packed = {item.id for item in problem.items}  # what is in a pouch goes where the pouch goes
    for item in (entry for entry in evaluation.ridden.unplaced if entry.id in packed):
        open_to = [option for option in move_options(problem, places, item.id) if not option.reason]
        best[item.id] = min(open_to, key=lambda option: option.minutes, default=None)
    return best
