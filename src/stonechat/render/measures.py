"""In which units and by which clock a person reads: metric or imperial, 24 or 12 hours. House units stay SI."""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import NamedTuple


class Measures(NamedTuple):
    """What a person has chosen."""

    imperial: bool = False
    twelve_hours: bool = False


class Other(NamedTuple):
    """The imperial unit that stands for a metric one: figure times factor plus offset."""

    unit: str
    factor: float
    offset: float = 0.0

    def shown(self, figure: float) -> float:
        """Return a metric figure in this unit."""
        return figure * self.factor + self.offset

    def metric(self, figure: float) -> float:
        """Return a figure of this unit in the metric one."""
        return (figure - self.offset) / self.factor


IMPERIAL: dict[str, Other] = {  # international yard and pound; litres stay, as bags and bottles are sold by them
    "km": Other("mi", 1.0 / 1.609344),
    "m": Other("ft", 1.0 / 0.3048),
    "mm": Other("in", 1.0 / 25.4),
    "kg": Other("lb", 1.0 / 0.45359237),
    "g": Other("oz", 1.0 / 28.349523125),
    "cm²": Other("in²", 1.0 / 6.4516),
    "km/h": Other("mph", 1.0 / 1.609344),
    "°C": Other("°F", 1.8, 32.0),
}
FINER = frozenset({"oz", "in"})  # the metric figure before them has no decimal
_IN_WORDS = re.compile(
    r"(?P<minus>[−-]?)(?P<figure>\d[\d,\u202f\u00a0]*(?:\.\d+)?) ?(?P<unit>km/h|km|mm|m|kg|g|°C)(?![\w/²³°])"
)
_CLOCK = re.compile(r"(?<![\d:+-])([01]\d|2[0-3]):([0-5]\d)(?![\d:-])")
_AT_KM = re.compile(r"\b(?P<word>[Kk]m) (?P<figure>\d[\d,\u202f]*(?:\.\d+)?)(?![\d.])")
_METRIC = Measures()
_CHOSEN: ContextVar[Measures] = ContextVar("measures", default=_METRIC)


def measures() -> Measures:
    """Return what the person who asks has chosen."""
    return _CHOSEN.get()


@contextmanager
def reading_in(chosen: Measures) -> Iterator[None]:
    """Let what is rendered meanwhile be read in these units."""
    token = _CHOSEN.set(chosen)
    try:
        yield
    finally:
        _CHOSEN.reset(token)


def other_unit(unit: str) -> Other | None:
    """Return the unit that stands for a metric one, None where it stays."""
    return IMPERIAL.get(unit) if measures().imperial else None


def shown_unit(unit: str) -> str:
    """Return the unit in which a figure of a metric one is shown and typed."""
    other = other_unit(unit)
    return unit if other is None else other.unit


def chart_units() -> dict[str, tuple[str, float]]:
    """Return for each unit of a chart's data what it is shown in, and by how much it is multiplied for that."""
    metric = ("km", "m", "kg")
    return {unit: (shown_unit(unit), IMPERIAL[unit].factor if measures().imperial else 1.0) for unit in metric}


def in_other_units(text: str) -> str:
    """Return words with every figure that stands before a metric unit, or after “km”, in the chosen units.

    >>> with reading_in(Measures(imperial=True)):
    ...     in_other_units("142 km at -5 °C with 250 g; km 80 is next")
    '88 mi at 23 °F with 8.8 oz; mi 50 is next'
    """
    if measures().twelve_hours:
        text = _CLOCK.sub(lambda match: twelve_hours(int(match[1]), int(match[2])), text)
    return _AT_KM.sub(_place, _IN_WORDS.sub(_figure, text)) if measures().imperial else text


def twelve_hours(hour: int, minute: int) -> str:
    """Return a time of day by twelve hours: ``3:40 am``."""
    return f"{hour % 12 or 12}:{minute:02d} {'am' if hour < 12 else 'pm'}"


def _number(figure: str) -> float:
    return float(re.sub("[,\u202f\u00a0]", "", figure))


def _figure(match: re.Match[str]) -> str:
    other = IMPERIAL[match["unit"]]
    digits = len(match["figure"].partition(".")[2]) + (1 if other.unit in FINER else 0)
    shown = other.shown(-_number(match["figure"]) if match["minus"] else _number(match["figure"]))
    return f"{shown:,.{digits}f} {other.unit}"


def _place(match: re.Match[str]) -> str:
    digits = len(match["figure"].partition(".")[2])
    return f"mi {IMPERIAL['km'].shown(_number(match['figure'])):,.{digits}f}"
