"""Tracker and bike computer: the interfaces that real ones would have, and simulated ones that replay a race.

The simulated race is another draw of luck than the plan: other legs, other wind, longer stops. The tracker sends a
position every few minutes, with gaps as in valleys; the computer's file grows as the race goes on.
"""

import math
import random
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Protocol

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.played import played_race

NAMESPACE = "http://www.topografix.com/GPX/1/1"

EVERY = 300.0  # s between two positions of the tracker
_LOST = 0.12  # 1, chance that a silence begins with a report
_SILENCE = 4  # reports that a silence lasts at most
_JITTER = 12.0  # m, error of a position
_METRES = 111_200.0  # m in a degree of latitude
_SAMPLE = 5.0  # s between two samples of the computer's file, which is meant for days


@dataclass(frozen=True, kw_only=True)
class Report:
    """A position that a tracker sent."""

    at: datetime
    latitude: float  # °
    longitude: float  # °


class Tracker(Protocol):
    """What the program asks of any tracker."""

    def reports(self, until: datetime) -> tuple[Report, ...]:
        """Return all positions that were sent until a moment."""
        ...


class BikeComputer(Protocol):
    """What the program asks of any bike computer."""

    def file(self, until: datetime) -> bytes:
        """Return its file as it stands at a moment: FIT, TCX or GPX."""
        ...


@dataclass(frozen=True, kw_only=True)
class TrueRace:
    """A race as it really went, a value each minute. Arrays of shape (n,)."""

    start: datetime
    elapsed: FloatArray  # s
    latitudes: FloatArray  # °
    longitudes: FloatArray  # °
    heights: FloatArray  # m
    speeds: FloatArray  # m/s
    powers: FloatArray  # W
    temps: FloatArray  # °C


def true_race(ridden: Ridden, seed: int) -> TrueRace:
    """Return the simulated world's race of a variant."""
    played, profile = played_race(ridden, seed), ridden.way.profile
    at = profile.distances
    return TrueRace(
        start=ridden.way.start.astimezone(UTC),  # a clock that is never set
        elapsed=played.elapsed,
        latitudes=np.interp(played.distances, at, profile.latitudes),
        longitudes=np.interp(played.distances, at, profile.longitudes),
        heights=np.interp(played.distances, at, profile.heights[: at.size]),
        speeds=played.speeds,
        powers=played.powers,
        temps=played.temps,
    )


class SimulatedTracker:
    """Sends where a made-up race is, with errors and silences; the same seed sends the same."""

    def __init__(self, race: TrueRace, seed: int = 1) -> None:
        self._race = race
        luck, left, sent = random.Random(seed), 0, []
        for then in np.arange(0.0, float(race.elapsed[-1]) + EVERY, EVERY).tolist():
            left = left - 1 if left > 0 else (luck.randint(1, _SILENCE) if luck.random() < _LOST else 0)
            if left == 0:
                sent.append(self._report(min(then, float(race.elapsed[-1])), luck))
        self._sent = tuple(sent)

    def _report(self, then: float, luck: random.Random) -> Report:
        race = self._race
        lat, lon = (float(np.interp(then, race.elapsed, v)) for v in (race.latitudes, race.longitudes))
        north, east = luck.gauss(0.0, _JITTER), luck.gauss(0.0, _JITTER)
        return Report(
            at=datetime.fromtimestamp(race.start.timestamp() + then, UTC),
            latitude=lat + north / _METRES,
            longitude=lon + east / (_METRES * math.cos(math.radians(lat))),
        )

    def reports(self, until: datetime) -> tuple[Report, ...]:
        """Return all positions that were sent until a moment."""
        return tuple(report for report in self._sent if report.at <= until)


class SimulatedComputer:
    """Writes the file of a made-up race, as far as it has come."""

    def __init__(self, race: TrueRace, seed: int = 1) -> None:
        self._race, self._seed = race, seed

    def file(self, until: datetime) -> bytes:
        """Return its file as it stands at a moment, as GPX with what its sensors wrote."""
        race, noise = self._race, np.random.default_rng(self._seed)
        last = min(until.timestamp() - race.start.timestamp(), float(race.elapsed[-1]))
        at = np.arange(0.0, max(last, 0.0) + 0.1, _SAMPLE)
        lats, lons, heights, speeds, powers, temps = (
            np.interp(at, race.elapsed, values)
            for values in (race.latitudes, race.longitudes, race.heights, race.speeds, race.powers, race.temps)
        )
        heights = heights + noise.normal(0.0, 0.5, at.size)
        speeds = np.where(speeds > 0.1, np.maximum(0.0, speeds + noise.normal(0.0, 0.03, at.size)), 0.0)
        powers = np.maximum(0.0, powers * (1.0 + noise.normal(0.0, 0.05, at.size)))
        begun = race.start.timestamp()
        points = "".join(
            f'<trkpt lat="{lat:.6f}" lon="{lon:.6f}"><ele>{height:.1f}</ele>'
            f"<time>{datetime.fromtimestamp(begun + then, UTC):%Y-%m-%dT%H:%M:%SZ}</time><extensions>"
            f"<speed>{speed:.2f}</speed><power>{power:.0f}</power><atemp>{temp:.0f}</atemp></extensions></trkpt>"
            for then, lat, lon, height, speed, power, temp in zip(
                at.tolist(), lats.tolist(), lons.tolist(), heights.tolist(), speeds.tolist(), powers.tolist(),
                temps.tolist(), strict=True,
            )
        )  # fmt: skip
        head = f'<?xml version="1.0" encoding="UTF-8"?><gpx version="1.1" creator="Stonechat" xmlns="{NAMESPACE}">'
        return f"{head}<trk><type>cycling</type><trkseg>{points}</trkseg></trk></gpx>".encode()
