"""The race by the clock: legs between stops, and what happens at them."""

from dataclasses import dataclass
from datetime import datetime

from stonechat.core.kit.reach import Often
from stonechat.core.line.stops import Stop
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.rhythm.inputs import Clock


@dataclass(frozen=True, kw_only=True)
class Leg:
    """The way between two stops that are used, or start and finish."""

    index: int
    start: float  # m
    end: float  # m
    start_name: str
    end_name: str
    ascent: float  # m
    moving: float  # s
    elapsed: float  # s from leaving to arriving, nights and reaching included
    leaves: datetime
    arrives: datetime
    minutes_per_kg: float  # min/kg
    minutes_per_drag: float  # min per 100 cm²
    temp_low: float  # °C
    temp_high: float  # °C
    dark: float  # 1, share of its time in the dark
    rest: float  # s rested on the way
    work: float  # J at the pedals
    energy: float  # kcal spent riding and walking
    often: Often  # how often things are reached for, as if every day were so


@dataclass(frozen=True, kw_only=True)
class Visit:
    """Passing a stop, or the finish."""

    stop: Stop | None  # None at the finish
    name: str
    distance: float  # m
    arrives: datetime
    leaves: datetime
    elapsed: float  # s since the start, on arrival
    is_open: bool  # on arrival, or after the wait; as is usual for such places where its hours are not known
    is_known: bool  # whether its hours are known
    gives: frozenset[str]  # what can be had on passing, each offer behind its own door
    clock_step: float  # s by which the clocks here are ahead of those at the stop before
    wait: float  # s until it opens where it stays shut, infinity if never
    waited: float  # s waited for its door
    rested: float  # s rested there
    dark: bool
    temp: float  # °C
    awake: float  # s awake on arrival
    margin: float | None  # s before its cut-off, negative after; None where it has none
    passed: bool = False  # whether it is ridden past

    @property
    def is_shut(self) -> bool:
        """Whether one stands before a shut door; who rides past does not."""
        return not self.is_open and not self.passed


@dataclass(frozen=True, kw_only=True)
class Timetable:
    """Legs and stops as they are ridden."""

    legs: tuple[Leg, ...]
    visits: tuple[Visit, ...]  # of each stop, and of the finish
    clock: Clock  # as it was ridden: nights, doors, sun and weather
    fan: tuple[FloatArray, FloatArray]  # s since the start at the segment ends, with more and with less power
    settled: bool  # whether mass, time and opening hours agreed with one another
