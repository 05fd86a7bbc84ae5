"""Courses for devices on the bars, FIT and TCX, with course points that warn before a stop; and a calendar."""

import unicodedata
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import numpy as np
from fit_tool.data_message import DataMessage
from fit_tool.field import Field
from fit_tool.fit_file_builder import FitFileBuilder
from fit_tool.profile.messages.course_message import CourseMessage
from fit_tool.profile.messages.course_point_message import CoursePointMessage
from fit_tool.profile.messages.event_message import EventMessage
from fit_tool.profile.messages.file_id_message import FileIdMessage
from fit_tool.profile.messages.lap_message import LapMessage
from fit_tool.profile.messages.record_message import RecordMessage
from fit_tool.profile.profile_type import CoursePoint, Event, EventType, FileType, Manufacturer, Sport
from lxml import etree
from tcxparser.tcxparser import namespace

from stonechat.core.numerics.arrays import FloatArray

FIT_NAME = 15  # bytes of UTF-8 that the format gives a name
TCX_NAME, TCX_COURSE = 10, 15  # characters of a point and of a course
_TOLD = ("timestamp", "position_lat", "position_long", "altitude", "distance")  # of a point
_FIT_KINDS = {
    "water": CoursePoint.WATER, "food": CoursePoint.FOOD, "first_aid": CoursePoint.FIRST_AID,
    "danger": CoursePoint.DANGER, "generic": CoursePoint.GENERIC,
}  # fmt: skip
_TCX_KINDS = {
    "water": "Water", "food": "Food", "first_aid": "First Aid", "danger": "Danger", "generic": "Generic",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Cue:
    """A place that a device warns of."""

    name: str
    kind: str  # water, food, first_aid, danger, generic
    words: str  # what to leave with, hours
    distance: float  # m
    elapsed: float  # s since the start
    latitude: float  # °
    longitude: float  # °


@dataclass(frozen=True, kw_only=True)
class DeviceCourse:
    """A course by the clock, shape (n,)."""

    name: str
    start: datetime  # with its zone
    distances: FloatArray  # m
    latitudes: FloatArray  # °
    longitudes: FloatArray  # °
    heights: FloatArray  # m
    elapsed: FloatArray  # s since the start, on arrival
    cues: tuple[Cue, ...]


def cut_bytes(name: str, most: int) -> str:
    """Return a name that takes so many bytes of UTF-8 at most, no character cut in two.

    >>> cut_bytes("Brannock saddle", 15), cut_bytes("Hütte am Pass", 6), cut_bytes("👩🏽‍🚒 X", 5)
    ('Brannock saddle', 'Hütte', '👩')
    """
    kept = ""
    for mark in _printable(name):
        if len((kept + mark).encode()) > most:
            break
        kept += mark
    return kept.strip() or "Stop"


def cut_marks(name: str, most: int) -> str:
    """Return a name of so many characters at most; marks that stand on a letter stay with it.

    >>> cut_marks("Brannock saddle", 10)
    'Brannock s'
    """
    return _printable(unicodedata.normalize("NFC", name))[:most].strip() or "Stop"


def _printable(name: str) -> str:
    """Return a name without what turns the direction of writing or is no character of XML."""
    return "".join(mark for mark in name if unicodedata.category(mark) not in ("Cc", "Cf", "Cs", "Co", "Cn")).strip()


def write_fit_course(course: DeviceCourse) -> bytes:
    """Return a course in FIT."""
    builder = FitFileBuilder(auto_define=True, min_string_size=FIT_NAME + 1)
    began = _millis(course.start, 0.0)
    head = FileIdMessage()
    head.type, head.manufacturer = FileType.COURSE, Manufacturer.DEVELOPMENT.value
    head.product, head.serial_number, head.time_created = 0, 1, began
    title = CourseMessage()
    title.course_name, title.sport = cut_bytes(course.name, FIT_NAME), Sport.CYCLING
    builder.add_all([head, title, _lap(course), _event(EventType.START, began)])
    builder.add_all(_records(course))
    for cue in course.cues:
        point = CoursePointMessage()
        point.timestamp, point.distance = _millis(course.start, cue.elapsed), cue.distance
        point.position_lat, point.position_long = cue.latitude, cue.longitude
        point.type, point.course_point_name = _FIT_KINDS[cue.kind], cut_bytes(cue.name, FIT_NAME)
        builder.add(point)
    builder.add(_event(EventType.STOP_DISABLE_ALL, _millis(course.start, float(course.elapsed[-1]))))
    return bytes(builder.build_bytes())


def _records(course: DeviceCourse) -> Iterator[DataMessage]:
    """Yield the points. A message of the library has some eighty fields: only the five that are told are copied."""
    usual = RecordMessage()
    fields = [usual.get_field_by_name(name) for name in _TOLD]
    places = zip(course.elapsed, course.latitudes, course.longitudes, course.heights, course.distances, strict=True)
    for elapsed, *place in places:
        told = [Field.from_field(field) for field in fields]
        for field, value in zip(told, (_millis(course.start, elapsed), *map(float, place)), strict=True):
            field.set_value(0, value)
        yield DataMessage(global_id=RecordMessage.ID, name=RecordMessage.NAME, fields=told)


def _lap(course: DeviceCourse) -> LapMessage:
    lap, total = LapMessage(), float(course.elapsed[-1])
    lap.timestamp, lap.start_time = _millis(course.start, total), _millis(course.start, 0.0)
    lap.total_elapsed_time = lap.total_timer_time = total
    lap.total_distance = float(course.distances[-1])
    lap.start_position_lat, lap.start_position_long = float(course.latitudes[0]), float(course.longitudes[0])
    lap.end_position_lat, lap.end_position_long = float(course.latitudes[-1]), float(course.longitudes[-1])
    lap.total_ascent = int(min(65_534, np.maximum(0.0, np.diff(course.heights)).sum()))
    return lap


def _event(kind: EventType, at: int) -> EventMessage:
    event = EventMessage()
    event.event, event.event_type, event.timestamp = Event.TIMER, kind, at
    return event


def _millis(start: datetime, elapsed: float) -> int:
    return 1000 * round(start.timestamp() + float(elapsed))


def write_tcx_course(course: DeviceCourse) -> bytes:
    """Return a course in TCX."""
    root = etree.Element(f"{{{namespace}}}TrainingCenterDatabase", nsmap={None: namespace})
    way = _add(_add(root, "Courses"), "Course")
    _add(way, "Name").text = cut_marks(course.name, TCX_COURSE)
    lap = _add(way, "Lap")
    _add(lap, "TotalTimeSeconds").text = f"{float(course.elapsed[-1]):.0f}"
    _add(lap, "DistanceMeters").text = f"{float(course.distances[-1]):.1f}"
    for name, k in (("BeginPosition", 0), ("EndPosition", -1)):
        _position(lap, name, float(course.latitudes[k]), float(course.longitudes[k]))
    _add(lap, "Intensity").text = "Active"
    track = _add(way, "Track")
    places = zip(course.elapsed, course.latitudes, course.longitudes, course.heights, course.distances, strict=True)
    for elapsed, latitude, longitude, height, distance in places:
        point = _add(track, "Trackpoint")
        _add(point, "Time").text = _utc(course.start, float(elapsed))
        _position(point, "Position", float(latitude), float(longitude))
        _add(point, "AltitudeMeters").text = f"{height:.1f}"
        _add(point, "DistanceMeters").text = f"{distance:.1f}"
    for cue in course.cues:
        point = _add(way, "CoursePoint")
        _add(point, "Name").text = cut_marks(cue.name, TCX_NAME)
        _add(point, "Time").text = _utc(course.start, cue.elapsed)
        _position(point, "Position", cue.latitude, cue.longitude)
        _add(point, "PointType").text = _TCX_KINDS[cue.kind]
        _add(point, "Notes").text = _printable(cue.words)[:200]
    written: bytes = etree.tostring(root, xml_declaration=True, encoding="UTF-8")
    return written


def _add(parent: etree._Element, name: str) -> etree._Element:
    return etree.SubElement(parent, f"{{{namespace}}}{name}")


def _position(parent: etree._Element, name: str, latitude: float, longitude: float) -> None:
    place = _add(parent, name)
    _add(place, "LatitudeDegrees").text = f"{latitude:.6f}"
    _add(place, "LongitudeDegrees").text = f"{longitude:.6f}"


def _utc(start: datetime, elapsed: float) -> str:
    return f"{(start + timedelta(seconds=round(elapsed))).astimezone(UTC):%Y-%m-%dT%H:%M:%SZ}"


@dataclass(frozen=True, kw_only=True)
class Appointment:
    """One entry of the timetable in a calendar."""

    key: str
    title: str
    words: str
    begins: datetime  # with its zone
    ends: datetime


def write_calendar(name: str, entries: Iterable[Appointment], made: datetime) -> bytes:
    """Return a timetable as iCalendar."""
    # read when it is wanted: a quarter of a second of every start
    from icalendar import Calendar
    from icalendar import Event as Entry

    calendar = Calendar()
    calendar.add("prodid", "-//Stonechat//timetable//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for entry in entries:
        event = Entry()
        event.add("uid", f"{entry.key}@stonechat.invalid")
        event.add("dtstamp", made.astimezone(UTC))
        event.add("summary", entry.title)
        event.add("description", entry.words)
        event.add("dtstart", entry.begins.astimezone(UTC))
        event.add("dtend", max(entry.ends, entry.begins + timedelta(minutes=1)).astimezone(UTC))
        calendar.add_component(event)
    return bytes(calendar.to_ical())
