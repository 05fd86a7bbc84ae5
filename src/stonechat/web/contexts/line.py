"""What the Line room shows."""

from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from stonechat.core.checks.rules import SURE
from stonechat.core.line.gaps import Gap, longest_gap
from stonechat.core.line.profile import surface_shares
from stonechat.core.line.stops import DAY, FOOD_OFFERS, KINDS, OFFERS, WATER_OFFERS, Stop
from stonechat.core.line.surface import SURFACE_INDEX, SURFACES, TYRES
from stonechat.core.line.weather import DayWeather
from stonechat.core.numerics.arrays import FloatArray, runs_of
from stonechat.core.plan.nights import air_temperature
from stonechat.core.plan.scenario import stay_at
from stonechat.core.plan.sky import PlacedSky, elapsed_at, skies_of
from stonechat.core.supply.carry import cannot_be_missed
from stonechat.errors import InvalidInput
from stonechat.formats.hours import stop_hours_text
from stonechat.render.filters import clock, distance_km
from stonechat.render.measures import chart_units
from stonechat.web.contexts.last_time import KnownRow, known_rows
from stonechat.web.contexts.window import Window, window
from stonechat.web.desk import NEW, UNNAMED, Desk
from stonechat.web.forms.binding import BoundForm, start_values, typed_figure
from stonechat.web.forms.line import (
    CleaningForm,
    GroundForm,
    PaintForm,
    RulesForm,
    StopForm,
    TrimForm,
    ground_form,
    ground_values,
)
from stonechat.web.forms.weather import GENERAL, MOST_DAYS, WeatherForm, weather_form, weather_values

_GAPS = (
    ("water", WATER_OFFERS),
    ("food", FOOD_OFFERS),
    ("socket", frozenset({"socket"})),
    ("bike shop", frozenset({"bike_shop"})),
)
PAINT = "paint"  # boxes that may be open
WEATHER = "weather"
GROUND = "ground"
SKY = "sky"
RULES = "rules"
COURSE = "course"
_BOXES = {"paint": PAINT, "weather": WEATHER, "ground": GROUND, "rules": RULES, "cleaning": COURSE, "trim": COURSE}


@dataclass(frozen=True, kw_only=True)
class GapView:
    """A longest way without something: with every door open, and with doors as they are when this rider passes."""

    what: str
    open_gap: Gap  # as the map has it
    gap: Gap  # as it is met
    hours: float  # s, by this rider's clock, rests included
    leaves: str
    ascent: float  # m


@dataclass(frozen=True, kw_only=True)
class MustView:
    """A stop that cannot be missed, and why."""

    name: str
    what: str
    why: str
    doubt: str  # "" where the rider is sure of it
    edit_address: str


@dataclass(frozen=True, kw_only=True)
class AirView:
    """How warm and windy it is at a place and time."""

    words: str
    error: str


@dataclass(frozen=True, kw_only=True)
class StopRow:
    """A stop in the table."""

    id: str
    stop: Stop
    offers: str
    hours: str
    kind: str
    read: tuple[str, ...]  # what of it was read from the file's words
    stay: float  # s, of this variant
    cutoff: str
    is_must: bool
    edit_address: str
    use_address: str
    drop_address: str


@dataclass(frozen=True, kw_only=True)
class LineView:
    """The Line room."""

    length: float  # m
    ascent: float  # m
    threshold: float  # m
    noise: float | None  # m, of the recorded heights; None: not to be told
    highest: float  # m
    lowest: float  # m
    points: int
    shares: tuple[tuple[str, str, float], ...]  # key, name, share
    gaps: tuple[GapView, ...]
    musts: tuple[MustView, ...]
    stops: Window[StopRow]
    known: tuple[KnownRow, ...]  # stops as earlier races know them
    profile_address: str
    exports: tuple[tuple[str, str], ...]  # name, address
    import_address: str
    surfaces: tuple[tuple[str, str], ...]
    opened: str  # which box is open
    paint: BoundForm[PaintForm]
    paint_address: str
    paint_table_address: str
    spans: tuple[tuple[float, float, str, str], ...]  # m from, m to, name, key
    ground: BoundForm[GroundForm]
    ground_address: str
    tyre: str
    tyres: tuple[tuple[str, str], ...]
    tyre_address: str
    per_rolling: float  # min per 0.001
    weather: BoundForm[WeatherForm]
    weather_address: str
    weather_source: str
    bands: tuple[tuple[str, float], ...]  # day, K
    weather_csv: str
    ask_address: str
    weather_table_address: str
    air_address: str
    general: int  # fields of the weather that hold for all days
    skies: tuple[PlacedSky, ...]
    rules: BoundForm[RulesForm]
    rules_address: str
    cleaning: BoundForm[CleaningForm]
    cleaning_address: str
    trim: BoundForm[TrimForm]
    trim_address: str
    reverse_address: str
    stop_form: BoundForm[StopForm] | None
    stop_address: str
    stops_table_address: str
    editing: str
    close_address: str
    new_address: str


def line_view(desk: Desk) -> LineView:
    """Return what the Line room shows."""
    ridden, line = desk.evaluation.ridden, desk.opened.plan.line
    profile = ridden.way.profile
    names = {surface.key: surface.name for surface in SURFACES}
    return LineView(
        length=profile.length,
        ascent=profile.ascent,
        threshold=profile.threshold,
        noise=profile.noise,
        highest=float(profile.heights.max()),
        lowest=float(profile.heights.min()),
        points=line.track.heights.size,
        shares=tuple((key, names[key], share) for key, share in surface_shares(profile).items()),
        gaps=tuple(_gap(desk, what, offers) for what, offers in _GAPS),
        musts=_musts(desk),
        stops=_stop_window(desk),
        known=known_rows(desk) if desk.look.open == "" else (),
        profile_address=desk.do("profile.json", rev=desk.opened.revision),
        exports=(
            ("GPX with stops", desk.do("course.gpx")),
            ("GeoJSON with stops", desk.do("course.geojson")),
            ("profile as CSV", desk.do("tables", "profile.csv")),
            ("stops as CSV", desk.do("tables", "stops.csv")),
            ("surfaces as CSV", desk.do("tables", "surfaces.csv")),
        ),
        import_address="/plans",
        surfaces=tuple(names.items()),
        opened=next((box for form, box in _BOXES.items() if form in desk.forms), desk.look.tab),
        paint=desk.form("paint", PaintForm, {"surface": "smooth_gravel"}),
        paint_address=desk.do("paint"),
        paint_table_address=desk.do("surfaces"),
        spans=tuple((span.start, span.end, names[span.surface], span.surface) for span in line.spans),
        ground=_ground_form(desk),
        ground_address=desk.do("ground"),
        tyre=desk.variant.bike.tyre,
        tyres=tuple(TYRES.items()),
        tyre_address=desk.do("tyre"),
        per_rolling=ridden.ledger.minutes_per_rolling,
        weather=_weather_form(desk),
        weather_address=desk.do("weather"),
        weather_source=line.weather.source,
        bands=_temp_bands(ridden.way.start, line.weather.days),
        weather_csv=desk.do("tables", "weather.csv"),
        ask_address=desk.do("weather", "ask"),
        weather_table_address=desk.do("weather", "table"),
        air_address=desk.do("air"),
        general=GENERAL,
        skies=skies_of(ridden),
        rules=desk.form("rules", RulesForm, RulesForm.values(desk.opened.plan.rules)),
        rules_address=desk.do("rules"),
        cleaning=desk.form("cleaning", CleaningForm, CleaningForm.values(line.cleaning, line.default_surface)),
        cleaning_address=desk.do("cleaning"),
        trim=desk.form("trim", TrimForm, {"start_km": 0.0, "end_km": profile.length // 100 / 10}),
        trim_address=desk.do("trim"),
        reverse_address=desk.do("reverse"),
        stop_form=_stop_form(desk, line.stops),
        stop_address=desk.do("stops", desk.look.open or UNNAMED),
        stops_table_address=desk.do("stops.csv"),
        editing=desk.look.open,
        close_address=desk.at(),
        new_address=desk.at(tab=NEW),
    )


def _temp_bands(start: datetime, days: tuple[DayWeather, ...]) -> tuple[tuple[str, float], ...]:
    """Return how sure the temperatures of the days are, where that is known. [K]"""
    named = ((f"{start + timedelta(days=k):%a}", day.temp_band) for k, day in enumerate(days))
    return tuple((name, band) for name, band in named if band)


def _ground_form(desk: Desk) -> BoundForm[GroundForm]:
    tyre = desk.variant.bike.tyre
    schema = ground_form(tyre, desk.variant.rider.descending)
    return desk.form("ground", schema, ground_values(desk.opened.plan.line.ground, tyre))


def _weather_form(desk: Desk) -> BoundForm[WeatherForm]:
    """Return the weather of as many days as the race takes, and one more."""
    weather, ridden = desk.opened.plan.line.weather, desk.evaluation.ridden
    race_days = int(ridden.ledger.finish // DAY) + 2
    count = min(max(len(weather.days), race_days), MOST_DAYS)
    return desk.form("weather", weather_form(count, ridden.way.start), weather_values(weather, count))


def _stop_form(desk: Desk, stops: tuple[Stop, ...]) -> BoundForm[StopForm] | None:
    if "stop" in desk.forms:
        return desk.forms["stop"]
    if desk.look.tab == NEW:
        return start_values(StopForm, {"kind": "other", "detour_km": 0.0, "confidence_pct": 90.0})
    found = next((stop for stop in stops if stop.id == desk.look.open), None)
    return start_values(StopForm, StopForm.values(found)) if found else None


def _stop_window(desk: Desk) -> Window[StopRow]:
    """Return the stops around the current leg, or around the one that is spoken of."""
    rows, start = _rows(desk), desk.evaluation.ridden.timetable.legs[desk.leg].start
    spoken = next((k for k, row in enumerate(rows) if row.id == desk.look.open), None)
    here = next((k for k, row in enumerate(rows) if row.stop.distance >= start), len(rows) - 1)
    return window(desk, rows, here if spoken is None else spoken)


def _rows(desk: Desk) -> tuple[StopRow, ...]:
    must = {stop.id for stop, _, _ in _must_stops(desk)}
    return tuple(
        StopRow(
            id=stop.id,
            stop=stop,
            offers=", ".join(OFFERS[key] for key in OFFERS if key in stop.offers) or "nothing known",
            hours=stop_hours_text(stop),
            kind=KINDS[stop.kind].name,
            read=tuple(word for key, word in _READ.items() if key in stop.read),
            stay=stay_at(stop, desk.variant),
            cutoff="" if stop.cutoff is None else clock(stop.cutoff),
            is_must=stop.id in must,
            edit_address=desk.at(open=stop.id),
            use_address=desk.do("stops", stop.id, "use"),
            drop_address=desk.do("stops", stop.id, "drop"),
        )
        for stop in desk.opened.plan.line.stops
    )


_READ = {"kind": "kind", "offers": "offers", "hours": "hours"}


def _must_stops(desk: Desk) -> list[tuple[Stop, str, tuple[float, float, float, float]]]:
    """Return each stop that cannot be missed, for what, and the way without it: m, s, need and most carried."""
    ridden = desk.evaluation.ridden
    food_room = float(ridden.provisions.food_room.min())
    found = []
    for what, levels, most in (
        ("water", ridden.provisions.water, ridden.provisions.capacity),
        ("food", ridden.provisions.food, food_room),
    ):
        needed = cannot_be_missed(levels, most)
        refills = [k for k in range(len(ridden.timetable.legs)) if levels.refilled[k]] + [len(ridden.timetable.legs)]
        for k, stop in enumerate(ridden.way.stops, start=1):
            if needed[k]:
                first = max(entry for entry in refills if entry < k)
                last = min(entry for entry in refills if entry > k)
                legs = ridden.timetable.legs[first:last]
                way = legs[-1].end - legs[0].start
                time = (legs[-1].arrives - legs[0].leaves).total_seconds()
                found.append((stop, what, (way, time, float(levels.needs[first:last].sum()), most)))
    return found


def _musts(desk: Desk) -> tuple[MustView, ...]:
    units = {"water": "l", "food": "kcal"}
    found = []
    for stop, what, (way, time, need, most) in _must_stops(desk):
        digits = 1 if what == "water" else 0
        found.append(
            MustView(
                name=stop.name,
                what=what,
                why=f"without it {way / 1000:.0f} km and {time / 3600:.1f} h need {need:,.{digits}f} {units[what]}; "
                f"the most you can carry is {most:,.{digits}f} {units[what]}",
                doubt="" if stop.confidence >= SURE else f"and you are only {100 * stop.confidence:.0f} % sure of it",
                edit_address=desk.at(open=stop.id),
            )
        )
    return tuple(found)


def air_view(desk: Desk, km: str, at: str) -> AirView:
    """Return how warm and windy it is at a kilometre and a local time."""
    ridden = desk.evaluation.ridden
    length = ridden.way.profile.length
    try:
        distance = 1000.0 * typed_figure(km, "km")
    except InvalidInput as exc:
        return AirView(words="", error=exc.message)
    if not 0.0 <= distance <= length:
        return AirView(
            words="", error=f"{distance_km(distance, 1)} is not on the course, which is {distance_km(length, 1)} long."
        )
    try:
        moment = datetime.fromisoformat(at.strip())
    except ValueError:
        return AirView(words="", error=f"“{at[:30]}” is no day and time. Write it as 2027-09-26 03:00.")
    elapsed = elapsed_at(ridden, moment.replace(tzinfo=None))
    days = len(desk.opened.plan.line.weather.days)
    number = int((ridden.timetable.clock.start_of_day + elapsed) // DAY)
    if not 0 <= number < ridden.timetable.clock.sky.wet.size:
        return AirView(
            words="", error=f"{moment:%d %B %Y} has no weather here; the race starts on {ridden.way.start:%d %B %Y}."
        )
    day = min(max(number, 0), days - 1)
    weather = desk.opened.plan.line.weather.days[day]
    temp = air_temperature(ridden, distance, elapsed)
    band = f" ± {weather.temp_band:.0f}" if weather.temp_band else ""
    held = "" if number < days else f" (as the last day given, {ridden.way.start + timedelta(days=day):%a})"
    words = (
        f"{temp:.0f}{band} °C, wind {3.6 * weather.wind_speed:.0f} km/h from {weather.wind_from:.0f}° at 10 m, "
        f"rain {weather.rain:.0f} mm that day{held}."
    )
    return AirView(words=words, error="")


def _gap(desk: Desk, what: str, offers: frozenset[str]) -> GapView:
    """Return the longest way without something, with this rider's hours by the clock."""
    ridden = desk.evaluation.ridden
    given = {visit.stop.id: visit.gives for visit in ridden.timetable.visits if visit.stop}
    gap = longest_gap(ridden.way.stops, offers, ridden.way.profile.length, given)
    legs = [leg for leg in ridden.timetable.legs if gap.start - 1.0 <= leg.start and leg.end <= gap.end + 1.0]
    return GapView(
        what=what,
        open_gap=longest_gap(ridden.way.stops, offers, ridden.way.profile.length),
        gap=gap,
        hours=(legs[-1].arrives - legs[0].leaves).total_seconds(),
        leaves=clock(legs[0].leaves),
        ascent=sum(leg.ascent for leg in legs),
    )


_MOST_POINTS = 3_000  # what a chart draws


def profile_points(desk: Desk) -> dict[str, object]:
    """Return the profile for the chart: thinned so that every summit stays."""
    ridden = desk.evaluation.ridden
    profile = ridden.way.profile
    step = max(1, int(np.ceil(profile.distances.size / _MOST_POINTS)))
    kept = np.unique(np.append(np.arange(0, profile.distances.size, step), profile.distances.size - 1))
    grades = np.append(profile.grades, profile.grades[-1])
    return {
        "km": _rounded(profile.distances[kept] / 1000.0, 2),
        "height_m": _rounded(profile.heights[kept], 1),
        "grade_pct": _rounded(100.0 * grades[kept], 1),
        "surface": [int(s) for s in np.append(profile.surfaces, profile.surfaces[-1])[kept]],
        "surfaces": [{"key": s.key, "name": s.name} for s in SURFACES],
        "default": SURFACE_INDEX["tarmac"],
        "stops": [
            {
                "km": round(visit.distance / 1000.0, 1),
                "name": visit.name,
                "when": clock(visit.arrives),
                "water": bool(visit.stop and visit.stop.gives_water),
            }
            for visit in ridden.timetable.visits
        ],
        "dark_km": [[round(a, 1), round(b, 1)] for a, b in dark_spans(desk)],
        "units": chart_units(),
    }


def dark_spans(desk: Desk) -> list[tuple[float, float]]:
    """Return the stretches that are ridden in the dark. [km]"""
    ridden = desk.evaluation.ridden
    km = ridden.way.profile.distances / 1000.0
    return [(float(km[a]), float(km[b])) for a, b in runs_of(ridden.ride.dark)]


def _rounded(values: FloatArray, digits: int) -> list[float]:
    return [round(float(value), digits) for value in values]
