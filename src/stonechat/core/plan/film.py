"""The load as a film: what is aboard on each leg, and what that makes of mass and drag along the course."""

from collections.abc import Iterable

import numpy as np

from stonechat.core.kit.containers import lined_things
from stonechat.core.kit.reach import GLOVES_BELOW, Often, reach_seconds, reaches_a_day
from stonechat.core.ledger.loaded import CarrierState, LegLoad
from stonechat.core.ledger.ridden import Added, Provided, Settled
from stonechat.core.line.stops import DAY, FOOD_OFFERS, WATER_OFFERS, open_offers
from stonechat.core.line.surface import PUNCTURES, SURFACES
from stonechat.core.load.balance import Mass, balance, steering_inertia
from stonechat.core.load.problem import LINER_TIME
from stonechat.core.load.stow import Taken, stow_food
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.plan import START
from stonechat.core.plan.setting import Phase, Setting, day_seconds, local_time
from stonechat.core.rhythm.inputs import Clock, RideResult
from stonechat.core.rhythm.ride import ride_course
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.places import TURNING
from stonechat.core.supply.carry import Levels, carry_levels
from stonechat.core.supply.needs import URINE, drinking_need

WATER_DENSITY = 1.0  # kg/l
WITH_TUBES = 2.5  # 1, punctures with tubes against those that sealant does not close (estimate, half to twice)
_DARK_ENOUGH = 900.0  # s of riding in the dark from which a day counts as ridden into the night


def provide(setting: Setting, ride: RideResult) -> Provided:
    """Return water and food on each leg of a ride, from hours, heat, effort and what is open.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    provided : Provided
        Water [l] and food [kcal], and what they add along the course. [kg]
    """
    water, food = _levels(setting, ride)
    return Provided(
        water=water,
        food=food,
        capacity=water_capacity(setting.carriers),
        reserve=setting.variant.supply.water_reserve,
        added=_added(setting, ride, water, food),
    )


def film_of(setting: Setting, provided: Provided) -> tuple[LegLoad, ...]:
    """Return the bike as it leaves for each leg.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.
    provided : Provided
        Water and food on each leg.

    Returns
    -------
    film : tuple of LegLoad
        Carriers, balance, mass and drag area by leg. [kg]
    """
    return tuple(_leg_load(setting, provided.water, provided.food, leg) for leg in range(provided.water.needs.size))


def first_guess(setting: Setting) -> tuple[FloatArray, FloatArray]:
    """Return mass and drag area along the course to begin with: all things aboard and two litres.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.

    Returns
    -------
    masses : ndarray, shape (n,)
        Mass that moves. [kg]
    drags : ndarray, shape (n,)
        Drag area. [m²]
    """
    count = setting.profile.lengths.size
    mass = max(phase.mass for phase in setting.phases) + 2.0
    return np.full(count, mass), setting.bare_drag + sum(carrier.drag for carrier in setting.carriers)


def ride_setting(
    setting: Setting,
    masses: FloatArray,
    drags: FloatArray,
    share: float,
    *,
    momentum: bool = True,
    before: RideResult | None = None,
) -> RideResult:
    """Ride a setting with given masses and drag areas.

    Parameters
    ----------
    setting : Setting
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
    clock = clock_with(setting, share, before)
    return ride_course(setting.course, setting.rider._replace(momentum=momentum), clock, masses, drags)


def clock_with(setting: Setting, share: float, before: RideResult | None) -> Clock:
    """Return the clock of a setting, knowing an earlier ride.

    Parameters
    ----------
    setting : Setting
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
    clock = setting.clock._replace(reach_share=share)
    if before is None:
        return clock
    expected = np.concatenate(([0.0], np.cumsum(before.times)))
    return clock._replace(halts=clock.halts._replace(expected=expected))


def by_leg(setting: Setting, values: FloatArray) -> FloatArray:
    """Return sums over the segments of each leg.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.
    values : ndarray, shape (n,)
        By segment, in any unit. [1]

    Returns
    -------
    sums : ndarray, shape (l,)
        By leg, in the same unit. [1]
    """
    return np.asarray(np.bincount(setting.leg_of, weights=values, minlength=len(setting.stops) + 1), np.float64)


def _levels(setting: Setting, ride: RideResult) -> tuple[Levels, Levels]:
    """Return water [l] and food [kcal] by leg, from hours, heat and effort."""
    supply = setting.variant.supply
    hours = ride.times / 3600.0
    effort = ride.powers + ride.walked * setting.variant.rider.power
    given = given_at(setting, ride)
    water_from = np.array([True, *(bool(offers & WATER_OFFERS) for offers in given)])
    food_from = np.array([True, *(bool(offers & FOOD_OFFERS) for offers in given)])
    outside = ride.rests.copy()  # who rests where there is water drinks that
    at = np.minimum(setting.clock.stays.segments, outside.size - 1)
    np.subtract.at(outside, at[water_from[1:]], ride.stop_rests[water_from[1:]])
    drunk = drinking_need(temp_air=ride.temps, power=effort) * hours + URINE * np.maximum(outside, 0.0) / 3600.0
    ids = (START, *(stop.id for stop in setting.stops))
    water = carry_levels(
        needs=by_leg(setting, drunk),
        refills=water_from,
        capacity=water_capacity(setting.carriers),
        reserve=supply.water_reserve,
        wanted=tuple(supply.water_by_stop.get(place) for place in ids),
    )
    food = carry_levels(
        needs=by_leg(setting, setting.variant.rider.intake * hours),
        refills=food_from,
        capacity=float("inf"),
        reserve=supply.food_reserve,
        wanted=tuple(supply.food_by_stop.get(place) for place in ids),
    )
    return water, food


def water_capacity(carriers: tuple[Carrier, ...]) -> float:
    """Return how much water a set of carriers holds.

    Parameters
    ----------
    carriers : tuple of Carrier
        Mounted carriers; those that take water count, as far as their load limit bears it.

    Returns
    -------
    capacity : float
        Litres. [l]

    Examples
    --------
    >>> water_capacity(())
    0.0
    """
    return float(sum(_bottle(carrier) for carrier in carriers))


def _bottle(carrier: Carrier) -> float:
    if "water" not in carrier.takes:
        return 0.0
    return min(carrier.capacity * 1000.0, carrier.load_limit / WATER_DENSITY)


def given_at(setting: Setting, ride: RideResult) -> tuple[frozenset[str], ...]:
    """Return what can be had at each stop on passing it: on arrival, after a wait for its door, or on leaving.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    offers : tuple of frozenset of str
        By stop; where hours are not known, what such places usually give then.
    """
    found = []
    for k, (stop, zone) in enumerate(zip(setting.stops, setting.zones, strict=False)):
        moments = (float(ride.arrivals[k] + ride.waits[k]), float(ride.departures[k]))
        local = [local_time(setting, moment, zone) for moment in moments]
        found.append(frozenset[str]().union(*(open_offers(stop, m.weekday(), day_seconds(m)) for m in local)))
    return tuple(found)


def _leg_load(setting: Setting, water: Levels, food: Levels, leg: int) -> LegLoad:
    """Return the bike as it leaves for a leg: things at their places, water in bottles, food where there is room."""
    bike = setting.variant.bike
    food_volume, food_mass = _food_of(setting, food, leg)
    poured = _pour(setting.carriers, float(water.leaving[leg]))
    phase = setting.phases[leg]
    stowed = _stow(setting.carriers, phase, food_volume, food_mass)
    density = food_mass / food_volume if food_volume > 0.0 else 0.0
    states: list[CarrierState] = []
    masses: list[Mass] = []
    for carrier in setting.carriers:
        held = phase.held[carrier.id]
        aboard = stowed[carrier.id] * density + poured[carrier.id] * WATER_DENSITY
        state = CarrierState(
            carrier=carrier,
            items=held.items,
            volume=held.volume + stowed[carrier.id],
            mass=held.mass + aboard,
            water=poured[carrier.id],
            food=stowed[carrier.id],
        )
        states.append(state)
        masses.append((state.mass + carrier.mass, *held.position))
    left_over = food_volume - sum(stowed.values())
    turning = [m for m, s in zip(masses, states, strict=True) if s.carrier.place in TURNING]
    masses += [*phase.fixed, (left_over * density, *phase.fixed[1][1:])]
    return LegLoad(
        carriers=tuple(states),
        balance=balance(masses, bike.wheelbase),
        steering=steering_inertia(turning, bike),
        sway=sum(s.mass * s.carrier.sway_lever / s.carrier.steadiness for s in states),
        mass=sum(m[0] for m in masses),
        drag_area=_bare_drag_on(setting, leg)
        + _bag_drag(setting, phase)
        + sum(c.drag_fill * stowed[c.id] for c in setting.carriers),
        food_left_over=left_over,
    )


def _pour(carriers: tuple[Carrier, ...], litres: float) -> dict[str, float]:
    """Fill bottles in the order of the rig. [l]"""
    poured = {}
    for carrier in carriers:
        poured[carrier.id] = min(litres, _bottle(carrier))
        litres -= poured[carrier.id]
    return poured


def _stow(carriers: tuple[Carrier, ...], phase: Phase, volume: float, mass: float) -> dict[str, float]:
    """Put food beside the things of a phase. [m³]"""
    taken = Taken(
        volume={key: held.volume for key, held in phase.held.items()},
        mass={key: held.mass for key, held in phase.held.items()},
        leaking=frozenset(key for key, held in phase.held.items() if held.leaks),
    )
    return stow_food(carriers, taken, volume=volume, mass=mass)


def _added(setting: Setting, ride: RideResult, water: Levels, food: Levels) -> Added:
    """Return what water and food add along the course; they run down with riding time."""
    leg = setting.leg_of
    leg_times = by_leg(setting, ride.times)
    before = np.concatenate(([0.0], np.cumsum(leg_times)))[leg]
    through = (np.cumsum(ride.times) - 0.5 * ride.times - before) / np.maximum(leg_times[leg], 1e-9)
    litres = water.leaving[leg] + (water.arriving - water.leaving)[leg] * through
    energy = food.leaving[leg] + (food.arriving - food.leaving)[leg] * through
    stowed = [_stow(setting.carriers, phase, *_food_of(setting, food, k)) for k, phase in enumerate(setting.phases)]
    drags = [sum(c.drag_fill * filled[c.id] for c in setting.carriers) for filled in stowed]
    return Added(
        masses=litres * WATER_DENSITY + energy / setting.variant.supply.food_density, drags=np.array(drags)[leg]
    )


def masses_along(setting: Setting, settled: Iterable[Settled]) -> tuple[FloatArray, FloatArray]:
    """Return mass and drag area on every segment.

    Parameters
    ----------
    setting : Setting
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
    leg = setting.leg_of
    masses = np.array([phase.mass for phase in setting.phases])[leg]
    drags = setting.bare_drag + np.array([_bag_drag(setting, phase) for phase in setting.phases])[leg]
    for part in settled:
        masses, drags = masses + part.added.masses, drags + part.added.drags
    return masses, drags


def _food_of(setting: Setting, food: Levels, leg: int) -> tuple[float, float]:
    """Return volume [m³] and mass [kg] of the food that a leg begins with."""
    supply, energy = setting.variant.supply, float(food.leaving[leg])
    return energy / supply.food_bulk / 1000.0, energy / supply.food_density


def _bag_drag(setting: Setting, phase: Phase) -> float:
    """Return the drag area that the carriers add as things fill them. [m²]"""
    return sum(c.drag + c.drag_fill * phase.held[c.id].volume for c in setting.carriers)


def _bare_drag_on(setting: Setting, leg: int) -> float:
    """Return the mean drag area of rider and bare bike on a leg. [m²]"""
    inside = setting.leg_of == leg
    return float(setting.bare_drag[inside].mean()) if inside.any() else setting.variant.rider.drag_area


def often_of(setting: Setting, ride: RideResult) -> Often:
    """Return how often the days of a ride are wet, cold and so on.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    often : Often
        Shares of days and of riding. [1]
    """
    moments = setting.clock.start_of_day + ride.clocks[1:]
    day = np.minimum((moments // DAY).astype(np.int64), setting.clock.sky.wet.size - 1)
    days = np.unique(day)
    cold = sum(1 for k in days if float(ride.temps[day == k].min()) < GLOVES_BELOW)
    ridden_dark = sum(1 for k in days if float(ride.times[(day == k) & ride.dark].sum()) > _DARK_ENOUGH)
    total = max(float(ride.times.sum()), 1e-9)
    length = max(float(ride.clocks[-1]) / DAY, 1e-9)
    return Often(
        wet=float(setting.clock.sky.wet[days].mean()),
        cold=cold / days.size,
        nights=ridden_dark / days.size,
        punctures=expected_punctures(setting) / length,
        gloved=float(ride.times[ride.temps < GLOVES_BELOW].sum()) / total,
    )


def expected_punctures(setting: Setting) -> float:
    """Return how many punctures are to be expected over the course.

    Parameters
    ----------
    setting : Setting
        For surfaces and lengths.

    Returns
    -------
    events : float
        By the usual rate of each surface; half to twice that (estimate). [1]
    """
    rates = np.array([PUNCTURES[surface.key] for surface in SURFACES])[setting.profile.surfaces]
    by_tyre = 1.0 if setting.variant.bike.tubeless else WITH_TUBES
    return by_tyre * float((rates * setting.profile.lengths).sum()) / 1e6


def reach_share(setting: Setting, ride: RideResult) -> float:
    """Return the seconds spent reaching for things for each second of moving.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    share : float
        Time reaching per time moving. [1]
    """
    by_id = {carrier.id: carrier for carrier in setting.carriers}
    often = often_of(setting, ride)
    legs = len(setting.phases)
    lined = lined_things(setting.items, setting.places, setting.carriers)
    a_day = 0.0
    for item in setting.items:
        carrier = by_id.get(setting.places.get(item.id, ""))
        if carrier is not None and not item.worn:
            once = reach_seconds(item.access, carrier.access, carrier.open_time) + often.gloved * carrier.gloves_time
            once += LINER_TIME if item.id in lined else 0.0
            first, last = setting.spans.get(item.id, (0, legs - 1))
            a_day += reaches_a_day(item, often) * once * (last - first + 1) / legs
    return a_day * (float(ride.clocks[-1]) / DAY) / float(ride.times.sum())
