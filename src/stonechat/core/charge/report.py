"""What became of every battery over a race."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from stonechat.core.charge.run import Run, Steps, cold_share
from stonechat.core.charge.things import Electric, Electrics
from stonechat.core.numerics.arrays import BoolArray

VITAL = frozenset({"light", "rear", "navigation", "shifting"})  # roles without which one does not ride on
DOUBTED = 5.0  # Wh, a bank that holds less is asked about


@dataclass(frozen=True, kw_only=True)
class BatteryLine:
    """One battery over the race."""

    thing: Electric
    lowest: float  # 1, of its capacity
    lowest_at: float  # s since the start
    lowest_km: float  # m
    ends: float  # 1, at the finish
    flat_at: float | None  # s since the start; None: never
    flat_km: float | None  # m
    unmet: float  # Wh that it did not have

    @property
    def is_flat(self) -> bool:
        """Whether it goes flat on the way."""
        return self.flat_at is not None


@dataclass(frozen=True, kw_only=True)
class Charge:
    """Every battery by the clock."""

    electrics: Electrics
    steps: Steps
    run: Run
    dark_hours: float  # h ridden in the dark
    hub: float  # Wh that the hub gave
    wall: float  # Wh that sockets could give

    @cached_property
    def lines(self) -> tuple[BatteryLine, ...]:
        """Each battery, devices that draw first, then banks."""
        every = (*self.electrics.devices, *self.electrics.banks)
        return tuple(self._line(k, thing) for k, thing in enumerate(every))

    @property
    def flat(self) -> tuple[BatteryLine, ...]:
        """Those that go flat, the first first."""
        found = [line for line in self.lines if line.flat_at is not None]
        return tuple(sorted(found, key=lambda line: line.flat_at or 0.0))

    @property
    def stored(self) -> float:
        """Energy that all batteries hold when they are full. [Wh]"""
        return sum(line.thing.capacity for line in self.lines)

    @property
    def spare(self) -> float:
        """Least that banks and drawing devices hold together on the way. [Wh]"""
        drawing = [k for k, line in enumerate(self.lines) if line.thing.role != "spare"]
        return float(self.run.levels[:, drawing].sum(axis=1).min()) if drawing and self.run.levels.size else 0.0

    @property
    def light_hours(self) -> float:
        """Hours that the front light runs on its own battery, unaided. [h]"""
        lights = [line.thing for line in self.lines if line.thing.role == "light" and line.thing.dark > 0.0]
        return max((light.capacity / light.dark for light in lights), default=0.0)

    @property
    def doubted(self) -> tuple[Electric, ...]:
        """Banks that hold so little that their label may be misread."""
        return tuple(bank for bank in self.electrics.banks if bank.capacity < DOUBTED)

    def empty(self, k: int) -> BoolArray:
        """Tell on which steps a battery gives no more, as cold as it is."""
        floor = (1.0 - cold_share(self.steps.temps)) * self.lines[k].thing.capacity
        return np.asarray(self.run.levels[:, k] <= floor + 1e-6)

    def _line(self, k: int, thing: Electric) -> BatteryLine:
        levels, first = self.run.levels[:, k], int(self.run.first_flat[k])
        at = int(np.argmin(levels)) if levels.size else 0
        capacity = max(thing.capacity, 1e-9)
        ends = self.steps.begins + self.steps.lengths
        return BatteryLine(
            thing=thing,
            lowest=float(levels[at]) / capacity,
            lowest_at=float(ends[at]),
            lowest_km=float(self.steps.distances[at]),
            ends=float(levels[-1]) / capacity,
            flat_at=None if first < 0 else float(self.steps.begins[first]),
            flat_km=None if first < 0 else float(self.steps.distances[first]),
            unmet=float(self.run.unmet[k]),
        )
