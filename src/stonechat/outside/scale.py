"""Scales: the interface that a real one would have, and simulated ones that ship with the program.

A simulated scale settles, drifts, rounds, overloads, and can be made to misbehave as real ones do: one in a draught
never settles, one with a loose cable goes silent in mid-reading.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from time import monotonic
from typing import Protocol

TROUBLES = {"none": "none", "draught": "a draught: it never settles", "cable": "a loose cable: it goes silent"}
UNITS = {"g": 1.0, "oz": 28.349523125, "lb": 453.59237}  # g


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What a scale shows at a moment."""

    state: str  # stable, settling, overload or silent
    mass: float  # kg as shown, rounded to the division; 0 where it shows none
    since: float  # s since something was last put on or taken off

    @property
    def is_stable(self) -> bool:
        """Whether the figure may be taken."""
        return self.state == "stable"


class Scale(Protocol):
    """What the program asks of any scale."""

    @property
    def name(self) -> str:
        """What it is called."""
        ...

    @property
    def most(self) -> float:
        """Largest mass that it weighs. [kg]"""
        ...

    def read(self) -> Reading:
        """Return what it shows now."""
        ...

    def tare(self) -> None:
        """Set what lies on it to zero."""
        ...


@dataclass(frozen=True, kw_only=True)
class Make:
    """What kind of scale is simulated."""

    name: str
    most: float  # kg
    division: float  # kg
    settling: float  # s until it is stable
    swing: float  # kg of overshoot for a kilogram put on


MAKES = {
    "kitchen": Make(name="kitchen scale", most=5.0, division=0.001, settling=1.2, swing=0.08),
    "hanging": Make(name="hanging scale", most=40.0, division=0.010, settling=2.2, swing=0.20),
    "floor": Make(name="floor scale", most=150.0, division=0.050, settling=1.6, swing=0.05),
}
_DRIFT = 0.0002  # kg of slow wandering (a few minutes)
_SILENT_AFTER = 0.8  # s until a loose cable lets go


class SimulatedScale:
    """A made-up scale; the hand that puts things on it is simulated too (`put`)."""

    def __init__(self, make: str = "kitchen", *, now: Callable[[], float] = monotonic) -> None:
        self._make, self._now = MAKES[make], now
        self.key = make
        self.trouble = "none"
        self.holds = ""  # what the simulated hand put on it
        self._load = self._before = self._zero = 0.0
        self._changed = now() - 60.0

    @property
    def name(self) -> str:
        """What it is called."""
        return self._make.name

    @property
    def most(self) -> float:
        """Largest mass that it weighs. [kg]"""
        return self._make.most

    def put(self, mass: float, what: str = "") -> None:
        """Put a mass on it in place of what lies there, and say what it is. [kg]"""
        self.holds = what
        self._before, self._load, self._changed = self._load, mass, self._now()

    def read(self) -> Reading:
        """Return what it shows now."""
        make, since = self._make, self._now() - self._changed
        if self.trouble == "cable" and since > _SILENT_AFTER:
            return Reading(state="silent", mass=0.0, since=since)
        if self._load > make.most * 1.02:
            return Reading(state="overload", mass=0.0, since=since)
        step = self._load - self._before
        wobble = make.swing * step * math.exp(-3.5 * since / make.settling) * math.cos(9.0 * since)
        if self.trouble == "draught":
            wobble += (
                max(0.02 * self._load, 4.0 * make.division) * math.sin(5.0 * since) * (1.3 + math.sin(2.1 * since))
            )
        drift = _DRIFT * math.sin(self._now() / 97.0)
        shown = round((self._load + wobble + drift - self._zero) / make.division) * make.division
        settled = since >= make.settling and self.trouble != "draught"
        return Reading(state="stable" if settled else "settling", mass=round(shown, 6), since=since)

    def tare(self) -> None:
        """Set what lies on it to zero."""
        self._zero = self._load
