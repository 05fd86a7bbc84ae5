"""What pictures along the route share: where a place is, round marks, the dark."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.numerics.arrays import BoolArray, FloatArray, runs_of
from stonechat.core.plan.sky import clock_after
from stonechat.render.filters import day_month, distance_km

_MARK = 80.0  # least distance between two marks
_ROOM = 18.0  # least distance of a mark from the right end
_THIN = 0.8  # least width of a stretch


@dataclass(frozen=True, kw_only=True)
class Tick:
    """A mark on an axis."""

    at: float
    text: str


class Along:
    """Turns metres along the course into drawing units."""

    def __init__(self, ridden: Ridden, *, width: float, left: float, right: float) -> None:
        self.length, self.left, self.span = max(ridden.way.profile.length, 1.0), left, width - left - right
        self.right = width - right

    def __call__(self, metres: float) -> float:
        return round(self.left + self.span * float(metres) / self.length, 1)

    def stretch(self, begins: float, ends: float) -> tuple[float, float]:
        """Return x and width of a stretch, wide enough to be seen."""
        return self(begins), max(_THIN, round(self(ends) - self(begins), 1))

    def stretches(self, mask: BoolArray, begins: FloatArray, ends: FloatArray) -> tuple[tuple[float, float], ...]:
        """Return x and width of where something holds, of pieces that begin and end there."""
        return tuple(self.stretch(float(begins[a]), float(ends[b - 1])) for a, b in runs_of(mask))

    def dark(self, ridden: Ridden) -> tuple[tuple[float, float], ...]:
        """Return x and width of what is ridden in the dark."""
        places = np.concatenate(([0.0], np.cumsum(ridden.way.profile.lengths)))
        return self.stretches(ridden.ride.dark, places[:-1], places[1:])

    def leg(self, ridden: Ridden, leg: int) -> tuple[float, float]:
        """Return x and width of a leg."""
        here = ridden.timetable.legs[leg]
        return self.stretch(here.start, here.end)

    def marks(self) -> tuple[Tick, ...]:
        """Return round marks."""
        most = self.span / _MARK
        step = next((s for s in (1e3, 2e3, 5e3, 1e4, 2e4, 5e4, 1e5, 2e5, 5e5) if self.length / s <= most), 1e6)
        return tuple(Tick(at=self(at), text=distance_km(float(at))) for at in np.arange(0.0, self.length, step))


class ByClock(Along):
    """Turns seconds since the start into drawing units: halts take the room that they take of the race."""

    def __init__(self, ridden: Ridden, *, width: float, left: float, right: float) -> None:
        super().__init__(ridden, width=width, left=left, right=right)
        self.length, self._ridden = max(float(ridden.ride.clocks[-1]), 1.0), ridden

    def leg(self, ridden: Ridden, leg: int) -> tuple[float, float]:
        """Return x and width of a leg."""
        here, places = ridden.timetable.legs[leg], ridden.way.profile.distances
        clocks = ridden.ride.clocks
        begins, ends = np.interp([here.start, here.end], places[: clocks.size], clocks[: places.size]).tolist()
        return self.stretch(begins, ends)

    def marks(self) -> tuple[Tick, ...]:
        """Return midnights by their day, as many as there is room for."""
        first = DAY - self._ridden.timetable.clock.start_of_day % DAY
        every = max(1.0, np.ceil(_MARK * self.length / DAY / self.span)) * DAY
        return tuple(
            Tick(at=self(at), text=day_month(clock_after(self._ridden, at)))
            for at in np.arange(first, self.length, every).tolist()
            if self(at) < self.right - _ROOM
        )


def shortened(name: str, most: int) -> str:
    """Return a name cut to so many letters."""
    return name if len(name) <= most else f"{name[: most - 1]}…"


Placing = Callable[[float], float]
