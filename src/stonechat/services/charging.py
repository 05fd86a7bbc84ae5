"""Charge: the rule, what is compared, and what is told of batteries, lamps and leads."""

from dataclasses import dataclass, replace
from typing import Any
from uuid import UUID

from stonechat.core.charge.graph import Graph, graph_of
from stonechat.core.charge.lights import Lights
from stonechat.core.charge.nights import nights_of
from stonechat.core.charge.report import BatteryLine, Charge
from stonechat.core.charge.rule import ChargingRule
from stonechat.core.charge.sockets import Sockets, SocketStop
from stonechat.core.ledger.ridden import Ridden, part_of
from stonechat.core.plan.charging import Powered
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.power_prices import BreakEven, PowerWay, break_even, power_ways
from stonechat.core.plan.power_ways import LongerHalt, RuleCost, charging_of, watt_minutes
from stonechat.core.plan.scenario import DETOUR_SPEED, stay_at
from stonechat.errors import NotFound
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.kept import Kept
from stonechat.services.rhythm import set_rhythm
from stonechat.services.variant import change_variant
from stonechat.services.workspace import Workspace


@dataclass(frozen=True, kw_only=True)
class RulesCompared:
    """The rider's rule, the cheapest there is, and what no rule beats."""

    own: RuleCost
    best: RuleCost
    bound: float  # min


@dataclass(frozen=True, kw_only=True)
class LostLead:
    """What goes flat where one lead is lost."""

    name: str
    flat: tuple[str, ...]  # names of what goes flat that does not with it


_HALTS: Kept[tuple[LongerHalt, ...]] = Kept(32)
_RULES: Kept[RulesCompared] = Kept(32)
_PRICES: Kept[tuple[tuple[PowerWay, ...], BreakEven]] = Kept(32)


def set_rule(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, rule: ChargingRule) -> OpenPlan:
    """Charge by a rule."""
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="changed how is charged",
        change=lambda variant: replace(variant, charging=rule),
    )


def rules_compared(opened: OpenPlan, variant_id: str) -> RulesCompared:
    """Return the rider's rule beside the cheapest of all that are tried, and the bound."""

    def compared() -> RulesCompared:
        charging = charging_of(evaluated(opened, variant_id).ridden)
        return RulesCompared(own=charging.own, best=charging.best, bound=charging.bound)

    return _RULES.of((opened.content, variant_id), compared)


def longer_halts(opened: OpenPlan, variant_id: str) -> tuple[LongerHalt, ...]:
    """Return halts at sockets that save more than they take, if they are longer."""
    ridden = evaluated(opened, variant_id).ridden
    return _HALTS.of((opened.content, variant_id), lambda: charging_of(ridden).halts)


def take_best(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int) -> OpenPlan:
    """Charge by the cheapest rule."""
    rule = rules_compared(opened, variant_id).best.rule
    return set_rule(workspace, opened.id, variant_id, revision=revision, rule=rule)


def stay_longer(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, stop_id: str, minutes: float
) -> OpenPlan:
    """Stay longer at a stop."""
    stop = next((stop for stop in opened.plan.line.stops if stop.id == stop_id), None)
    if stop is None:
        raise NotFound("That stop is none of this plan any more. Load the page again.", subject=stop_id)
    stay = stay_at(stop, opened.plan.variant(variant_id)) - stop.detour / DETOUR_SPEED + 60.0 * minutes
    return set_rhythm(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label=f"stays {minutes:.0f} min longer at {stop.name}",
        change=lambda rhythm: replace(rhythm, stays={**rhythm.stays, stop_id: stay}),
    )


def prices_of(opened: OpenPlan, variant_id: str) -> tuple[tuple[PowerWay, ...], BreakEven]:
    """Return ways to have power side by side, and from where on a hub is cheaper than a bank."""
    ridden = evaluated(opened, variant_id).ridden
    return _PRICES.of((opened.content, variant_id), lambda: (power_ways(ridden), break_even(ridden)))


def lost_leads(ridden: Ridden) -> tuple[LostLead, ...]:
    """Try the loss of each lead: what goes flat then that does not with it."""
    powered = part_of(ridden.settled, Powered)
    charge = powered.charge
    flat = {line.thing.id for line in charge.flat}
    found = []
    for lead in dict.fromkeys((lead.id, lead.name) for lead in charge.electrics.leads):
        first = next(k for k, one in enumerate(charge.electrics.leads) if (one.id, one.name) == lead)
        left = tuple(one for k, one in enumerate(charge.electrics.leads) if k != first)
        then = powered.charged(replace(charge.electrics, leads=left, assumes_leads=False), charge.rule)
        names = tuple(line.thing.name for line in then.flat if line.thing.id not in flat)
        found.append(LostLead(name=lead[1], flat=names))
    return tuple(found)


def hub_minutes(ridden: Ridden) -> float:
    """Return what the hub costs as it is ridden. [min]"""
    return float((watt_minutes(ridden) * ridden.report(Charge).hub_drag).sum())


def charge_report(plan: Plan, variant_id: str) -> dict[str, Any]:
    """Return what becomes of every battery, what lights the dark, and which lead feeds what."""
    ridden = evaluate(plan, variant_id).ridden
    charge, lights = ridden.report(Charge), ridden.report(Lights)
    halted = sum(halt.length for halt in ridden.report(Sockets).halts)
    banks = sum(item.total_mass for item in ridden.kit.items if item.kind == "power_bank")
    return {
        "plan": plan.name,
        "variant": variant_id,
        "dark_h": charge.dark_hours,
        "light_h_of_its_own": charge.light_hours,
        "light_h_needed": lights.front_wanted,
        "light_h_lacking": lights.unlit,
        "second_lights": [
            {"name": lamp.name, "h": lamp.hours, "where": lamp.where, "at_hand": lamp.is_at_hand}
            for lamp in lights.seconds
        ],
        "stored_wh": charge.stored,
        "from_hub_wh": charge.hub,
        "sockets_could_give_wh": charge.wall,
        "taken_wh": float(charge.run.taken.sum()),
        "used_wh": charge.run.used,
        "lost_wh": charge.run.lost,
        "not_taken_wh": charge.hub_could - charge.hub + charge.wall - float(charge.run.taken[1]),
        "least_left_wh": charge.spare,
        "batteries": [_entry(line) for line in charge.lines],
        "nights": [
            {"dusk_km": night.distance / 1e3, "wanted_wh": night.wanted, "stored_wh": night.stored}
            for night in nights_of(charge)
        ],
        "sockets": [_socket(ridden, halt) for halt in ridden.report(Sockets).halts],
        "leads": _graph(graph_of(charge.electrics), named=not charge.electrics.assumes_leads),
        "minutes": {
            "hub": hub_minutes(ridden),
            "banks": ridden.ledger.prices.per_kg * banks,
            "at_sockets": halted / 60.0,
        },
        "labels_to_check": [bank.name for bank in charge.doubted],
    }


def _entry(line: BatteryLine) -> dict[str, Any]:
    hub, wall, sun, bank, cells = line.into
    return {
        "thing": line.thing.id,
        "name": line.thing.name,
        "role": line.thing.role,
        "capacity_wh": line.thing.capacity,
        "own_figure": line.thing.is_told,
        "lowest": line.lowest,
        "lowest_km": line.lowest_km / 1e3,
        "lowest_after_h": line.lowest_at / 3600.0,
        "at_the_finish": line.ends,
        "flat_km": None if line.flat_km is None else line.flat_km / 1e3,
        "flat_after_h": None if line.flat_at is None else line.flat_at / 3600.0,
        "lacks_wh": line.unmet,
        "used_wh": line.used,
        "waited_for_a_lead_h": line.waited,
        "in_wh": {"hub": hub, "sockets": wall, "sun": sun, "banks": bank, "cells": cells},
    }


def _socket(ridden: Ridden, halt: SocketStop) -> dict[str, Any]:
    return {
        "stop": ridden.way.stops[halt.stop].name,
        "km": halt.distance / 1e3,
        "h": halt.length / 3600.0,
        "in_wh": halt.taken,
        "order": [one.thing.name for one in halt.fillings if one.begins < halt.length],
        "not_full": [one.thing.name for one in halt.unfilled],
    }


def _graph(graph: Graph, *, named: bool) -> dict[str, Any]:
    return {
        "named": named,
        "no_source": graph.no_source,
        "feeds": [
            {"source": feed.source.name, "to": feed.device.name, "by": feed.by, "w": feed.power} for feed in graph.feeds
        ],
        "cannot_be_fed": [one.name for one in graph.unfed],
    }


def charge_sentences(report: dict[str, Any]) -> list[str]:
    """Return what the command line prints without `--json`."""
    told = [
        f"{report['dark_h']:.1f} h ridden in the dark; batteries hold {report['stored_wh']:.0f} Wh, sockets could give "
        f"{report['sockets_could_give_wh']:.0f}, the hub gave {report['from_hub_wh']:.0f} "
        f"for {report['minutes']['hub']:.0f} min"
    ]
    for entry in report["batteries"]:
        if entry["role"] == "spare":
            continue
        flat = (
            "never flat"
            if entry["flat_km"] is None
            else f"flat from km {entry['flat_km']:.0f}, lacks {entry['lacks_wh']:.0f} Wh"
        )
        told.append(f"{entry['name']}: {flat}; lowest {100.0 * entry['lowest']:.0f} % at km {entry['lowest_km']:.0f}")
    if report["leads"]["cannot_be_fed"]:
        told.append(f"no lead reaches: {', '.join(report['leads']['cannot_be_fed'])}")
    return told
