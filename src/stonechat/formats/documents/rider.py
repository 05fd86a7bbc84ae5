"""Rider and riding hours."""

from datetime import datetime
from typing import Annotated
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import Field, field_validator

from stonechat.core.rhythm.rider import POSITIONS, Rhythm, Rider
from stonechat.formats.documents.part import ClockTime, Part, clock_seconds, clock_text, limit, one_of
from stonechat.units import (
    min_from_s,
    s_from_min,
)


class RiderDocument(Part):
    """The rider."""

    mass_kg: Annotated[float, limit("rider_mass")]
    power_w: Annotated[float, limit("power")]
    endurance: Annotated[float, limit("endurance")] = 0.65
    fade_time_h: Annotated[float, limit("fade_time", 1 / 3600)] = 30.0
    recovery_time_h: Annotated[float, limit("recovery_time", 1 / 3600)] = 8.0
    night_dip: Annotated[float, limit("night_dip")] = 0.06
    pace_uphill: Annotated[float, limit("pace_uphill")] = 1.5
    pace_downhill: Annotated[float, limit("pace_downhill")] = 5.0
    pace_most: Annotated[float, limit("pace_most")] = 1.15
    drivetrain: Annotated[float, limit("drivetrain")] = 0.96
    gross_efficiency: Annotated[float, limit("gross_efficiency")] = 0.22
    position: str = "hoods"
    intake_kcal_per_h: Annotated[float, limit("intake")] = 260.0

    @field_validator("position")
    @classmethod
    def _known(cls, value: str) -> str:
        return one_of(value, POSITIONS, "position")

    @classmethod
    def of(cls, rider: Rider) -> "RiderDocument":
        """Return the document of a rider."""
        return cls(
            mass_kg=rider.mass,
            power_w=rider.power,
            endurance=rider.endurance,
            fade_time_h=round(rider.fade_time / 3600.0, 9),
            recovery_time_h=round(rider.recovery_time / 3600.0, 9),
            night_dip=rider.night_dip,
            pace_uphill=rider.pace_uphill,
            pace_downhill=rider.pace_downhill,
            pace_most=rider.pace_most,
            drivetrain=rider.drivetrain,
            gross_efficiency=rider.gross_efficiency,
            position=rider.position,
            intake_kcal_per_h=rider.intake,
        )

    def core(self) -> Rider:
        """Return the rider."""
        return Rider(
            mass=self.mass_kg,
            power=self.power_w,
            endurance=self.endurance,
            fade_time=round(self.fade_time_h * 3600.0, 6),
            recovery_time=round(self.recovery_time_h * 3600.0, 6),
            night_dip=self.night_dip,
            pace_uphill=self.pace_uphill,
            pace_downhill=self.pace_downhill,
            pace_most=self.pace_most,
            drivetrain=self.drivetrain,
            gross_efficiency=self.gross_efficiency,
            position=self.position,
            intake=self.intake_kcal_per_h,
        )


class RhythmDocument(Part):
    """Start and riding hours."""

    start_local: datetime
    zone: Annotated[str, Field(max_length=60)]
    rise: ClockTime
    halt: ClockTime
    first_night: bool = False
    camp_time_min: Annotated[float, limit("camp_time", 1 / 60)] = 40.0

    @field_validator("zone")
    @classmethod
    def _known(cls, value: str) -> str:
        try:
            ZoneInfo(value)
        except (ZoneInfoNotFoundError, ValueError, OSError):
            raise ValueError(f"“{value}” is no time zone, such as Etc/GMT+2") from None
        return value

    @field_validator("start_local")
    @classmethod
    def _plain_clock(cls, value: datetime) -> datetime:
        if value.tzinfo is not None or not 1990 <= value.year <= 2100:
            raise ValueError("start_local is a local clock time without offset, between 1990 and 2100")
        return value

    @classmethod
    def of(cls, rhythm: Rhythm) -> "RhythmDocument":
        """Return the document of a rhythm."""
        return cls(
            start_local=rhythm.start,
            zone=rhythm.zone,
            rise=clock_text(rhythm.rise),
            halt=clock_text(rhythm.halt),
            first_night=rhythm.first_night,
            camp_time_min=min_from_s(rhythm.camp_time),
        )

    def core(self) -> Rhythm:
        """Return the rhythm."""
        return Rhythm(
            start=self.start_local,
            zone=self.zone,
            rise=clock_seconds(self.rise),
            halt=clock_seconds(self.halt),
            first_night=self.first_night,
            camp_time=s_from_min(self.camp_time_min),
        )
