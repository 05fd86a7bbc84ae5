"""The course, its surfaces, stops and weather."""

from typing import Annotated, Any

import numpy as np
from pydantic import Field, field_validator, model_validator

from stonechat.core.line.stops import DAY, OFFERS, Stop
from stonechat.core.line.surface import SURFACE_INDEX, SurfaceSpan
from stonechat.core.line.track import Cleaning, Track, make_track
from stonechat.core.line.weather import DayWeather, Weather
from stonechat.core.plan.plan import Line
from stonechat.formats.documents.part import ClockTime, Id, Name, Part, clock_seconds, clock_text, limit, one_of
from stonechat.units import km_from_m, kmh_from_ms, m_from_km, min_from_s, ms_from_kmh, s_from_min


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


class SurfaceSpanDocument(Part):
    """A stretch on one surface."""

    start_km: Annotated[float, limit("distance", 1e-3)]
    end_km: Annotated[float, limit("distance", 1e-3)]
    surface: str

    @field_validator("surface")
    @classmethod
    def _known(cls, value: str) -> str:
        return one_of(value, SURFACE_INDEX, "surface")

    @classmethod
    def of(cls, span: SurfaceSpan) -> "SurfaceSpanDocument":
        """Return the document of a span."""
        return cls(start_km=km_from_m(span.start), end_km=km_from_m(span.end), surface=span.surface)

    def core(self) -> SurfaceSpan:
        """Return the span."""
        return SurfaceSpan(start=m_from_km(self.start_km), end=m_from_km(self.end_km), surface=self.surface)


class StopDocument(Part):
    """A stop. `hours` holds seven weekdays from Monday, each a list of opening and closing times."""

    id: Id
    name: Name
    distance_km: Annotated[float, limit("distance", 1e-3)]
    offers: list[str] = []
    hours: list[list[tuple[ClockTime, ClockTime]]] | None = None
    dwell_min: Annotated[float, limit("dwell", 1 / 60)] = 15.0
    detour_km: Annotated[float, limit("detour", 1e-3)] = 0.0
    used: bool = True
    note: Annotated[str, Field(max_length=300)] = ""

    @field_validator("offers")
    @classmethod
    def _known(cls, value: list[str]) -> list[str]:
        return [one_of(offer, OFFERS, "offer") for offer in value]

    @field_validator("hours")
    @classmethod
    def _week(cls, value: list[Any] | None) -> list[Any] | None:
        if value is not None and len(value) != 7:
            raise ValueError(f"hours need seven weekdays, not {len(value)}")
        return value

    @classmethod
    def of(cls, stop: Stop) -> "StopDocument":
        """Return the document of a stop."""
        hours = None
        if stop.hours is not None:
            hours = [[(clock_text(a), clock_text(b if b <= DAY else b - DAY)) for a, b in day] for day in stop.hours]
        return cls(
            id=stop.id,
            name=stop.name,
            distance_km=km_from_m(stop.distance),
            offers=sorted(stop.offers),
            hours=hours,
            dwell_min=min_from_s(stop.dwell),
            detour_km=km_from_m(stop.detour),
            used=stop.used,
            note=stop.note,
        )

    def core(self) -> Stop:
        """Return the stop."""
        hours = None
        if self.hours is not None:
            hours = tuple(tuple(_opening(a, b) for a, b in day) for day in self.hours)
        return Stop(
            id=self.id,
            name=self.name,
            distance=m_from_km(self.distance_km),
            offers=frozenset(self.offers),
            hours=hours,
            dwell=s_from_min(self.dwell_min),
            detour=m_from_km(self.detour_km),
            used=self.used,
            note=self.note,
        )


class DayWeatherDocument(Part):
    """Low and high of a day, and its wind 10 m above open ground."""

    low_c: Annotated[float, limit("temp")]
    high_c: Annotated[float, limit("temp")]
    wind_kmh: Annotated[float, limit("wind_speed", 3.6)] = 0.0
    wind_from_deg: Annotated[float, limit("wind_from")] = 270.0

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
        )

    def core(self) -> DayWeather:
        """Return the day."""
        return DayWeather(
            temp_low=self.low_c,
            temp_high=self.high_c,
            wind_speed=ms_from_kmh(self.wind_kmh),
            wind_from=self.wind_from_deg,
        )


class WeatherDocument(Part):
    """Weather by day from the start, at a reference height."""

    days: list[DayWeatherDocument] = Field(min_length=1, max_length=60)
    reference_height_m: Annotated[float, limit("height")]
    relative_humidity: Annotated[float, limit("share")]

    @classmethod
    def of(cls, weather: Weather) -> "WeatherDocument":
        """Return the document of a weather."""
        return cls(
            days=[DayWeatherDocument.of(day) for day in weather.days],
            reference_height_m=weather.reference_height,
            relative_humidity=weather.relative_humidity,
        )

    def core(self) -> Weather:
        """Return the weather."""
        return Weather(
            days=tuple(day.core() for day in self.days),
            reference_height=self.reference_height_m,
            relative_humidity=self.relative_humidity,
        )


class LineDocument(Part):
    """All of the route but the recorded course."""

    smoothing_m: Annotated[float, limit("smoothing")] = 60.0
    ascent_threshold_m: Annotated[float, limit("ascent_threshold")] = 5.0
    default_surface: str = "tarmac"
    surfaces: list[SurfaceSpanDocument] = Field([], max_length=2_000)
    stops: list[StopDocument] = Field([], max_length=1_000)
    weather: WeatherDocument

    @field_validator("default_surface")
    @classmethod
    def _known(cls, value: str) -> str:
        return one_of(value, SURFACE_INDEX, "surface")

    @classmethod
    def of(cls, line: Line) -> "LineDocument":
        """Return the document of a line."""
        return cls(
            smoothing_m=line.cleaning.smoothing,
            ascent_threshold_m=line.cleaning.ascent_threshold,
            default_surface=line.default_surface,
            surfaces=[SurfaceSpanDocument.of(span) for span in line.spans],
            stops=[StopDocument.of(stop) for stop in line.stops],
            weather=WeatherDocument.of(line.weather),
        )

    def core(self, track: Track) -> Line:
        """Return the line over a recorded course."""
        return Line(
            track=track,
            cleaning=Cleaning(smoothing=self.smoothing_m, ascent_threshold=self.ascent_threshold_m),
            spans=tuple(span.core() for span in self.surfaces),
            default_surface=self.default_surface,
            stops=tuple(stop.core() for stop in self.stops),
            weather=self.weather.core(),
        )
