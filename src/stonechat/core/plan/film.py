"""The load as a film: what is aboard on each leg, and what that makes of mass and drag along the course."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from stonechat.core.kit.reach import Often
from stonechat.core.ledger.loaded import CarrierState, LegLoad
from stonechat.core.ledger.ridden import Provided, Settled
from stonechat.core.line.profile import loose_share
from stonechat.core.line.stops import DAY
from stonechat.core.load.balance import Mass, balance, steering_inertia
from stonechat.core.load.body import body_minutes, food_on_body
from stonechat.core.load.eating import fetching, halts_for_food, is_at_hand
from stonechat.core.load.mishap import loss_minutes, urgency_minutes
from stonechat.core.load.reaching import Placed, reaching_seconds, things_in_carriers
from stonechat.core.load.stow import Taken, stow_food
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.often import mean_often, often_by_leg, often_of
from stonechat.core.plan.scenario import Phase, Scenario, moved_shares, there_on
from stonechat.core.rhythm.inputs import Clock, RideResult
from stonechat.core.rhythm.ride import ride_course
from stonechat.core.rig.geometry import rider_position
from stonechat.core.rig.places import TURNING
from stonechat.core.supply.pour import WATER_DENSITY, pour

MOVE = 0.75  # min to move a thing from bag to bag at a stop (estimate: two bags opened and shut)


def film_of(
    scenario: Scenario, provided: Provided, worn: Sequence[frozenset[str]] | None = None
) -> tuple[LegLoad, ...]:
    """Return the bike as it leaves for each leg.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    provided : Provided
        Water and food on each leg.
    worn : sequence of frozenset of str, optional
        By leg what of the packed things is worn all along it: it takes no room, and the rider bears it.

    Returns
    -------
    film : tuple of LegLoad
        Carriers, balance, mass and drag area by leg. [kg]
    """
    legs = range(provided.water.needs.size)
    return tuple(_leg_load(scenario, provided, leg, worn[leg] if worn else frozenset()) for leg in legs)


def first_guess(scenario: Scenario) -> tuple[FloatArray, FloatArray]:
    """Return mass and drag area along the course to begin with: all things aboard and two litres.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.

    Returns
    -------
    masses : ndarray, shape (n,)
        Mass that moves. [kg]
    drags : ndarray, shape (n,)
        Drag area. [m²]
    """
    count = scenario.profile.lengths.size
    mass = max(phase.mass for phase in scenario.phases) + 2.0
    return np.full(count, mass), scenario.bare_drag + sum(carrier.drag for carrier in scenario.carriers)


def ride_scenario(
    scenario: Scenario,
    masses: FloatArray,
    drags: FloatArray,
    share: float,
    *,
    momentum: bool = True,
    before: RideResult | None = None,
) -> RideResult:
    """Ride a scenario with given masses and drag areas.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    masses : ndarray, shape (n,)
        Mass on each segment. [kg]
    drags : ndarray, shape (n,)
        Drag area on each segment. [m²]
    share : float
        Reaching per moving. [1]
    momentum : bool
        Carry speed from segment to segment; without it the ride is quicker to compute and about a percent slower.
    before : RideResult, optional
        An earlier ride, by which it is judged how far ahead a room or a chosen place is.

    Returns
    -------
    ride : RideResult
        The race by the clock. [s]
    """
    clock = clock_with(scenario, share, before)
    return ride_course(scenario.course, scenario.rider._replace(momentum=momentum), clock, masses, drags)


def clock_with(scenario: Scenario, share: float, before: RideResult | None) -> Clock:
    """Return the clock of a scenario, knowing an earlier ride.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    share : float
        Reaching per moving. [1]
    before : RideResult or None
        An earlier ride, if there was one.

    Returns
    -------
    clock : Clock
        What lies ahead is judged by the times of that ride. [s]
    """
    clock = scenario.clock._replace(reach_share=share)
    if before is None:
        return clock
    expected = np.concatenate(([0.0], np.cumsum(before.times)))
    return clock._replace(halts=clock.halts._replace(expected=expected))


def by_leg(scenario: Scenario, values: FloatArray) -> FloatArray:
    """Return sums over the segments of each leg.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    values : ndarray, shape (n,)
        By segment, in any unit. [1]

    Returns
    -------
    sums : ndarray, shape (l,)
        By leg, in the same unit. [1]
    """
    return np.asarray(np.bincount(scenario.leg_of, weights=values, minlength=len(scenario.stops) + 1), np.float64)


def _leg_load(scenario: Scenario, provided: Provided, leg: int, worn: frozenset[str]) -> LegLoad:
    """Return the bike as it leaves for a leg: things at their places, water in bottles, food where there is room."""
    bike = scenario.variant.bike
    food_volume, food_mass = food_of(provided, leg)
    phase = _with_worn(scenario, scenario.phases[leg], worn)
    heights = {key: held.position[2] for key, held in phase.held.items()}
    poured = pour(scenario.carriers, heights, float(provided.water.leaving[leg]), float(provided.coldest[leg]))
    stowed = stow_on(scenario, phase, food_volume, food_mass)
    density = food_mass / food_volume if food_volume > 0.0 else 0.0
    states: list[CarrierState] = []
    masses: list[Mass] = []
    for carrier in scenario.carriers:
        held = phase.held[carrier.id]
        aboard = stowed[carrier.id] * density + poured[carrier.id] * WATER_DENSITY
        state = CarrierState(
            carrier=carrier,
            items=held.items,
            volume=held.volume + stowed[carrier.id],
            mass=held.mass + aboard,
            water=poured[carrier.id],
            food=stowed[carrier.id],
            worn=worn & {item.id for item in held.items},
        )
        states.append(state)
        masses.append((state.mass + carrier.mass, *held.position))
    left_over = food_volume - sum(stowed.values())
    strapped = max(0.0, float(provided.water.leaving[leg]) - sum(poured.values())) * WATER_DENSITY
    turning = [m for m, s in zip(masses, states, strict=True) if s.carrier.place in TURNING]
    bags = _bag_drag(scenario, phase) + sum(c.drag_fill * stowed[c.id] for c in scenario.carriers)
    masses += [*phase.fixed, (left_over * density + strapped, *phase.fixed[1][1:])]
    return LegLoad(
        carriers=tuple(states),
        balance=balance(masses, bike.wheelbase),
        steering=steering_inertia(turning, bike),
        sway=sum(s.mass * s.carrier.sway_lever / s.carrier.steadiness for s in states),
        mass=sum(m[0] for m in masses),
        drag_area=_bare_drag_on(scenario, leg) + bags,
        bag_drag=bags,
        food_left_over=left_over,
    )


def _with_worn(scenario: Scenario, phase: Phase, worn: frozenset[str]) -> Phase:
    """Return a phase on which some packed things are on the rider."""
    if not worn:
        return phase
    held, total = dict(phase.held), 0.0
    for key, entry in phase.held.items():
        mine = [item for item in entry.items if item.id in worn]
        mass = sum(item.total_mass for item in mine)
        volume = entry.volume - sum(item.total_volume for item in mine)
        held[key] = replace(entry, volume=volume, mass=entry.mass - mass)
        total += mass
    return replace(phase, held=held, fixed=(*phase.fixed, (total, *rider_position(scenario.variant.bike))))


def stow_on(scenario: Scenario, phase: Phase, volume: float, mass: float) -> dict[str, float]:
    """Put food beside the things of a phase, and beside the room that is to be kept free.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    phase : Phase
        What is aboard.
    volume : float
        Of the food. [m³]
    mass : float
        Of the food. [kg]

    Returns
    -------
    stowed : dict of str to float
        By carrier; what finds no room is not in it. [m³]
    """
    carriers, wishes = scenario.carriers, scenario.variant.wishes
    taken = Taken(
        wanted=scenario.variant.food_in,
        volume={key: held.volume + wishes.kept_free(key) for key, held in phase.held.items()},
        mass={key: held.mass for key, held in phase.held.items()},
        leaking=frozenset(key for key, held in phase.held.items() if any(item.floods for item in held.items)),
        oily=frozenset(key for key, held in phase.held.items() if any(item.leaks for item in held.items)),
    )
    return stow_food(carriers, taken, volume=volume, mass=mass)


def masses_along(scenario: Scenario, settled: Iterable[Settled]) -> tuple[FloatArray, FloatArray]:
    """Return mass and drag area on every segment.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    settled : iterable of Settled
        What depends on the ride and adds to them.

    Returns
    -------
    masses : ndarray, shape (n,)
        Mass that moves on each segment. [kg]
    drags : ndarray, shape (n,)
        Drag area on each segment. [m²]
    """
    leg = scenario.leg_of
    masses = np.array([phase.mass for phase in scenario.phases])[leg]
    drags = scenario.bare_drag + np.array([_bag_drag(scenario, phase) for phase in scenario.phases])[leg]
    for part in settled:
        masses, drags = masses + part.added.masses, drags + part.added.drags
    return masses, drags


def braked(scenario: Scenario, settled: Iterable[Settled]) -> Scenario:
    """Return a scenario with what brakes along its course.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    settled : iterable of Settled
        What depends on the ride and brakes.

    Returns
    -------
    scenario : Scenario
        With the sum of them as the brakes of its course. [N]
    """
    brakes = np.sum([part.added.brakes for part in settled], axis=0)
    return replace(scenario, course=scenario.course._replace(brakes=brakes))


def food_of(provided: Provided, leg: int) -> tuple[float, float]:
    """Return the food that a leg begins with, and the wrappers of what was eaten before it.

    Parameters
    ----------
    provided : Provided
        Food by leg.
    leg : int
        Which. [1]

    Returns
    -------
    volume : float
        Of all of it. [m³]
    mass : float
        Of all of it. [kg]
    """
    energy = float(provided.food.leaving[leg])
    return provided.larder.volume(energy, leg) + float(provided.wrappers[leg]), provided.larder.mass(energy, leg)


def _bag_drag(scenario: Scenario, phase: Phase) -> float:
    """Return the drag area that things fixed in spots add, and the carriers as things fill them. [m²]"""
    return phase.drag + sum(c.drag + c.drag_fill * phase.held[c.id].volume for c in scenario.carriers)


def _bare_drag_on(scenario: Scenario, leg: int) -> float:
    """Return the mean drag area of rider and bare bike on a leg. [m²]"""
    inside = scenario.leg_of == leg
    return float(scenario.bare_drag[inside].mean()) if inside.any() else scenario.variant.rider.drag_area


@dataclass(frozen=True, kw_only=True)
class Overhead:
    """What riding takes besides moving, stops and rests."""

    reaching: float  # s of getting at things
    eating: float  # s of halts for food
    body: float  # s that what is carried on the body costs
    mishap: float  # s expected to be lost by what is far in a hurry, or lost

    @property
    def total(self) -> float:
        """All together. [s]"""
        return self.reaching + self.eating + self.body + self.mishap


def overhead_of(scenario: Scenario, ride: RideResult, provided: Provided) -> Overhead:
    """Return what getting at things and food takes, what is carried on the body costs, and what may happen.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.
    provided : Provided
        Food by leg.

    Returns
    -------
    overhead : Overhead
        Over the race. [s]
    """
    placed, days, hours = placed_things(scenario), float(ride.clocks[-1]) / DAY, float(ride.times.sum()) / 3600.0
    often, minded = often_of(scenario, ride), hours * scenario.variant.wishes.body
    loose = loose_share(scenario.profile)
    heaviest = heaviest_leg(provided)
    volume, mass = food_of(provided, heaviest)
    stowed = stow_on(scenario, scenario.phases[heaviest], volume, mass)
    density = mass / volume if volume > 0.0 else 0.0
    body = sum(entry.share * body_minutes(entry.parts, entry.carrier, minded) for entry in placed)
    body += sum(stowed[c.id] * food_on_body(c, density, minded) for c in scenario.carriers)
    mishap = sum(entry.share * urgency_minutes(entry.parts, entry.carrier, days, often) for entry in placed)
    mishap += sum(entry.share * loss_minutes(entry.parts, entry.carrier, hours, loose) for entry in placed)
    at_hand = sum(stowed[c.id] for c in scenario.carriers if is_at_hand(c))
    return Overhead(
        reaching=scenario.variant.rider.handling * days * _reached(scenario, ride, often)
        + 60.0 * repack_minutes(scenario),
        eating=60.0 * halts_for_food(at_hand, fetching(eaten_volumes(provided))),
        body=60.0 * body,
        mishap=60.0 * mishap,
    )


def _reached(scenario: Scenario, ride: RideResult, often: Often) -> float:
    """Return what reaching costs a day, what rides elsewhere on some legs as often as it is reached for there. [s]"""
    states: dict[tuple[tuple[str, str], ...], list[int]] = {}
    for leg in range(len(scenario.phases)):
        states.setdefault(tuple(there_on(scenario.moved, leg).items()), []).append(leg)
    at_home = _placed(scenario, {})
    total = sum(reaching_seconds(at_home, often).values())
    each, lengths = often_by_leg(scenario, ride), by_leg(scenario, np.diff(ride.clocks))
    for moved, legs in states.items():
        if not moved:
            continue
        there, share = (
            mean_often([each[leg] for leg in legs], lengths[legs]),
            float(lengths[legs].sum() / lengths.sum()),
        )
        elsewhere = _placed(scenario, {key: {to: 1.0} for key, to in moved})
        change = sum(reaching_seconds(elsewhere, there).values()) - sum(reaching_seconds(at_home, there).values())
        total += share * change
    return total


def repack_minutes(scenario: Scenario) -> float:
    """Return what moving things from bag to bag on the way takes.

    Parameters
    ----------
    scenario : Scenario
        For what rides elsewhere for some legs.

    Returns
    -------
    minutes : float
        There and back, where the race does not begin or end with it. [min]
    """
    legs = len(scenario.phases)
    return MOVE * sum(turns(((there.first, there.end) for there in moved), legs) for moved in scenario.moved.values())


def turns(windows: Iterable[tuple[int, int]], legs: int) -> int:
    """Return how often a thing is moved on the way that rides elsewhere on some legs.

    Parameters
    ----------
    windows : iterable of tuple of int
        First leg elsewhere, and first leg after.
    legs : int
        How many there are.

    Returns
    -------
    times : int
        What the race begins or ends with is no move; from one such place straight to another is one.

    Examples
    --------
    >>> turns([(0, 2), (4, 6), (6, 7)], 9)
    4
    """
    edges = {edge for window in windows for edge in window}
    return len(edges - {0, legs})


def heaviest_leg(provided: Provided) -> int:
    """Return the leg that begins with most food, by its volume.

    Parameters
    ----------
    provided : Provided
        Food by leg.

    Returns
    -------
    leg : int
        The first such. [1]
    """
    return int(np.argmax(provided.food.leaving / provided.larder.bulk))


def eaten_volumes(provided: Provided) -> FloatArray:
    """Return the volume of what is eaten on each leg.

    Parameters
    ----------
    provided : Provided
        Energy on leaving and arriving.

    Returns
    -------
    volumes : ndarray, shape (l,)
        By leg. [m³]
    """
    food = provided.food
    return np.asarray((food.leaving - food.arriving) / provided.larder.bulk / 1000.0, dtype=np.float64)


def overhead_share(scenario: Scenario, ride: RideResult, provided: Provided) -> float:
    """Return the seconds of overhead for each second of moving.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.
    provided : Provided
        Food by leg.

    Returns
    -------
    share : float
        Reaching, halts for food, what the body bears and mishaps, per time moving. [1]
    """
    return overhead_of(scenario, ride, provided).total / float(ride.times.sum())


def placed_things(scenario: Scenario) -> tuple[Placed, ...]:
    """Return what rides in carriers, pouches with what is in them.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.

    Returns
    -------
    placed : tuple of Placed
        What is worn or fixed is left out.
    """
    return _placed(scenario, moved_shares(scenario.moved))


def _placed(scenario: Scenario, moved: Mapping[str, Mapping[str, float]]) -> tuple[Placed, ...]:
    """Return what rides in carriers, some of it elsewhere on a share of the race."""
    return things_in_carriers(
        scenario.items,
        scenario.places,
        scenario.carriers,
        spans=scenario.spans,
        legs=len(scenario.phases),
        moved=moved,
    )
