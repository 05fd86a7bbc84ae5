"""Quantities for people. Input in house units, output with its unit."""

import math
from collections.abc import Callable, Iterable
from datetime import date, datetime
from typing import Any

from stonechat.core.kit.along import goes_along
from stonechat.core.kit.jobs import JOBS
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.render.measures import FINER, in_other_units, measures, other_unit, twelve_hours
from stonechat.text import listed

_MINUS, THIN = "−", "\u202f"


def _grouped(value: float, digits: int = 0) -> str:
    text = f"{abs(value):,.{digits}f}".replace(",", THIN)
    return f"{_MINUS}{text}" if value < 0 and float(f"{abs(value):.{digits}f}") != 0.0 else text


def _with_unit(value: float, unit: str, digits: int = 0) -> str:
    """Return a figure with its unit, in the one that the reader has chosen; small ones keep a decimal there."""
    other = other_unit(unit)
    if other is None:
        return f"{_grouped(value, digits)} {unit}"
    more = 1 if other.unit in FINER else 0
    return f"{_grouped(other.shown(value), digits + more)} {other.unit}"


def way_figure(kilometres: float) -> str:
    """Return a whole distance for a narrow column: the figure alone."""
    other = other_unit("km")
    return _grouped(kilometres if other is None else other.shown(kilometres))


def said(sentence: str) -> str:
    """Return a sentence of the core with its figures in the units that the reader has chosen."""
    return in_other_units(sentence)


def figure(value: float, digits: int = 1) -> str:
    """Return a plain figure, a dash where it is not known."""
    return _grouped(value, digits) if math.isfinite(value) else "–"


def distance_km(metres: float, digits: int = 0) -> str:
    """Return kilometres, or miles."""
    return _with_unit(metres / 1000.0, "km", digits)


def height_m(metres: float, digits: int = 0) -> str:
    """Return metres, or feet."""
    return _with_unit(metres, "m", digits)


def duration(seconds: float) -> str:
    """Return hours and minutes: ``2 h 31``."""
    if not math.isfinite(seconds):
        return "–"
    minutes = round(abs(seconds) / 60.0)
    text = f"{minutes // 60} h {minutes % 60:02d}"
    return f"{_MINUS}{text}" if seconds < 0 and minutes else text


def minutes_signed(minutes: float) -> str:
    """Return minutes and seconds with their sign: ``+4:12``; hours from an hour on."""
    if not math.isfinite(minutes):
        return "–"
    seconds = round(abs(minutes) * 60.0)
    sign = "+" if minutes > 0 and seconds else _MINUS if minutes < 0 and seconds else "±"
    if seconds >= 3600:
        return f"{sign}{seconds // 3600} h {seconds % 3600 // 60:02d}"
    return f"{sign}{seconds // 60}:{seconds % 60:02d}"


def minutes_plain(minutes: float) -> str:
    """Return minutes with one decimal: ``7.8 min``."""
    return f"{figure(minutes, 1)} min"


def minutes_or_none(minutes: float) -> str:
    """Return minutes with one decimal, a dash where it is next to none."""
    return minutes_plain(minutes) if minutes >= 0.05 else "–"


def mass_kg(kilograms: float, digits: int = 2) -> str:
    """Return kilograms, or pounds."""
    return _with_unit(kilograms, "kg", digits)


def masses_kg(kilograms: Iterable[float], digits: int = 2) -> str:
    """Return several masses with their unit once: ``0.40 + 0.55 kg``."""
    *first, last = (mass_kg(mass, digits) for mass in kilograms)
    return " + ".join([*(text.rpartition(" ")[0] for text in first), last])


def mass_g(kilograms: float) -> str:
    """Return whole grams, or ounces."""
    return _with_unit(kilograms * 1000.0, "g")


def litres(cubic_metres: float, digits: int = 1) -> str:
    """Return litres from cubic metres."""
    return f"{_grouped(cubic_metres * 1000.0, digits)} l"


def litres_of_water(amount: float) -> str:
    """Return litres of water, which the core counts in litres."""
    return f"{_grouped(amount, 1)} l"


def kcal(amount: float) -> str:
    """Return kilocalories."""
    return f"{_grouped(round(amount, -1) if abs(amount) >= 100 else amount)} kcal"


def area_cm2(square_metres: float) -> str:
    """Return square centimetres, or square inches."""
    return _with_unit(square_metres * 1e4, "cm²")


def length_mm(metres: float) -> str:
    """Return millimetres, or inches."""
    return _with_unit(metres * 1000.0, "mm")


def percent(share: float, digits: int = 0) -> str:
    """Return a share in percent, a dash where it is not known."""
    return f"{_grouped(share * 100.0, digits)} %" if math.isfinite(share) else "–"


def clock(moment: datetime) -> str:
    """Return weekday and time: ``Tue 03:40``, or ``Tue 3:40 am``."""
    return f"{moment:%a} {time_of_day(moment)}"


def time_of_day(moment: datetime) -> str:
    """Return a time of day: ``03:40``, or ``3:40 am``."""
    if not measures().twelve_hours:
        return f"{moment:%H:%M}"
    return twelve_hours(moment.hour, moment.minute)


def day_month(moment: date) -> str:
    """Return a date as weekday, day and month."""
    return f"{moment:%a} {moment.day} {moment:%b}"


def temperature(degrees: float) -> str:
    """Return whole degrees Celsius, or Fahrenheit."""
    return _with_unit(degrees, "°C") if math.isfinite(degrees) else "–"


def kelvin(difference: float) -> str:
    """Return a margin in whole kelvin with its sign; a difference is the same in every scale but that of the reader."""
    words = f"{abs(difference):.0f}"
    return f"{words} K" if words == "0" else f"{'+' if difference > 0.0 else _MINUS}{words} K"


def plural(count: int, one: str, many: str = "") -> str:
    """Return a count with its word."""
    return f"{count} {one if count == 1 else many or one + 's'}"


def kind_title(key: str) -> str:
    """Return what a thing is taken for."""
    return KINDS[key].title if key in KINDS else "not known"


def job_name(key: str) -> str:
    """Return the name of a job."""
    return JOBS[key].name if key in JOBS else key


FILTERS: dict[str, Callable[..., Any]] = {
    function.__name__: function
    for function in (
        figure, distance_km, height_m, duration, minutes_signed, minutes_plain, minutes_or_none,
        mass_kg, mass_g, litres, kind_title, goes_along, job_name,
        litres_of_water, kcal, area_cm2, length_mm, percent, clock, time_of_day, day_month, temperature, kelvin,
        plural, said, way_figure, listed,
    )
}  # fmt: skip
