"""The nights of a race as they fall, and better places nearby."""

import math
from dataclasses import dataclass

import numpy as np

from stonechat.core.ledger.ridden import Cold, Ridden
from stonechat.core.line.stops import DAY, Stop
from stonechat.core.line.weather import temperature_at_height
from stonechat.core.rhythm.ride import temperature_at

NEAR = 2.5 * 3600.0  # s, places farther off than this in riding time are not proposed
LOWER = 150.0  # m, how much lower a place without a roof must lie to be worth proposing
_SAMPLE = 1_800.0  # s between looks at the temperature


@dataclass(frozen=True, kw_only=True)
class Rest:
    """One rest of the race."""

    index: int  # night it belongs to, 0 the one after the first day; a nap before noon is of the night before it
    segment: int
    distance: float  # m
    begins: float  # s since the start
    ends: float  # s since the start
    height: float  # m
    low: float  # °C, lowest air temperature during it
    awake: float  # s awake when lying down
    stop: Stop | None  # where it is at a stop

    @property
    def length(self) -> float:
        """How long it is. [s]"""
        return self.ends - self.begins


@dataclass(frozen=True, kw_only=True)
class Proposal:
    """A place near a rest that may be better."""

    stop: Stop | None  # None for lower ground
    distance: float  # m
    shift: float  # s later (negative: earlier) than the rest as it is
    height: float  # m
    low: float  # °C
    reason: str


def air_temperature(ridden: Ridden, distance: float, elapsed: float) -> float:
    """Return the air temperature at a place of the course and a moment.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    distance : float
        Along the course. [m]
    elapsed : float
        Since the start. [s]

    Returns
    -------
    temperature : float
        By the day's low and high, the hour, and the height. [°C]
    """
    clock, profile = ridden.timetable.clock, ridden.way.profile
    height = float(np.interp(distance, profile.distances, profile.heights))
    now = max(0.0, clock.start_of_day + elapsed)
    along = distance / profile.length
    at_reference = temperature_at(clock.sky.sunrises, clock.sky.sunsets, clock.sky.lows, clock.sky.highs, now, along)
    return float(temperature_at_height(at_reference, height, clock.sky.reference_height))


def _low(ridden: Ridden, distance: float, begins: float, ends: float) -> float:
    moments = np.append(np.arange(begins, ends, _SAMPLE), ends)
    return min(air_temperature(ridden, distance, float(moment)) for moment in moments)


def cold_of(ridden: Ridden) -> Cold:
    """Return how long what is on the bike is out in which cold.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    cold : Cold
        Riding by segment, and rests by the half-hour; in beds things come in. [h]
    """
    spans = list(zip(ridden.ride.temps.tolist(), ridden.ride.times.tolist(), strict=True))
    for rest in rests_of(ridden):
        if rest.stop is None or "bed" not in rest.stop.offers:
            moments = np.append(np.arange(rest.begins, rest.ends, _SAMPLE), rest.ends)
            temps = [air_temperature(ridden, rest.distance, float(moment)) for moment in moments[:-1]]
            spans += zip(temps, np.diff(moments).tolist(), strict=True)
    hours: dict[float, float] = {}
    for temp, time in spans:
        if temp <= 1.0:
            hours[math.floor(temp)] = hours.get(math.floor(temp), 0.0) + time / 3600.0
    return Cold(coldest=min(temp for temp, _ in spans), hours=hours)


def rests_of(ridden: Ridden) -> tuple[Rest, ...]:
    """Return the rests of a race in order.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    rests : tuple of Rest
        Where, when, how cold.
    """
    ride, profile, clock = ridden.ride, ridden.way.profile, ridden.timetable.clock
    at_stop = {int(clock.stays.segments[k]): k for k in range(len(ridden.way.stops)) if ride.stop_rests[k] > 0.0}
    found = []
    for segment in np.flatnonzero(ride.rests > 0.0).tolist():
        ends = float(ride.clocks[segment])
        begins = ends - float(ride.rests[segment])
        distance = float(profile.distances[segment])
        stop = at_stop.get(segment)
        found.append(
            Rest(
                index=max(0, int((clock.start_of_day + begins - 0.5 * DAY) // DAY)),
                segment=segment,
                distance=distance,
                begins=begins,
                ends=ends,
                height=float(profile.heights[segment]),
                low=_low(ridden, distance, begins, ends),
                awake=float(ride.awake[segment - 1]) if segment else 0.0,
                stop=None if stop is None else ridden.way.stops[stop],
            )
        )
    return tuple(found)


def proposals_for(ridden: Ridden, rest: Rest) -> tuple[Proposal, ...]:
    """Return better places near a rest: beds and roofs within reach, and the lowest ground around.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    rest : Rest
        One of its rests.

    Returns
    -------
    proposals : tuple of Proposal
        Nearest in time first; none where the rest is at a bed already.
    """
    if rest.stop is not None and "bed" in rest.stop.offers:
        return ()
    clocks, profile = ridden.ride.clocks, ridden.way.profile

    def at(segment: int, stop: Stop | None, reason: str) -> Proposal:
        # before the rest the clock runs as it did; behind it the rest is not yet slept
        shift = float(clocks[segment]) - (rest.begins if segment < rest.segment else rest.ends)
        distance = float(profile.distances[segment])
        low = _low(ridden, distance, rest.begins + shift, rest.ends + shift)
        height = float(profile.heights[segment])
        return Proposal(stop=stop, distance=distance, shift=shift, height=height, low=low, reason=reason)

    found = []
    for k, stop in enumerate(ridden.way.stops):
        if "bed" in stop.offers and stop is not rest.stop:
            segment = min(int(ridden.timetable.clock.stays.segments[k]), clocks.size - 2)
            found.append(at(segment, stop, "bed" if stop.kind != "bed" else "hut or lodging"))
    near = np.flatnonzero((clocks[:-1] > rest.begins - NEAR) & (clocks[:-1] < rest.ends + NEAR))
    if near.size:
        lowest = int(near[np.argmin(profile.heights[near])])
        if float(profile.heights[lowest]) < rest.height - LOWER:
            found.append(at(lowest, None, f"{rest.height - profile.heights[lowest]:.0f} m lower"))
    return tuple(sorted((p for p in found if abs(p.shift) <= NEAR), key=lambda p: abs(p.shift))[:4])
