"""TCX courses: the way with its heights, and course points as places."""

from lxml import etree

from stonechat.errors import UnreadableFile
from stonechat.formats.course_file import (
    MOST_WAYPOINTS,
    CourseFile,
    FileLimits,
    Point,
    Waypoint,
    figure_in_point,
    refuse_large,
    refuse_many,
    track_of,
)
from stonechat.formats.xml_file import children_of, parse_xml, text_of

_USUAL = FileLimits()


def read_tcx(data: bytes, limits: FileLimits = _USUAL) -> CourseFile:
    """Return the course of a TCX file: the course, else the activity, with most points."""
    refuse_large(data, limits)
    root = parse_xml(data, root_name="TrainingCenterDatabase", kind="TCX")
    ways = [*root.iter("{*}Course"), *root.iter("{*}Activity")]
    found = [(way, [p for p in way.iter("{*}Trackpoint") if children_of(p, "Position")]) for way in ways]
    way, points = max(found, key=lambda entry: len(entry[1]), default=(root, []))
    if not points:
        raise UnreadableFile("The TCX file holds no course with positions. Export the course itself.")
    refuse_many(len(points), limits)
    track = track_of([_point(point, number) for number, point in enumerate(points)])
    return CourseFile(name=(text_of(way, "Name") or "Imported course")[:80], track=track, waypoints=_waypoints(way))


def _point(point: etree._Element, number: int) -> Point:
    return (
        figure_in_point(text_of(point, "Position/LatitudeDegrees"), "latitude", number),
        figure_in_point(text_of(point, "Position/LongitudeDegrees"), "longitude", number),
        figure_in_point(text_of(point, "AltitudeMeters"), "ele", number),
    )


def _waypoints(way: etree._Element) -> tuple[Waypoint, ...]:
    places = []
    for number, node in enumerate(list(way.iter("{*}CoursePoint"))[:MOST_WAYPOINTS]):
        words = " ".join(text_of(node, part) for part in ("Name", "PointType", "Notes"))
        places.append(
            Waypoint(
                name=(text_of(node, "Name") or f"Place {number + 1}")[:60],
                latitude=figure_in_point(text_of(node, "Position/LatitudeDegrees"), "latitude", number),
                longitude=figure_in_point(text_of(node, "Position/LongitudeDegrees"), "longitude", number),
                words=words.lower(),
            )
        )
    return tuple(places)
