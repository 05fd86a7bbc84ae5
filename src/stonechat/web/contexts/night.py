"""What the Night room shows."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.checks.dressed import stretch_words
from stonechat.core.kit.reach import reaches_a_day
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.night.garments import ZONES
from stonechat.core.night.lacking import remedies_for, worst_spell
from stonechat.core.night.ladder import Ladder, Piece
from stonechat.core.night.report import RestWarmth, Warmth, cold_words, margin_words
from stonechat.core.night.riding import VALID_TO, wind_chill
from stonechat.core.night.sleep import BAND, CLO
from stonechat.core.plan.camp import CampStep, camp_order
from stonechat.core.plan.dressing import skin_area
from stonechat.core.plan.sky import clock_after
from stonechat.core.plan.warm_ways import Lighter, WarmWay, Wetness, lighter_for, ways_for, wet_nights
from stonechat.render.drawings.dressed_line import DressedLine, dressed_line
from stonechat.render.drawings.sleeper import SleeperView, sleeper
from stonechat.render.filters import clock, distance_km, kelvin, mass_g, temperature
from stonechat.services.night import places_priced, reaches_of
from stonechat.text import listed
from stonechat.web.contexts.window import Window, window
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm
from stonechat.web.forms.night import ColdForm

NIGHT, PLACES = "night", "places"  # tabs of a rest that is open by its number; with other places priced
STRETCH = "stretch"  # the tab of a stretch that is open by its number
_FAR = -10.0  # K too cold, below which no figure is told
_UNLIKE = 0.5  # reaches a day by which the ladder and the kit may differ


@dataclass(frozen=True, kw_only=True)
class RestRow:
    """One rest."""

    name: str
    where: str
    low: float  # °C
    limit: str
    words: str
    state: str  # cold, tight, warm, bed
    address: str
    is_open: bool


@dataclass(frozen=True, kw_only=True)
class WayRow:
    """One way to sleep warmer."""

    way: WarmWay
    address: str  # of the button that takes it; empty: it is for the kit
    values: dict[str, str]


@dataclass(frozen=True, kw_only=True)
class OpenRest:
    """A rest that is open."""

    name: str
    sentence: str
    picture: SleeperView
    ways: tuple[WayRow, ...]
    price_address: str  # to ride other places; empty where that is done
    wet: tuple[Wetness, ...]
    evening: tuple[CampStep, ...]
    morning: tuple[CampStep, ...]
    evening_minutes: float
    is_danger: bool
    unsaid: str
    unclear: str


@dataclass(frozen=True, kw_only=True)
class ChangeRow:
    """What is put on and taken off at a place."""

    km: float  # m
    when: str
    words: str
    on: str
    off: str
    is_halt: bool
    is_here: bool  # on the current leg
    address: str  # of the zones there


@dataclass(frozen=True, kw_only=True)
class PieceRow:
    """One garment."""

    name: str
    zone: str
    warmth: str  # in clo over its zone, and whether that is its own figure
    hours: float  # h
    changes: int
    a_day: float
    said: str  # what the kit says of its reaches where that differs much
    only: str
    rides: str  # where it rides when off
    state: str  # only, worn, never
    address: str  # of the button that counts its reaches so; empty where that is so already
    kit_address: str


@dataclass(frozen=True, kw_only=True)
class ZoneRow:
    """How warm a zone is on its coldest stretch."""

    name: str
    margin: str
    where: str
    worn: str
    hours: float  # h too cold
    helps: str
    state: str


@dataclass(frozen=True, kw_only=True)
class OpenStretch:
    """A stretch that is open: why that is worn there."""

    name: str
    sentence: str
    rows: tuple[tuple[str, str, str, str, str], ...]  # zone, worn, have, need, margin


@dataclass(frozen=True, kw_only=True)
class NightView:
    """The Night room."""

    headline: str
    rests: tuple[RestRow, ...]
    rest: OpenRest | None
    stretch: OpenStretch | None
    lighter: Lighter | None
    pictures: tuple[tuple[str, DressedLine], ...]
    zones: tuple[ZoneRow, ...]
    changes: Window[ChangeRow]
    count: int
    a_day: float
    pieces: tuple[PieceRow, ...]
    assumed: str
    is_empty: bool
    cold: BoundForm[ColdForm]
    cold_address: str
    close_address: str
    rhythm_address: str
    kit_address: str


def night_view(desk: Desk) -> NightView:
    """Return what the Night room shows."""
    ridden = desk.evaluation.ridden
    ladder, warmth = ridden.report(Ladder), ridden.report(Warmth)
    days = max(ridden.ledger.prices.days, 1e-9)
    rows = tuple(_change_row(desk, ridden, k) for k in range(len(ladder.changes)))
    here = next((k for k, row in enumerate(rows) if row.is_here), 0)
    return NightView(
        headline=_headline(ridden),
        rests=tuple(_rest_row(desk, k, rest) for k, rest in enumerate(warmth.rests)),
        rest=_open_rest(desk, warmth),
        stretch=_open_stretch(desk, ladder),
        lighter=lighter_for(ridden),
        pictures=(
            ("wide", dressed_line(ridden, leg=desk.leg)),
            ("narrow", dressed_line(ridden, leg=desk.leg, narrow=True)),
        ),
        zones=tuple(_zone_row(ladder, zone) for zone in ZONES),
        changes=window(desk, rows, here),
        count=len(rows),
        a_day=len(rows) / days,
        pieces=tuple(_piece_row(desk, ridden, piece) for piece in sorted(ladder.pieces, key=_order)),
        assumed=listed(ladder.assumed, 6),
        is_empty=not ridden.kit.items,
        cold=desk.form("cold", ColdForm, {"kelvin": desk.variant.rider.runs_cold}),
        cold_address=desk.do("night-cold"),
        close_address=desk.at(),
        rhythm_address=desk.at("rhythm"),
        kit_address=desk.at("kit"),
    )


def _order(piece: Piece) -> tuple[int, float]:
    return ZONES.index(piece.garment.cut.zone), -piece.hours


def _headline(ridden: Ridden) -> str:
    outside = ridden.report(Warmth).outside
    ladder = ridden.report(Ladder)
    k = int(np.argmin(ladder.spells.going.temps))
    riding = f"Riding down to {temperature(float(ladder.spells.going.temps[k]))}"
    if not ridden.report(Warmth).rests:
        return f"{riding}, no night"
    if not outside:
        return f"{riding}, every night in a bed"
    worst = min(outside, key=lambda rest: rest.margin)
    return f"{riding}; night {worst.night + 1} {'is' if worst.is_danger else 'has'} {_short(worst)}"


def _short(rest: RestWarmth) -> str:
    if rest.is_danger:
        return "far too cold"
    return f"{abs(rest.margin):.0f} K {'to spare' if rest.margin >= 0.0 else 'too little'}"


def _state(margin: float) -> str:
    return "cold" if margin < 0.0 else "tight" if margin < BAND else "warm"


def _rest_row(desk: Desk, number: int, rest: RestWarmth) -> RestRow:
    length = f"{rest.length / 3600.0:.1f} h"
    return RestRow(
        name=f"Night {rest.night + 1}",
        where=f"{distance_km(rest.distance)}, {rest.height:.0f} m, {length}",
        low=rest.low,
        limit="" if rest.in_bed or rest.is_danger else f"{temperature(rest.comfort)} / {temperature(rest.limit)}",
        words=margin_words(rest),
        state="bed" if rest.in_bed else _state(rest.margin),
        address=desk.at() if _is_open(desk, number) else desk.at(tab=NIGHT, open=str(number)),
        is_open=_is_open(desk, number),
    )


def _is_open(desk: Desk, number: int) -> bool:
    return desk.look.tab in (NIGHT, PLACES) and desk.look.open == str(number)


def _open_rest(desk: Desk, warmth: Warmth) -> OpenRest | None:
    ridden = desk.evaluation.ridden
    found = [(k, rest) for k, rest in enumerate(warmth.rests) if _is_open(desk, k) and not rest.in_bed]
    if not found:
        return None
    number, rest = found[0]
    priced = desk.look.tab == PLACES
    ways = places_priced(desk.opened, desk.variant_id, number) if priced else ways_for(ridden, rest)
    evening, morning = camp_order(ridden, rest)
    sentence = (
        f"Down to {temperature(rest.low)} at {rest.height:.0f} m, ground {temperature(rest.ground)}"
        f"{' (taken for snow)' if rest.on_snow else ''}, in "
        f"{listed(rest.bedding.things, 8) or 'what you ride in'}: {margin_words(rest)}."
    )
    if not rest.is_danger and rest.margin < 0.0:
        sentence += f" {cold_words(rest)}"
    if rest.damp.each > 0.0:
        sentence += " It may rain, and nothing keeps rain off what you sleep in: that is counted."
    return OpenRest(
        name=f"Night {rest.night + 1}, {distance_km(rest.distance)}",
        sentence=sentence,
        picture=sleeper(rest, skin_area(ridden.body.mass, ridden.body.height)),
        ways=tuple(_way_row(desk, number, way) for way in ways),
        price_address="" if priced else desk.at(tab=PLACES, open=str(number)),
        wet=wet_nights(rest),
        evening=evening,
        morning=morning,
        evening_minutes=sum(step.minutes for step in evening),
        is_danger=rest.is_danger,
        unsaid=listed(rest.bedding.unsaid, 4),
        unclear=listed(rest.bedding.unclear, 3),
    )


def _way_row(desk: Desk, number: int, way: WarmWay) -> WayRow:
    if way.rest is None:
        return WayRow(way=way, address="", values={})
    values = {"stop": way.rest.stop, "begins": f"{way.rest.begins:.0f}"}
    return WayRow(way=way, address=desk.do("night-rest", str(number)), values=values)


def _open_stretch(desk: Desk, ladder: Ladder) -> OpenStretch | None:
    number, spells = desk.look.open, ladder.spells
    if desk.look.tab != STRETCH or not number.isdecimal() or int(number) >= spells.lengths.size:
        return None
    k = int(number)
    going = spells.going
    rows = []
    for name, zone in ladder.zones.items():
        outfit, need = zone.outfits[int(zone.chosen[k])], float(zone.needs[k])
        worn = listed([piece.name for piece in outfit.pieces], 8) or "nothing"
        have = f"{outfit.insulation / CLO:.2f} clo"
        asks = "skin 15 °C" if np.isnan(need) else f"{need / CLO:.2f} clo"
        rows.append((name, worn, have, asks, kelvin(float(zone.margin[k]))))
    felt = wind_chill(going.temps[k : k + 1], going.speeds[k : k + 1])
    beyond = " Above 10 °C the model is extrapolated." if float(going.temps[k]) > VALID_TO else ""
    return OpenStretch(
        name=f"From {distance_km(float(spells.begins[k]))} to {distance_km(float(spells.ends[k]))}",
        sentence=f"{stretch_words(ladder, k)}: felt as {temperature(float(felt[0]))}, "
        f"{float(going.heats[k]):.0f} W/m² of heat made.{beyond}",
        rows=tuple(rows),
    )


def _zone_row(ladder: Ladder, zone: str) -> ZoneRow:
    spell, entry = worst_spell(ladder, zone), ladder.zones[zone]
    margin = float(entry.margin[spell])
    cold = float(ladder.spells.lengths[entry.margin < 0.0].sum() / 3600.0)
    helps = remedies_for(ladder, zone, spell) if margin < 0.0 else ()
    return ZoneRow(
        name=zone,
        margin="far too cold" if margin < _FAR else kelvin(margin),
        where=stretch_words(ladder, spell),
        worn=listed([piece.name for piece in entry.outfits[int(entry.chosen[spell])].pieces], 6) or "nothing",
        hours=cold,
        helps=listed([f"{way.name} ({mass_g(way.mass)})" for way in helps], 3),
        state=_state(margin),
    )


def _change_row(desk: Desk, ridden: Ridden, k: int) -> ChangeRow:
    ladder = ridden.report(Ladder)
    change, spells = ladder.changes[k], ladder.spells
    at = float(spells.begins[change.spell])
    leg = ridden.timetable.legs[desk.leg]
    return ChangeRow(
        km=at,
        when=clock(clock_after(ridden, float(spells.clocks[change.spell]))),
        words=_stretch(ladder, change.spell),
        on=listed([garment.name for garment in change.on], 8),
        off=listed([garment.name for garment in change.off], 8),
        is_halt=bool(spells.halts[change.spell]),
        is_here=leg.start <= at < leg.end,
        address=desk.at(tab=STRETCH, open=str(change.spell)),
    )


def _stretch(ladder: Ladder, spell: int) -> str:
    spells = ladder.spells
    kind = {"descent": "descent", "on foot": "on foot"}.get(spells.kinds[spell], "riding")
    return f"{kind}, {temperature(float(spells.going.temps[spell]))}" + (", wet day" if spells.wet[spell] else "")


def _piece_row(desk: Desk, ridden: Ridden, piece: Piece) -> PieceRow:
    garment, days = piece.garment, ridden.ledger.prices.days
    item = next((item for item in ridden.kit.items if item.id == garment.id), None)
    bags = {carrier.id: carrier.name for carrier in ridden.rig.carriers}
    often = reaches_of(piece, days)
    said = None if item is None or garment.is_on else reaches_a_day(item, ridden.ledger.prices.often)
    unlike = said is not None and abs(said - often) >= _UNLIKE and piece.hours > 0.0
    where = distance_km(float(ridden.report(Ladder).spells.begins[piece.at]))
    only = f"only answer {piece.only:.1f} h, most at {where}" if piece.only > 0.05 and not garment.is_on else ""
    return PieceRow(
        name=garment.name,
        zone=garment.cut.zone,
        warmth=f"{garment.insulation / CLO:.2f} clo" + ("" if garment.is_told else " (usual)"),
        hours=piece.hours,
        changes=piece.changes,
        a_day=often,
        said=f"the kit says {said:.1f}" if unlike and said is not None else "",
        only=only,
        rides="" if item is None else "worn" if garment.is_on else bags.get(ridden.kit.places.get(item.id, ""), ""),
        state="never" if piece.hours <= 0.0 else "only" if only else "worn",
        address=desk.do("night-reaches", garment.id) if unlike else "",
        kit_address="" if item is None else desk.at("kit", open=garment.id),
    )
