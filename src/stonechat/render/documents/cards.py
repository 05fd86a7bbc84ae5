"""The packing list and the bar strip: what they say, and as PDF."""

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from functools import cache
from importlib import resources

from weasyprint import CSS, HTML
from weasyprint.text.fonts import FontConfiguration

from stonechat.core.kit.bands import mass_band
from stonechat.core.kit.item import Item
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import OFFERS
from stonechat.core.plan.countdown import Task
from stonechat.core.plan.plan import Variant
from stonechat.core.supply.carry import Levels
from stonechat.render.documents import faces
from stonechat.render.environment import environment
from stonechat.render.filters import clock, time_of_day


@dataclass(frozen=True, kw_only=True)
class PackedBag:
    """A carrier on the packing list."""

    name: str
    items: tuple[Item, ...]
    water: float  # l at the start
    food: float  # kcal at the start
    mass: float  # kg


@dataclass(frozen=True, kw_only=True)
class PackingList:
    """Everything that goes along, by where it rides."""

    plan: str
    variant: str
    start: str
    bags: tuple[PackedBag, ...]
    worn: tuple[Item, ...]
    fixed: tuple[Item, ...]
    loose: tuple[Item, ...]
    mass: float  # kg of things, food and water
    band: float  # kg, of things not weighed


@dataclass(frozen=True, kw_only=True)
class StripRow:
    """A stop on the bar strip."""

    name: str
    km: float
    leg_km: float
    climb: float  # m
    when: str
    hours: float  # s of the leg
    offers: str
    leave_water: float | None  # l, where bottles are filled
    leave_food: float | None  # kcal
    must: bool
    shut: bool
    dark: bool
    cut_off: str  # clock by which it must be reached, empty where there is none
    rest: float  # s rested there
    passed: bool = False  # whether it is ridden past


@dataclass(frozen=True, kw_only=True)
class BarStrip:
    """The stops in riding order."""

    plan: str
    variant: str
    start: str
    leave_water: float  # l
    leave_food: float  # kcal
    rows: tuple[StripRow, ...]


_SHORT = {
    "water": "water", "doubtful_water": "treat water", "meal": "meal", "shop": "shop", "bed": "bed",
    "socket": "socket", "bike_shop": "bike shop",
}  # fmt: skip


def packing_list(plan: str, variant: Variant, ridden: Ridden) -> PackingList:
    """Return the packing list of a variant as it stands at the start."""
    load = ridden.film[0]
    density = float(ridden.provisions.larder.bulk[0]) * 1000.0
    bags = tuple(
        PackedBag(
            name=state.carrier.name,
            items=state.items,
            water=state.water,
            food=state.food * density,
            mass=state.mass,
        )
        for state in load.carriers
    )
    worn = tuple(item for item in ridden.kit.items if item.worn)
    fixed = tuple(item for item in ridden.kit.items if item.in_spot)
    return PackingList(
        plan=plan,
        variant=variant.name,
        start=f"{ridden.way.start:%a %d %b %Y}, {time_of_day(ridden.way.start)}",
        bags=bags,
        worn=worn,
        fixed=fixed,
        loose=ridden.unplaced,
        mass=sum(bag.mass for bag in bags) + sum(item.total_mass for item in (*worn, *fixed)),
        band=mass_band(ridden.kit.items),
    )


def _leave_with(levels: Levels, leg: int) -> float | None:
    """Return what a leg begins with where it can be had there."""
    return float(levels.leaving[leg]) if levels.refilled[leg] else None


def bar_strip(plan: str, variant: Variant, ridden: Ridden) -> BarStrip:
    """Return the stops with what to leave each with."""
    must = ridden.provisions.must
    rows = []
    for k, (visit, leg) in enumerate(zip(ridden.timetable.visits, ridden.timetable.legs, strict=True), start=1):
        is_last = k == len(ridden.timetable.legs)
        offers = visit.stop.offers if visit.stop else frozenset()
        rows.append(
            StripRow(
                name=visit.name,
                km=visit.distance / 1000.0,
                leg_km=(leg.end - leg.start) / 1000.0,
                climb=leg.ascent,
                when=clock(visit.arrives),
                hours=leg.elapsed,
                offers=", ".join(_SHORT[key] for key in OFFERS if key in offers and key in _SHORT),
                leave_water=None if is_last else _leave_with(ridden.provisions.water, k),
                leave_food=None if is_last else _leave_with(ridden.provisions.eaten, k),
                must=not is_last and bool(must[k]),
                shut=visit.is_shut,
                passed=visit.passed,
                dark=visit.dark,
                cut_off="" if visit.margin is None else clock(visit.arrives + timedelta(seconds=visit.margin)),
                rest=visit.rested,
            )
        )
    return BarStrip(
        plan=plan,
        variant=variant.name,
        start=clock(ridden.way.start),
        leave_water=float(ridden.provisions.water.leaving[0]),
        leave_food=float(ridden.provisions.eaten.leaving[0]),
        rows=tuple(rows),
    )


_MISSING = "documents/_missing.html"
_MOST_MISSING = 12  # named one by one


@cache
def _style() -> tuple[CSS, FontConfiguration]:
    fonts = FontConfiguration()
    folder = resources.files("stonechat.render").joinpath("templates/documents")
    text = folder.joinpath("print.css").read_text("utf-8")
    for name in ("figures", "text"):
        text = text.replace(name.upper(), f'"{name}", "{name}-ext", {faces.others()}')
    with resources.as_file(faces.FOLDER) as path:
        return CSS(string=f"{faces.style()}\n{text}", base_url=f"{path.as_uri()}/", font_config=fonts), fonts


def packing_pdf(listed: PackingList) -> bytes:
    """Return the packing list as PDF."""
    return _pdf("documents/packing_list.html", listed)


def strip_pdf(strip: BarStrip) -> bytes:
    """Return the bar strip as PDF, in columns that are cut out and taped to the bars."""
    return _pdf("documents/bar_strip.html", strip, columns=_columns(strip.rows))


@dataclass(frozen=True, kw_only=True)
class CountdownCard:
    """What to do before the start."""

    plan: str
    variant: str
    start: str
    tasks: tuple[Task, ...]


def countdown_pdf(plan: str, variant: Variant, tasks: tuple[Task, ...]) -> bytes:
    """Return the countdown as PDF, with boxes to tick."""
    start = f"{variant.rhythm.start:%a %d %b %Y}, {time_of_day(variant.rhythm.start)}"
    return _pdf("documents/countdown.html", CountdownCard(plan=plan, variant=variant.name, start=start, tasks=tasks))


def _columns(rows: Sequence[StripRow], per_strip: int = 9) -> list[Sequence[StripRow]]:
    return [rows[k : k + per_strip] for k in range(0, len(rows), per_strip)]


def _pdf(template: str, card: object, **more: object) -> bytes:
    style, fonts = _style()
    html = environment().get_template(template).render(card=card, **more)
    unknown = faces.missing([html])
    if unknown:
        told = [(f"U+{ord(mark):04X}", unicodedata.name(mark, "").lower()) for mark in unknown[:_MOST_MISSING]]
        note = environment().get_template(_MISSING).render(marks=told, more=len(unknown) - len(told))
        html = html.replace("</body>", f"{note}</body>")
    written: bytes = HTML(string=html, url_fetcher=_no_fetch).write_pdf(stylesheets=[style], font_config=fonts)
    return written


def _no_fetch(url: str, *_: object, **__: object) -> dict[str, object]:
    """Refuse to fetch anything: a card needs nothing but its own fonts, which its style sheet brings."""
    raise ValueError(f"a card fetches nothing, not {url}")
