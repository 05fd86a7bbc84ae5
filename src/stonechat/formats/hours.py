"""Opening hours as people write them: ``Mo-Fr 07:00-20:00; Sa 08:00-13:00; Su shut``."""

import re
from collections.abc import Mapping
from itertools import groupby, pairwise

from stonechat.core.line.stops import ALWAYS, OFFERS, Hours, Stop, main_door
from stonechat.errors import InvalidInput

WEEKDAYS = ("Mo", "Tu", "We", "Th", "Fr", "Sa", "Su")
_SPAN = re.compile(r"^(\d{1,2}):(\d{2})\s*[-–]\s*(\d{1,2}):(\d{2})$")
_DAYS = re.compile(r"^([A-Za-z]{2})(?:\s*[-–]\s*([A-Za-z]{2}))?$")
_DAY = 86_400.0


def parse_hours(text: str) -> Hours | None:
    """Return opening and closing times by weekday from Monday; None for an empty text: not known. ``24 h`` is always.

    A span that ends before it begins runs past midnight. Days not named are shut.
    """
    if not text.strip():
        return None
    if re.fullmatch(r"24\s*(?:h|hours|/\s*7)|always", text.strip().lower()):
        return ALWAYS
    days: list[list[tuple[float, float]]] = [[] for _ in WEEKDAYS]
    for part in filter(None, (piece.strip() for piece in text.split(";"))):
        head, _, rest = part.partition(" ")
        named = _named_days(head) or range(7)
        rest = part if _named_days(head) is None else rest
        if rest.strip().lower() in ("shut", "closed", "off"):
            continue
        spans = [_span(piece.strip()) for piece in rest.split(",")]
        for day in named:
            days[day] += spans
    return tuple(_in_order(weekday, spans) for weekday, spans in zip(WEEKDAYS, days, strict=True))


def _in_order(weekday: str, spans: list[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """Return the opening times of a day in order; refused where two overlap."""
    ordered = tuple(sorted(spans))
    if any(after[0] < before[1] for before, after in pairwise(ordered)):
        raise InvalidInput(f"On {weekday} two opening times overlap. Join them, or leave a break between.")
    return ordered


def _named_days(head: str) -> range | list[int] | None:
    match = _DAYS.match(head)
    if match is None:
        return None
    names = [name.capitalize() for name in match.groups() if name]
    for name in names:
        if name not in WEEKDAYS:
            raise InvalidInput(f"“{name}” is no weekday. Write {', '.join(WEEKDAYS)}.")
    first, last = WEEKDAYS.index(names[0]), WEEKDAYS.index(names[-1])
    return range(first, last + 1) if first <= last else [*range(first, 7), *range(last + 1)]


def _time_of_day(hour: int, minute: int) -> float:
    """Return a time of day. [s]"""
    if hour > 24 or minute > 59 or (hour == 24 and minute):
        raise InvalidInput(f"“{hour:02d}:{minute:02d}” is no time of day. A day ends at 24:00.")
    return hour * 3600.0 + minute * 60.0


def _span(text: str) -> tuple[float, float]:
    match = _SPAN.match(text)
    if match is None:
        raise InvalidInput(f"“{text[:40]}” is no opening time. Write it as 07:00-20:00.")
    hours = [int(part) for part in match.groups()]
    opens, shuts = _time_of_day(*hours[:2]), _time_of_day(*hours[2:])
    if opens == shuts:
        raise InvalidInput(f"“{text}” opens and shuts at once. For the whole day write 00:00-24:00.")
    return opens, shuts if shuts > opens else shuts + _DAY


def hours_text(hours: Hours | None) -> str:
    """Return hours in the form that `parse_hours` reads, weekdays that are alike together."""
    if hours is None:
        return ""
    if hours == ALWAYS:
        return "24 h"
    parts = []
    for spans, group in groupby(range(7), key=lambda day: hours[day]):
        days = list(group)
        name = WEEKDAYS[days[0]] if len(days) == 1 else f"{WEEKDAYS[days[0]]}-{WEEKDAYS[days[-1]]}"
        times = ",".join(f"{_clock(a)}-{_clock(b)}" for a, b in spans) or "shut"
        parts.append(f"{name} {times}")
    return "; ".join(parts)


def _clock(seconds: float) -> str:
    minutes = round(seconds / 60.0)
    minutes = minutes if minutes <= 1440 else minutes - 1440
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


_OFFER_NAMES = {name: key for key, name in OFFERS.items()} | {key: key for key in OFFERS}


def parse_doors(text: str) -> dict[str, Hours]:
    """Return the hours of offers that have a door of their own: ``water: 24 h | meals: 12:00-14:00``."""
    doors: dict[str, Hours] = {}
    for part in filter(None, (piece.strip() for piece in re.split(r"[|\n]", text))):
        name, colon, rest = part.partition(":")
        offer = _OFFER_NAMES.get(name.strip().lower())
        if not colon or offer is None:
            raise InvalidInput(f"“{part[:40]}” names no offer. Write {', '.join(OFFERS.values())}, a colon, the hours.")
        hours = parse_hours(rest)
        if hours is None:
            raise InvalidInput(f"The hours of {name.strip()} are missing. Write {name.strip()}: 07:00-20:00.")
        doors[offer] = hours
    return doors


def doors_text(doors: Mapping[str, Hours]) -> str:
    """Return doors in the form that `parse_doors` reads."""
    return " | ".join(f"{OFFERS[offer]}: {hours_text(doors[offer])}" for offer in OFFERS if offer in doors)


def stop_hours_text(stop: Stop) -> str:
    """Say when a stop is open: as stated, always where nothing is shut, else not known."""
    door = main_door(stop)
    words = hours_text(door.hours) if door.is_known else "not known"
    doors = doors_text(stop.hours_by)
    return f"{words} | {doors}" if doors else words
