"""What a settled ride comes to: minutes by cause, prices, legs and visits by the clock."""

import numpy as np

from stonechat.core.ledger.state import Cause, Ledger, Leg, MassCurve, Ridden, Visit
from stonechat.core.line.stops import DAY, Stop, is_open, next_opening
from stonechat.core.line.track import SPACING
from stonechat.core.load.problem import DRAG_STEP, Prices
from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.core.plan.film import Aboard, by_leg, film_of, masses_along, reach_share, water_capacity
from stonechat.core.plan.setting import LONGEST_DAYS, Setting, clock_of, day_seconds, local_time
from stonechat.core.rhythm.ride import RideResult, ride_course, segment_times, time_gradients

_CURVE = (0.0, 0.25, 1.0, 4.0)  # kg taken away for the mass curve
POWER_BAND = 0.05  # 1, band of the rider's power from which the finish's spread comes


def summarise(setting: Setting, ride: RideResult, aboard: Aboard, *, settled: bool) -> Ridden:
    """Return what is known of a variant once its ride has settled.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.
    ride : RideResult
        The race by the clock.
    aboard : Aboard
        What is aboard on each leg.
    settled : bool
        Whether the fixed point was met.

    Returns
    -------
    ridden : Ridden
        Legs, visits, ledger and prices. [min]
    """
    body = setting.rider.body_mass
    masses, drags = masses_along(setting, ride, aboard)
    times, by_mass, by_drag, by_power = time_gradients(setting.course, ride.conditions, body, masses, drags)
    full = float(times.sum())
    fan = _fan(setting, ride, masses, drags)
    prices = Prices(
        per_kg=float(by_mass.sum()) / 60.0,
        per_drag=float(by_drag.sum()) * DRAG_STEP / 60.0,
        days=float(ride.clocks[-1]) / DAY,
    )
    return Ridden(
        profile=setting.profile,
        stops=setting.stops,
        bike=setting.variant.bike,
        carriers=setting.carriers,
        items=setting.items,
        places=setting.variant.places,
        ride=ride,
        legs=_legs(setting, ride, by_leg(setting, by_mass) / 60.0, by_leg(setting, by_drag) * DRAG_STEP / 60.0),
        visits=_visits(setting, ride),
        water=aboard.water,
        food=aboard.food,
        water_capacity=water_capacity(setting.carriers),
        film=film_of(setting, aboard),
        ledger=_ledger(setting, ride, masses, drags, full, fan),
        prices=prices,
        mass_curve=_mass_curve(setting, ride, masses, drags, full),
        minutes_per_watt=float(by_power.sum()) * setting.rider.drivetrain / 60.0,
        start=setting.start,
        dark=_dark(setting, ride),
        sun=setting.sun,
        fan=fan,
        settled=settled,
        reserve=setting.variant.supply.water_reserve,
    )


def _moving(setting: Setting, ride: RideResult, masses: FloatArray, drags: FloatArray) -> float:
    """Return moving time under the conditions of a ride. [s]"""
    body = setting.rider.body_mass
    return float(segment_times(setting.course, ride.conditions, body, masses, drags)[0].sum())


def _mass_curve(setting: Setting, ride: RideResult, masses: FloatArray, drags: FloatArray, full: float) -> MassCurve:
    saved = [full - _moving(setting, ride, masses - taken, drags) if taken else 0.0 for taken in _CURVE]
    return MassCurve(masses=np.array(_CURVE), minutes=np.array(saved) / 60.0)


def _ledger(
    setting: Setting,
    ride: RideResult,
    masses: FloatArray,
    drags: FloatArray,
    full: float,
    fan: tuple[FloatArray, FloatArray],
) -> Ledger:
    """Split the finish by cause: take the load off first, then the bags out of the wind."""
    variant = setting.variant
    bare_mass = np.full(masses.size, variant.rider.mass + variant.bike.mass)
    bare_drag = np.full(drags.size, variant.rider.drag_area)
    moving = float(ride.times.sum())
    unloaded = _moving(setting, ride, bare_mass, drags)
    bare = _moving(setting, ride, bare_mass, bare_drag)
    finish = float(ride.clocks[-1])
    stops = float((ride.departures - ride.arrivals).sum())
    rests = float(ride.rests.sum())
    causes = (
        ("riding", "riding the line bare", moving - full + bare),
        ("load", "carrying the load", full - unloaded),
        ("wind", "bags in the wind", unloaded - bare),
        ("reach", "reaching for things", finish - moving - stops - rests),
        ("stops", "stops and detours", stops),
        ("nights", "nights", rests),
    )
    return Ledger(
        causes=tuple(Cause(key=key, name=name, minutes=seconds / 60.0) for key, name, seconds in causes),
        pushing=float(ride.times[ride.walked > 0.0].sum()) / 60.0,
        moving=moving,
        finish=finish,
        spread=0.5 * abs(float(fan[1][-1] - fan[0][-1])),
    )


def _fan(setting: Setting, ride: RideResult, masses: FloatArray, drags: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return the race by the clock with power a band above and below. [s since the start]"""
    clock = clock_of(setting, reach_share(setting, ride))
    rides = (
        ride_course(setting.course, setting.rider._replace(power=setting.rider.power * factor), clock, masses, drags)
        for factor in (1.0 + POWER_BAND, 1.0 - POWER_BAND)
    )
    early, late = (result.clocks for result in rides)
    return early, late


def _legs(setting: Setting, ride: RideResult, per_kg: FloatArray, per_drag: FloatArray) -> tuple[Leg, ...]:
    names = ("Start", *(stop.name for stop in setting.stops), "Finish")
    marks = (0.0, *(stop.distance for stop in setting.stops), setting.profile.length)
    leaves = (0.0, *ride.departures.tolist())
    arrives = (*ride.arrivals.tolist(), float(ride.clocks[-1]))
    climbed = np.interp(marks, setting.profile.distances, setting.profile.ascent_by_end)
    dark = _dark(setting, ride)
    legs = []
    for k in range(len(names) - 1):
        inside = setting.leg_of == k
        moving = float(ride.times[inside].sum())
        temps = ride.temps[inside] if inside.any() else np.array([np.nan])
        legs.append(
            Leg(
                index=k,
                start=marks[k],
                end=marks[k + 1],
                start_name=names[k],
                end_name=names[k + 1],
                ascent=float(climbed[k + 1] - climbed[k]),
                moving=moving,
                elapsed=arrives[k] - leaves[k],
                leaves=local_time(setting, leaves[k]),
                arrives=local_time(setting, arrives[k]),
                minutes_per_kg=float(per_kg[k]),
                minutes_per_drag=float(per_drag[k]),
                temp_low=float(temps.min()),
                temp_high=float(temps.max()),
                dark=float(ride.times[inside & dark].sum()) / max(moving, 1e-9),
                rest=float(ride.rests[inside].sum()),
            )
        )
    return tuple(legs)


def _dark(setting: Setting, ride: RideResult) -> BoolArray:
    """Return which segments begin in the dark."""
    local = day_seconds(setting.start) + ride.clocks[:-1]
    day = np.minimum((local // DAY).astype(np.int64), LONGEST_DAYS - 1)
    time_of_day = local % DAY
    return ~((setting.sun[0][day] <= time_of_day) & (time_of_day < setting.sun[1][day]))


def _visits(setting: Setting, ride: RideResult) -> tuple[Visit, ...]:
    dark = _dark(setting, ride)
    last = setting.profile.lengths.size - 1
    marks: list[tuple[Stop | None, float, float]] = [
        (stop, float(a), float(d)) for stop, a, d in zip(setting.stops, ride.arrivals, ride.departures, strict=True)
    ]
    finish = float(ride.clocks[-1])
    marks.append((None, finish, finish))
    visits = []
    for stop, arrives, leaves in marks:
        moment = local_time(setting, arrives)
        seconds = day_seconds(moment)
        segment = last if stop is None else max(0, min(round(stop.distance / SPACING) - 1, last))
        visits.append(
            Visit(
                stop=stop,
                name="Finish" if stop is None else stop.name,
                distance=setting.profile.length if stop is None else stop.distance,
                arrives=moment,
                leaves=local_time(setting, leaves),
                elapsed=arrives,
                is_open=stop is None or is_open(stop, moment.weekday(), seconds),
                wait=0.0 if stop is None else next_opening(stop, moment.weekday(), seconds),
                dark=bool(dark[segment]),
                temp=float(ride.temps[segment]),
                awake=float(ride.awake[segment]),
            )
        )
    return tuple(visits)
