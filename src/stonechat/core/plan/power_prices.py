"""Hub, banks, cells or both: what each way to have power costs on this race in minutes, and how often it fails."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from stonechat.core.charge.dynamo import hub_drag
from stonechat.core.charge.graph import needs_special
from stonechat.core.charge.plugs import Plug
from stonechat.core.charge.report import VITAL
from stonechat.core.charge.rule import ChargingRule
from stonechat.core.charge.run import INTO, run_batteries
from stonechat.core.charge.setup import setup_of
from stonechat.core.charge.things import BAND, CELL, OUT_OF, Electric, Electrics, electrics_of
from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.charging import needs_of
from stonechat.core.plan.clocked import coarse
from stonechat.core.plan.power_ways import Charging, charging_of, watt_minutes
from stonechat.core.plan.power_worth import hours_without

BANK_EMPTY, BANK_WH = 0.035, 0.0048  # kg of a bank's case, and for each Wh of its cells (estimates)
HUB_MASS, CHARGER_MASS = 0.32, 0.07  # kg that a hub weighs more, and a charger on it (estimates)
LAMP_MASS = 0.11  # kg of a lamp with a battery, front or rear (0.04 to 0.18, estimate)
CELL_WH = 3.8e-3  # kg for each Wh of lithium cells that are thrown away (estimate)
ODDS_STEP = 1_800.0  # s, step by which the odds are drawn
RACES = 200  # races that the odds are drawn from
SEED = 20_260_927  # the same draws for every way, so that ways differ and luck does not
_WEARS, _COLDER, _HUB_OFF = 0.06, 3.0, 0.1  # 1 by which capacity spreads, K, 1 by which a hub's output does (estimates)
_FELT = 0.1  # h without power from which a device was flat
_BIGGEST = 400.0  # Wh, largest bank that is looked at


@dataclass(frozen=True, kw_only=True)
class PowerWay:
    """One way to have power."""

    key: str
    name: str
    words: str  # what it takes along
    mass: float  # kg of banks, cells, charger and what a hub weighs more
    carrying: float  # min
    drag: float  # min that a hub takes, idling too
    lost: float  # min expected to be lost to what is flat
    odds: float  # 1, of races in which light, navigation or gears go flat
    error: float  # 1, standard error of the odds
    is_now: bool = False

    @property
    def total(self) -> float:
        """All of it. [min]"""
        return self.carrying + self.drag + self.lost


@dataclass(frozen=True, kw_only=True)
class BreakEven:
    """How much longer a race without sockets would have to be for a hub to be cheaper than a bank."""

    fixed: float  # min that a hub costs on this race however little it charges: it weighs more and idles
    by_hub: float  # min for each Wh that a hub charges
    by_bank: float  # min for each Wh that a bank delivers, carried over this race
    wanted: float  # Wh that this race takes
    dark: float  # h of this race in the dark
    nights: int  # nights that it is ridden into

    @property
    def factor(self) -> float:
        """Times this race's length: what a bank holds grows with it, and so does what a kilogram costs. [1]"""
        held = self.by_bank * self.wanted
        return (self.fixed + self.by_hub * self.wanted) / held if held > 0.0 else float("inf")

    @property
    def dark_hours(self) -> float:
        """Hours in the dark from which on a hub is cheaper. [h]"""
        return self.factor * self.dark

    @property
    def night_count(self) -> float:
        """Nights from which on. [1]"""
        return self.factor * self.nights


def power_ways(ridden: Ridden) -> tuple[PowerWay, ...]:
    """Return ways to have power, side by side.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    ways : tuple of PowerWay
        As it is first; the others by what they cost. Wall chargers, devices and the rule for banks stay.
    """
    now = charging_of(ridden)
    per_kg, idle = ridden.ledger.prices.per_kg, _idle_minutes(ridden)
    hub = now.scenario.variant.bike.dynamo
    as_it_is = _Way("now", "As it is", now.electrics, _mass_now(ridden, now), "", hub)
    found = [_priced(now, way, per_kg, idle) for way in (as_it_is, *_others(now))]
    first, *rest = found
    return (replace(first, is_now=True), *sorted(rest, key=lambda way: way.total))


@dataclass(frozen=True)
class _Way:
    key: str
    name: str
    electrics: Electrics
    mass: float  # kg
    words: str = ""
    hub: bool = False  # whether the wheel has a dynamo
    rule: ChargingRule | None = None


def _others(now: Charging) -> Iterator[_Way]:
    own = now.scenario.variant.charging
    bare = replace(now.electrics, banks=(), hub_charger=None)
    alone, lamps = _without_hub(bare)
    size = _smallest(now, alone, own)
    told = f"{size:.0f} Wh, some {size / CELL:.0f} Ah" + ("; not enough" if size >= _BIGGEST else "")
    more = f"; {lamps} lamps with batteries" if lamps else ""
    mass = _bank_mass(size) + lamps * LAMP_MASS
    yield _Way("banks", "Banks alone", _with_bank(alone, size), mass, told + more)
    small = 18.5
    hub = _hubbed(bare, small)
    mass = HUB_MASS + CHARGER_MASS + _bank_mass(small)
    yield _Way(
        "hub", "Hub, always on", hub, mass, "5 Ah bank between", True, replace(own, hub="bank", hub_when="always")
    )
    larger = HUB_MASS + CHARGER_MASS + _bank_mass(37.0)
    below = replace(own, hub="bank", hub_when="needed", hub_below=0.7)
    words = "10 Ah bank; charges below 70 % of what is stored"
    yield _Way("needed", "Hub, only when needed", _hubbed(bare, 37.0), larger, words, True, below)
    fast, largest = replace(own, hub="bank", hub_when="fast"), HUB_MASS + CHARGER_MASS + _bank_mass(74.0)
    words = "20 Ah bank and a switch within reach"
    yield _Way("fast", "Hub, only faster than 25 km/h", _hubbed(bare, 74.0), largest, words, True, fast)
    yield _cells(now, alone, lamps * LAMP_MASS)


def _hubbed(bare: Electrics, size: float) -> Electrics:
    charger = Electric(id="way-hub", name="dynamo charger", kind="dynamo_charger", role="hub_charger", capacity=0.0,
                       gives=5.0, ports=1, plug=Plug.ANY)  # fmt: skip
    return replace(_with_bank(bare, size), hub_charger=charger)


def _without_hub(electrics: Electrics) -> tuple[Electrics, int]:
    """Return what is aboard of a wheel without a hub: lamps with batteries for those that ran on it, and how many."""
    roles = {one.role for one in electrics.devices}
    kinds = [kind for kind, role in (("front_light", "light"), ("rear_light", "rear")) if role not in roles]
    items = [Item(id=f"way-{kind}", name=KINDS[kind].title, kind=kind, mass=0.1, volume=0.0) for kind in kinds]
    lamps = electrics_of(items, electronic=False).devices if electrics.has_hub_light or electrics.has_hub_rear else ()
    devices = tuple(sorted((*electrics.devices, *lamps), key=lambda one: (one.priority, one.id)))
    return replace(electrics, devices=devices, has_hub_light=False, has_hub_rear=False), len(lamps)


def _cells(now: Charging, bare: Electrics, lamps: float) -> _Way:
    """Return the way in which lamp and navigation run on cells, and a small bank feeds the rest."""
    needs = needs_of(now.scenario, now.at, bare, now.scenario.variant.charging)
    hours = now.at.lengths / 3600.0
    mass, devices, sets = _bank_mass(37.0) + lamps, [], 0
    for k, one in enumerate(bare.devices):
        wanted = float((needs.loads[:, k] * hours).sum()) * (1.0 + BAND)
        if one.role in ("light", "navigation", "rear") and one.draws and one.capacity > 0.0:
            count = int(np.ceil(max(0.0, wanted / one.capacity - 1.0)))
            sets += count
            mass += count * one.capacity * CELL_WH
            devices.append(replace(one, cells=count, cell_energy=one.capacity))
        else:
            devices.append(one)
    electrics = _with_bank(replace(bare, devices=tuple(devices)), 37.0)
    return _Way(
        "cells", "Cells that are thrown away", electrics, mass, f"{sets} sets for lamps and navigation, 10 Ah bank"
    )


def _with_bank(electrics: Electrics, size: float) -> Electrics:
    bank = Electric(id="way-bank", name="bank", kind="power_bank", role="bank", capacity=size, charge=18.0, gives=12.0,
                    ports=2, plug=Plug.ANY, keeps=OUT_OF, passes=True)  # fmt: skip
    return replace(electrics, banks=(bank,), assumes_leads=True)


def _smallest(now: Charging, bare: Electrics, rule: ChargingRule) -> float:
    """Return the smallest bank with which nothing that matters goes flat, all drawing a quarter more. [Wh]"""
    needs = needs_of(now.scenario, now.at, _with_bank(bare, _BIGGEST), rule)
    vital = [k for k, one in enumerate(bare.devices) if one.role in VITAL and not needs_special(one)]
    low, high = 0.0, _BIGGEST

    def does(size: float) -> bool:
        run = run_batteries(needs.steps, needs.loads * (1.0 + BAND), setup_of(_with_bank(bare, size), rule))
        return float(run.unmet[vital].sum()) < _FELT

    if not does(high):
        return high
    while high - low > 1.0:
        middle = 0.5 * (low + high)
        low, high = (low, middle) if does(middle) else (middle, high)
    return high


def _priced(now: Charging, way: _Way, per_kg: float, idle: float) -> PowerWay:
    rule = now.scenario.variant.charging if way.rule is None else way.rule
    bike = replace(now.scenario.variant.bike, dynamo=way.hub)
    scenario = replace(now.scenario, variant=replace(now.scenario.variant, bike=bike, charging=rule))
    there = replace(now, scenario=scenario, electrics=way.electrics)
    cost = there.cost(rule)
    odds = odds_of_flat(there)
    return PowerWay(
        key=way.key,
        name=way.name,
        words=way.words,
        mass=way.mass,
        carrying=per_kg * way.mass,
        drag=cost.drag + (idle if way.hub else 0.0),
        lost=cost.lost,
        odds=odds,
        error=float(np.sqrt(max(odds * (1.0 - odds), 0.25 / RACES) / RACES)),
    )


def odds_of_flat(race: Charging) -> float:
    """Return the share of races in which light, navigation or gears go flat.

    Parameters
    ----------
    race : Charging
        The race, what is aboard, and the rule.

    Returns
    -------
    odds : float
        Over RACES draws of capacities, draws, cold, the hub's output and of sockets that work. [1]
    """
    rule, random = race.scenario.variant.charging, np.random.default_rng(SEED)
    at = coarse(race.fine, ODDS_STEP)
    needs, setup = needs_of(race.scenario, at, race.electrics, rule), setup_of(race.electrics, rule)
    spread = np.array([0.5 * BAND if one.draw_told else BAND for one in race.electrics.batteries]) / 1.645
    works = np.array([stop.confidence for stop in race.scenario.stops] + [1.0])
    flat = 0
    for _ in range(RACES):
        held = np.clip(random.normal(0.97, _WEARS, spread.size), 0.6, 1.0)
        loads = needs.loads * np.exp(random.normal(0.0, spread))
        steps = needs.steps._replace(
            temps=needs.steps.temps + random.normal(0.0, _COLDER),
            hub=needs.steps.hub * max(0.0, random.normal(1.0, _HUB_OFF)),
            wall=needs.steps.wall * (random.random(works.size) < works)[at.stops],
        )
        begun = setup.batteries._replace(
            capacities=setup.batteries.capacities * held, levels=setup.batteries.levels * held
        )
        run = run_batteries(steps, loads, setup._replace(batteries=begun))
        hours, _lent = hours_without(run, loads, at, race.electrics)
        flat += any(hours.get(role, 0.0) > _FELT for role in VITAL)
    return flat / RACES


def break_even(ridden: Ridden) -> BreakEven:
    """Return from which length of race on a hub is cheaper than a bank.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    even : BreakEven
        Without sockets; all else as on this race.
    """
    now = charging_of(ridden)
    per_kg = ridden.ledger.prices.per_kg
    given = now.fine.charger * now.fine.lengths
    by_hub = float((given * now.prices[now.fine.segments]).sum() / max(given.sum(), 1e-9)) / INTO
    by_bank = per_kg * BANK_WH / (OUT_OF * INTO)
    fixed = per_kg * (HUB_MASS + CHARGER_MASS) + _idle_minutes(ridden)
    needs = needs_of(now.scenario, now.at, now.electrics, now.scenario.variant.charging)
    riding = now.at.dark & now.at.riding
    return BreakEven(
        fixed=fixed,
        by_hub=by_hub,
        by_bank=by_bank,
        wanted=float((needs.loads * (now.at.lengths / 3600.0)[:, None]).sum()),
        dark=float(now.at.lengths[riding].sum()) / 3600.0,
        nights=int((np.diff(np.concatenate(([0], now.at.dark.astype(int)))) == 1).sum()),
    )


def _idle_minutes(ridden: Ridden) -> float:
    """Return what a hub costs that turns along and charges nothing. [min]"""
    speeds = ridden.way.profile.lengths / np.maximum(ridden.ride.times, 1e-6)
    return float((watt_minutes(ridden) * hub_drag(speeds, np.zeros(speeds.size))).sum())


def _mass_now(ridden: Ridden, now: Charging) -> float:
    """Return what banks, cells, charger and hub aboard weigh. [kg]"""
    named = {one.id for one in (*now.electrics.banks, *now.electrics.panels)}
    kinds = ("dynamo_charger", "light_battery", "shift_battery", "batteries")
    mine = [item for item in ridden.kit.items if item.id in named or item.kind in kinds]
    return sum(item.total_mass for item in mine) + (HUB_MASS if ridden.rig.bike.dynamo else 0.0)


def _bank_mass(size: float) -> float:
    return BANK_EMPTY + BANK_WH * size if size > 0.0 else 0.0
