"""What Load shows beside the bike: the price of every move, why a thing rides where it does, and rules of thumb."""

import math
from dataclasses import dataclass

from stonechat.core.checks.check import Check
from stonechat.core.kit.containers import contents_of
from stonechat.core.kit.item import Item
from stonechat.core.ledger.loaded import LegLoad
from stonechat.core.ledger.timetable import Leg
from stonechat.core.load.problem import PackingProblem, Prices, burden_minutes, mishap_minutes, wind_minutes
from stonechat.core.plan.features import all_checks
from stonechat.core.rig.carrier import Carrier
from stonechat.services.load.judging import PlaceReason, RuleOfThumb, reasons_for, rules_of_thumb
from stonechat.services.load.packing import problem_of
from stonechat.web.desk import Desk

_FELT = 0.05  # min, a cause that costs less is not told


@dataclass(frozen=True, kw_only=True)
class PriceRow:
    """A thing with what it would cost in each carrier."""

    item: Item
    here: str  # id of the carrier that it rides in
    cells: tuple[tuple[float, str], ...]  # min, and why not; in the order of the carriers
    why_address: str


@dataclass(frozen=True, kw_only=True)
class PricesView:
    """The price of every move."""

    carriers: tuple[Carrier, ...]
    rows: tuple[PriceRow, ...]


def prices_view(desk: Desk) -> PricesView:
    """Return minutes of every thing in every carrier."""
    problem = _problem(desk)
    places = desk.evaluation.ridden.kit.places
    at = problem.columns(places)
    beside = [problem.beside(i, at) for i in range(len(problem.items))]
    rows = [
        PriceRow(
            item=item,
            here=places.get(item.id, ""),
            cells=tuple(
                (float(beside[i][c]), _words(problem, i, c))
                for c, carrier in enumerate(problem.carriers)
                if "items" in carrier.takes
            ),
            why_address=desk.at(tab="why", open=item.id),
        )
        for i, item in enumerate(problem.items)
    ]
    shown = tuple(carrier for carrier in problem.carriers if "items" in carrier.takes)
    dearest = {carrier.id: c for c, carrier in enumerate(shown)}
    rows.sort(key=lambda row: -row.cells[dearest[row.here]][0] if row.here in dearest else -math.inf)
    return PricesView(carriers=shown, rows=tuple(rows))


@dataclass(frozen=True, kw_only=True)
class BalanceRow:
    """How the bike stands on one leg."""

    leg: Leg
    load: LegLoad
    lean: float  # °, positive to the left
    reaching: float  # min of getting at things, by riding time
    is_now: bool
    address: str


@dataclass(frozen=True, kw_only=True)
class BalanceView:
    """How the bike stands over the route."""

    rows: tuple[BalanceRow, ...]
    front_band: tuple[float, float]  # 1
    lean_most: float  # °
    sway_most: float  # kg·m
    steering_most: float  # kg·m²


def balance_view(desk: Desk) -> BalanceView:
    """Return axle shares, centre of gravity, lean, sway and steering of every leg."""
    ridden = desk.evaluation.ridden
    return BalanceView(
        rows=tuple(
            BalanceRow(
                leg=leg,
                load=load,
                lean=math.degrees(load.balance.lean),
                reaching=ridden.timetable.clock.reach_share * leg.moving / 60.0,
                is_now=leg.index == desk.leg,
                address=desk.at(tab="balance", leg=leg.index),
            )
            for leg, load in zip(ridden.timetable.legs, ridden.film, strict=True)
        ),
        front_band=(ridden.rig.bands.front_low, ridden.rig.bands.front_high),
        lean_most=math.degrees(ridden.rig.bands.lean),
        sway_most=ridden.rig.bands.sway,
        steering_most=ridden.rig.bands.steering,
    )


@dataclass(frozen=True, kw_only=True)
class ChecksView:
    """Every check with its switch."""

    checks: tuple[tuple[Check, bool], ...]  # and whether it is switched off
    check_address: str


def checks_view(desk: Desk) -> ChecksView:
    """Return every check, and which are switched off in this variant."""
    off = desk.variant.checks_off
    return ChecksView(
        checks=tuple((check, check.code in off) for check in all_checks()), check_address=desk.do("check-off")
    )


@dataclass(frozen=True, kw_only=True)
class WhyView:
    """Why a thing rides where it does."""

    item: Item
    here: str  # name of its carrier, or that it has none
    reasons: tuple[tuple[Carrier, PlaceReason, bool, tuple[tuple[str, float], ...]], ...]
    # carrier, reason, whether it is there now, and its minutes by cause
    cheaper: tuple[tuple[str, str], ...]  # cheaper places and what stands against them
    next_best: tuple[str, float] | None  # name, and minutes more
    pinned: bool
    move_address: str


def why_view(desk: Desk) -> WhyView:
    """Return what binds a thing, its next best place, and the price of every other."""
    found = reasons_for(desk.opened, desk.variant_id, desk.evaluation, desk.look.open)
    item, problem, reasons = found.item, found.problem, found.places
    by_id = {carrier.id: carrier for carrier in problem.carriers}
    parts = contents_of(desk.evaluation.ridden.kit.items).get(item.id, (item,))
    prices = desk.evaluation.ridden.ledger.prices
    here = desk.evaluation.ridden.kit.places.get(item.id, "")
    now = next((entry.minutes for entry in reasons if entry.carrier_id == here), math.inf)
    others = [entry for entry in reasons if entry.carrier_id != here and not entry.reason]
    best = min(others, key=lambda entry: entry.minutes, default=None)
    return WhyView(
        item=item,
        here=by_id[here].name if here in by_id else "no place yet",
        reasons=tuple(
            (by_id[e.carrier_id], e, e.carrier_id == here, _by_cause(e, parts, by_id[e.carrier_id], prices))
            for e in reasons
        ),
        cheaper=tuple((by_id[e.carrier_id].name, e.reason) for e in reasons if e.minutes < now and e.reason),
        next_best=(by_id[best.carrier_id].name, best.change) if best else None,
        pinned=item.id in problem.pins,
        move_address=desk.do("move"),
    )


def _by_cause(
    entry: PlaceReason, parts: tuple[Item, ...], carrier: Carrier, prices: Prices
) -> tuple[tuple[str, float], ...]:
    """Return the minutes of a thing in a carrier by cause, those that are felt, most first. [min]"""
    wind = wind_minutes(parts[0].total_volume, carrier, prices)
    body, mishap = burden_minutes(parts, carrier, prices), mishap_minutes(parts, carrier, prices)
    causes = (
        ("reaching", entry.minutes - wind - body - mishap),
        ("wind", wind),
        ("on the body", body),
        ("late or lost", mishap),
    )
    felt = [(name, minutes) for name, minutes in causes if abs(minutes) >= _FELT]
    return tuple(sorted(felt, key=lambda cause: -cause[1]))


@dataclass(frozen=True, kw_only=True)
class StartsView:
    """Rules of thumb as places to start from."""

    bound: float  # min that no packing can be under
    rows: tuple[RuleOfThumb, ...]
    now: RuleOfThumb
    take_address: str


def starts_view(desk: Desk) -> StartsView:
    """Return rules of thumb with how far each is from the best possible."""
    found = rules_of_thumb(desk.opened, desk.variant_id, desk.evaluation)
    return StartsView(bound=found.bound, rows=found.rules, now=found.now, take_address=desk.do("start-from"))


def _words(problem: PackingProblem, i: int, c: int) -> str:
    refusal = problem.refusals[i][c]
    return refusal.words if refusal else ""


def _problem(desk: Desk) -> PackingProblem:
    return problem_of(desk.opened, desk.variant_id, desk.evaluation)
