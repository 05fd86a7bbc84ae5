"""The course, its surfaces, stops and weather."""

from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, field_validator, model_validator

from stonechat.core.line.profile import Cleaning
from stonechat.core.line.race_rules import RaceRules
from stonechat.core.line.stops import DAY, KINDS, OFFERS, Hours, Stop
from stonechat.core.line.surface import SURFACE_INDEX, TYRES, GroundFigures, SurfaceSpan
from stonechat.core.line.track import Track, make_track
from stonechat.core.line.weather import DayWeather, Weather
from stonechat.core.plan.limits import MOST_DAYS
from stonechat.core.plan.plan import Line
from stonechat.formats.documents.part import (
    ClockTime,
    Id,
    LocalClock,
    Name,
    OneOf,
    Part,
    clock_seconds,
    clock_text,
    limit,
    same_named,
)
from stonechat.units import (
    h_from_s,
    km_from_m,
    kmh_from_ms,
    l_from_m3,
    m3_from_l,
    m_from_km,
    min_from_s,
    ms_from_kmh,
    s_from_h,
    s_from_min,
)

_STOP_SAME = ("id", "name", "kind", "used", "confidence", "cutoff", "note")
Week = list[list[tuple[ClockTime, ClockTime]]]
ReadField = Literal["kind", "offers", "hours", "note"]


def _week_of(hours: Hours) -> Week:
    return [[(clock_text(a), clock_text(b if b <= DAY else b - DAY)) for a, b in day] for day in hours]


def _hours_of(week: Week) -> Hours:
    return tuple(tuple(_opening(a, b) for a, b in day) for day in week)


def _opening(opens: str, shuts: str) -> tuple[float, float]:
    """Return an opening time; one that shuts before it opens runs past midnight. [s]"""
    first, last = clock_seconds(opens), clock_seconds(shuts)
    return first, last if last > first else last + DAY


class TrackDocument(Part):
    """The course as recorded."""

    lat_deg: list[float] = Field(min_length=2, max_length=200_000)
    lon_deg: list[float] = Field(min_length=2, max_length=200_000)
    height_m: list[float] = Field(min_length=2, max_length=200_000)

    @model_validator(mode="after")
    def _same_length(self) -> "TrackDocument":
        if not len(self.lat_deg) == len(self.lon_deg) == len(self.height_m):
            raise ValueError("lat_deg, lon_deg and height_m differ in length")
        return self

    @classmethod
    def of(cls, track: Track) -> "TrackDocument":
        """Return the document of a track."""
        return cls(lat_deg=track.latitudes.tolist(), lon_deg=track.longitudes.tolist(), height_m=track.heights.tolist())

    def core(self) -> Track:
        """Return the track."""
        return make_track(np.array(self.lat_deg), np.array(self.lon_deg), np.array(self.height_m))


Surface = Annotated[str, OneOf(SURFACE_INDEX, "surface")]
Offer = Annotated[str, OneOf(OFFERS, "offer")]


class SurfaceSpanDocument(Part):
    """A stretch on one surface."""

    start_km: Annotated[float, limit("distance", 1e-3)]
    end_km: Annotated[float, limit("distance", 1e-3)]
    surface: Surface

    @classmethod
    def of(cls, span: SurfaceSpan) -> "SurfaceSpanDocument":
        """Return the document of a span."""
        return cls(start_km=km_from_m(span.start), end_km=km_from_m(span.end), surface=span.surface)

    def core(self) -> SurfaceSpan:
        """Return the span."""
        return SurfaceSpan(start=m_from_km(self.start_km), end=m_from_km(self.end_km), surface=self.surface)


class StopDocument(Part):
    """A stop. `hours` holds seven weekdays from Monday, each a list of opening and closing times; null: not known.

    `hours_by` holds such a week for offers that have a door of their own; `read` names what was read from words.
    """

    id: Id
    name: Name
    distance_km: Annotated[float, limit("distance", 1e-3)]
    offers: list[Offer] = []
    hours: Week | None = None
    hours_by: dict[Offer, Week] = {}
    kind: Annotated[str, OneOf(KINDS, "kind of stop")] = "other"
    dwell_min: Annotated[float, limit("dwell", 1 / 60)] | None = None
    detour_km: Annotated[float, limit("detour", 1e-3)] = 0.0
    used: bool = True
    confidence: Annotated[float, limit("share")] = 0.9
    cutoff: LocalClock | None = None
    box_volume_l: Annotated[float, limit("box_volume", 1e3)] | None = None
    box_mass_kg: Annotated[float, limit("box_mass")] | None = None
    read: list[ReadField] = []
    note: Annotated[str, Field(max_length=300)] = ""

    @field_validator("hours")
    @classmethod
    def _week(cls, value: list[Any] | None) -> list[Any] | None:
        if value is not None and len(value) != 7:
            raise ValueError(f"hours need seven weekdays, not {len(value)}")
        return value

    @field_validator("hours_by")
    @classmethod
    def _weeks(cls, value: dict[str, list[Any]]) -> dict[str, list[Any]]:
        for week in value.values():
            cls._week(week)
        return value

    @classmethod
    def of(cls, stop: Stop) -> "StopDocument":
        """Return the document of a stop."""
        return cls(
            distance_km=km_from_m(stop.distance),
            offers=sorted(stop.offers),
            hours=None if stop.hours is None else _week_of(stop.hours),
            hours_by={offer: _week_of(hours) for offer, hours in sorted(stop.hours_by.items())},
            box_volume_l=None if stop.box_volume is None else l_from_m3(stop.box_volume),
            box_mass_kg=stop.box_mass,
            read=sorted(stop.read),
            dwell_min=None if stop.dwell is None else min_from_s(stop.dwell),
            detour_km=km_from_m(stop.detour),
            **same_named(stop, _STOP_SAME),
        )

    def core(self) -> Stop:
        """Return the stop."""
        return Stop(
            distance=m_from_km(self.distance_km),
            offers=frozenset(self.offers),
            hours=None if self.hours is None else _hours_of(self.hours),
            hours_by={offer: _hours_of(week) for offer, week in self.hours_by.items()},
            box_volume=None if self.box_volume_l is None else m3_from_l(self.box_volume_l),
            box_mass=self.box_mass_kg,
            read=frozenset(self.read),
            dwell=None if self.dwell_min is None else s_from_min(self.dwell_min),
            detour=m_from_km(self.detour_km),
            **same_named(self, _STOP_SAME),
        )


class DayWeatherDocument(Part):
    """Low and high of a day, and its wind 10 m above open ground."""

    low_c: Annotated[float, limit("temp")]
    high_c: Annotated[float, limit("temp")]
    wind_kmh: Annotated[float, limit("wind_speed", 3.6)] = 0.0
    wind_from_deg: Annotated[float, limit("wind_from")] = 270.0
    humidity: Annotated[float, limit("share")] | None = None
    rain_mm: Annotated[float, limit("rain")] = 0.0
    temp_band_c: Annotated[float, limit("temp_band")] = 0.0

    @model_validator(mode="after")
    def _low_is_low(self) -> "DayWeatherDocument":
        if self.low_c > self.high_c:
            raise ValueError(f"the low, {self.low_c:g} °C, is above the high, {self.high_c:g} °C")
        return self

    @classmethod
    def of(cls, day: DayWeather) -> "DayWeatherDocument":
        """Return the document of a day."""
        return cls(
            low_c=day.temp_low,
            high_c=day.temp_high,
            wind_kmh=kmh_from_ms(day.wind_speed),
            wind_from_deg=day.wind_from,
            humidity=day.humidity,
            rain_mm=day.rain,
            temp_band_c=day.temp_band,
        )

    def core(self) -> DayWeather:
        """Return the day."""
        return DayWeather(
            temp_low=self.low_c,
            temp_high=self.high_c,
            wind_speed=ms_from_kmh(self.wind_kmh),
            wind_from=self.wind_from_deg,
            humidity=self.humidity,
            rain=self.rain_mm,
            temp_band=self.temp_band_c,
        )


class WeatherDocument(Part):
    """Weather by day from the start, at a reference height."""

    days: list[DayWeatherDocument] = Field(min_length=1, max_length=MOST_DAYS)
    reference_height_m: Annotated[float, limit("height")]
    relative_humidity: Annotated[float, limit("share")]
    shelter: Annotated[float, limit("share")] = 1.0
    source: Annotated[str, Field(max_length=200)] = ""

    @classmethod
    def of(cls, weather: Weather) -> "WeatherDocument":
        """Return the document of a weather."""
        return cls(
            days=[DayWeatherDocument.of(day) for day in weather.days],
            reference_height_m=weather.reference_height,
            **same_named(weather, ("relative_humidity", "shelter", "source")),
        )

    def core(self) -> Weather:
        """Return the weather."""
        return Weather(
            days=tuple(day.core() for day in self.days),
            reference_height=self.reference_height_m,
            **same_named(self, ("relative_humidity", "shelter", "source")),
        )


class GroundDocument(Part):
    """What the rider knows better of a surface under a tyre."""

    tyre: Annotated[str, OneOf(TYRES, "tyre")]
    surface: Surface
    rolling: Annotated[float, limit("rolling")] | None = None
    cap_kmh: Annotated[float, limit("cap", 3.6)] | None = None
    steepest_pct: Annotated[float, limit("grade_most", 100.0)] | None = None

    @classmethod
    def of(cls, ground: GroundFigures) -> "GroundDocument":
        """Return the document of the figures."""
        return cls(
            cap_kmh=None if ground.cap is None else kmh_from_ms(ground.cap),
            steepest_pct=None if ground.grade_most is None else round(ground.grade_most * 100.0, 9),
            **same_named(ground, ("tyre", "surface", "rolling")),
        )

    def core(self) -> GroundFigures:
        """Return the figures."""
        return GroundFigures(
            cap=None if self.cap_kmh is None else ms_from_kmh(self.cap_kmh),
            grade_most=None if self.steepest_pct is None else round(self.steepest_pct / 100.0, 12),
            **same_named(self, ("tyre", "surface", "rolling")),
        )


RuleWords = Annotated[str, Field(min_length=1, max_length=60)]


class RulesDocument(Part):
    """RaceRules of the race; cut-offs stand at the stops."""

    start_local: LocalClock | None = None
    time_limit_h: Annotated[float, limit("time_limit", 1 / 3600)] | None = None
    drop_boxes: bool = False
    compulsory: list[RuleWords] = Field([], max_length=60)
    forbidden: list[RuleWords] = Field([], max_length=60)
    ways: list[Annotated[str, Field(min_length=1, max_length=200)]] = Field([], max_length=40)
    box_volume_l: Annotated[float, limit("box_volume", 1e3)] | None = None
    box_mass_kg: Annotated[float, limit("box_mass")] | None = None

    @classmethod
    def of(cls, rules: RaceRules) -> "RulesDocument":
        """Return the document of the rules."""
        return cls(
            start_local=rules.start,
            time_limit_h=None if rules.time_limit is None else h_from_s(rules.time_limit),
            drop_boxes=rules.drop_boxes,
            compulsory=list(rules.compulsory),
            forbidden=list(rules.forbidden),
            ways=list(rules.ways),
            box_volume_l=None if rules.box_volume is None else l_from_m3(rules.box_volume),
            box_mass_kg=rules.box_mass,
        )

    def core(self) -> RaceRules:
        """Return the rules."""
        return RaceRules(
            start=self.start_local,
            time_limit=None if self.time_limit_h is None else s_from_h(self.time_limit_h),
            drop_boxes=self.drop_boxes,
            compulsory=tuple(self.compulsory),
            forbidden=tuple(self.forbidden),
            ways=tuple(self.ways),
            box_volume=None if self.box_volume_l is None else m3_from_l(self.box_volume_l),
            box_mass=self.box_mass_kg,
        )


class LineDocument(Part):
    """All of the route but the recorded course. Smoothing and threshold are by the track's own noise where null."""

    smoothing_m: Annotated[float, limit("smoothing")] | None = None
    ascent_threshold_m: Annotated[float, limit("ascent_threshold")] | None = None
    default_surface: Surface = "tarmac"
    surfaces: list[SurfaceSpanDocument] = Field([], max_length=2_000)
    ground: list[GroundDocument] = Field([], max_length=40)
    stops: list[StopDocument] = Field([], max_length=1_000)
    weather: WeatherDocument

    @classmethod
    def of(cls, line: Line) -> "LineDocument":
        """Return the document of a line."""
        return cls(
            smoothing_m=line.cleaning.smoothing,
            ascent_threshold_m=line.cleaning.ascent_threshold,
            default_surface=line.default_surface,
            surfaces=[SurfaceSpanDocument.of(span) for span in line.spans],
            ground=[GroundDocument.of(entry) for entry in line.ground],
            stops=[StopDocument.of(stop) for stop in line.stops],
            weather=WeatherDocument.of(line.weather),
        )

    def core(self, track: Track) -> Line:
        """Return the line over a recorded course."""
        return Line(
            track=track,
            cleaning=Cleaning(smoothing=self.smoothing_m, ascent_threshold=self.ascent_threshold_m),
            spans=tuple(span.core() for span in self.surfaces),
            ground=tuple(entry.core() for entry in self.ground),
            default_surface=self.default_surface,
            stops=tuple(stop.core() for stop in self.stops),
            weather=self.weather.core(),
        )
