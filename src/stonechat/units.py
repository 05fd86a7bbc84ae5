"""Conversions between house units (SI) and the units that people and files use.

Each pair is exact there and back for figures of up to nine decimals, so that a plan that is written and read
again is the same plan.
"""

_DIGITS = 9


def _scaled(value: float, factor: float) -> float:
    return round(value * factor, _DIGITS)


def g_from_kg(mass: float) -> float:
    """Return grams."""
    return _scaled(mass, 1e3)


def kg_from_g(mass_g: float) -> float:
    """Return kilograms."""
    return mass_g / 1e3


def l_from_m3(volume: float) -> float:
    """Return litres."""
    return _scaled(volume, 1e3)


def m3_from_l(volume_l: float) -> float:
    """Return cubic metres."""
    return volume_l / 1e3


def mm_from_m(length: float) -> float:
    """Return millimetres."""
    return _scaled(length, 1e3)


def m_from_mm(length_mm: float) -> float:
    """Return metres."""
    return length_mm / 1e3


def cm2_from_m2(area: float) -> float:
    """Return square centimetres."""
    return _scaled(area, 1e4)


def m2_from_cm2(area_cm2: float) -> float:
    """Return square metres."""
    return area_cm2 / 1e4


def km_from_m(distance: float) -> float:
    """Return kilometres."""
    return _scaled(distance, 1e-3)


def m_from_km(distance_km: float) -> float:
    """Return metres."""
    return round(distance_km * 1e3, _DIGITS)


def min_from_s(duration: float) -> float:
    """Return minutes."""
    return _scaled(duration, 1 / 60)


def s_from_min(duration_min: float) -> float:
    """Return seconds."""
    return round(duration_min * 60, _DIGITS)


def h_from_s(duration: float) -> float:
    """Return hours."""
    return _scaled(duration, 1 / 3600)


def s_from_h(duration_h: float) -> float:
    """Return seconds."""
    return round(duration_h * 3600, _DIGITS)


def kmh_from_ms(speed: float) -> float:
    """Return kilometres per hour."""
    return _scaled(speed, 3.6)


def ms_from_kmh(speed_kmh: float) -> float:
    """Return metres per second."""
    return speed_kmh / 3.6
