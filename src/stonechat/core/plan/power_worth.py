"""What lamps, banks, chargers and leads are worth: what goes dark or flat on this race without them."""

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from stonechat.core.charge.rule import ChargingRule
from stonechat.core.charge.run import Run, run_batteries
from stonechat.core.charge.setup import setup_of
from stonechat.core.charge.things import BAND, Electrics, electrics_of
from stonechat.core.kit.item import Item
from stonechat.core.ledger.lost import Lost
from stonechat.core.ledger.ridden import Ridden, part_of
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.charging import Needs, Powered, needs_of
from stonechat.core.plan.clocked import Clocked, coarse
from stonechat.core.plan.scenario import Scenario

COARSE = 900.0  # s, step by which kits are compared
DRAWS = ((1.0 / (1.0 + BAND), 0.25), (1.0, 0.5), (1.0 + BAND, 0.25))  # factors on what is drawn, and their odds
# min lost for each hour that something is wanted and flat: one waits for light, asks the way, spins out or grinds,
# halts for a telephone (estimates)
PER_HOUR = {"light": 60.0, "rear": 20.0, "navigation": 6.0, "shifting": 6.0, "phone": 1.0, "tracker": 2.0, "other": 0.5}
BY_SPARE = 6.0  # min lost for each hour that is ridden by a second lamp only (estimate)
SECONDS = ("helmet_light", "head_torch", "front_light_spare")
SECOND = 1.0  # W that a second lamp draws, enough to ride on slowly (0.5 to 2, estimate)
_ENDING = 0.02  # 1, chance for each hour without any light that the race ends there (estimate)
_FELT = 0.05  # h from which a lack is worth a sentence


@dataclass(frozen=True, kw_only=True)
class Without:
    """How long what is wanted has no power, by role."""

    hours: dict[str, float]  # h, the mean over DRAWS
    by_spare: float  # h of the front light's lack that second lamps cover
    hub: FloatArray  # W that the hub gave on each step, the mean over DRAWS

    @property
    def dark(self) -> float:
        """Hours in the dark with no lamp at all. [h]"""
        return self.hours.get("light", 0.0)

    def lost(self) -> Lost:
        """Return what that costs."""
        minutes = sum(PER_HOUR.get(role, 0.0) * hours for role, hours in self.hours.items())
        return Lost(minutes=minutes + BY_SPARE * self.by_spare, ending=1.0 - (1.0 - _ENDING) ** self.dark)


@dataclass(frozen=True, kw_only=True)
class PowerWorth:
    """What things are worth by what they light and feed."""

    scenario: Scenario
    at: Clocked
    mine: frozenset[str]  # ids of what is electric of this kit
    assume_leads: bool  # whether this kit names no lead
    what: str = "power"
    known: dict[frozenset[str], Without] = field(default_factory=dict)

    def judges(self, item: Item) -> bool:
        """Tell whether a thing is judged here."""
        return item.id in self.mine

    def without(self, items: Iterable[Item]) -> Without:
        """Return how long what is wanted has no power with some things aboard."""
        listed = [item for item in items if item.id in self.mine]
        key = frozenset(item.id for item in listed)
        if key not in self.known:
            electronic, rule = self.scenario.variant.bike.electronic, self.scenario.variant.charging
            electrics = electrics_of(listed, electronic=electronic, assume_leads=self.assume_leads)
            needs = needs_of(self.scenario, self.at, electrics, rule)
            self.known[key] = without_power(needs, self.at, electrics, rule)
        return self.known[key]

    def worth(self, item: Item, items: Iterable[Item]) -> Lost:
        """Return what more is lost without a thing than with it."""
        listed = list(items)
        having = self.without(listed).lost()
        lacking = self.without(entry for entry in listed if entry.id != item.id).lost()
        return Lost(minutes=max(0.0, lacking.minutes - having.minutes), ending=max(0.0, lacking.ending - having.ending))

    def words(self, item: Item, items: Iterable[Item]) -> tuple[str, ...]:
        """Say where its lack would be felt."""
        listed = list(items)
        having, lacking = self.without(listed), self.without(entry for entry in listed if entry.id != item.id)
        told = [
            f"{_WORDS[role]} {hours:.1f} h without power instead of {having.hours.get(role, 0.0):.1f}"
            for role, hours in lacking.hours.items()
            if role in _WORDS and hours > having.hours.get(role, 0.0) + _FELT
        ]
        return tuple(told) or ("nothing that matters goes flat on this race without it",)


_WORDS = {
    "light": "no light:", "rear": "no rear light:", "navigation": "navigation", "shifting": "gears", "phone": "phone",
    "tracker": "tracker",
}  # fmt: skip


def power_worth_of(ridden: Ridden) -> PowerWorth:
    """Return what things are worth by what they light and feed.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    worth : PowerWorth
        To be asked; it remembers what it was asked.
    """
    powered = part_of(ridden.settled, Powered)
    electrics = powered.charge.electrics
    named = {lead.id for lead in electrics.leads}
    givers = (*electrics.walls, *electrics.panels, *electrics.batteries)
    hub = {item.id for item in ridden.kit.items if item.kind in ("dynamo_charger", "dynamo_light", "dynamo_rear")}
    cells = {item.id for item in ridden.kit.items if item.kind in ("shift_battery", "light_battery", "batteries")}
    return PowerWorth(
        scenario=powered.scenario,
        at=coarse(powered.at, COARSE),
        assume_leads=electrics.assumes_leads,
        mine=frozenset(named | {one.id for one in givers} | hub | cells),
    )


def without_power(needs: Needs, at: Clocked, electrics: Electrics, rule: ChargingRule) -> Without:
    """Return how long what is wanted has no power.

    Parameters
    ----------
    needs : Needs
        What is wanted and given by step.
    at : Clocked
        The race by the same steps.
    electrics : Electrics
        What is aboard.
    rule : ChargingRule
        How it is charged.

    Returns
    -------
    without : Without
        The mean over what devices may draw; a second lamp lights what the first does not. [h]
    """
    total: dict[str, float] = {}
    by_spare, hub, setup = 0.0, np.zeros(at.lengths.size), setup_of(electrics, rule)
    for factor, odds in DRAWS:
        loads = needs.loads * factor
        run = run_batteries(needs.steps, loads, setup)
        hours, lent = hours_without(run, loads, at, electrics)
        by_spare += odds * lent
        hub += odds * run.hub
        for role, value in hours.items():
            total[role] = total.get(role, 0.0) + odds * value
    return Without(hours=total, by_spare=by_spare, hub=hub)


def spare_hours(electrics: Electrics) -> float:
    """Return how long second lamps burn, each on a draw that is usual for such lamps.

    Parameters
    ----------
    electrics : Electrics
        What is aboard.

    Returns
    -------
    hours : float
        All of them together. [h]
    """
    return sum(one.capacity / SECOND for one in electrics.devices if one.kind in SECONDS)


def dark_of(at: Clocked) -> float:
    """Return how long one rides in the dark.

    Parameters
    ----------
    at : Clocked
        The race by steps.

    Returns
    -------
    hours : float
        From sunset to sunrise. [h]
    """
    return float(at.lengths[at.dark & at.riding].sum()) / 3600.0


def hours_without(run: Run, loads: FloatArray, at: Clocked, electrics: Electrics) -> tuple[dict[str, float], float]:
    """Return how long each role had no power.

    Parameters
    ----------
    run : Run
        What became of the batteries.
    loads : ndarray, shape (n, d)
        What devices wanted. [W]
    at : Clocked
        The race by the same steps.
    electrics : Electrics
        What is aboard.

    Returns
    -------
    hours : dict of str to float
        By role; the least of what does it, and all dark hours where nothing lights them. [h]
    lent : float
        Hours of the front light's lack that second lamps bridge; they are not in its own. [h]
    """
    found: dict[str, float] = {}
    for k, one in enumerate(electrics.devices):
        mean = mean_load(loads[:, k], at.lengths)
        if mean > 0.0:
            found[one.role] = min(float(run.unmet[k]) / mean, found.get(one.role, np.inf))
    roles = {one.role for one in electrics.devices} | {"rear" for one in electrics.devices if one.kind == "light_set"}
    if not electrics.has_hub_light and "light" not in roles:
        found["light"] = dark_of(at)
    if not electrics.has_hub_rear and "rear" not in roles:
        found["rear"] = dark_of(at)
    unlit = found.get("light", 0.0)
    lent = min(unlit, spare_hours(electrics))
    return {**found, "light": unlit - lent}, lent


def mean_load(loads: FloatArray, lengths: FloatArray) -> float:
    """Return what a device draws in the mean of the time that it is on.

    Parameters
    ----------
    loads : ndarray, shape (n,)
        By step. [W]
    lengths : ndarray, shape (n,)
        Of the steps. [s]

    Returns
    -------
    mean : float
        0 where it is never on. [W]
    """
    on = loads > 0.0
    return float(np.average(loads[on], weights=lengths[on])) if on.any() else 0.0
