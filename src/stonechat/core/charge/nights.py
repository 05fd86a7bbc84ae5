"""Each night that is ridden into: what it takes of light, navigation and gears, and what is aboard at dusk."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.charge.report import VITAL, Charge
from stonechat.core.charge.run import INTO, cold_share
from stonechat.core.numerics.arrays import runs_of


@dataclass(frozen=True, kw_only=True)
class NightPower:
    """One night."""

    begins: float  # s since the start, at dusk
    distance: float  # m, at dusk
    wanted: float  # Wh of what one does not ride on without
    stored: float  # Wh that can reach it at dusk, as cold as that night gets

    @property
    def spare(self) -> float:
        """What is left at dawn. [Wh]"""
        return self.stored - self.wanted


def nights_of(charge: Charge) -> tuple[NightPower, ...]:
    """Return the nights that are ridden into.

    Parameters
    ----------
    charge : Charge
        Every battery by the clock.

    Returns
    -------
    nights : tuple of NightPower
        In order. What the hub gives by night counts as stored; what a socket of that night gives does not.
    """
    steps, things = charge.steps, charge.electrics.batteries
    vital = np.array([one.role in VITAL for one in things], dtype=bool)
    banks = np.array([one.role == "bank" for one in things], dtype=bool)
    found = []
    for first, last in runs_of(steps.dark):
        hours = steps.lengths[first:last] / 3600.0
        if not (steps.speeds[first:last] > 0.0).any():
            continue
        held = charge.run.levels[first - 1] if first else charge.batteries.levels
        kept_back = 1.0 - float(cold_share(np.array([steps.temps[first:last].min()]))[0])
        usable = np.maximum(0.0, held - kept_back * charge.batteries.capacities)
        spare = sum(one.cells * one.cell_energy for one in things if one.role in VITAL)
        lent = float((usable * charge.batteries.keeps)[banks].sum()) * INTO
        hub = float((charge.run.hub[first:last] * hours).sum()) * INTO
        found.append(
            NightPower(
                begins=float(steps.begins[first]),
                distance=float(steps.distances[first]),
                wanted=float((charge.loads[first:last][:, vital] * hours[:, None]).sum()),
                stored=float(usable[vital].sum()) + lent + hub + spare,
            )
        )
    return tuple(found)
