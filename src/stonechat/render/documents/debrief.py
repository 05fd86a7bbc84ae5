"""The debrief as a report to keep and to share: where the time went, what became of things, what to change."""

import math
from dataclasses import dataclass

from stonechat.core.diary.debrief import FATES, USES, Debrief
from stonechat.core.diary.notes import KINDS
from stonechat.core.diary.rides import CAUSES, FIGURES
from stonechat.core.diary.trail import NIGHT, Trail, at_stops, stands
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.sky import clock_after
from stonechat.render.documents.cards import as_pdf
from stonechat.render.filters import clock, distance_km, duration, minutes_signed

_UNUSED, _MOST_NOTES = "no", 60


@dataclass(frozen=True, kw_only=True)
class Report:
    """What the report prints."""

    plan: str
    variant: str
    start: str
    planned: str
    causes: tuple[tuple[str, str, str, str], ...]  # cause, planned, in truth, apart
    groups: tuple[tuple[str, tuple[str, ...]], ...]  # heading, things
    bags: tuple[str, ...]
    figures: tuple[str, ...]
    stops: tuple[tuple[str, str], ...]  # name and km, when and how long
    nights: tuple[tuple[str, str], ...]  # km, from when and how long
    bought: tuple[tuple[str, str], ...]  # km, what
    notes: tuple[tuple[str, str], ...]  # km, words
    debrief: Debrief


def debrief_report(plan: Plan, variant: Variant, ridden: Ridden) -> Report:
    """Return the report of a race."""
    debrief, race = variant.debrief, variant.race
    names = {carrier.id: carrier.name for carrier in variant.carriers}
    trail = race.trail.later((race.start - ridden.way.start).total_seconds()) if race is not None else Trail()
    return Report(
        plan=plan.name,
        variant=variant.name,
        start=f"{ridden.way.start:%a %d %b %Y}",
        planned=duration(ridden.ledger.finish),
        causes=tuple(
            (CAUSES[key], duration(planned), duration(was), minutes_signed((was - planned) / 60.0))
            for key, (planned, was) in (race.time_by if race is not None else {}).items()
        ),
        groups=_groups(plan, variant),
        bags=tuple(
            f"{names.get(key, key)}: {'full' if one.state == 'full' else 'too small'}"
            + (f" on day {one.day}" if one.day else "")
            for key, one in debrief.bags.items()
            if one.state in ("full", "over")
        ),
        figures=tuple(
            f"{FIGURES[key][0]} {told.value:.{FIGURES[key][1]}f} {FIGURES[key][2]} "
            f"({told.low:.{FIGURES[key][1]}f} to {told.high:.{FIGURES[key][1]}f})"
            for ride in variant.rides
            for key, told in ride.figures.items()
        ),
        stops=_stops(ridden, trail),
        nights=tuple(
            (distance_km(stand.distance), f"from {clock(clock_after(ridden, stand.begins))}, {duration(stand.length)}")
            for stand in stands(trail)
            if stand.length >= NIGHT
        ),
        bought=tuple(
            (distance_km(note.distance), note.text) for note in variant.diary if note.kind == "bought" and note.text
        ),
        notes=tuple(
            (distance_km(note.distance), f"{KINDS[note.kind]}{f': {note.text}' if note.text else ''}")
            for note in sorted(variant.diary, key=lambda note: note.distance)[:_MOST_NOTES]
        ),
        debrief=debrief,
    )


def _stops(ridden: Ridden, trail: Trail) -> tuple[tuple[str, str], ...]:
    """Return the stops as they really were, as far as the trail goes."""
    if trail.is_empty:
        return ()
    visits = ridden.timetable.visits
    stays = [(visit.leaves - visit.arrives).total_seconds() for visit in visits]
    found = at_stops(trail, [visit.distance for visit in visits], [visit.elapsed for visit in visits], stays)
    return tuple(
        (
            f"{visit.name}, {distance_km(visit.distance)}",
            f"{clock(clock_after(ridden, was.reached))} ({minutes_signed((was.reached - was.planned) / 60.0)})"
            + (f", stayed {duration(was.stayed)}, planned {duration(was.stay_planned)}" if was.stayed >= 60.0 else ""),
        )
        for visit, was in zip(visits, found, strict=True)
        if not math.isnan(was.reached)
    )


def _groups(plan: Plan, variant: Variant) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Return what became of things, by heading; of what did not come home as it was also where it rode."""
    names, bags = {item.id: item.name for item in plan.items}, {bag.id: bag.name for bag in variant.carriers}
    sat = {key: f"{name} ({bags[place]})" for key, name in names.items() if (place := variant.places.get(key)) in bags}
    said = {key: one for key, one in variant.debrief.things.items() if key in names}
    groups = [
        (FATES[fate], [sat.get(key, names[key]) for key, one in said.items() if one.fate == fate])
        for fate in FATES
        if fate
    ]
    groups += [(USES[use], [names[key] for key, one in said.items() if one.use == use]) for use in USES if use]
    return tuple((title, tuple(sorted(things))) for title, things in groups if things)


def debrief_pdf(report: Report) -> bytes:
    """Return the report as PDF."""
    return as_pdf("documents/debrief.html", report)
