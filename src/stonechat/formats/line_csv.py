"""What lies on the line, as CSV: stops, surfaces, heights, weather, the profile and the timetable."""

import re
from collections.abc import Callable, Mapping
from datetime import date, datetime, timedelta
from typing import TypeVar

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.profile import Profile, distance_along
from stonechat.core.line.stops import KINDS, OFFERS, Stop, guess_kind
from stonechat.core.line.surface import SURFACES, SurfaceSpan
from stonechat.core.line.weather import DayWeather
from stonechat.core.numerics.arrays import FloatArray
from stonechat.errors import InvalidInput, UnreadableFile
from stonechat.formats.course_file import FARTHEST
from stonechat.formats.csv_table import Row, cell, choice_cell, flag_cell, number_cell, read_table, write_table
from stonechat.formats.hours import doors_text, hours_text, parse_doors, parse_hours
from stonechat.formats.kit_csv import item_id
from stonechat.units import km_from_m, kmh_from_ms, l_from_m3, m_from_km, min_from_s, ms_from_kmh, s_from_min

T = TypeVar("T")
STOP_COLUMNS = (
    "name", "km", "lat", "lon", "kind", "offers", "hours", "hours_by", "stay_min", "detour_km", "used",
    "confidence_pct", "cutoff", "box_l", "box_kg", "note",
)  # fmt: skip
SURFACE_COLUMNS = ("from_km", "to_km", "surface")
HEIGHT_COLUMNS = ("km", "height_m")
WEATHER_COLUMNS = ("date", "low_c", "high_c", "wind_kmh", "wind_from_deg", "humidity_pct", "rain_mm")
_NAMES_TO_OFFERS = {name: key for key, name in OFFERS.items()} | {key: key for key in OFFERS}
_NAMES_TO_SURFACES = {s.name: s.key for s in SURFACES} | {s.key: s.key for s in SURFACES}
_NAMES_TO_KINDS = {kind.name: key for key, kind in KINDS.items()} | {key: key for key in KINDS}


def read_stops(data: bytes, profile: Profile, *, taken: frozenset[str] = frozenset()) -> tuple[Stop, ...]:
    """Return the stops of a CSV table, each at its kilometre or where the course passes its place."""
    ids = set(taken)
    rows = read_table(data, columns=STOP_COLUMNS, needed=("name",), most_rows=1_000)
    found = [_stop(number, row, profile, ids) for number, row in rows]
    return tuple(sorted(found, key=lambda stop: stop.distance))


def _stop(number: int, row: Row, profile: Profile, ids: set[str]) -> Stop:
    name = cell(row, "name")[:60]
    if not name:
        raise UnreadableFile(f"Row {number}: the name is missing.", subject="name")
    distance, offset = _place(number, row, profile, name)
    detour = number_cell(number, row, "detour_km", unit="km", limit="detour", factor=1e-3, default=2e-3 * offset)
    offers = _offers(number, row)
    kind = cell(row, "kind").lower()
    if kind and kind not in _NAMES_TO_KINDS:
        raise UnreadableFile(f"Row {number}, column kind: “{kind[:20]}” is not one of {', '.join(KINDS)}.")
    stay = cell(row, "stay_min")
    confidence = number_cell(number, row, "confidence_pct", unit="%", limit="share", factor=100.0, default=90.0)
    return Stop(
        id=item_id(name, ids),
        name=name,
        distance=distance,
        offers=offers,
        hours=_hours(number, row, "hours", parse_hours),
        hours_by=_hours(number, row, "hours_by", parse_doors),
        box_volume=_optional(number, row, "box_l", unit="l", limit="box_volume", factor=1e3),
        box_mass=_optional(number, row, "box_kg", unit="kg", limit="box_mass"),
        kind=_NAMES_TO_KINDS[kind] if kind else guess_kind(offers),
        dwell=s_from_min(number_cell(number, row, "stay_min", unit="min", limit="dwell", factor=1 / 60))
        if stay
        else None,
        detour=m_from_km(round(detour, 3)),
        used=flag_cell(number, row, "used", default=True),
        confidence=round(confidence / 100.0, 9),
        cutoff=_cutoff(number, row),
        note=cell(row, "note")[:300],
    )


def _place(number: int, row: Row, profile: Profile, name: str) -> tuple[float, float]:
    """Return distance along and off the course. [m, m]"""
    if cell(row, "km"):
        distance = m_from_km(number_cell(number, row, "km", unit="km", limit="distance", factor=1e-3))
        if not 0.0 < distance < profile.length:
            raise UnreadableFile(
                f"Row {number}, column km: {name} at {distance / 1000:.1f} km is not on the course, which is "
                f"{profile.length / 1000:.1f} km long.",
                subject="km",
            )
        return distance, 0.0
    latitude = number_cell(number, row, "lat", unit="°", limit="latitude")
    longitude = number_cell(number, row, "lon", unit="°", limit="longitude")
    distance, offset = distance_along(profile, latitude, longitude)
    if offset > FARTHEST:
        raise UnreadableFile(
            f"Row {number}: {name} lies {offset / 1000:.1f} km off the course; {FARTHEST / 1000:.0f} km is the most. "
            "Check lat and lon, or give its km.",
            subject="lat",
        )
    distance = min(max(distance, 1.0), profile.length - 1.0)
    return distance, offset if offset > 100.0 else 0.0


def _offers(number: int, row: Row) -> frozenset[str]:
    words = [word.strip().lower() for word in re.split(r"[,;/|+]", cell(row, "offers")) if word.strip()]
    for word in words:
        if word not in _NAMES_TO_OFFERS:
            raise UnreadableFile(
                f"Row {number}, column offers: “{word[:20]}” is not one of {', '.join(OFFERS)}.", subject="offers"
            )
    return frozenset(_NAMES_TO_OFFERS[word] for word in words)


def _hours(number: int, row: Row, column: str, parse: Callable[[str], T]) -> T:
    try:
        return parse(cell(row, column))
    except InvalidInput as exc:
        raise UnreadableFile(f"Row {number}, column {column}: {exc.message}", subject=column) from exc


def _optional(number: int, row: Row, column: str, *, unit: str, limit: str, factor: float = 1.0) -> float | None:
    """Return a figure in the house unit, None where the cell is empty."""
    if not cell(row, column):
        return None
    return number_cell(number, row, column, unit=unit, limit=limit, factor=factor) / factor


def _cutoff(number: int, row: Row) -> datetime | None:
    text = cell(row, "cutoff")
    if not text:
        return None
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        moment = None
    if moment is None or moment.tzinfo is not None:
        raise UnreadableFile(
            f"Row {number}, column cutoff: “{text[:20]}” is no local time. Write it as 2027-09-26T18:00.",
            subject="cutoff",
        )
    return moment


def write_stops(stops: tuple[Stop, ...]) -> bytes:
    """Return stops as CSV; reading it again gives the same stops."""
    return write_table(STOP_COLUMNS, (_cells(stop) for stop in stops))


def _cells(stop: Stop) -> tuple[object, ...]:
    values: dict[str, object] = {
        "name": stop.name,
        "km": km_from_m(stop.distance),
        "kind": stop.kind,
        "offers": ", ".join(sorted(stop.offers)),
        "hours": hours_text(stop.hours),
        "hours_by": doors_text(stop.hours_by),
        "stay_min": "" if stop.dwell is None else min_from_s(stop.dwell),
        "detour_km": km_from_m(stop.detour),
        "used": "yes" if stop.used else "no",
        "confidence_pct": stop.confidence * 100.0,
        "cutoff": "" if stop.cutoff is None else stop.cutoff.isoformat(timespec="minutes"),
        "box_l": "" if stop.box_volume is None else l_from_m3(stop.box_volume),
        "box_kg": "" if stop.box_mass is None else stop.box_mass,
        "note": stop.note,
    }
    return tuple(values.get(column, "") for column in STOP_COLUMNS)


def read_surfaces(data: bytes, length: float) -> tuple[SurfaceSpan, ...]:
    """Return the surface spans of a CSV table; one past the finish is refused."""
    spans = []
    for number, row in read_table(data, columns=SURFACE_COLUMNS, needed=SURFACE_COLUMNS, most_rows=2_000):
        start, end = (
            m_from_km(number_cell(number, row, column, unit="km", limit="distance", factor=1e-3))
            for column in ("from_km", "to_km")
        )
        if end <= start:
            raise UnreadableFile(f"Row {number}: the stretch ends before it begins. Swap the two figures.")
        if end > length + 1.0:
            raise UnreadableFile(
                f"Row {number}, column to_km: {end / 1000:g} km is past the finish at {length / 1000:.1f} km.",
                subject="to_km",
            )
        key = choice_cell(number, row, "surface", _NAMES_TO_SURFACES)
        spans.append(SurfaceSpan(start=start, end=end, surface=_NAMES_TO_SURFACES[key]))
    return tuple(spans)


def write_surfaces(spans: tuple[SurfaceSpan, ...]) -> bytes:
    """Return surface spans as CSV."""
    return write_table(SURFACE_COLUMNS, ((km_from_m(s.start), km_from_m(s.end), s.surface) for s in spans))


def read_heights(data: bytes) -> FloatArray:
    """Return rows of distance and height [m] of a CSV table, in order of distance."""
    rows = [
        (
            1000.0 * number_cell(number, row, "km", unit="km", limit="distance", factor=1e-3),
            number_cell(number, row, "height_m", unit="m", limit="height"),
        )
        for number, row in read_table(data, columns=HEIGHT_COLUMNS, needed=HEIGHT_COLUMNS, most_rows=150_000)
    ]
    if len(rows) < 2:
        raise UnreadableFile("The table of heights needs at least two rows: one at the start, one at the finish.")
    table = np.array(rows)
    backwards = np.flatnonzero(np.diff(table[:, 0]) <= 0.0)
    if backwards.size:
        raise UnreadableFile(
            f"Row {int(backwards[0]) + 3}: its km is not greater than that of the row before. Sort the table by km."
        )
    return table


def read_weather(data: bytes, first: date) -> tuple[DayWeather, ...]:
    """Return the days of a CSV table from the race's first day on; days before it are left out."""
    days: dict[date, DayWeather] = {}
    dated = False
    for number, row in read_table(data, columns=WEATHER_COLUMNS, needed=("low_c", "high_c"), most_rows=400):
        dated = dated or bool(cell(row, "date"))
        day = _date(number, row) if dated else first + timedelta(days=len(days))
        if day in days:
            raise UnreadableFile(f"Row {number}: {day:%d %B %Y} stands in the table twice.", subject="date")
        days[day] = _day(number, row)
    return _without_gaps(days, first)[:60]


def _without_gaps(days: Mapping[date, DayWeather], first: date) -> tuple[DayWeather, ...]:
    """Return the days from the first on; refused where one is missing."""
    if first not in days:
        raise UnreadableFile(
            f"The table has no row for {first:%d %B %Y}, the first day of the race. Add it, or change the start."
        )
    wanted = [first + timedelta(days=k) for k in range((max(days) - first).days + 1)]
    for day in wanted:
        if day not in days:
            raise UnreadableFile(f"The table has no row for {day:%d %B %Y}, between the first and the last day.")
    return tuple(days[day] for day in wanted)


def _date(number: int, row: Row) -> date:
    try:
        return date.fromisoformat(cell(row, "date"))
    except ValueError:
        raise UnreadableFile(
            f"Row {number}, column date: “{cell(row, 'date')[:20]}” is no day. Write it as 2027-09-24.", subject="date"
        ) from None


def _day(number: int, row: Row) -> DayWeather:
    low = number_cell(number, row, "low_c", unit="°C", limit="temp")
    high = number_cell(number, row, "high_c", unit="°C", limit="temp")
    if low > high:
        raise UnreadableFile(f"Row {number}: the low, {low:g} °C, is above the high, {high:g} °C. Swap them.")
    humidity = cell(row, "humidity_pct")
    wind = number_cell(number, row, "wind_kmh", unit="km/h", limit="wind_speed", factor=3.6, default=0.0)
    return DayWeather(
        temp_low=low,
        temp_high=high,
        wind_speed=ms_from_kmh(wind),
        wind_from=number_cell(number, row, "wind_from_deg", unit="°", limit="wind_from", default=270.0),
        humidity=number_cell(number, row, "humidity_pct", unit="%", limit="share", factor=100.0) / 100.0
        if humidity
        else None,
        rain=number_cell(number, row, "rain_mm", unit="mm", limit="rain", default=0.0),
    )


def write_weather(days: tuple[DayWeather, ...], first: date) -> bytes:
    """Return the weather by day as CSV."""
    return write_table(
        WEATHER_COLUMNS,
        (
            (
                (first + timedelta(days=k)).isoformat(), day.temp_low, day.temp_high, kmh_from_ms(day.wind_speed),
                day.wind_from, "" if day.humidity is None else day.humidity * 100.0, day.rain,
            )
            for k, day in enumerate(days)
        ),
    )  # fmt: skip


def write_profile(profile: Profile) -> bytes:
    """Return the cleaned course as CSV, a row each 100 m."""
    surfaces = [SURFACES[int(k)].key for k in profile.surfaces]
    columns = ("km", "height_m", "grade_pct", "surface", "climbed_m", "lat", "lon")
    rows = zip(
        (profile.distances[:-1] / 1000.0).round(3).tolist(),
        profile.heights[:-1].round(1).tolist(),
        (100.0 * profile.grades).round(2).tolist(),
        surfaces,
        profile.ascent_by_end[:-1].round(1).tolist(),
        profile.latitudes[:-1].round(6).tolist(),
        profile.longitudes[:-1].round(6).tolist(),
        strict=True,
    )
    return write_table(columns, rows)


def write_timetable(ridden: Ridden) -> bytes:
    """Return the timetable as CSV, a row for each stop and the finish."""
    columns = (
        "stop", "km", "arrives", "leaves", "elapsed_h", "open", "opens_in_h", "waited_min", "rested_h", "dark",
        "air_c", "awake_h", "margin_h",
    )  # fmt: skip
    rows = (
        (
            visit.name, round(visit.distance / 1000.0, 1), visit.arrives.isoformat(), visit.leaves.isoformat(),
            round(visit.elapsed / 3600.0, 2), "past" if visit.passed else "yes" if visit.is_open else "no",
            "" if visit.wait in (0.0, float("inf")) else round(visit.wait / 3600.0, 2), round(visit.waited / 60.0, 1),
            round(visit.rested / 3600.0, 2), visit.dark, round(visit.temp, 1), round(visit.awake / 3600.0, 2),
            "" if visit.margin is None else round(visit.margin / 3600.0, 2),
        )
        for visit in ridden.timetable.visits
    )  # fmt: skip
    return write_table(columns, rows)
