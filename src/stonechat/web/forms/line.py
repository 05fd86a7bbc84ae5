"""The forms of a stop and of how the course is cleaned."""

from dataclasses import replace
from typing import Any

from pydantic import field_validator, model_validator

from stonechat.core.line.stops import OFFERS, Stop
from stonechat.core.line.surface import SURFACE_INDEX, SURFACES
from stonechat.core.line.track import Cleaning
from stonechat.formats.hours import hours_text, parse_hours
from stonechat.units import km_from_m, m_from_km, min_from_s, s_from_min
from stonechat.web.forms.binding import Form, choice, figure, text, tick

NO_PAINT = "none"  # stands for no paint where a surface is chosen


class StopForm(Form):
    """A stop."""

    name: str = text("Stop", least=1)
    distance_km: float = figure("At", unit="km", limit="distance", factor=1e-3)
    dwell_min: float = figure("Time spent", unit="min", limit="dwell", factor=1 / 60)
    detour_km: float = figure("Detour there and back", unit="km", limit="detour", factor=1e-3)
    hours: str = text("Open", most=300, help="empty: always. Mo-Fr 07:00-20:00; Sa 08:00-12:00,14:00-18:00; Su shut")
    water: bool = tick(OFFERS["water"])
    doubtful_water: bool = tick(OFFERS["doubtful_water"])
    meal: bool = tick(OFFERS["meal"])
    shop: bool = tick(OFFERS["shop"])
    bed: bool = tick(OFFERS["bed"])
    socket: bool = tick(OFFERS["socket"])
    bike_shop: bool = tick(OFFERS["bike_shop"])
    toilet: bool = tick(OFFERS["toilet"])
    note: str = text("Note", most=300)

    @field_validator("hours")
    @classmethod
    def _are_hours(cls, value: str) -> str:
        parse_hours(value)
        return value

    @staticmethod
    def values(stop: Stop) -> dict[str, Any]:
        """Return what the form shows for a stop."""
        return {
            "name": stop.name,
            "distance_km": km_from_m(stop.distance),
            "dwell_min": min_from_s(stop.dwell),
            "detour_km": km_from_m(stop.detour),
            "hours": hours_text(stop.hours),
            "note": stop.note,
            **{offer: offer in stop.offers for offer in OFFERS},
        }

    def to_core(self, stop: Stop | None) -> Stop:
        """Return the stop with these figures; without one, a new stop that has no id yet."""
        base = stop or Stop(id="", name=self.name, distance=0.0)
        return replace(
            base,
            name=self.name,
            distance=m_from_km(self.distance_km),
            dwell=s_from_min(self.dwell_min),
            detour=m_from_km(self.detour_km),
            hours=parse_hours(self.hours),
            offers=frozenset(offer for offer in OFFERS if getattr(self, offer)),
            note=self.note,
        )


class CleaningForm(Form):
    """How heights are cleaned, how climbing is counted, and the surface where none is marked."""

    smoothing_m: float = figure("Smoothing of heights", unit="m", limit="smoothing", help="along the way; 0: none")
    threshold_m: float = figure("Climbing counts from", unit="m", limit="ascent_threshold")
    surface: str = choice("Surface elsewhere", {surface.key: surface.name for surface in SURFACES})

    @field_validator("surface")
    @classmethod
    def _is_known(cls, value: str) -> str:
        if value not in {surface.key for surface in SURFACES}:
            raise ValueError("Choose a surface from the list.")
        return value

    @staticmethod
    def values(cleaning: Cleaning, surface: str) -> dict[str, Any]:
        """Return what the form shows."""
        return {
            "smoothing_m": cleaning.smoothing,
            "threshold_m": cleaning.ascent_threshold,
            "surface": surface,
        }

    def to_core(self) -> Cleaning:
        """Return how to clean."""
        return Cleaning(smoothing=self.smoothing_m, ascent_threshold=self.threshold_m)


class PaintForm(Form):
    """A stretch of the course and its surface."""

    start_km: float = figure("From", unit="km", limit="distance", factor=1e-3)
    end_km: float = figure("To", unit="km", limit="distance", factor=1e-3)
    surface: str = choice(
        "Surface", {**{surface.key: surface.name for surface in SURFACES}, NO_PAINT: "as elsewhere (take it off)"}
    )

    @model_validator(mode="after")
    def _is_a_stretch(self) -> "PaintForm":
        if self.end_km <= self.start_km:
            raise ValueError(f"The stretch ends at {self.end_km:g} km, before it begins. Swap the two figures.")
        if self.surface not in SURFACE_INDEX and self.surface != NO_PAINT:
            raise ValueError("Choose a surface from the list.")
        return self
