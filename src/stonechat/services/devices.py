"""Files for devices on the bars, for calendars and for other programs: the plan as ridden, by the clock."""

import csv
import io
from collections.abc import Iterator
from datetime import datetime

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.ledger.timetable import Visit
from stonechat.core.line.profile import place_on
from stonechat.core.line.stops import FOOD_OFFERS, OFFERS, WATER_OFFERS
from stonechat.core.night.lacking import cold_descents
from stonechat.core.night.ladder import Ladder
from stonechat.core.night.report import degrees
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.sky import clock_after
from stonechat.formats import line_csv
from stonechat.formats.device_course import Appointment, Cue, DeviceCourse
from stonechat.formats.hours import hours_text
from stonechat.formats.kit_csv import write_kit_rows
from stonechat.formats.table_file import write_book
from stonechat.text import listed

_NIGHT = 1800.0  # s, a shorter rest is no entry of its own


def device_course(plan: Plan, ridden: Ridden) -> DeviceCourse:
    """Return the course by the clock, with the stops that are used."""
    profile, clocks = ridden.way.profile, ridden.ride.clocks
    return DeviceCourse(
        name=plan.name,
        start=ridden.way.start,
        distances=profile.distances,
        latitudes=profile.latitudes,
        longitudes=profile.longitudes,
        heights=profile.heights,
        elapsed=clocks,
        cues=tuple(sorted((*_stop_cues(ridden), *_cold_cues(ridden)), key=lambda cue: cue.distance)),
    )


def _cold_cues(ridden: Ridden) -> Iterator[Cue]:
    """Yield a warning before descents on which hands would be too cold to brake in what is planned."""
    if not ridden.kit.items:
        return
    for one in cold_descents(ridden.report(Ladder)):
        latitude, longitude = place_on(ridden.way.profile, one.begins)
        ways = "a descent" if one.count == 1 else f"{one.count} descents"
        yield Cue(
            name="Cold hands",
            kind="danger",
            words=(
                f"{ways} to {one.ends / 1e3:.0f} km, down to {degrees(one.coldest)}: hands {-one.margin:.0f} K too "
                "cold in what is planned. Put on all you have before it, and stop to warm them."
            ),
            distance=one.begins,
            elapsed=one.clock,
            latitude=latitude,
            longitude=longitude,
        )


def _stop_cues(ridden: Ridden) -> Iterator[Cue]:
    profile, must = ridden.way.profile, ridden.provisions.must
    for k, visit in enumerate(ridden.timetable.visits[:-1], start=1):
        latitude, longitude = place_on(profile, visit.distance)
        yield Cue(
            name=("! " if must[k] else "") + visit.name,
            kind=_kind(visit, is_must=bool(must[k])),
            words=stop_words(ridden, k),
            distance=visit.distance,
            elapsed=visit.elapsed,
            latitude=latitude,
            longitude=longitude,
        )


def _kind(visit: Visit, *, is_must: bool) -> str:
    offers = visit.stop.offers if visit.stop else frozenset()
    if is_must and offers & WATER_OFFERS:
        return "water"
    if offers & FOOD_OFFERS:
        return "food"
    if offers & WATER_OFFERS:
        return "water"
    return "first_aid" if "pharmacy" in offers else "generic"


def stop_words(ridden: Ridden, node: int) -> str:
    """Return what is to be known at a stop: when, what it offers, hours, what to leave with."""
    visit, provided = ridden.timetable.visits[node - 1], ridden.provisions
    parts = [f"{visit.arrives:%a %H:%M}"]
    if provided.must[node]:
        parts.append("not to be missed")
    if visit.passed:
        parts.append("ride past")
    if visit.is_shut:
        parts.append("shut then")
    stop = visit.stop
    if stop is not None:
        parts += [listed([OFFERS[key] for key in OFFERS if key in stop.offers], 8)] if stop.offers else []
        parts += [f"open {hours_text(stop.hours)}"] if stop.hours is not None else []
    if provided.water.refilled[node]:
        parts.append(f"leave with {float(provided.water.leaving[node]):.1f} l")
    if provided.food.refilled[node]:
        parts.append(f"{float(provided.eaten.leaving[node]):.0f} kcal")
    if stop is not None and stop.note:
        parts.append(stop.note)
    return "; ".join(parts)


def appointments(plan: Plan, variant: Variant, ridden: Ridden) -> tuple[Appointment, ...]:
    """Return the timetable as entries of a calendar: start, stops, nights, cut-offs, finish."""
    key = f"{variant.id}-{ridden.way.start:%Y%m%d}"
    made = [_entry(f"{key}-start", f"{plan.name}: start", "", ridden.way.start, ridden.way.start)]
    for k, visit in enumerate(ridden.timetable.visits, start=1):
        is_last = visit.stop is None
        words = "" if is_last else stop_words(ridden, k)
        title = f"{plan.name}: finish" if is_last else f"{visit.distance / 1e3:.0f} km {visit.name}"
        made.append(_entry(f"{key}-{k}", title, words, visit.arrives, visit.leaves))
        if visit.margin is not None:
            cut = clock_after(ridden, visit.elapsed + visit.margin)
            spare = f"{visit.margin / 3600.0:.1f} h to spare"
            made.append(_entry(f"{key}-{k}-cut", f"Cut-off {visit.name}", spare, cut, cut))
    ride = ridden.ride
    for k in np.flatnonzero(ride.rests >= _NIGHT).tolist():
        ends = float(ride.clocks[k])
        begins, at = ends - float(ride.rests[k]), float(ridden.way.profile.distances[k])
        title = f"Rest at {at / 1e3:.0f} km"
        made.append(_entry(f"{key}-rest-{k}", title, "", clock_after(ridden, begins), clock_after(ridden, ends)))
    return tuple(sorted(made, key=lambda entry: entry.begins))


def _entry(key: str, title: str, words: str, begins: datetime, ends: datetime) -> Appointment:
    return Appointment(key=key, title=title, words=words, begins=begins, ends=ends)


def all_tables(plan: Plan, ridden: Ridden) -> bytes:
    """Return every table as one XLSX workbook."""
    line = plan.line
    tables = {
        "timetable": line_csv.write_timetable(ridden),
        "stops": line_csv.write_stops(line.stops),
        "surfaces": line_csv.write_surfaces(line.spans),
        "weather": line_csv.write_weather(line.weather.days, ridden.way.start.date()),
        "profile": line_csv.write_profile(ridden.way.profile),
        "kit": write_kit_rows(plan.items),
    }
    return write_book({name: _cells(data) for name, data in tables.items()})


def _cells(data: bytes) -> list[list[object]]:
    """Return the cells of a CSV table, figures as figures."""
    return [[_figure(cell) for cell in row] for row in csv.reader(io.StringIO(data.decode("utf-8-sig")))]


def _figure(cell: str) -> object:
    try:
        return float(cell)
    except ValueError:
        return cell
