"""The forms of the Diary."""

from datetime import date, datetime, tzinfo

from pydantic import field_validator

from stonechat.core.diary.notes import KINDS
from stonechat.core.diary.rides import PURPOSES
from stonechat.core.diary.shakedown import TROUBLES
from stonechat.core.line.surface import SURFACE_INDEX, SURFACES
from stonechat.web.forms.binding import Form, choice, figure, moment_field, text


class NoteForm(Form):
    """What happened where, and when."""

    kind: str = choice("What", KINDS)
    words: str = text("In words", most=500)
    km: float | None = figure(
        "At", unit="km", limit="note_km", optional=True, help="empty: where you were then, by tracker or plan"
    )
    at: datetime | None = moment_field("When", help="day and time where the race starts; empty: not noted")

    def moment(self, zone: tzinfo | None) -> datetime | None:
        """Return when it was, by the clock of the start."""
        return None if self.at is None else self.at.replace(tzinfo=zone)


class RideForm(Form):
    """What a ride's file is."""

    name: str = text("Called", most=60)
    purpose: str = choice("What it was", PURPOSES)
    mass: float | None = figure(
        "Rider, bike and load", unit="kg", limit="system_mass", optional=True, help="all that rolled; empty: as planned"
    )
    surface: str = choice(
        "On", {key: SURFACES[k].name for key, k in SURFACE_INDEX.items()}, optional="", usual="several surfaces",
        help="one surface lets it tell rolling",
    )  # fmt: skip


class RestForm(Form):
    """Where one is, and what is left aboard."""

    km: float = figure("I am at", unit="km", limit="note_km")
    at: datetime | None = moment_field("When", help="day and time where the race starts")
    water: float = figure("Water aboard", unit="l", limit="water_aboard")
    kcal: float = figure("Food aboard", unit="kcal", limit="food_aboard")


class WordsForm(Form):
    """What the rider says of a race in words."""

    worked: str = text("What worked", most=2_000)
    change: str = text("What to change", most=2_000)
    wished: str = text("Missing, or wished for", most=4_000, help="a line each")


class ShakedownForm(Form):
    """How far the loaded bike was ridden."""

    day: str = text("Day", most=10, pattern=r"^(\d{4}-\d{2}-\d{2})?$", help="year-month-day; empty: not ridden yet")
    km: float = figure("Loaded as for the start", unit="km", limit="note_km")
    rough_km: float = figure("of it on rough ground", unit="km", limit="note_km")

    @field_validator("day")
    @classmethod
    def _is_a_day(cls, value: str) -> str:
        if value:
            try:
                date.fromisoformat(value)
            except ValueError:
                raise ValueError(f"“{value}” is no day of the calendar. Write it as 2027-09-24.") from None
        return value


class FoundForm(Form):
    """What a loaded ride showed."""

    trouble: str = choice("What", TROUBLES)
    about: str = text("About", most=60)
    words: str = text("In words", most=400)
