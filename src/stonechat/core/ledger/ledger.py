"""Minutes by cause, and prices."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.load.problem import Prices
from stonechat.core.numerics.arrays import FloatArray


@dataclass(frozen=True, kw_only=True)
class Cause:
    """One line of the ledger."""

    key: str
    name: str
    minutes: float  # min


@dataclass(frozen=True, kw_only=True)
class MassCurve:
    """Moving minutes saved by taking mass away, ridden again at a few masses under the same conditions."""

    masses: FloatArray  # kg taken away, ascending from 0
    minutes: FloatArray  # min saved

    def saved(self, mass: float) -> float:
        """Minutes that a mass costs, between the masses ridden. [min]"""
        if mass <= self.masses[-1]:
            return float(np.interp(mass, self.masses, self.minutes))
        return mass * float(self.minutes[-1] / self.masses[-1])


@dataclass(frozen=True, kw_only=True)
class Ledger:
    """Minutes by cause, which sum to the finish, and what more or less of anything costs."""

    causes: tuple[Cause, ...]
    pushing: float  # min of the riding that go on foot
    moving: float  # s
    finish: float  # s
    spread: float  # s, half-width of the finish for power 5 % up or down
    prices: Prices
    mass_curve: MassCurve
    minutes_per_watt: float  # min/W, negative
    minutes_per_rolling: float  # min per 0.001 of rolling coefficient

    @property
    def carried(self) -> float:
        """Minutes of load, bags in the wind, reaching, halts for food, what the body bears, and mishaps. [min]"""
        return sum(self.minutes(key) for key in ("load", "wind", "reach", "eating", "body", "mishap"))

    def minutes(self, key: str) -> float:
        """Minutes of one cause. [min]"""
        return next(cause.minutes for cause in self.causes if cause.key == key)
