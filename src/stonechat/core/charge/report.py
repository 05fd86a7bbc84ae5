"""What became of every battery over a race."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from stonechat.core.charge.light import DarkHours
from stonechat.core.charge.rule import ChargingRule
from stonechat.core.charge.run import BANK, CELLS, HUB, SUN, WALL, Batteries, Run, Setup, Steps, cold_share
from stonechat.core.charge.things import Electric, Electrics
from stonechat.core.numerics.arrays import BoolArray, FloatArray

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
    without: float  # h that it was asked for and had nothing
    into: tuple[float, ...]  # Wh from hub, sockets, sun, banks, cells
    used: float  # Wh that it drew, or that a bank gave
    swaps: int  # sets of cells changed
    waited: float  # h that it waited for a lead

    @property
    def is_flat(self) -> bool:
        """Whether it goes flat on the way."""
        return self.flat_at is not None


@dataclass(frozen=True, kw_only=True)
class Charge:
    """Every battery by the clock."""

    electrics: Electrics
    rule: ChargingRule
    steps: Steps
    loads: FloatArray  # W that devices want, shape (n, d)
    setup: Setup
    run: Run
    dark: DarkHours
    beam: FloatArray  # h of each mode that the battery lamp burns: low, mid, high; shape (3,)
    hub_could: float  # Wh that the hub could give as the rule switches it
    hub_drag: FloatArray  # W at the wheel that the hub takes on each segment, shape (n,)

    @property
    def batteries(self) -> Batteries:
        """What holds energy, as it begins."""
        return self.setup.batteries

    @cached_property
    def lines(self) -> tuple[BatteryLine, ...]:
        """Each battery, devices that draw first, then banks."""
        return tuple(self._line(k, thing) for k, thing in enumerate(self.electrics.batteries))

    @property
    def flat(self) -> tuple[BatteryLine, ...]:
        """Those that go flat, the first first."""
        found = [line for line in self.lines if line.flat_at is not None]
        return tuple(sorted(found, key=lambda line: line.flat_at or 0.0))

    @property
    def dark_hours(self) -> float:
        """Ridden in the dark. [h]"""
        return self.dark.total

    @property
    def stored(self) -> float:
        """Energy that all batteries hold when they are full, spare cells too. [Wh]"""
        return sum(line.thing.capacity + line.thing.cells * line.thing.cell_energy for line in self.lines)

    @property
    def hub(self) -> float:
        """What the hub gave to charge. [Wh]"""
        return float(self.run.taken[HUB])

    @property
    def wall(self) -> float:
        """What sockets could give. [Wh]"""
        return float((self.steps.wall * self.steps.lengths).sum() / 3600.0)

    @property
    def spare(self) -> float:
        """Least that banks and drawing devices hold together on the way. [Wh]"""
        counted = self.batteries.counts
        return float(self.run.levels[:, counted].sum(axis=1).min()) if counted.any() and self.run.levels.size else 0.0

    @property
    def light_hours(self) -> float:
        """Hours that the front light runs on its own battery and cells, in the modes that this race wants. [h]"""
        lights = [one for one in self.electrics.devices if one.role == "light" and one.dark > 0.0]
        return max((self.hours_of(one) for one in lights), default=0.0)

    def hours_of(self, lamp: Electric) -> float:
        """Return how long a lamp burns on its own battery and cells, in the modes that this race wants. [h]"""
        mean = self.mean_draw(lamp)
        return (lamp.capacity + lamp.cells * lamp.cell_energy) / mean if mean > 0.0 else float("inf")

    def mean_draw(self, lamp: Electric) -> float:
        """Return what a lamp draws in the mean of this race's dark hours. [W]"""
        total = float(self.beam.sum())
        draws = np.array([lamp.mode(mode) for mode in ("low", "mid", "high")])
        return float(self.beam @ draws) / total if total > 0.0 and lamp.role == "light" else lamp.dark

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
        wants = self.loads[:, k] if k < self.batteries.devices else np.zeros(ends.size)
        mean = float((wants * self.steps.lengths).sum() / max(1.0, self.steps.lengths[wants > 0.0].sum()))
        return BatteryLine(
            thing=thing,
            lowest=float(levels[at]) / capacity,
            lowest_at=float(ends[at]),
            lowest_km=float(self.steps.distances[at]),
            ends=float(levels[-1]) / capacity,
            flat_at=None if first < 0 else float(self.steps.begins[first]),
            flat_km=None if first < 0 else float(self.steps.distances[first]),
            unmet=float(self.run.unmet[k]),
            without=float(self.run.unmet[k]) / mean if mean > 0.0 else 0.0,
            into=tuple(float(self.run.into[source, k]) for source in (HUB, WALL, SUN, BANK, CELLS)),
            used=float(self.run.drawn[k] + self.run.given[k]),
            swaps=int(self.run.swaps[k]),
            waited=float(self.run.waited[k]),
        )
