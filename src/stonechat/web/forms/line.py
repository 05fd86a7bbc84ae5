"""The forms of a stop, of surfaces and ground, of the race's rules, and of how the course is cleaned and cut."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from typing import Any

from pydantic import create_model, field_validator, model_validator

from stonechat.core.line.profile import Cleaning
from stonechat.core.line.race_rules import RaceRules
from stonechat.core.line.stops import KINDS, OFFERS, Stop
from stonechat.core.line.surface import SURFACES, GroundFigures, surfaces_for
from stonechat.formats.hours import doors_text, hours_text, parse_doors, parse_hours
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
from stonechat.web.forms.binding import Form, choice, figure, moment_field, text, tick

NO_PAINT = "none"  # stands for no paint where a surface is chosen


class StopForm(Form):
    """A stop."""

    name: str = text("Stop", least=1)
    kind: str = choice("Kind", {key: kind.name for key, kind in KINDS.items()})
    distance_km: float = figure("At", unit="km", limit="distance", factor=1e-3)
    dwell_min: float | None = figure(
        "Time spent", unit="min", limit="dwell", factor=1 / 60, optional=True, help="empty: as usual for its kind"
    )
    detour_km: float = figure(
        "Detour there and back", unit="km", limit="detour", factor=1e-3, help="a stop farther off the line is none"
    )
    confidence_pct: float = figure(
        "How sure", unit="%", limit="share", factor=100.0, help="that it is there and open as stated"
    )
    cutoff: datetime | None = moment_field("Cut-off", help="2027-09-26 18:00, at a checkpoint; empty: none")
    hours: str = text(
        "Open", most=300, help="empty: not known; 24 h: always. Mo-Fr 07:00-20:00; Sa 08:00-12:00,14:00-18:00; Su shut"
    )
    hours_by: str = text("Doors of their own", most=500, help="water: 24 h | meals: 12:00-14:00,18:00-21:00")
    water: bool = tick(OFFERS["water"])
    doubtful_water: bool = tick(OFFERS["doubtful_water"])
    meal: bool = tick(OFFERS["meal"])
    shop: bool = tick(OFFERS["shop"])
    bed: bool = tick(OFFERS["bed"])
    socket: bool = tick(OFFERS["socket"])
    bike_shop: bool = tick(OFFERS["bike_shop"])
    pharmacy: bool = tick(OFFERS["pharmacy"])
    toilet: bool = tick(OFFERS["toilet"])
    drop_box: bool = tick(OFFERS["drop_box"])
    box_l: float | None = figure(
        "Drop box holds", unit="l", limit="box_volume", factor=1e3, optional=True, help="empty: as the rules say"
    )
    box_kg: float | None = figure("Drop box, at most", unit="kg", limit="box_mass", optional=True)
    note: str = text("Note", most=300)

    @field_validator("hours_by")
    @classmethod
    def _are_doors(cls, value: str) -> str:
        parse_doors(value)
        return value

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
            "dwell_min": None if stop.dwell is None else min_from_s(stop.dwell),
            "detour_km": km_from_m(stop.detour),
            "kind": stop.kind,
            "confidence_pct": stop.confidence * 100.0,
            "cutoff": stop.cutoff,
            "hours": hours_text(stop.hours),
            "hours_by": doors_text(stop.hours_by),
            "box_l": None if stop.box_volume is None else l_from_m3(stop.box_volume),
            "box_kg": stop.box_mass,
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
            kind=self.kind,
            dwell=None if self.dwell_min is None else s_from_min(self.dwell_min),
            detour=m_from_km(self.detour_km),
            confidence=round(self.confidence_pct / 100.0, 9),
            cutoff=self.cutoff,
            hours=parse_hours(self.hours),
            hours_by=parse_doors(self.hours_by),
            box_volume=None if self.box_l is None else m3_from_l(self.box_l),
            box_mass=self.box_kg,
            read=frozenset(),  # the rider has looked it over
            offers=frozenset(offer for offer in OFFERS if getattr(self, offer)),
            note=self.note,
        )


class CleaningForm(Form):
    """How heights are cleaned, how climbing is counted, and the surface where none is marked."""

    smoothing_m: float | None = figure(
        "Smoothing of heights", unit="m", limit="smoothing", optional=True, help="empty: by the noise in them; 0: none"
    )
    threshold_m: float | None = figure(
        "Climbing counts from", unit="m", limit="ascent_threshold", optional=True, help="empty: by what is left of it"
    )
    surface: str = choice("Surface elsewhere", {surface.key: surface.name for surface in SURFACES})

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
        return self


class GroundForm(Form):
    """What the rider knows better of the surfaces under one tyre; `ground_form` adds the surfaces."""

    def to_core(self, tyre: str) -> tuple[GroundFigures, ...]:
        """Return the figures that were given."""
        found = []
        for surface in SURFACES:
            rolling, cap, steepest = (getattr(self, f"{part}_{surface.key}") for part in ("rolling", "cap", "steepest"))
            if (rolling, cap, steepest) != (None, None, None):
                found.append(
                    GroundFigures(
                        tyre=tyre,
                        surface=surface.key,
                        rolling=rolling,
                        cap=None if cap is None else ms_from_kmh(cap),
                        grade_most=None if steepest is None else round(steepest / 100.0, 12),
                    )
                )
        return tuple(found)


def ground_form(tyre: str, boldness: str) -> type[GroundForm]:
    """Return the form for one tyre; each field's help is what holds where it is left empty."""
    fields: dict[str, Any] = {}
    for s in surfaces_for(tyre, boldness):
        rolling = f"usual {s.rolling:.4f} ({s.rolling_low:.4f}–{s.rolling_high:.4f})"
        steepest = "usually walked" if s.grade_most < 0.0 else f"usual {100 * s.grade_most:.0f} %"
        fastest = f"usual {3.6 * s.descent_cap:.0f} km/h"
        fields[f"rolling_{s.key}"] = (
            float | None,
            figure(f"{s.name}: rolling", limit="rolling", optional=True, help=rolling),
        )
        fields[f"cap_{s.key}"] = (
            float | None,
            figure(f"{s.name}: fastest", unit="km/h", limit="cap", factor=3.6, optional=True, help=fastest),
        )
        fields[f"steepest_{s.key}"] = (
            float | None,
            figure(f"{s.name}: steepest", unit="%", limit="grade_most", factor=100.0, optional=True, help=steepest),
        )
    made: type[GroundForm] = create_model("GroundFormFor", __base__=GroundForm, **fields)
    return made


def ground_values(ground: tuple[GroundFigures, ...], tyre: str) -> Mapping[str, Any]:
    """Return what the form shows for one tyre."""
    values: dict[str, Any] = {}
    for entry in ground:
        if entry.tyre == tyre:
            values[f"rolling_{entry.surface}"] = entry.rolling
            values[f"cap_{entry.surface}"] = None if entry.cap is None else kmh_from_ms(entry.cap)
            values[f"steepest_{entry.surface}"] = None if entry.grade_most is None else 100.0 * entry.grade_most
    return values


class RulesForm(Form):
    """What the race asks of a rider."""

    start: datetime | None = moment_field("Race starts", help="2027-09-24 07:00; empty: when you do")
    time_limit_h: float | None = figure("Time limit", unit="h", limit="time_limit", factor=1 / 3600, optional=True)
    drop_boxes: bool = tick("Drop boxes allowed")
    compulsory: str = text("Compulsory kit", most=1500, help="names with commas between: rear light, whistle")
    forbidden: str = text("Forbidden kit", most=1500, help="names with commas between: navigation unit, earphones")
    ways: str = text("Other rules", most=1500, help="told, not judged: no help from outside, no drafting")
    box_l: float | None = figure("A drop box holds", unit="l", limit="box_volume", factor=1e3, optional=True)
    box_kg: float | None = figure("A drop box, at most", unit="kg", limit="box_mass", optional=True)

    @field_validator("compulsory", "forbidden")
    @classmethod
    def _are_names(cls, value: str) -> str:
        names = [name.strip() for name in value.split(",") if name.strip()]
        for name in names:
            if len(name) > 60:
                raise ValueError(f"“{name[:30]}…” is longer than 60 letters. Put commas between the things.")
        if len(names) > 60:
            raise ValueError("At most 60 things can be named.")
        return value

    @staticmethod
    def values(rules: RaceRules) -> dict[str, Any]:
        """Return what the form shows."""
        return {
            "start": rules.start,
            "time_limit_h": None if rules.time_limit is None else h_from_s(rules.time_limit),
            "drop_boxes": rules.drop_boxes,
            "compulsory": ", ".join(rules.compulsory),
            "forbidden": ", ".join(rules.forbidden),
            "ways": ", ".join(rules.ways),
            "box_l": None if rules.box_volume is None else l_from_m3(rules.box_volume),
            "box_kg": rules.box_mass,
        }

    def to_core(self) -> RaceRules:
        """Return the rules."""
        return RaceRules(
            start=self.start,
            time_limit=None if self.time_limit_h is None else s_from_h(self.time_limit_h),
            drop_boxes=self.drop_boxes,
            compulsory=_names(self.compulsory),
            forbidden=_names(self.forbidden),
            ways=tuple(entry[:200] for entry in _names(self.ways))[:40],
            box_volume=None if self.box_l is None else m3_from_l(self.box_l),
            box_mass=self.box_kg,
        )


def _names(text: str) -> tuple[str, ...]:
    return tuple(name.strip() for name in text.split(",") if name.strip())


class TrimForm(Form):
    """What is kept of the course."""

    start_km: float = figure("Keep from", unit="km", limit="distance", factor=1e-3)
    end_km: float = figure("Keep to", unit="km", limit="distance", factor=1e-3)
