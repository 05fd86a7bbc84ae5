"""Quantities for people. Input in house units, output with its unit."""

import math
from collections.abc import Callable
from datetime import date, datetime
from typing import Any

_MINUS, _THIN = "−", "\u202f"


def _grouped(value: float, digits: int = 0) -> str:
    text = f"{abs(value):,.{digits}f}".replace(",", _THIN)
    return f"{_MINUS}{text}" if value < 0 and float(f"{abs(value):.{digits}f}") != 0.0 else text


def figure(value: float, digits: int = 1) -> str:
    """Return a plain figure, a dash where it is not known."""
    return _grouped(value, digits) if math.isfinite(value) else "–"


def distance_km(metres: float, digits: int = 0) -> str:
    """Return kilometres."""
    return f"{_grouped(metres / 1000.0, digits)} km"


def height_m(metres: float) -> str:
    """Return whole metres."""
    return f"{_grouped(metres)} m"


def duration(seconds: float) -> str:
    """Return hours and minutes: ``2 h 31``."""
    if not math.isfinite(seconds):
        return "–"
    minutes = round(abs(seconds) / 60.0)
    text = f"{minutes // 60} h {minutes % 60:02d}"
    return f"{_MINUS}{text}" if seconds < 0 and minutes else text


def minutes_signed(minutes: float) -> str:
    """Return minutes and seconds with their sign: ``+4:12``; hours from 100 minutes on."""
    if not math.isfinite(minutes):
        return "–"
    seconds = round(abs(minutes) * 60.0)
    sign = "+" if minutes > 0 and seconds else _MINUS if minutes < 0 and seconds else "±"
    if seconds >= 6000:
        return f"{sign}{seconds // 3600} h {seconds % 3600 // 60:02d}"
    return f"{sign}{seconds // 60}:{seconds % 60:02d}"


def minutes_plain(minutes: float) -> str:
    """Return minutes with one decimal: ``7.8 min``."""
    return f"{figure(minutes, 1)} min"


def mass_kg(kilograms: float, digits: int = 2) -> str:
    """Return kilograms."""
    return f"{_grouped(kilograms, digits)} kg"


def mass_g(kilograms: float) -> str:
    """Return whole grams."""
    return f"{_grouped(kilograms * 1000.0)} g"


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
    """Return square centimetres."""
    return f"{_grouped(square_metres * 1e4)} cm²"


def length_mm(metres: float) -> str:
    """Return millimetres."""
    return f"{_grouped(metres * 1000.0)} mm"


def percent(share: float, digits: int = 0) -> str:
    """Return a share in percent."""
    return f"{_grouped(share * 100.0, digits)} %"


def clock(moment: datetime) -> str:
    """Return weekday and time: ``Tue 03:40``."""
    return f"{moment:%a %H:%M}"


def day_month(moment: date) -> str:
    """Return a date as weekday, day and month."""
    return f"{moment:%a} {moment.day} {moment:%b}"


def temperature(degrees: float) -> str:
    """Return whole degrees Celsius."""
    return f"{_grouped(degrees)} °C" if math.isfinite(degrees) else "–"


def plural(count: int, one: str, many: str = "") -> str:
    """Return a count with its word."""
    return f"{count} {one if count == 1 else many or one + 's'}"


FILTERS: dict[str, Callable[..., Any]] = {
    function.__name__: function
    for function in (
        figure, distance_km, height_m, duration, minutes_signed, minutes_plain, mass_kg, mass_g, litres,
        litres_of_water, kcal, area_cm2, length_mm, percent, clock, day_month, temperature, plural,
    )
}  # fmt: skip
