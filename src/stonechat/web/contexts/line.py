"""What the Line room shows."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.line.gaps import Gap, longest_gap
from stonechat.core.line.stops import DAY, FOOD_OFFERS, OFFERS, WATER_OFFERS, Stop
from stonechat.core.line.surface import SURFACE_INDEX, SURFACES
from stonechat.core.line.track import surface_shares
from stonechat.core.numerics.arrays import FloatArray
from stonechat.formats.hours import hours_text
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm, start_values
from stonechat.web.forms.line import CleaningForm, PaintForm, StopForm
from stonechat.web.forms.weather import GENERAL, MOST_DAYS, WeatherForm, weather_form, weather_values

_GAPS = (
    ("water", WATER_OFFERS),
    ("food", FOOD_OFFERS),
    ("socket", frozenset({"socket"})),
    ("bike shop", frozenset({"bike_shop"})),
)
NEW = "new"
PAINT = "paint"  # the paint box is open
WEATHER = "weather"  # the weather box is open


@dataclass(frozen=True, kw_only=True)
class GapView:
    """A longest way without something."""

    what: str
    gap: Gap
    hours: float  # s, by this rider's clock, rests included
    leaves: str
    ascent: float  # m


@dataclass(frozen=True, kw_only=True)
class StopRow:
    """A stop in the table."""

    id: str
    stop: Stop
    offers: str
    hours: str
    edit_address: str
    use_address: str


@dataclass(frozen=True, kw_only=True)
class LineView:
    """The Line room."""

    length: float  # m
    ascent: float  # m
    threshold: float  # m
    highest: float  # m
    lowest: float  # m
    points: int
    shares: tuple[tuple[str, str, float], ...]  # key, name, share
    gaps: tuple[GapView, ...]
    stops: tuple[StopRow, ...]
    profile_address: str
    gpx_address: str
    import_address: str
    surfaces: tuple[tuple[str, str], ...]
    paint: BoundForm[PaintForm]
    paint_address: str
    paint_open: bool
    spans: tuple[tuple[float, float, str, str], ...]  # m from, m to, name, key
    weather: BoundForm[WeatherForm]
    weather_address: str
    weather_open: bool
    general: int  # fields of the weather that hold for all days
    cleaning: BoundForm[CleaningForm]
    cleaning_address: str
    stop_form: BoundForm[StopForm] | None
    stop_address: str
    editing: str
    close_address: str
    new_address: str


def line_view(desk: Desk) -> LineView:
    """Return what the Line room shows."""
    ridden, line = desk.evaluation.ridden, desk.opened.plan.line
    profile = ridden.profile
    names = {surface.key: surface.name for surface in SURFACES}
    cleaning = desk.forms.get("cleaning") or start_values(
        CleaningForm, CleaningForm.values(line.cleaning, line.default_surface)
    )
    return LineView(
        length=profile.length,
        ascent=profile.ascent,
        threshold=line.cleaning.ascent_threshold,
        highest=float(profile.heights.max()),
        lowest=float(profile.heights.min()),
        points=line.track.heights.size,
        shares=tuple((key, names[key], share) for key, share in surface_shares(profile).items()),
        gaps=tuple(_gap(desk, what, offers) for what, offers in _GAPS),
        stops=tuple(_row(desk, stop) for stop in line.stops),
        profile_address=desk.do("profile.json", rev=desk.opened.revision),
        gpx_address=desk.do("course.gpx"),
        import_address="/plans",
        surfaces=tuple(names.items()),
        paint=desk.forms.get("paint") or start_values(PaintForm, {"surface": "smooth_gravel"}),
        paint_address=desk.do("paint"),
        paint_open=desk.edit == PAINT or "paint" in desk.forms,
        spans=tuple((span.start, span.end, names[span.surface], span.surface) for span in line.spans),
        weather=desk.forms.get("weather") or _weather_form(desk),
        weather_address=desk.do("weather"),
        weather_open=desk.edit == WEATHER or "weather" in desk.forms,
        general=GENERAL,
        cleaning=cleaning,
        cleaning_address=desk.do("cleaning"),
        stop_form=_stop_form(desk, line.stops),
        stop_address=desk.do("stops", desk.edit or NEW),
        editing=desk.edit,
        close_address=desk.at(),
        new_address=desk.at(edit=NEW),
    )


def _weather_form(desk: Desk) -> BoundForm[WeatherForm]:
    """Return the weather of as many days as the race takes, and one more."""
    weather, ridden = desk.opened.plan.line.weather, desk.evaluation.ridden
    race_days = int(ridden.ledger.finish // DAY) + 2
    count = min(max(len(weather.days), race_days), MOST_DAYS)
    return start_values(weather_form(count, ridden.start), weather_values(weather, count))


def _stop_form(desk: Desk, stops: tuple[Stop, ...]) -> BoundForm[StopForm] | None:
    if "stop" in desk.forms:
        return desk.forms["stop"]
    if desk.edit == NEW:
        return start_values(StopForm, {"dwell_min": 15.0, "detour_km": 0.0})
    found = next((stop for stop in stops if stop.id == desk.edit), None)
    return start_values(StopForm, StopForm.values(found)) if found else None


def _row(desk: Desk, stop: Stop) -> StopRow:
    return StopRow(
        id=stop.id,
        stop=stop,
        offers=", ".join(OFFERS[key] for key in OFFERS if key in stop.offers) or "nothing known",
        hours=hours_text(stop.hours) or "always",
        edit_address=desk.at(edit=stop.id),
        use_address=desk.do("stops", stop.id, "use"),
    )


def _gap(desk: Desk, what: str, offers: frozenset[str]) -> GapView:
    """Return the longest way without something, with this rider's hours by the clock."""
    ridden = desk.evaluation.ridden
    gap = longest_gap(ridden.stops, offers, ridden.profile.length)
    legs = [leg for leg in ridden.legs if gap.start - 1.0 <= leg.start and leg.end <= gap.end + 1.0]
    return GapView(
        what=what,
        gap=gap,
        hours=(legs[-1].arrives - legs[0].leaves).total_seconds(),
        leaves=f"{legs[0].leaves:%a %H:%M}",
        ascent=sum(leg.ascent for leg in legs),
    )


_MOST_POINTS = 3_000  # what a chart draws


def profile_points(desk: Desk) -> dict[str, object]:
    """Return the profile for the chart: thinned so that every summit stays."""
    ridden = desk.evaluation.ridden
    profile = ridden.profile
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
                "when": f"{visit.arrives:%a %H:%M}",
                "water": bool(visit.stop and visit.stop.gives_water),
            }
            for visit in ridden.visits
        ],
        "dark_km": [[round(a, 1), round(b, 1)] for a, b in dark_spans(desk)],
    }


def dark_spans(desk: Desk) -> list[tuple[float, float]]:
    """Return the stretches that are ridden in the dark. [km]"""
    ridden = desk.evaluation.ridden
    edges = np.flatnonzero(np.diff(np.concatenate(([0], ridden.dark.astype(np.int8), [0]))))
    km = ridden.profile.distances[edges] / 1000.0
    return [(float(a), float(b)) for a, b in zip(km[::2], km[1::2], strict=True)]


def _rounded(values: FloatArray, digits: int) -> list[float]:
    return [round(float(value), digits) for value in values]
