"""The packing list and the bar strip: what they say, and how a card becomes a PDF."""

import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from functools import lru_cache
from importlib import resources
from typing import TYPE_CHECKING

from stonechat.core.kit.bands import mass_band
from stonechat.core.kit.item import Item
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.ledger.timetable import Visit
from stonechat.core.line.stops import OFFERS
from stonechat.core.plan.countdown import Task
from stonechat.core.plan.plan import Variant
from stonechat.core.plan.sky import clock_after
from stonechat.core.supply.carry import Levels
from stonechat.render.documents import faces
from stonechat.render.environment import environment
from stonechat.render.filters import clock, duration, kcal, litres_of_water, time_of_day

if TYPE_CHECKING:
    from weasyprint import CSS
    from weasyprint.text.fonts import FontConfiguration


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
    door: str  # until when its door is open then, or when it opens; empty where its hours are not known
    cut_off: str  # clock by which it must be reached, empty where there is none
    rest: float  # s rested there
    passed: bool = False  # whether it is ridden past

    @property
    def said(self) -> list[str]:
        """What is said of it beside place and clock."""
        told = ["shut" if self.shut else "", self.door, f"by {self.cut_off}" if self.cut_off else ""]
        told += [f"rest {duration(self.rest)}" if self.rest else "", "ride past" if self.passed else self.offers]
        return [words for words in told if words]

    @property
    def leaves(self) -> list[str]:
        """What one leaves it with."""
        water = [] if self.leave_water is None else [litres_of_water(self.leave_water)]
        return water + ([] if self.leave_food is None else [kcal(self.leave_food)])


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
                door=_door(visit, ridden, k - 1),
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


def _door(visit: Visit, ridden: Ridden, place: int) -> str:
    """Return until when a door is open on arrival, or when it opens next."""
    doors, midnight = ridden.timetable.clock.doors, ridden.timetable.clock.start_of_day
    if visit.stop is None or not doors.known[place]:
        return ""
    first, last = int(doors.first[place]), int(doors.first[place + 1])
    then = visit.elapsed + midnight
    for opens, shuts in zip(doors.opens[first:last].tolist(), doors.shuts[first:last].tolist(), strict=True):
        if opens <= then < shuts:
            left = shuts - then
            return "" if left > _ALL_DAY else f"till {time_of_day(clock_after(ridden, shuts - midnight))}"
        if opens > then:
            return f"opens {clock(clock_after(ridden, opens - midnight))}"
    return ""


_ALL_DAY = 86_400.0  # s; a door that is open for longer needs no word
_MISSING = "documents/_missing.html"
_MOST_MISSING = 12  # named one by one


@lru_cache(8)
def _style(names: tuple[str, ...]) -> "tuple[CSS, FontConfiguration]":
    from weasyprint import CSS
    from weasyprint.text.fonts import FontConfiguration

    fonts = FontConfiguration()
    folder = resources.files("stonechat.render").joinpath("templates/documents")
    text = folder.joinpath("print.css").read_text("utf-8")
    for name in ("figures", "text"):
        text = text.replace(name.upper(), f'"{name}", "{name}-ext"{faces.others(names)}')
    with resources.as_file(faces.FOLDER) as path:
        return CSS(string=f"{faces.style(names)}\n{text}", base_url=f"{path.as_uri()}/", font_config=fonts), fonts


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
    return as_pdf("documents/countdown.html", CountdownCard(plan=plan, variant=variant.name, start=start, tasks=tasks))


def as_pdf(template: str, card: object, *, tells: bool = True, also: Sequence[str] = ()) -> bytes:
    """Return a card as PDF; what no face holds, of it and of what is printed with it, is told at its end."""
    from weasyprint import HTML  # read when something is printed: half a second of every start

    html = environment().get_template(template).render(card=card)
    unknown = faces.missing([html, *also]) if tells else ""
    if unknown:
        told = [(f"U+{ord(mark):04X}", unicodedata.name(mark, "").lower()) for mark in unknown[:_MOST_MISSING]]
        note = environment().get_template(_MISSING).render(marks=told, more=len(unknown) - len(told))
        html = html.replace("</body>", f"{note}</body>")
    style, fonts = _style(faces.needed([html]))
    written: bytes = HTML(string=html, url_fetcher=_no_fetch).write_pdf(stylesheets=[style], font_config=fonts)
    return written


def _no_fetch(url: str, *_: object, **__: object) -> dict[str, object]:
    """Refuse to fetch anything: a card needs nothing but its own fonts, which its style sheet brings."""
    raise ValueError(f"a card fetches nothing, not {url}")
