"""Changes of the line: its course, surfaces, ground, stops, weather and the rules of the race."""

from collections.abc import Callable
from dataclasses import replace
from datetime import date, datetime
from uuid import UUID

import numpy as np

from stonechat.core.line.profile import Cleaning
from stonechat.core.line.race_rules import RaceRules
from stonechat.core.line.stops import DAY, Stop
from stonechat.core.line.surface import (
    SURFACE_INDEX,
    SURFACES,
    TYRES,
    GroundFigures,
    SurfaceSpan,
    paint_surface,
)
from stonechat.core.line.track import distances_of, reversed_track, trimmed_track
from stonechat.core.line.weather import DayWeather, Weather
from stonechat.core.plan.plan import START, Line, Plan
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.kit_csv import item_id
from stonechat.formats.line_csv import read_stops, read_surfaces, read_weather
from stonechat.outside.weather import Place
from stonechat.services.evaluation import cleaned_profile, evaluated
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.variant import without
from stonechat.services.workspace import Workspace

# words of the page's address that no stop may be called
RESERVED = frozenset({START, "finish"})
_SPARE_DAYS = 3  # of weather beyond the race


def _change_line(
    workspace: Workspace, plan_id: UUID, *, revision: int, label: str, change: Callable[[Line], Line]
) -> OpenPlan:
    return change_plan(
        workspace,
        plan_id,
        revision=revision,
        label=label,
        change=lambda plan: replace(plan, line=change(plan.line)),
    )


def stop_named(plan: Plan, wanted: str) -> Stop:
    """Return a stop by its id."""
    for stop in plan.line.stops:
        if stop.id == wanted:
            return stop
    raise NotFound(f"There is no stop “{wanted[:60]}” on this line.", subject=wanted)


def _in_order(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    return tuple(sorted(stops, key=lambda stop: stop.distance))


def set_stop(workspace: Workspace, plan_id: UUID, *, revision: int, stop: Stop, length: float) -> OpenPlan:
    """Change a stop, or add it where its id is empty."""
    if not 0.0 < stop.distance < length:
        raise InvalidInput(
            f"{stop.distance / 1000:g} km is not on the course, which is {length / 1000:.1f} km long.",
            subject="distance_km",
        )

    def change(line: Line) -> Line:
        if stop.id:
            return replace(line, stops=_in_order(tuple(stop if old.id == stop.id else old for old in line.stops)))
        new = replace(stop, id=item_id(stop.name, {old.id for old in line.stops} | RESERVED))
        return replace(line, stops=_in_order((*line.stops, new)))

    label = f"changed {stop.name}" if stop.id else f"added {stop.name}"
    return _change_line(workspace, plan_id, revision=revision, label=label, change=change)


def drop_stop(workspace: Workspace, opened: OpenPlan, *, revision: int, stop_id: str) -> OpenPlan:
    """Take a stop off the line; what variants set for it goes too."""
    name = stop_named(opened.plan, stop_id).name

    def change(plan: Plan) -> Plan:
        return _without_stops(plan, {stop_id})

    return change_plan(workspace, opened.id, revision=revision, label=f"took {name} off the line", change=change)


def _without_stops(plan: Plan, gone: set[str]) -> Plan:
    """Return a plan without some stops, and without what its variants set for them."""
    variants = []
    for variant in plan.variants:
        rhythm, supply = variant.rhythm, variant.supply
        rhythm = replace(
            rhythm,
            sleep_at=without(rhythm.sleep_at, gone),
            stays=without(rhythm.stays, gone),
        )
        supply = replace(
            supply,
            water_by_stop=without(supply.water_by_stop, gone),
            food_by_stop=without(supply.food_by_stop, gone),
        )
        variants.append(replace(variant, rhythm=rhythm, supply=supply))
    stops = tuple(stop for stop in plan.line.stops if stop.id not in gone)
    return replace(plan, line=replace(plan.line, stops=stops), variants=tuple(variants))


def use_stop(workspace: Workspace, opened: OpenPlan, *, revision: int, stop_id: str) -> OpenPlan:
    """Use a stop, or pass it by."""
    found = stop_named(opened.plan, stop_id)
    stop = replace(found, used=not found.used)
    return _change_line(
        workspace,
        opened.id,
        revision=revision,
        label=f"{'use' if stop.used else 'pass by'} {stop.name}",
        change=lambda line: replace(line, stops=tuple(stop if old.id == stop.id else old for old in line.stops)),
    )


def import_stops(workspace: Workspace, opened: OpenPlan, *, revision: int, data: bytes, mode: str) -> OpenPlan:
    """Bring stops in from CSV: `replace` all, or `add` them, those of a known name taking its place."""
    profile = cleaned_profile(opened.plan, opened.course_hash)
    known = opened.plan.line.stops
    came = _recognised(read_stops(data, profile, taken=RESERVED | {stop.id for stop in known}), known)
    ids = {stop.id for stop in came}
    kept = () if mode == "replace" else tuple(stop for stop in known if stop.id not in ids)
    ids |= {stop.id for stop in kept}

    def change(plan: Plan) -> Plan:
        rest = _without_stops(plan, {stop.id for stop in plan.line.stops} - ids)
        return replace(rest, line=replace(rest.line, stops=_in_order((*kept, *came))))

    return change_plan(workspace, opened.id, revision=revision, label=f"brought {len(came)} stops in", change=change)


def _recognised(came: tuple[Stop, ...], known: tuple[Stop, ...]) -> tuple[Stop, ...]:
    """Return stops with the ids of those known ones that they are: of the same name, the nearest, each once."""
    free: dict[str, list[Stop]] = {}
    for stop in known:
        free.setdefault(stop.name, []).append(stop)
    found = []
    for stop in came:
        alike = free.get(stop.name)
        if not alike:
            found.append(stop)
            continue
        nearest = min(alike, key=lambda old: abs(old.distance - stop.distance))
        alike.remove(nearest)
        found.append(replace(stop, id=nearest.id))
    return tuple(found)


def set_cleaning(workspace: Workspace, plan_id: UUID, *, revision: int, cleaning: Cleaning, surface: str) -> OpenPlan:
    """Set how heights are cleaned, and the surface where none is marked."""
    return _change_line(
        workspace,
        plan_id,
        revision=revision,
        label="cleaned the course anew",
        change=lambda line: replace(line, cleaning=cleaning, default_surface=surface),
    )


def paint_course(
    workspace: Workspace, plan_id: UUID, *, revision: int, start: float, end: float, surface: str
) -> OpenPlan:
    """Paint a surface over a stretch of the course; an empty surface takes the paint off."""
    if surface and surface not in SURFACE_INDEX:
        raise InvalidInput(f"“{surface[:30]}” is no surface. Choose one from the list.", subject="surface")
    name = SURFACES[SURFACE_INDEX[surface]].name if surface else "no paint"
    return _change_line(
        workspace,
        plan_id,
        revision=revision,
        label=f"{name} from km {start / 1000:.1f} to {end / 1000:.1f}",
        change=lambda line: replace(line, spans=paint_surface(line.spans, start=start, end=end, surface=surface)),
    )


def import_surfaces(workspace: Workspace, opened: OpenPlan, *, revision: int, data: bytes) -> OpenPlan:
    """Paint all spans of a CSV table over the course."""
    came = read_surfaces(data, cleaned_profile(opened.plan, opened.course_hash).length)

    def change(line: Line) -> Line:
        spans = line.spans
        for span in came:
            spans = paint_surface(spans, start=span.start, end=span.end, surface=span.surface)
        return replace(line, spans=spans)

    label = f"painted {len(came)} stretches"
    return _change_line(workspace, opened.id, revision=revision, label=label, change=change)


def set_ground(
    workspace: Workspace, plan_id: UUID, *, revision: int, tyre: str, ground: tuple[GroundFigures, ...]
) -> OpenPlan:
    """Set what the rider knows better of the surfaces under one tyre."""
    return _change_line(
        workspace,
        plan_id,
        revision=revision,
        label="set the ground's figures",
        change=lambda line: replace(line, ground=(*(entry for entry in line.ground if entry.tyre != tyre), *ground)),
    )


def set_tyre(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, tyre: str) -> OpenPlan:
    """Ride a variant on another tyre."""

    def change(plan: Plan) -> Plan:
        variant = plan.variant(variant_id)
        return plan.with_variant(replace(variant, bike=replace(variant.bike, tyre=tyre)))

    return change_plan(workspace, plan_id, revision=revision, label=f"tyres: {TYRES[tyre]}", change=change)


def set_weather(
    workspace: Workspace, plan_id: UUID, *, revision: int, weather: Weather, label: str = "set the weather"
) -> OpenPlan:
    """Set the weather of the race."""
    return _change_line(
        workspace, plan_id, revision=revision, label=label, change=lambda line: replace(line, weather=weather)
    )


def _race_days(opened: OpenPlan, variant_id: str) -> tuple[date, int]:
    """Return the first day of a variant's race, and for how many days weather is wanted."""
    ridden = evaluated(opened, variant_id).ridden
    return ridden.way.start.date(), int(ridden.ledger.finish // DAY) + _SPARE_DAYS


def import_weather(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, data: bytes) -> OpenPlan:
    """Bring the weather by day in from CSV."""
    first, _ = _race_days(opened, variant_id)
    return _with_days(workspace, opened, revision, read_weather(data, first), "your own table")


def ask_weather(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, asked: date) -> OpenPlan:
    """Ask the weather service for the days of the race, as known on a day."""
    first, count = _race_days(opened, variant_id)
    profile = cleaned_profile(opened.plan, opened.course_hash)
    place = Place(
        latitude=float(np.median(profile.latitudes)),
        longitude=float(np.median(profile.longitudes)),
        height=opened.plan.line.weather.reference_height,
    )
    reports = workspace.weather.daily(place, first, count, asked)
    kinds = {report.kind for report in reports}
    words = " and ".join(kind for kind in ("observed", "forecast", "usual") if kind in kinds)
    days = tuple(report.weather for report in reports)
    return _with_days(
        workspace, opened, revision, days, f"weather service (simulated), asked on {asked:%d %B %Y}: {words}"
    )


def _with_days(
    workspace: Workspace, opened: OpenPlan, revision: int, days: tuple[DayWeather, ...], source: str
) -> OpenPlan:
    weather = replace(opened.plan.line.weather, days=days, source=source)
    label = f"weather from {source.split(':')[0]}"
    return set_weather(workspace, opened.id, revision=revision, weather=weather, label=label)


def set_rules(workspace: Workspace, plan_id: UUID, *, revision: int, rules: RaceRules) -> OpenPlan:
    """Set the rules of the race."""
    return change_plan(
        workspace,
        plan_id,
        revision=revision,
        label="set the rules of the race",
        change=lambda plan: replace(plan, rules=rules),
    )


def refuse_early_cutoff(opened: OpenPlan, variant_id: str, cutoff: datetime | None) -> None:
    """Refuse a cut-off that lies before the start."""
    start = opened.plan.variant(variant_id).rhythm.start
    if cutoff is not None and cutoff <= start:
        raise InvalidInput(
            f"The cut-off {cutoff:%a %d %B %Y %H:%M} is past before the start on {start:%a %d %B %Y at %H:%M}.",
            subject="cutoff",
        )


def reverse_course(workspace: Workspace, opened: OpenPlan, *, revision: int) -> OpenPlan:
    """Turn the course round, with all that lies on it."""
    profile = cleaned_profile(opened.plan, opened.course_hash)

    def change(plan: Plan) -> Plan:
        line, length = plan.line, profile.length
        stops = tuple(replace(stop, distance=round(length - stop.distance, 3)) for stop in line.stops)
        spans = tuple(
            replace(span, start=round(length - span.end, 3), end=round(length - span.start, 3)) for span in line.spans
        )
        turned = replace(line, track=reversed_track(line.track), stops=_in_order(stops), spans=tuple(reversed(spans)))
        return replace(plan, line=turned)

    return change_plan(workspace, opened.id, revision=revision, label="turned the course round", change=change)


def trim_course(workspace: Workspace, opened: OpenPlan, *, revision: int, start: float, end: float) -> OpenPlan:
    """Cut the course off before and behind; stops and surfaces that lie there go with it."""
    length = float(distances_of(opened.plan.line.track)[-1])
    if not 0.0 <= start < end <= length + 1.0:
        raise InvalidInput(
            f"Keep a stretch between 0 and {length / 1000:.1f} km that begins before it ends.", subject="end_km"
        )

    def change(plan: Plan) -> Plan:
        gone = {stop.id for stop in plan.line.stops if not start < stop.distance < end}
        rest = _without_stops(plan, gone)
        stops = tuple(replace(stop, distance=round(stop.distance - start, 3)) for stop in rest.line.stops)
        spans = tuple(
            SurfaceSpan(
                start=round(max(span.start, start) - start, 3),
                end=round(min(span.end, end) - start, 3),
                surface=span.surface,
            )
            for span in rest.line.spans
            if span.end > start and span.start < end
        )
        line = replace(rest.line, track=trimmed_track(rest.line.track, start, end), stops=stops, spans=spans)
        return replace(rest, line=line)

    label = f"kept km {start / 1000:.1f} to {end / 1000:.1f}"
    return change_plan(workspace, opened.id, revision=revision, label=label, change=change)
