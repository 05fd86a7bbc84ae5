"""Rider, riding hours and sleep."""

from typing import Annotated
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import Field, field_validator

from stonechat.core.plan.limits import MOST_DAYS
from stonechat.core.rhythm.rhythm import NIGHT_KINDS, SLEEP_SCHOOLS, Night, Rhythm
from stonechat.core.rhythm.rider import ALTITUDE_EFFECTS, BOLDNESS, POSITIONS, Rider
from stonechat.core.supply.energy import SEXES
from stonechat.formats.documents.part import (
    ClockTime,
    Id,
    LocalClock,
    OneOf,
    Part,
    clock_seconds,
    clock_text,
    limit,
    same_named,
)
from stonechat.units import h_from_s, km_from_m, m_from_km, min_from_s, s_from_h, s_from_min

_RIDER_SAME = (
    "endurance", "night_dip", "coasting", "pace_uphill", "pace_downhill", "pace_most", "altitude", "drivetrain",
    "gross_efficiency", "position", "position_climbing", "position_descending", "position_rough", "climb_from",
    "drag_scale", "tired", "sweat", "handling", "punctures", "descending", "night_cap", "walk_factor",
    "push_efficiency", "age", "sex",
)  # fmt: skip
_RHYTHM_SAME = ("zone", "school", "first_night")
Position = Annotated[str, Field(description="Key of a position: " + ", ".join(POSITIONS))]


class RiderDocument(Part):
    """The rider."""

    mass_kg: Annotated[float, limit("rider_mass")]
    power_w: Annotated[float, limit("power")]
    endurance: Annotated[float, limit("endurance")] = 0.65
    fade_time_h: Annotated[float, limit("fade_time", 1 / 3600)] = 30.0
    recovery_time_h: Annotated[float, limit("recovery_time", 1 / 3600)] = 8.0
    night_dip: Annotated[float, limit("night_dip")] = 0.06
    coasting: Annotated[float, limit("coasting")] = 0.03
    pace_uphill: Annotated[float, limit("pace_uphill")] = 1.5
    pace_downhill: Annotated[float, limit("pace_downhill")] = 5.0
    pace_most: Annotated[float, limit("pace_most")] = 1.15
    altitude: Annotated[str, OneOf(ALTITUDE_EFFECTS, "altitude effect")] = "acclimatised"
    drivetrain: Annotated[float, limit("drivetrain")] = 0.96
    gross_efficiency: Annotated[float, limit("gross_efficiency")] = 0.22
    position: Position = "hoods"
    position_climbing: Position = "hoods"
    position_descending: Position = "drops"
    position_rough: Position = "hoods"
    drag_scale: Annotated[float, limit("drag_scale")] = 1.0
    tired: Annotated[float, limit("tiredness")] = 0.0
    awake_h: Annotated[float, limit("awake", 1 / 3600)] = 0.0
    sweat: Annotated[float, limit("sweat")] = 1.0
    handling: Annotated[float, limit("handling")] = 1.0
    punctures: Annotated[float, limit("punctures")] = 1.0
    climb_from: Annotated[float, limit("climb_from")] = 0.04
    descending: Annotated[str, OneOf(BOLDNESS, "way of descending")] = "normal"
    night_cap: Annotated[float, limit("night_cap")] = 0.80
    walk_factor: Annotated[float, limit("walk_factor")] = 0.85
    push_efficiency: Annotated[float, limit("push_efficiency")] = 0.20
    intake_kcal_per_h: Annotated[float, limit("intake")] = 260.0
    height_m: Annotated[float, limit("height_rider")] | None = None
    age: Annotated[float, limit("age")] | None = None
    sex: Annotated[str, OneOf(SEXES, "sex")] = ""
    runs_cold_k: Annotated[float, limit("runs_cold")] = 0.0

    @classmethod
    def of(cls, rider: Rider) -> "RiderDocument":
        """Return the document of a rider."""
        return cls(
            mass_kg=rider.mass,
            power_w=rider.power,
            fade_time_h=h_from_s(rider.fade_time),
            recovery_time_h=h_from_s(rider.recovery_time),
            intake_kcal_per_h=rider.intake,
            height_m=rider.height,
            runs_cold_k=rider.runs_cold,
            awake_h=h_from_s(rider.awake),
            **same_named(rider, _RIDER_SAME),
        )

    def core(self) -> Rider:
        """Return the rider."""
        return Rider(
            mass=self.mass_kg,
            power=self.power_w,
            fade_time=s_from_h(self.fade_time_h),
            recovery_time=s_from_h(self.recovery_time_h),
            intake=self.intake_kcal_per_h,
            height=self.height_m,
            runs_cold=self.runs_cold_k,
            awake=s_from_h(self.awake_h),
            **same_named(self, _RIDER_SAME),
        )


class NightDocument(Part):
    """A night set by hand. Hours count from midnight of the evening's day, so 26 is two in the morning."""

    kind: Annotated[str, OneOf(NIGHT_KINDS, "kind of night")]
    start_h: Annotated[float, Field(ge=0.0, le=48.0)] = 0.0
    end_h: Annotated[float, Field(ge=0.0, le=60.0)] = 0.0
    sleep_h: Annotated[float, limit("sleep", 1 / 3600)] = 0.0

    @classmethod
    def of(cls, night: Night) -> "NightDocument":
        """Return the document of a night."""
        return cls(
            kind=night.kind,
            start_h=h_from_s(night.start),
            end_h=h_from_s(night.end),
            sleep_h=h_from_s(night.sleep),
        )

    def core(self) -> Night:
        """Return the night."""
        return Night(
            kind=self.kind,
            start=s_from_h(self.start_h),
            end=s_from_h(self.end_h),
            sleep=s_from_h(self.sleep_h),
        )


class RhythmDocument(Part):
    """Start, riding hours, sleep and stays. `nights` counts from 0, the night after the first day."""

    start_local: LocalClock
    zone: Annotated[str, Field(max_length=60, description="a name of the IANA time zone database")]
    school: Annotated[str, OneOf(SLEEP_SCHOOLS, "sleep school")] = "window"
    rise: ClockTime
    halt: ClockTime
    sleep_from: ClockTime = "23:00"
    sleep_for_h: Annotated[float, limit("sleep", 1 / 3600)] = 4.0
    first_night: bool = False
    sleep_at_h: dict[Id, Annotated[float, limit("sleep", 1 / 3600)]] = {}
    nights: dict[Annotated[int, Field(ge=0, lt=MOST_DAYS)], NightDocument] = {}
    camp_time_min: Annotated[float, limit("camp_time", 1 / 60)] = 40.0
    dawdle_min: dict[str, Annotated[float, limit("dwell", 1 / 60)]] = {}
    stays_min: dict[Id, Annotated[float, limit("dwell", 1 / 60)]] = {}
    wait_most_min: Annotated[float, limit("wait", 1 / 60)] = 0.0
    day_distance_km: Annotated[float, limit("day_distance", 1e-3)] = 150.0
    no_rooms: list[Id] = []
    leave_at: dict[Id, ClockTime] = {}

    @field_validator("zone")
    @classmethod
    def _known(cls, value: str) -> str:
        try:
            ZoneInfo(value)
        except (ZoneInfoNotFoundError, ValueError, OSError):
            raise ValueError(f"“{value}” is no time zone, such as Etc/GMT+2") from None
        return value

    @classmethod
    def of(cls, rhythm: Rhythm) -> "RhythmDocument":
        """Return the document of a rhythm."""
        return cls(
            start_local=rhythm.start,
            rise=clock_text(rhythm.rise),
            halt=clock_text(rhythm.halt),
            sleep_from=clock_text(rhythm.sleep_from),
            sleep_for_h=h_from_s(rhythm.sleep_for),
            sleep_at_h={key: h_from_s(value) for key, value in sorted(rhythm.sleep_at.items())},
            nights={key: NightDocument.of(night) for key, night in sorted(rhythm.nights.items())},
            camp_time_min=min_from_s(rhythm.camp_time),
            dawdle_min={key: min_from_s(value) for key, value in sorted(rhythm.dawdle.items())},
            stays_min={key: min_from_s(value) for key, value in sorted(rhythm.stays.items())},
            wait_most_min=min_from_s(rhythm.wait_most),
            day_distance_km=km_from_m(rhythm.day_distance),
            no_rooms=sorted(rhythm.no_rooms),
            leave_at={key: clock_text(value) for key, value in sorted(rhythm.leave_at.items())},
            **same_named(rhythm, _RHYTHM_SAME),
        )

    def core(self) -> Rhythm:
        """Return the rhythm."""
        return Rhythm(
            start=self.start_local,
            rise=clock_seconds(self.rise),
            halt=clock_seconds(self.halt),
            sleep_from=clock_seconds(self.sleep_from),
            sleep_for=s_from_h(self.sleep_for_h),
            sleep_at={key: s_from_h(value) for key, value in self.sleep_at_h.items()},
            nights={key: night.core() for key, night in self.nights.items()},
            camp_time=s_from_min(self.camp_time_min),
            dawdle={key: s_from_min(value) for key, value in self.dawdle_min.items()},
            stays={key: s_from_min(value) for key, value in self.stays_min.items()},
            wait_most=s_from_min(self.wait_most_min),
            day_distance=m_from_km(self.day_distance_km),
            no_rooms=frozenset(self.no_rooms),
            leave_at={key: clock_seconds(value) for key, value in self.leave_at.items()},
            **same_named(self, _RHYTHM_SAME),
        )
