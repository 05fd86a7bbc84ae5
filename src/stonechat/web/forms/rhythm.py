"""The form of rider and riding hours."""

from dataclasses import replace
from datetime import date, datetime, time
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import field_validator

from stonechat.core.rhythm.rider import POSITION_NAMES, POSITIONS, Rhythm, Rider
from stonechat.formats.documents.part import clock_seconds, clock_text
from stonechat.web.forms.binding import Form, choice, clock_field, figure, text, tick

_POSITIONS = {
    key: f"{POSITION_NAMES[key]}, {mid:.2f} m² ({low:.2f}–{high:.2f})" for key, (low, mid, high) in POSITIONS.items()
}


class RhythmForm(Form):
    """Rider and hours of one variant."""

    mass_kg: float = figure("Rider, dressed", unit="kg", limit="rider_mass")
    power_w: float = figure("Power on the flat", unit="W", limit="power", help="held in the first hours, when fresh")
    position: str = choice("Position", _POSITIONS, help="drag area of rider and bare bike; an estimate with its band")
    endurance_pct: float = figure(
        "Power left when worn out", unit="%", limit="endurance", factor=100.0, help="without sleep; estimate, 45 to 85"
    )
    intake_kcal_h: float = figure("Eaten while riding", unit="kcal/h", limit="intake", help="estimate, 150 to 400")
    start_date: str = text("Start, day", least=10, most=10, pattern=r"^\d{4}-\d{2}-\d{2}$", help="year-month-day")
    start_time: str = clock_field("Start, time")
    rise: str = clock_field("Ride from", help="same as “until”: never sleeps")
    halt: str = clock_field("Ride until")
    first_night: bool = tick("Ride through the first night")
    camp_time_min: float = figure(
        "Camp work each rest", unit="min", limit="camp_time", factor=1 / 60, help="pitch, eat, pack: not slept"
    )
    zone: str = text("Time zone", least=1, most=60)

    @field_validator("start_date")
    @classmethod
    def _is_a_day(cls, value: str) -> str:
        try:
            year = date.fromisoformat(value).year
        except ValueError:
            raise ValueError(f"“{value}” is no day of the calendar. Write it as 2027-09-24.") from None
        if not 1990 <= year <= 2100:
            raise ValueError("The start lies between 1990 and 2100.")
        return value

    @field_validator("zone")
    @classmethod
    def _is_a_zone(cls, value: str) -> str:
        try:
            ZoneInfo(value)
        except (ZoneInfoNotFoundError, ValueError, OSError):
            raise ValueError(f"“{value}” is no time zone. Write it as Etc/GMT+2 or UTC.") from None
        return value

    @field_validator("position")
    @classmethod
    def _is_known(cls, value: str) -> str:
        if value not in POSITIONS:
            raise ValueError("Choose a position from the list.")
        return value

    @staticmethod
    def values(rider: Rider, rhythm: Rhythm) -> dict[str, Any]:
        """Return what the form shows for a rider."""
        return {
            "mass_kg": rider.mass,
            "power_w": rider.power,
            "position": rider.position,
            "endurance_pct": rider.endurance * 100.0,
            "intake_kcal_h": rider.intake,
            "start_date": rhythm.start.date().isoformat(),
            "start_time": rhythm.start.strftime("%H:%M"),
            "rise": clock_text(rhythm.rise),
            "halt": clock_text(rhythm.halt),
            "first_night": rhythm.first_night,
            "camp_time_min": rhythm.camp_time / 60.0,
            "zone": rhythm.zone,
        }

    def to_core(self, rider: Rider, rhythm: Rhythm) -> tuple[Rider, Rhythm]:
        """Return rider and hours with these figures."""
        start = datetime.combine(date.fromisoformat(self.start_date), time.fromisoformat(self.start_time))
        return (
            replace(
                rider,
                mass=self.mass_kg,
                power=self.power_w,
                position=self.position,
                endurance=round(self.endurance_pct / 100.0, 9),
                intake=self.intake_kcal_h,
            ),
            replace(
                rhythm,
                start=start,
                zone=self.zone,
                rise=clock_seconds(self.rise),
                halt=clock_seconds(self.halt),
                first_night=self.first_night,
                camp_time=round(self.camp_time_min * 60.0, 9),
            ),
        )
