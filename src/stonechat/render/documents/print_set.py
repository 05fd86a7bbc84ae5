"""The cards that a rider chose, as one PDF, and its pages as pictures: the preview is the print itself."""

import io
from collections.abc import Mapping
from dataclasses import dataclass

import pypdfium2

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.printing import CARDS, PrintRule
from stonechat.render.documents.cards import PackedBag, PackingList, as_pdf, bar_strip, packing_list
from stonechat.render.documents.sheets import Sheet, emergency_sheet, sheets_of
from stonechat.render.documents.strips import StripSheets, strip_sheets, with_pieces
from stonechat.render.drawings.rig_side import RigScene, carrier_letters, rig_scene

_DPI = 80  # of the preview
MOST_PAGES = 80  # that are shown as pictures


@dataclass(frozen=True, kw_only=True)
class BagMap:
    """The bike with its bags by letter, from one stop on."""

    title: str
    scene: RigScene
    letters: Mapping[str, str]  # carrier to its letter
    bags: tuple[tuple[str, PackedBag], ...]  # letter, bag


@dataclass(frozen=True, kw_only=True)
class PrintSet:
    """All cards of one print."""

    plan: str
    variant: str
    rule: PrintRule
    strips: StripSheets | None
    maps: tuple[BagMap, ...]
    packing: PackingList | None
    sheets: tuple[Sheet, ...]
    first: str  # key of the first card, before which no page is turned


def print_set(plan: Plan, variant: Variant, ridden: Ridden) -> PrintSet:
    """Return the cards that a variant prints."""
    rule, wanted = variant.printing, variant.printing.cards
    sheets = list(sheets_of(plan, variant, ridden, wanted))
    if "emergency" in wanted and plan.emergency:
        sheets.append(emergency_sheet(plan.emergency))
    sheets.sort(key=lambda sheet: list(CARDS).index(sheet.key))
    maps = bag_maps(variant, ridden) if "bags" in wanted else ()
    there = [("strip", "strip" in wanted), ("bags", bool(maps)), ("packing", "packing" in wanted)]
    return PrintSet(
        plan=plan.name,
        variant=variant.name,
        rule=rule,
        strips=strip_sheets(bar_strip(plan.name, variant, ridden), rule) if "strip" in wanted else None,
        maps=maps,
        packing=packing_list(plan.name, variant, ridden) if "packing" in wanted else None,
        sheets=tuple(sheets),
        first=next((key for key, is_there in there if is_there), sheets[0].key if sheets else ""),
    )


def bag_maps(variant: Variant, ridden: Ridden) -> tuple[BagMap, ...]:
    """Return the bike with what is where: one map for the start, and one wherever things have moved."""
    letters = carrier_letters(variant.carriers)
    density = float(ridden.provisions.larder.bulk[0]) * 1000.0
    found, before = list[BagMap](), None
    for k, load in enumerate(ridden.film):
        places = {state.carrier.id: tuple(item.id for item in state.items) for state in load.carriers}
        if places == before:
            continue
        before, leg = places, ridden.timetable.legs[k]
        bags = tuple(
            (
                letters.get(state.carrier.id, "–"),
                PackedBag(name=state.carrier.name, items=state.items, water=state.water, food=state.food * density,
                          mass=state.mass),
            )
            for state in load.carriers
            if state.items or state.water > 0.0 or state.food * density > 10.0
        )  # fmt: skip
        title = "from the start" if k == 0 else f"from {leg.start_name}, {leg.start / 1e3:.0f} km"
        scene = rig_scene(variant.bike, variant.carriers, load, letters, variant.rider.mass)
        found.append(BagMap(title=title, scene=scene, letters=letters, bags=bags))
    return tuple(found)


def set_pdf(made: PrintSet) -> bytes:
    """Return the print as PDF."""
    also = [f"{row.name} {row.offers}" for row in made.strips.card.rows] if made.strips else []
    pdf = as_pdf("documents/print_set.html", made, also=also)
    return pdf if made.strips is None else with_pieces(pdf, made.strips, made.rule)


def page_count(pdf: bytes) -> int:
    """Return how many pages a print has."""
    with pypdfium2.PdfDocument(pdf) as document:
        return len(document)


def page_picture(pdf: bytes, number: int) -> bytes:
    """Return a page of a print as PNG, the first being 0; `IndexError` where there is none."""
    with pypdfium2.PdfDocument(pdf) as document:
        if not 0 <= number < len(document):
            raise IndexError(number)
        image = document[number].render(scale=_DPI / 72.0).to_pil().convert("L").quantize(16)  # greys are all there is
        out = io.BytesIO()
        image.save(out, "PNG", optimize=True)
        return out.getvalue()
