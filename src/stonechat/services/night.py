"""Night: who runs cold, reaches by the ladder, and what is told of nights and clothes."""

import math
from dataclasses import replace
from typing import Any
from uuid import UUID

from stonechat.core.kit.item import Item, Reaches
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.night.lacking import remedies_for, worst_spell
from stonechat.core.night.ladder import Change, Ladder, Piece
from stonechat.core.night.report import RestWarmth, Warmth, margin_words
from stonechat.core.night.riding import VALID_TO
from stonechat.core.night.sleep import BAND, CLO
from stonechat.core.plan.camp import CampStep, camp_order
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.warm_ways import WarmWay, lighter_for, ranked, resting, ways_for, wet_nights
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.evaluation import evaluated, previewed
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.kept import Kept
from stonechat.services.rhythm import set_rhythm
from stonechat.services.variant import change_variant
from stonechat.services.workspace import Workspace

_PRICED: Kept[tuple[WarmWay, ...]] = Kept(32)


def set_runs_cold(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, kelvin: float) -> OpenPlan:
    """Say by how much the air feels colder to this rider than to others."""
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="said how cold you run",
        change=lambda variant: replace(variant, rider=replace(variant.rider, runs_cold=kelvin)),
    )


def places_priced(opened: OpenPlan, variant_id: str, number: int) -> tuple[WarmWay, ...]:
    """Return the ways to sleep a rest warmer, other places and hours with what they cost: the race ridden so."""
    variant, ridden = opened.plan.variant(variant_id), evaluated(opened, variant_id).ridden
    return _PRICED.of(
        (opened.content, variant_id, number),
        lambda: ranked(_priced(opened, variant, ridden, way) for way in ways_for(ridden, _rest_named(ridden, number))),
    )


def _priced(opened: OpenPlan, variant: Variant, ridden: Ridden, way: WarmWay) -> WarmWay:
    if way.rest is None:
        return way
    start = ridden.timetable.clock.start_of_day
    other = replace(variant, rhythm=resting(variant.rhythm, start, way.rest))
    then = previewed(opened, other).ridden
    minutes = (then.ledger.finish - ridden.ledger.finish) / 60.0
    rests = [rest for rest in then.report(Warmth).rests if rest.night == way.rest.index]
    outside = [rest.margin for rest in rests if not rest.in_bed]
    if not rests:  # the hour it is then is not reached, or the finish is before it
        return replace(way, minutes=minutes)
    return replace(way, minutes=minutes, margin=min(outside) if outside else None)


def rest_elsewhere(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, number: int, stop: str, begins: float
) -> OpenPlan:
    """Take a rest at another place or hour."""
    ridden = evaluated(opened, variant_id).ridden
    ways = ways_for(ridden, _rest_named(ridden, number))
    rests = [way.rest for way in ways if way.rest is not None]
    found = next((rest for rest in rests if rest.stop == stop and abs(rest.begins - begins) < 60.0), None)
    if found is None:
        raise NotFound("That place is none for this rest any more. Load the page again.", subject=stop)
    start = ridden.timetable.clock.start_of_day
    return set_rhythm(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label=f"night {found.index + 1} elsewhere",
        change=lambda rhythm: resting(rhythm, start, found),
        says=frozenset({"nights"}),
    )


def _rest_named(ridden: Ridden, number: int) -> RestWarmth:
    rests = ridden.report(Warmth).rests
    if not 0 <= number < len(rests):
        raise NotFound("There is no such rest. Load the page again.", subject=str(number))
    return rests[number]


def count_reaches(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, item_id: str) -> OpenPlan:
    """Reach for a thing as often as the ladder changes it."""
    ridden = evaluated(opened, variant_id).ridden
    piece = next((piece for piece in ridden.report(Ladder).pieces if piece.garment.id == item_id), None)
    if piece is None:
        raise NotFound("That thing is no piece of the clothing ladder.", subject=item_id)
    if piece.garment.is_on and piece.changes == 0:
        raise InvalidInput(f"{piece.garment.name} is worn all the way: nobody reaches for it.")
    often = reaches_of(piece, ridden.ledger.prices.days)

    def change(plan: Plan) -> Plan:
        return replace(plan, items=tuple(_reached(item, often) if item.id == item_id else item for item in plan.items))

    return change_plan(
        workspace, opened.id, revision=revision, label=f"counted reaches of {piece.garment.name}", change=change
    )


def reaches_of(piece: Piece, days: float) -> float:
    """Return how often a day a piece is put on or taken off."""
    return piece.changes / max(days, 1e-9)


def _reached(item: Item, often: float) -> Item:
    return replace(item, reaches=Reaches(per_day=round(often, 2)))


def night_report(plan: Plan, variant_id: str) -> dict[str, Any]:
    """Return how warm every rest is, and what is worn when."""
    ridden = evaluate(plan, variant_id).ridden
    ladder = ridden.report(Ladder)
    lighter = lighter_for(ridden)
    rests = []
    for rest in ridden.report(Warmth).rests:
        told = _rest_entry(rest)
        if not rest.in_bed:
            evening, morning = camp_order(ridden, rest)
            told |= {
                "ways": [
                    {"words": w.words, "grams": w.grams, "minutes": w.minutes, "margin_k": w.margin}
                    for w in ways_for(ridden, rest)
                ],
                "wet": [{"words": w.words, "margin_k": w.margin} for w in wet_nights(rest)],
                "evening": [_camp_entry(step) for step in evening],
                "morning": [_camp_entry(step) for step in morning],
            }
        rests.append(told)
    return {
        "plan": plan.name,
        "variant": variant_id,
        "band_k": BAND,
        "rests": rests,
        "could_go": None
        if lighter is None
        else {"words": lighter.words, "grams": lighter.grams, "minutes": lighter.minutes},
        "worn": [_spell_entry(ladder, k) for k in range(ladder.spells.lengths.size)],
        "changes": [_change_entry(ladder, change) for change in ladder.changes],
        "pieces": [_piece_entry(piece, ladder, ridden.ledger.prices.days) for piece in ladder.pieces],
        "taken_for_granted": list(ladder.assumed),
        "spares": list(ladder.spares),
        "lacking": {zone: _lacking_entry(ladder, zone) for zone in ladder.zones},
    }


def _rest_entry(rest: RestWarmth) -> dict[str, Any]:
    told: dict[str, Any] = {
        "night": rest.night + 1,
        "km": rest.distance / 1000.0,
        "height_m": rest.height,
        "length_h": rest.length / 3600.0,
        "in_bed": rest.in_bed,
        "low_c": rest.low,
        "words": margin_words(rest),
    }
    if rest.in_bed:
        return told
    safe = not rest.is_danger
    return told | {
        "ground_c": rest.ground,
        "on_snow": rest.on_snow,
        "rain": rest.rain,
        "wind_m_s": rest.wind,
        "slept_in": list(rest.bedding.things),
        "usual_figures_for": list(rest.bedding.unsaid),
        "label_unclear_of": list(rest.bedding.unclear),
        "comfort_c": rest.comfort if safe else None,
        "limit_c": rest.limit if safe else None,
        "margin_k": rest.margin if safe else None,
        "hours_until_cold": rest.hours if safe and math.isfinite(rest.hours) else None,
        "danger": rest.is_danger,
    }


def _camp_entry(step: CampStep) -> dict[str, Any]:
    return {"words": step.words, "minutes": step.minutes, "things": [list(thing) for thing in step.things]}


def _spell_entry(ladder: Ladder, k: int) -> dict[str, Any]:
    spells = ladder.spells
    return {
        "km": spells.begins[k] / 1e3,
        "until_km": spells.ends[k] / 1e3,
        "clock_s": float(spells.clocks[k]),
        "minutes": spells.lengths[k] / 60.0,
        "kind": spells.kinds[k],
        "air_c": float(spells.going.temps[k]),
        "wet": bool(spells.wet[k]),
        "beyond_the_model": bool(spells.going.temps[k] > VALID_TO),
        "zones": {
            name: {
                "worn": [piece.name for piece in zone.outfits[int(zone.chosen[k])].pieces],
                "have_clo": zone.outfits[int(zone.chosen[k])].insulation / CLO,
                "need_clo": None if math.isnan(zone.needs[k]) else float(zone.needs[k]) / CLO,
                "margin_k": float(zone.margin[k]),
            }
            for name, zone in ladder.zones.items()
        },
    }


def _change_entry(ladder: Ladder, change: Change) -> dict[str, Any]:
    return {
        "km": ladder.spells.begins[change.spell] / 1e3,
        "on": [garment.name for garment in change.on],
        "off": [garment.name for garment in change.off],
    }


def _piece_entry(piece: Piece, ladder: Ladder, days: float) -> dict[str, Any]:
    return {
        "thing": piece.garment.id,
        "name": piece.garment.name,
        "zone": piece.garment.cut.zone,
        "clo": piece.garment.insulation / CLO,
        "own_figure": piece.garment.is_told,
        "hours_worn": piece.hours,
        "changes": piece.changes,
        "changes_a_day": reaches_of(piece, days),
        "only_answer_h": piece.only,
        "colder_without_k": piece.colder,
        "matters_most_km": ladder.spells.begins[piece.at] / 1e3,
        "needed": piece.hours > 0.0,
    }


def _lacking_entry(ladder: Ladder, zone: str) -> dict[str, Any] | None:
    spell = worst_spell(ladder, zone)
    margin = ladder.zones[zone].margin
    if float(margin[spell]) >= 0.0:
        return None
    return {
        "km": ladder.spells.begins[spell] / 1e3,
        "margin_k": float(margin[spell]),
        "hours": float(ladder.spells.lengths[margin < 0.0].sum() / 3600.0),
        "would_help": [
            {"kind": way.kind, "name": way.name, "grams": 1000.0 * way.mass, "margin_k": way.margin, "hours": way.hours}
            for way in remedies_for(ladder, zone, spell)
        ],
    }


def night_sentences(report: dict[str, Any]) -> list[str]:
    """Return what the command line prints without `--json`."""
    told = [f"Night {entry['night']}: {entry['words']}" for entry in report["rests"]]
    for change in report["changes"]:
        on, off = (", ".join(change[key]) for key in ("on", "off"))
        told.append(f"Km {change['km']:.0f}:" + (f" on {on}" if on else "") + (f" off {off}" if off else ""))
    for zone, entry in report["lacking"].items():
        if entry is not None:
            told.append(
                f"Too cold for {zone} at km {entry['km']:.0f}: {-entry['margin_k']:.0f} K, {entry['hours']:.1f} h"
            )
    return told
