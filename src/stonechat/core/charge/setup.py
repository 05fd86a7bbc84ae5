"""Batteries, leads and a rule as the arrays with which they are run."""

from collections.abc import Sequence

import numpy as np

from stonechat.core.charge.plugs import Lead, Plug, reaches
from stonechat.core.charge.rule import ChargingRule
from stonechat.core.charge.run import NEVER_ENOUGH, Batteries, Orders, Setup, Wiring
from stonechat.core.charge.things import Electric, Electrics
from stonechat.core.numerics.arrays import BoolArray, IntArray


def setup_of(electrics: Electrics, rule: ChargingRule) -> Setup:
    """Return what is aboard and how it is charged, as it is run.

    Parameters
    ----------
    electrics : Electrics
        What is aboard.
    rule : ChargingRule
        The rule.

    Returns
    -------
    setup : Setup
        All batteries full.
    """
    return Setup(batteries_of(electrics), wiring_of(electrics, electrics.leads), orders_of(electrics, rule))


def batteries_of(electrics: Electrics) -> Batteries:
    """Return what holds energy, full.

    Parameters
    ----------
    electrics : Electrics
        What is aboard.

    Returns
    -------
    batteries : Batteries
        Devices by priority, then banks. [Wh]
    """
    every = electrics.batteries

    def of(name: str) -> np.ndarray:
        return np.array([float(getattr(one, name)) for one in every], dtype=np.float64)

    return Batteries(
        capacities=of("capacity"),
        levels=of("capacity"),
        takes=of("charge"),
        keeps=np.maximum(of("keeps"), 0.05),
        gives=of("gives"),
        ports=of("ports").astype(np.int64),
        passes=of("passes") > 0.5,
        while_on=of("while_on") > 0.5,
        counts=np.array([one.draws or one.role == "bank" for one in every], dtype=bool),
        cells=of("cells").astype(np.int64),
        cell_energy=of("cell_energy"),
        devices=len(electrics.devices),
    )


def wiring_of(electrics: Electrics, leads: Sequence[Lead]) -> Wiring:
    """Return which lead reaches which battery from where.

    Parameters
    ----------
    electrics : Electrics
        What is aboard.
    leads : sequence of Lead
        Cables and adapters; where leads are assumed each battery has one of its own.

    Returns
    -------
    wiring : Wiring
        By battery and lead.
    """
    every = electrics.batteries
    walls = [one.plug for one in electrics.walls]
    hub = [] if electrics.hub_charger is None else [electrics.hub_charger.plug]
    banks = [bank.plug for bank in electrics.banks]
    panels = [panel.plug for panel in electrics.panels]
    if electrics.assumes_leads:
        own = np.eye(len(every), dtype=bool)
        return Wiring(hub=own, wall=own, sun=own, bank=own, wall_ports=electrics.wall_ports)
    return Wiring(
        hub=_reached(every, leads, hub),
        wall=_reached(every, leads, walls),
        sun=_reached(every, leads, panels),
        bank=_reached(every, leads, banks),
        wall_ports=electrics.wall_ports,
    )


def _reached(every: Sequence[Electric], leads: Sequence[Lead], outlets: Sequence[Plug | None]) -> BoolArray:
    found = np.zeros((len(every), len(leads)), dtype=bool)
    for b, battery in enumerate(every):
        for outlet in outlets:
            if battery.plug is not None and outlet is not None:
                found[b] |= np.array(reaches(leads, outlet, battery.plug), dtype=bool)
    return found


def orders_of(electrics: Electrics, rule: ChargingRule) -> Orders:
    """Return a rule by numbers.

    Parameters
    ----------
    electrics : Electrics
        What is aboard.
    rule : ChargingRule
        The rule.

    Returns
    -------
    orders : Orders
        What is only spare is filled last.
    """
    every = electrics.batteries
    used = [k for k, one in enumerate(electrics.devices) if one.draws]
    spare = [k for k, one in enumerate(electrics.devices) if not one.draws]
    banks = list(range(len(electrics.devices), len(every)))
    return Orders(
        hub=_order([*banks, *used, *spare] if rule.hub == "bank" else [*used, *banks, *spare]),
        wall=_order([*banks, *used, *spare] if rule.sockets == "banks" else [*used, *banks, *spare]),
        emptiest=rule.sockets == "emptiest",
        low=rule.low,
        high=rule.high,
        at_rest=rule.at_rest,
        hub_below=rule.hub_below if rule.hub_when == "needed" else NEVER_ENOUGH,
    )


def _order(places: list[int]) -> IntArray:
    return np.array(places, dtype=np.int64)
