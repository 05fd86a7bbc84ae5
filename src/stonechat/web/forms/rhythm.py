"""The forms of the rider, of start and sleep, and of a single night."""

from dataclasses import replace
from datetime import date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import create_model, field_validator, model_validator

from stonechat.core.line.clocks import exists
from stonechat.core.line.stops import DAY, KINDS
from stonechat.core.rhythm.rhythm import NIGHT_KINDS, SLEEP_SCHOOLS, Night, Rhythm
from stonechat.core.rhythm.rider import ALTITUDE_EFFECTS, BANDS, BOLDNESS, POSITION_NAMES, POSITIONS, Rider
from stonechat.core.supply.energy import SEXES
from stonechat.formats.documents.part import clock_seconds, clock_text
from stonechat.units import h_from_s, km_from_m, m_from_km, min_from_s, s_from_h, s_from_min
from stonechat.web.forms.binding import Form, choice, clock_field, figure, text, tick

_POSITIONS = {
    key: f"{POSITION_NAMES[key]}, {mid:.2f} m² ({low:.2f}–{high:.2f})" for key, (low, mid, high) in POSITIONS.items()
}
FIRST = 7  # fields of the rider that stand first; the others are finer
# field, factor from the core's unit, name in the core
_SCALED = (
    ("mass_kg", 1.0, "mass"),
    ("power_w", 1.0, "power"),
    ("intake_kcal_h", 1.0, "intake"),
    ("endurance_pct", 100.0, "endurance"),
    ("fade_h", 1 / 3600, "fade_time"),
    ("recovery_h", 1 / 3600, "recovery_time"),
    ("night_dip_pct", 100.0, "night_dip"),
    ("coasting_pct", 100.0, "coasting"),
    ("pace_uphill", 1.0, "pace_uphill"),
    ("pace_downhill", 1.0, "pace_downhill"),
    ("pace_most_pct", 100.0, "pace_most"),
    ("drag_pct", 100.0, "drag_scale"),
    ("tired_pct", 100.0, "tired"),
    ("awake_h", 1 / 3600, "awake"),
    ("sweat_pct", 100.0, "sweat"),
    ("handling_pct", 100.0, "handling"),
    ("punctures_pct", 100.0, "punctures"),
    ("climb_from_pct", 100.0, "climb_from"),
    ("night_cap_pct", 100.0, "night_cap"),
    ("walk_pct", 100.0, "walk_factor"),
    ("push_pct", 100.0, "push_efficiency"),
    ("drivetrain_pct", 100.0, "drivetrain"),
    ("efficiency_pct", 100.0, "gross_efficiency"),
)
_CHOSEN = ("position", "position_climbing", "position_descending", "position_rough", "descending", "altitude", "sex")


def _banded(title: str, name: str, *, unit: str = "", factor: float = 1.0, help: str = "") -> Any:
    """Return a field for a rider's figure whose help states its usual band and its source."""
    band = BANDS[name]
    words = f"{band.low * factor:g} to {band.high * factor:g}, {band.source}"
    return figure(title, unit=unit, limit=name, factor=factor, help=f"{help}; {words}" if help else words)


class RiderForm(Form):
    """The rider of one variant."""

    mass_kg: float = figure("Rider, dressed", unit="kg", limit="rider_mass")
    power_w: float = _banded("Power on the flat", "power", unit="W", help="held in the first hours, fresh")
    position: str = choice("Position", _POSITIONS, help="on smooth ground, about flat; estimates with their bands")
    position_climbing: str = choice("… climbing", _POSITIONS)
    position_rough: str = choice("… on rough ground", _POSITIONS)
    position_descending: str = choice("… going down", _POSITIONS)
    descending: str = choice("Descends", BOLDNESS, help="sets the fastest speed by surface and in bends")
    intake_kcal_h: float = _banded("Eaten while riding", "intake", unit="kcal/h")
    height_cm: float | None = figure(
        "Tall", unit="cm", limit="height_rider", factor=100.0, optional=True, help="for what a body spends at rest"
    )
    age: float | None = figure("Years of age", limit="age", optional=True)
    sex: str = choice("Sex", SEXES, help="two formulas for what a body spends at rest", optional="")
    endurance_pct: float = _banded("Power left when worn out", "endurance", unit="%", factor=100.0)
    fade_h: float = _banded("Fades over", "fade_time", unit="h", factor=1 / 3600, help="of riding")
    recovery_h: float = _banded("Comes back over", "recovery_time", unit="h", factor=1 / 3600, help="of sleep")
    night_dip_pct: float = _banded("Less at 04:00", "night_dip", unit="%", factor=100.0)
    coasting_pct: float = _banded("Not pedalling", "coasting", unit="%", factor=100.0, help="on the level and up")
    pace_uphill: float = _banded("More uphill", "pace_uphill", help="share of power per unit of grade")
    pace_downhill: float = _banded("Less downhill", "pace_downhill")
    pace_most_pct: float = _banded("Most uphill", "pace_most", unit="%", factor=100.0)
    drag_pct: float = _banded(
        "Own drag", "drag_scale", unit="%", factor=100.0, help="of the usual in each position; the Diary tells it"
    )
    tired_pct: float = figure(
        "Tired at the start", unit="%", limit="tiredness", factor=100.0,
        help="of what fades; 0: fresh; a plan of the rest of a race begins tired",
    )  # fmt: skip
    sweat_pct: float = _banded("Own sweat", "sweat", unit="%", factor=100.0, help="of the usual loss of water")
    handling_pct: float = _banded("Own time at bags", "handling", unit="%", factor=100.0, help="of the usual seconds")
    punctures_pct: float = _banded(
        "Own punctures", "punctures", unit="%", factor=100.0, help="of the usual on that ground"
    )
    awake_h: float = figure(
        "Awake at the start", unit="h", limit="awake", factor=1 / 3600,
        help="0: just up; a plan of the rest of a race begins as long awake as you are",
    )  # fmt: skip
    climb_from_pct: float = _banded("Climbing from", "climb_from", unit="%", factor=100.0)
    altitude: str = choice("Height and power", ALTITUDE_EFFECTS, help="Bassett1999; 12 % less at 2,000 m when fresh")
    night_cap_pct: float = _banded("Fastest by night", "night_cap", unit="%", factor=100.0, help="of that by day")
    walk_pct: float = _banded("Walking beside the bike", "walk_factor", unit="%", factor=100.0, help="of free hiking")
    push_pct: float = _banded("Pushing, efficiency", "push_efficiency", unit="%", factor=100.0)
    drivetrain_pct: float = _banded("Drivetrain", "drivetrain", unit="%", factor=100.0)
    efficiency_pct: float = _banded("Body, efficiency", "gross_efficiency", unit="%", factor=100.0)

    @staticmethod
    def values(rider: Rider) -> dict[str, Any]:
        """Return what the form shows for a rider."""
        shown = {field: round(getattr(rider, name) * factor, 9) for field, factor, name in _SCALED}
        tall = None if rider.height is None else round(100.0 * rider.height, 6)
        return {**shown, "height_cm": tall, "age": rider.age, **{name: getattr(rider, name) for name in _CHOSEN}}

    def to_core(self, rider: Rider) -> Rider:
        """Return the rider with these figures."""
        given = {name: round(getattr(self, field) / factor, 9) for field, factor, name in _SCALED}
        tall = None if self.height_cm is None else self.height_cm / 100.0
        chosen = {name: getattr(self, name) for name in _CHOSEN}
        return replace(rider, **given, height=tall, age=self.age, **chosen)


class RhythmForm(Form):
    """Start, sleep and stays of one variant; `rhythm_form` adds the stays by kind of stop."""

    start_date: str = text("Start, day", least=10, most=10, pattern=r"^\d{4}-\d{2}-\d{2}$", help="year-month-day")
    start_time: str = clock_field("Start, time")
    zone: str = text("Time zone", least=1, most=60)
    school: str = choice("Sleep", SLEEP_SCHOOLS)
    rise: str = clock_field("Ride from", help="with rooms: leave at; by distance: not before")
    halt: str = clock_field("Ride until", help="with rooms: latest arrival; same as “from”: never sleeps")
    sleep_from: str = clock_field("Lie down from", help="so many hours each night; before noon: after midnight")
    sleep_for_h: float = figure("Sleep each night", unit="h", limit="sleep", factor=1 / 3600)
    first_night: bool = tick("Ride through the first night")
    camp_time_min: float = figure(
        "Camp work each rest", unit="min", limit="camp_time", factor=1 / 60, help="pitch, eat, pack: not slept"
    )
    wait_most_min: float = figure(
        "Wait for a shut door", unit="min", limit="wait", factor=1 / 60, help="at most; 0: ride on without"
    )
    day_distance_km: float | None = figure(
        "Kilometres a day",
        unit="km",
        limit="day_distance",
        factor=1e-3,
        optional=True,
        help="where days go by distance",
    )

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

    @model_validator(mode="after")
    def _start_exists(self) -> "RhythmForm":
        start = datetime.combine(date.fromisoformat(self.start_date), time.fromisoformat(self.start_time))
        if not exists(start, ZoneInfo(self.zone)):
            raise ValueError(
                f"{start:%H:%M} does not exist on {start:%d %B %Y} in {self.zone}: the clocks are set forward then. "
                f"Say {start + timedelta(hours=1):%H:%M}, or another day."
            )
        return self

    def to_core(self, rhythm: Rhythm) -> Rhythm:
        """Return the rhythm with these figures; what is set for single nights and stops stays."""
        start = datetime.combine(date.fromisoformat(self.start_date), time.fromisoformat(self.start_time))
        stays = {key: getattr(self, f"stay_{key}", None) for key in KINDS}
        return replace(
            rhythm,
            start=start,
            zone=self.zone,
            school=self.school,
            rise=clock_seconds(self.rise),
            halt=clock_seconds(self.halt),
            sleep_from=clock_seconds(self.sleep_from),
            sleep_for=s_from_h(self.sleep_for_h),
            first_night=self.first_night,
            camp_time=s_from_min(self.camp_time_min),
            wait_most=s_from_min(self.wait_most_min),
            day_distance=rhythm.day_distance if self.day_distance_km is None else m_from_km(self.day_distance_km),
            dawdle={key: s_from_min(value) for key, value in stays.items() if value is not None},
        )


RHYTHM_FIRST = len(RhythmForm.model_fields)  # fields before the stays by kind


def rhythm_form() -> type[RhythmForm]:
    """Return the form with a stay for each kind of stop."""
    fields: dict[str, Any] = {}
    for key, kind in KINDS.items():
        title, words = f"Stay: {kind.name}", f"usual {kind.stay / 60:.0f} min, estimate"
        field = figure(title, unit="min", limit="dwell", factor=1 / 60, optional=True, help=words)
        fields[f"stay_{key}"] = (float | None, field)
    made: type[RhythmForm] = create_model("RhythmFormWithStays", __base__=RhythmForm, **fields)
    return made


def rhythm_values(rhythm: Rhythm) -> dict[str, Any]:
    """Return what the form shows for a rhythm."""
    return {
        "start_date": rhythm.start.date().isoformat(),
        "start_time": rhythm.start.strftime("%H:%M"),
        "zone": rhythm.zone,
        "school": rhythm.school,
        "rise": clock_text(rhythm.rise),
        "halt": clock_text(rhythm.halt),
        "sleep_from": clock_text(rhythm.sleep_from),
        "sleep_for_h": h_from_s(rhythm.sleep_for),
        "first_night": rhythm.first_night,
        "camp_time_min": min_from_s(rhythm.camp_time),
        "wait_most_min": min_from_s(rhythm.wait_most),
        "day_distance_km": km_from_m(rhythm.day_distance),
        **{f"stay_{key}": min_from_s(value) for key, value in rhythm.dawdle.items()},
    }


class NightForm(Form):
    """One night set by hand."""

    kind: str = choice("This night", NIGHT_KINDS)
    start: str = clock_field("From", help="before noon: after midnight")
    end: str = clock_field("Until")
    sleep_h: float = figure("Sleep", unit="h", limit="sleep", factor=1 / 3600)

    @staticmethod
    def values(night: Night, *, start: float, end: float, sleep: float) -> dict[str, Any]:
        """Return what the form shows: the night's own figures, else those of the rest as it falls. [s]"""
        return {
            "kind": night.kind,
            "start": clock_text(round((night.start or start) / 60.0) * 60.0 % DAY),
            "end": clock_text(round((night.end or end) / 60.0) * 60.0 % DAY),
            "sleep_h": round(h_from_s(night.sleep or sleep), 2),
        }

    def to_core(self) -> Night:
        """Return the night; its times count from midnight of the evening's day."""
        start = _evening(clock_seconds(self.start))
        end = clock_seconds(self.end)
        while end <= start:
            end += DAY
        return Night(
            kind=self.kind,
            start=0.0 if self.kind == "through" else start,
            end=end if self.kind == "until" else 0.0,
            sleep=s_from_h(self.sleep_h) if self.kind == "for" else 0.0,
        )


def _evening(time_of_day: float) -> float:
    """Return a time of a night, those before noon being after midnight. [s after midnight of the evening's day]"""
    return time_of_day if time_of_day >= 0.5 * DAY else time_of_day + DAY
