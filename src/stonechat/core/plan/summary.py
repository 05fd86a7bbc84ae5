"""What a settled ride comes to: minutes by cause, prices, legs and visits by the clock."""

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from stonechat.core.ledger.ledger import Cause, Ledger, MassCurve
from stonechat.core.ledger.ridden import Body, Carried, Provided, Ridden, Rigged, Said, Settled, Way, part_of
from stonechat.core.ledger.timetable import Leg, Timetable, Visit
from stonechat.core.line.profile import loose_share
from stonechat.core.line.stops import DAY, is_open, main_door, next_opening
from stonechat.core.load.balance import bands_for
from stonechat.core.load.problem import DRAG_STEP, Prices
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.physics.constants import JOULES_PER_KCAL
from stonechat.core.physics.momentum import DRAG, MASS, POWER, ROLLING
from stonechat.core.plan.beginning import taken_for_granted
from stonechat.core.plan.film import Overhead, by_leg, clock_with, film_of, masses_along, overhead_of
from stonechat.core.plan.often import expected_punctures, often_by_leg, often_of
from stonechat.core.plan.providing import given_at
from stonechat.core.plan.scenario import Scenario, day_seconds, local_time, moved_shares
from stonechat.core.rhythm.inputs import Clock, RideResult, with_power
from stonechat.core.rhythm.ride import ride_course
from stonechat.core.rhythm.times import segment_times, time_gradients
from stonechat.core.supply.needs import ride_energy

_CURVE = (0.0, 0.25, 1.0, 4.0)  # kg taken away for the mass curve
POWER_BAND = 0.05  # 1, band of the rider's power from which the finish's spread comes


def summarise(scenario: Scenario, ride: RideResult, settled: Mapping[type, Settled], *, met: bool) -> Ridden:
    """Return what is known of a variant once its ride has settled.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.
    settled : mapping of type to Settled
        What was settled with the ride.
    met : bool
        Whether the fixed point was met.

    Returns
    -------
    ridden : Ridden
        Legs, visits, ledger and prices. [min]
    """
    masses, drags = masses_along(scenario, settled.values())
    overhead = overhead_of(scenario, ride, part_of(settled, Provided))
    clock = clock_with(scenario, _beside(ride) / float(ride.times.sum()), ride)
    again = _ride_again(scenario, ride, clock, (masses, drags))
    by_mass, by_drag = again.slopes[MASS], again.slopes[DRAG]
    per_kg, per_drag = by_leg(scenario, by_mass) / 60.0, by_leg(scenario, by_drag) * DRAG_STEP / 60.0
    return Ridden(
        way=_way(scenario),
        rig=Rigged(
            bike=scenario.variant.bike,
            carriers=scenario.carriers,
            bands=bands_for(loose_share(scenario.profile), (carrier.place for carrier in scenario.carriers)),
        ),
        kit=Carried(
            items=scenario.items,
            places=scenario.places,
            spans=scenario.spans,
            joins=scenario.variant.joins,
            orders=scenario.variant.orders,
            jobs_off=scenario.variant.jobs_off,
            relied=scenario.plan.relied,
            moved=moved_shares(scenario.moved),
        ),
        ride=ride,
        timetable=Timetable(
            legs=_legs(scenario, ride, per_kg, per_drag),
            visits=_visits(scenario, ride),
            clock=clock,
            fan=again.fan,
            settled=met,
        ),
        settled=settled,
        film=film_of(scenario, part_of(settled, Provided)),
        ledger=_ledger(scenario, ride, again, overhead),
        body=Body(
            mass=scenario.variant.rider.mass,
            height=scenario.variant.rider.height,
            efficiency=scenario.variant.rider.gross_efficiency,
            runs_cold=scenario.variant.rider.runs_cold,
        ),
        said=Said(
            ticked=scenario.variant.ticked,
            assumed=taken_for_granted(scenario.plan, scenario.variant),
            mending=scenario.variant.mending,
            shakedown=scenario.variant.shakedown,
        ),
    )


def _way(scenario: Scenario) -> Way:
    return Way(
        profile=scenario.profile,
        stops=scenario.stops,
        zones=scenario.zones,
        start=scenario.start,
        clock_off=_utc_offset(scenario.even) - _utc_offset(scenario.start),
        punctures=expected_punctures(scenario),
        rules=scenario.plan.rules,
    )


def _prices(scenario: Scenario, ride: RideResult, slopes: FloatArray) -> Prices:
    return Prices(
        per_kg=float(slopes[MASS].sum()) / 60.0,
        per_drag=float(slopes[DRAG].sum()) * DRAG_STEP / 60.0,
        days=float(ride.clocks[-1]) / DAY,
        hours=float(ride.times.sum()) / 3600.0,
        loose=loose_share(scenario.profile),
        body=scenario.variant.wishes.body,
        handling=scenario.variant.rider.handling,
        often=often_of(scenario, ride),
    )


@dataclass(frozen=True, kw_only=True)
class _Again:
    """What riding the settled race again comes to."""

    full: float  # s moving
    slopes: FloatArray  # derivatives by segment, shape (4, n)
    lighter: tuple[float, ...]  # s moving with the masses of the curve taken away
    unloaded: float  # s moving without the load, bags still in the wind
    bare: float  # s moving with neither
    fan: tuple[FloatArray, FloatArray]  # s since the start, with more and with less power


def _ride_again(scenario: Scenario, ride: RideResult, clock: Clock, load: tuple[FloatArray, FloatArray]) -> _Again:
    """Ride again in every way that prices, ledger and spread need; compiled code lets two rides go side by side."""
    course, held, rider, (masses, drags) = scenario.course, ride.conditions, scenario.rider, load
    bare_mass = np.full(masses.size, scenario.variant.rider.mass + scenario.variant.bike.mass)
    with ThreadPoolExecutor(max_workers=2) as pool:
        gradients = pool.submit(time_gradients, course, held, rider, masses, drags)
        fan = [
            pool.submit(ride_course, course, with_power(rider, rider.legs.power * factor), clock, masses, drags)
            for factor in (1.0 + POWER_BAND, 1.0 - POWER_BAND)
        ]
        loads = [
            *((masses - taken, drags) for taken in _CURVE[1:]),
            (bare_mass, drags),
            (bare_mass, scenario.bare_drag),
        ]
        moving = [pool.submit(segment_times, course, held, rider, mass, drag) for mass, drag in loads]
        times, slopes = gradients.result()
        full = float(times.sum())
        *lighter, unloaded, bare = (float(entry.result()[0].sum()) for entry in moving)
        early, late = (entry.result().clocks for entry in fan)
    return _Again(full=full, slopes=slopes, lighter=(full, *lighter), unloaded=unloaded, bare=bare, fan=(early, late))


def _beside(ride: RideResult) -> float:
    """Return what was ridden with besides moving, stops and rests. [s]"""
    at_stops = float((ride.departures - ride.arrivals - ride.stop_rests).sum())
    return float(ride.clocks[-1]) - float(ride.times.sum()) - at_stops - float(ride.rests.sum())


def _ledger(scenario: Scenario, ride: RideResult, again: _Again, overhead: Overhead) -> Ledger:
    """Split the finish by cause: take the load off first, then the bags out of the wind."""
    moving, finish = float(ride.times.sum()), float(ride.clocks[-1])
    waits, rests = float(ride.waits.sum()), float(ride.rests.sum())
    at_stops = float((ride.departures - ride.arrivals - ride.stop_rests).sum())
    beside = _beside(ride)  # the overhead as it was ridden
    kinds = ("reaching", "eating", "body", "mishap")
    share = {key: getattr(overhead, key) / max(overhead.total, 1e-9) for key in kinds}
    causes = (
        ("riding", "riding the line bare", moving - again.full + again.bare),
        ("load", "carrying the load", again.full - again.unloaded),
        ("wind", "bags in the wind", again.unloaded - again.bare),
        ("reach", "reaching for things", share["reaching"] * beside),
        ("eating", "halts for food", share["eating"] * beside),
        ("body", "carried on the body", share["body"] * beside),
        ("mishap", "far in a hurry, or lost", share["mishap"] * beside),
        ("stops", "stops and detours", at_stops - waits),
        ("waits", "waiting at shut doors", waits),
        ("nights", "nights", rests),
    )
    return Ledger(
        causes=tuple(Cause(key=key, name=name, minutes=seconds / 60.0) for key, name, seconds in causes),
        pushing=float((ride.times * ride.walked).sum()) / 60.0,
        moving=moving,
        finish=finish,
        spread=0.5 * abs(float(again.fan[1][-1] - again.fan[0][-1])),
        prices=_prices(scenario, ride, again.slopes),
        mass_curve=MassCurve(masses=np.array(_CURVE), minutes=(again.full - np.array(again.lighter)) / 60.0),
        # a watt more of what the rider holds on the flat is more or less than one where pace, fading, night and
        # height leave of it
        minutes_per_watt=float((again.slopes[POWER] * ride.conditions.wheel_power).sum())
        / scenario.rider.legs.power
        / 60.0,
        minutes_per_rolling=float(again.slopes[ROLLING].sum()) * 0.001 / 60.0,
    )


def _legs(scenario: Scenario, ride: RideResult, per_kg: FloatArray, per_drag: FloatArray) -> tuple[Leg, ...]:
    names = ("Start", *(stop.name for stop in scenario.stops), "Finish")
    zones = (None, *scenario.zones)
    marks = (0.0, *(stop.distance for stop in scenario.stops), scenario.profile.length)
    leaves = (0.0, *ride.departures.tolist())
    arrives = (*ride.arrivals.tolist(), float(ride.clocks[-1]))
    climbed = np.interp(marks, scenario.profile.distances, scenario.profile.ascent_by_end)
    work = ride.powers * ride.times
    on_foot = ride.walked * ride.conditions.walk_power * ride.times / JOULES_PER_KCAL
    often = often_by_leg(scenario, ride)
    legs = []
    for k in range(len(names) - 1):
        inside = scenario.leg_of == k
        done = float(work[inside].sum())
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
                leaves=local_time(scenario, leaves[k], zones[k]),
                arrives=local_time(scenario, arrives[k], zones[k + 1]),
                minutes_per_kg=float(per_kg[k]),
                minutes_per_drag=float(per_drag[k]),
                temp_low=float(temps.min()),
                temp_high=float(temps.max()),
                dark=float(ride.times[inside & ride.dark].sum()) / max(moving, 1e-9),
                rest=float(ride.rests[inside].sum()) - (float(ride.stop_rests[k - 1]) if k else 0.0),
                work=done,
                energy=ride_energy(done, scenario.rider.on_foot.gross_efficiency) + float(on_foot[inside].sum()),
                often=often[k],
            )
        )
    return tuple(legs)


def _visits(scenario: Scenario, ride: RideResult) -> tuple[Visit, ...]:
    last = scenario.profile.lengths.size - 1
    given, ahead = given_at(scenario, ride), _utc_offset(scenario.start)
    visits = []
    for k, stop in enumerate(scenario.stops):
        zone, arrival = scenario.zones[k], float(ride.arrivals[k])
        door = main_door(stop)
        served = local_time(scenario, arrival + float(ride.waits[k]), zone)
        segment = max(0, min(int(scenario.clock.stays.segments[k]) - 1, last))
        cutoff = None if stop.cutoff is None else stop.cutoff.replace(tzinfo=zone)
        arrives = local_time(scenario, arrival, zone)
        before, ahead = ahead, _utc_offset(arrives)
        visits.append(
            Visit(
                stop=stop,
                name=stop.name,
                distance=stop.distance,
                arrives=arrives,
                leaves=local_time(scenario, float(ride.departures[k]), zone),
                elapsed=arrival,
                is_open=is_open(door.hours, served.weekday(), day_seconds(served)),
                is_known=door.is_known,
                gives=given[k],
                wait=next_opening(door.hours, served.weekday(), day_seconds(served)),
                clock_step=ahead - before,
                waited=float(ride.waits[k]),
                rested=float(ride.stop_rests[k]),
                dark=bool(ride.dark[segment]),
                temp=float(ride.temps[segment]),
                awake=float(ride.awake[segment]),
                margin=None if cutoff is None else (cutoff - arrives).total_seconds(),
                passed=scenario.rides_past(k),
            )
        )
    return (*visits, _finish(scenario, ride, ahead))


def _utc_offset(moment: datetime) -> float:
    return (moment.utcoffset() or timedelta()).total_seconds()


def _finish(scenario: Scenario, ride: RideResult, ahead: float) -> Visit:
    elapsed = float(ride.clocks[-1])
    arrives = local_time(scenario, elapsed, scenario.zones[-1])
    limit, gun = scenario.plan.rules.time_limit, scenario.plan.rules.start
    late = 0.0 if gun is None else (scenario.start.replace(tzinfo=None) - gun).total_seconds()
    return Visit(
        stop=None,
        name="Finish",
        distance=scenario.profile.length,
        arrives=arrives,
        leaves=arrives,
        elapsed=elapsed,
        is_open=True,
        is_known=True,
        gives=frozenset(),
        wait=0.0,
        clock_step=_utc_offset(arrives) - ahead,
        waited=0.0,
        rested=0.0,
        dark=bool(ride.dark[-1]),
        temp=float(ride.temps[-1]),
        awake=float(ride.awake[-1]),
        margin=None if limit is None else limit - late - elapsed,
    )
