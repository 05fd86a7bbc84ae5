"""TCX courses: the way with its heights, and course points as places."""

from lxml import etree

from stonechat.errors import UnreadableFile
from stonechat.formats.course_file import (
    MOST_WAYPOINTS,
    CourseFile,
    CourseLine,
    FileLimits,
    Point,
    Waypoint,
    figure_in_point,
    points_array,
    refuse_large,
    refuse_many,
)
from stonechat.formats.xml_file import children_of, parse_xml, text_of

_USUAL = FileLimits()


def read_tcx(data: bytes, limits: FileLimits = _USUAL) -> CourseFile:
    """Return the courses and activities of a TCX file, with the places of its courses."""
    refuse_large(data, limits)
    root = parse_xml(data, root_name="TrainingCenterDatabase", kind="TCX")
    refuse_many(sum(1 for _ in root.iter("{*}Trackpoint")), limits)
    lines = [line for way in root.iter("{*}Course", "{*}Activity") if (line := _line(way)).points]
    if not lines:
        raise UnreadableFile("The TCX file holds no course with positions. Export the course itself.")
    places = tuple(place for way in root.iter("{*}Course") for place in _waypoints(way))[:MOST_WAYPOINTS]
    longest = max(lines, key=lambda line: line.points)
    return CourseFile(name=longest.name or "Imported course", lines=tuple(lines), waypoints=places)


def _line(way: etree._Element) -> CourseLine:
    """Return a way, a part for each of its tracks."""
    kind = etree.QName(way).localname.lower()
    parts, number = [], 0
    for track in way.iter("{*}Track"):
        points = [p for p in track.iter("{*}Trackpoint") if children_of(p, "Position")]
        if points:
            parts.append(points_array([_point(point, number + k) for k, point in enumerate(points)]))
            number += len(points)
    return CourseLine(name=text_of(way, "Name")[:80], kind=kind, parts=tuple(parts))


def _point(point: etree._Element, number: int) -> Point:
    return (
        figure_in_point(text_of(point, "Position/LatitudeDegrees"), "latitude", number),
        figure_in_point(text_of(point, "Position/LongitudeDegrees"), "longitude", number),
        figure_in_point(text_of(point, "AltitudeMeters"), "ele", number),
    )


def _waypoints(way: etree._Element) -> tuple[Waypoint, ...]:
    places = []
    for number, node in enumerate(list(way.iter("{*}CoursePoint"))[:MOST_WAYPOINTS]):
        places.append(
            Waypoint(
                name=(text_of(node, "Name") or f"Place {number + 1}")[:60],
                latitude=figure_in_point(text_of(node, "Position/LatitudeDegrees"), "latitude", number),
                longitude=figure_in_point(text_of(node, "Position/LongitudeDegrees"), "longitude", number),
                symbol=text_of(node, "PointType"),
                words=text_of(node, "Notes")[:2_000],
            )
        )
    return tuple(places)
