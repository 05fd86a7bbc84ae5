"""FIT courses and activities: positions with heights, and course points as places."""

import io
import struct
from collections.abc import Iterator
from typing import Any

import fitdecode

from stonechat.errors import UnreadableFile
from stonechat.formats.course_file import (
    MOST_WAYPOINTS,
    CourseFile,
    CourseLine,
    FileLimits,
    Point,
    Waypoint,
    points_array,
    refuse_large,
    refuse_many,
)
from stonechat.text import clean_text

_USUAL = FileLimits()
_DEGREES = 180.0 / 2**31  # ° in a semicircle, the unit of positions
# what a damaged file makes the decoder stumble over
_DAMAGE = (
    fitdecode.FitError, struct.error, ValueError, KeyError, IndexError, TypeError, OverflowError, AttributeError,
    AssertionError, MemoryError,
)  # fmt: skip


def is_fit(data: bytes) -> bool:
    """Tell whether a file begins as FIT files do."""
    return data[8:12] == b".FIT"


def _take(message: Any, points: list[Point], places: list[Waypoint], limits: FileLimits) -> None:
    """Take what a message tells: a point of the line, or a place on it."""
    if message.name == "record":
        point = _point(message)
        points += [point] if point is not None else []
        refuse_many(len(points), limits)
    elif message.name == "course_point" and len(places) < MOST_WAYPOINTS:
        place = _place(message, len(places))
        places += [place] if place else []


def read_fit(data: bytes, limits: FileLimits = _USUAL) -> CourseFile:
    """Return the line of a FIT file: the records of a course or an activity, with its course points."""
    refuse_large(data, limits)
    points: list[Point] = []
    places: list[Waypoint] = []
    name, kind = "", "activity"
    try:
        for message in _messages(data):
            if message.name == "course":
                name, kind = str(_value(message, "name") or "")[:80], "course"
            else:
                _take(message, points, places, limits)
    except _DAMAGE as exc:
        reason = str(exc).split("\n")[0][:80]
        raise UnreadableFile(
            f"The FIT file is damaged after {len(points):,} points ({reason}). Export it again."
        ) from exc
    if not points:
        raise UnreadableFile("The FIT file holds no positions. Choose a course, or a ride with positions.")
    line = CourseLine(name=name, kind=kind, parts=(points_array(points),))
    return CourseFile(name=name or "Imported course", lines=(line,), waypoints=tuple(places))


def _messages(data: bytes) -> Iterator[Any]:
    with fitdecode.FitReader(
        io.BytesIO(data), check_crc=fitdecode.CrcCheck.RAISE, error_handling=fitdecode.ErrorHandling.RAISE
    ) as reader:
        for frame in reader:
            if frame.frame_type == fitdecode.FIT_FRAME_DATA:
                yield frame


def _value(message: Any, field: str) -> Any:
    value = message.get_value(field, fallback=None)
    return clean_text(value) if isinstance(value, str) else value


def _position(message: Any) -> tuple[float, float] | None:
    latitude, longitude = _value(message, "position_lat"), _value(message, "position_long")
    if latitude is None or longitude is None:
        return None
    return float(latitude) * _DEGREES, float(longitude) * _DEGREES


def _point(message: Any) -> Point | None:
    position = _position(message)
    if position is None:
        return None
    height = _value(message, "enhanced_altitude")
    height = _value(message, "altitude") if height is None else height
    return *position, float("nan") if height is None else float(height)


def _place(message: Any, number: int) -> Waypoint | None:
    position = _position(message)
    if position is None:
        return None
    name = str(_value(message, "name") or f"Place {number + 1}")
    symbol = str(_value(message, "type") or "")
    return Waypoint(name=name[:60], latitude=position[0], longitude=position[1], symbol=symbol)
