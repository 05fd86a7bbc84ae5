"""GPX 1.0 and 1.1: courses in, with their waypoints; the plan's course and stops out."""

from collections.abc import Mapping
from datetime import datetime
from types import MappingProxyType

import numpy as np
from lxml import etree

from stonechat.core.line.stops import ALWAYS, KINDS, OFFERS, Stop
from stonechat.core.line.track import Track, step_lengths
from stonechat.core.numerics.arrays import FloatArray
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
from stonechat.formats.hours import hours_text
from stonechat.formats.xml_file import children_of, parse_xml, text_of

_USUAL = FileLimits()
_SHORTER = 0.9  # 1, of its length, by which a line sorted by time is another one
NAMESPACE = "http://www.topografix.com/GPX/1/1"


def read_gpx(data: bytes, limits: FileLimits = _USUAL) -> CourseFile:
    """Return the lines of a GPX file, tracks before routes, with its waypoints.

    Raises `TooLarge` over the limits, `UnreadableFile` where it is not GPX or holds no line.
    """
    refuse_large(data, limits)
    root = parse_xml(data, root_name="gpx", kind="GPX")
    refuse_many(sum(1 for node in root.iter("{*}trkpt", "{*}rtept")), limits)
    lines = [line for node in children_of(root, "trk") if (line := _track(node)).points]
    lines += [line for node in children_of(root, "rte") if (line := _route(node)).points]
    if not lines:
        raise UnreadableFile("The GPX file holds no track and no route. Export the course itself, not only places.")
    name = text_of(root, "metadata/name") or text_of(root, "trk/name") or text_of(root, "rte/name") or "Imported course"
    return CourseFile(name=name[:80], lines=tuple(lines), waypoints=_waypoints(root))


def _track(node: etree._Element) -> CourseLine:
    """Return a track, a part for each of its segments."""
    segments = [_points(segment, "trkpt") for segment in children_of(node, "trkseg")]
    parts, number = [], 0
    for segment in segments:
        if segment:
            parts.append(points_array([_point(point, number + k) for k, point in enumerate(segment)]))
            number += len(segment)
    if parts:
        _refuse_turned_time([point for segment in segments for point in segment], np.concatenate(parts))
    return CourseLine(name=text_of(node, "name")[:80], kind="track", parts=tuple(parts))


def _route(node: etree._Element) -> CourseLine:
    points = _points(node, "rtept")
    parts = (points_array([_point(point, number) for number, point in enumerate(points)]),) if points else ()
    return CourseLine(name=text_of(node, "name")[:80], kind="route", parts=parts)


def _point(point: etree._Element, number: int) -> Point:
    return (
        figure_in_point(point.get("lat"), "lat", number),
        figure_in_point(point.get("lon"), "lon", number),
        figure_in_point(text_of(point, "ele"), "ele", number),
    )


def _points(line: etree._Element, name: str) -> list[etree._Element]:
    return list(line.iter("{*}" + name))


def _refuse_turned_time(points: list[etree._Element], columns: FloatArray) -> None:
    """Refuse points that are out of order: their times go backwards, and by their times they make a shorter line.

    Times that are merely silly (all alike, made up by a planner, of a clock that was set) say nothing of the course.
    """
    times = []
    for point in points:
        try:
            times.append(datetime.fromisoformat(text_of(point, "time")).replace(tzinfo=None).timestamp())
        except (ValueError, OverflowError, OSError):
            return
    stamps = np.array(times)
    turned = np.flatnonzero(np.diff(stamps) < 0.0)
    if not turned.size:
        return
    sorted_columns = columns[np.argsort(stamps, kind="stable")]
    length, by_time = (float(step_lengths(c[:, 0], c[:, 1]).sum()) for c in (columns, sorted_columns))
    if by_time < _SHORTER * length:
        number = int(turned[0]) + 2
        raise UnreadableFile(
            f"The points are out of order: point {number:,} is stamped {text_of(points[number - 1], 'time')[:30]}, "
            "before the point ahead of it, and by their times the line is shorter. Sort them by time or export the "
            "course again."
        )


def _waypoints(root: etree._Element) -> tuple[Waypoint, ...]:
    places = []
    for number, node in enumerate(children_of(root, "wpt")[:MOST_WAYPOINTS]):
        symbol = " ".join(filter(None, (text_of(node, part) for part in ("sym", "type"))))
        said = dict.fromkeys(filter(None, (text_of(node, part).strip() for part in ("cmt", "desc"))))
        places.append(
            Waypoint(
                name=(text_of(node, "name") or f"Place {number + 1}")[:60],
                latitude=figure_in_point(node.get("lat"), "lat", number),
                longitude=figure_in_point(node.get("lon"), "lon", number),
                symbol=symbol[:200],
                words="; ".join(said)[:2_000],
            )
        )
    return tuple(places)


def write_gpx(
    name: str,
    track: Track,
    stops: tuple[tuple[Stop, float, float], ...],
    words: Mapping[str, str] = MappingProxyType({}),
) -> bytes:
    """Return a GPX 1.1 file of a course and its stops, each stop with its latitude and longitude.

    `words` are further words by the id of a stop: when one is there, what to leave it with.
    """
    root = etree.Element(f"{{{NAMESPACE}}}gpx", nsmap={None: NAMESPACE}, version="1.1", creator="Stonechat")
    for stop, latitude, longitude in stops:
        node = _add(root, "wpt", lat=f"{latitude:.6f}", lon=f"{longitude:.6f}")
        _add(node, "name").text = stop.name
        _add(node, "cmt").text = stop_words(stop)
        if stop.id in words:
            _add(node, "desc").text = words[stop.id]
        _add(node, "sym").text = KINDS[stop.kind].name
    line = _add(root, "trk")
    _add(line, "name").text = name
    segment = _add(line, "trkseg")
    for lat, lon, height in zip(track.latitudes, track.longitudes, track.heights, strict=True):
        point = _add(segment, "trkpt", lat=f"{lat:.6f}", lon=f"{lon:.6f}")
        _add(point, "ele").text = f"{height:.1f}"
    written: bytes = etree.tostring(root, xml_declaration=True, encoding="UTF-8")
    return written


def stop_words(stop: Stop) -> str:
    """Return in words what a stop offers and when; reading them again gives the same."""
    parts = [", ".join(OFFERS[offer] for offer in OFFERS if offer in stop.offers)]
    if stop.hours is not None:
        parts.append("open 24 h" if stop.hours == ALWAYS else f"open {hours_text(stop.hours).replace(';', ',')}")
    parts.append(stop.note)
    return "; ".join(part for part in parts if part)


def _add(parent: etree._Element, name: str, **attributes: str) -> etree._Element:
    return etree.SubElement(parent, f"{{{NAMESPACE}}}{name}", attributes)
