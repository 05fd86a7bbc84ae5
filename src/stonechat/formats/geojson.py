"""GeoJSON (RFC 7946): lines with heights in, points as places; the course and its stops out."""

import json
from collections.abc import Iterator
from typing import Any

from stonechat.core.line.stops import Stop
from stonechat.core.line.track import Track
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
from stonechat.text import clean_json

_USUAL = FileLimits()


def read_geojson(data: bytes, limits: FileLimits = _USUAL) -> CourseFile:
    """Return the lines of a GeoJSON file, each part of a multi-line a part, with its points as places."""
    refuse_large(data, limits)
    try:
        raw = clean_json(json.loads(data))
    except (ValueError, RecursionError) as exc:
        where = f": line {exc.lineno}, column {exc.colno}" if isinstance(exc, json.JSONDecodeError) else ""
        raise UnreadableFile(f"The file is not readable as JSON{where}. Export the course again.") from exc
    features = list(_features(raw))
    lines = [line for feature in features if (line := _line(feature)).points]
    if not lines:
        raise UnreadableFile("The GeoJSON file holds no line. Export the course itself, not only places.")
    refuse_many(sum(line.points for line in lines), limits)
    longest = max(lines, key=lambda line: line.length)
    return CourseFile(name=longest.name or "Imported course", lines=tuple(lines), waypoints=_waypoints(features))


def _features(raw: Any) -> Iterator[dict[str, Any]]:
    """Yield every feature; a bare geometry counts as one."""
    if not isinstance(raw, dict) or "type" not in raw:
        raise UnreadableFile("The file is JSON but not GeoJSON: it has no type. Choose another file.")
    if raw["type"] == "FeatureCollection":
        entries = raw.get("features")
        yield from (entry for entry in entries if isinstance(entry, dict)) if isinstance(entries, list) else ()
    elif raw["type"] == "Feature":
        yield raw
    else:
        yield {"type": "Feature", "geometry": raw, "properties": {}}


def _geometry(feature: dict[str, Any]) -> dict[str, Any]:
    geometry = feature.get("geometry")
    return geometry if isinstance(geometry, dict) else {}


def _properties(feature: dict[str, Any]) -> dict[str, Any]:
    properties = feature.get("properties")
    return properties if isinstance(properties, dict) else {}


def _lines(geometry: dict[str, Any]) -> list[list[Any]]:
    """Return the lines of a geometry that have points."""
    coordinates, shape = geometry.get("coordinates"), geometry.get("type")
    if not isinstance(coordinates, list):
        return []
    lines = {"LineString": [coordinates], "MultiLineString": coordinates}.get(str(shape), [])
    return [line for line in lines if isinstance(line, list) and line]


def _line(feature: dict[str, Any]) -> CourseLine:
    arrays, number = [], 0
    for part in _lines(_geometry(feature)):
        arrays.append(points_array([_point(entry, number + k) for k, entry in enumerate(part)]))
        number += len(part)
    name = _properties(feature).get("name")
    return CourseLine(name=str(name)[:80] if name else "", kind="line", parts=tuple(arrays))


def _point(entry: Any, number: int) -> Point:
    if not isinstance(entry, list) or len(entry) < 2 or not all(_is_figure(part) for part in entry[:3]):
        raise UnreadableFile(
            f"Point {number + 1:,}: “{str(entry)[:30]}” is no position. It holds longitude, latitude and height."
        )
    return float(entry[1]), float(entry[0]), float(entry[2]) if len(entry) > 2 else float("nan")


def _is_figure(part: Any) -> bool:
    return isinstance(part, int | float) and not isinstance(part, bool)


def _waypoints(features: list[dict[str, Any]]) -> tuple[Waypoint, ...]:
    places: list[Waypoint] = []
    for feature in features:
        geometry, properties = _geometry(feature), _properties(feature)
        if geometry.get("type") != "Point" or len(places) == MOST_WAYPOINTS:
            continue
        latitude, longitude, _ = _point(geometry.get("coordinates"), len(places))
        name = str(properties.get("name") or f"Place {len(places) + 1}")
        said = [str(value) for key, value in properties.items() if isinstance(value, str) and key != "name"]
        places.append(Waypoint(name=name[:60], latitude=latitude, longitude=longitude, words="; ".join(said)[:2_000]))
    return tuple(places)


def write_geojson(name: str, track: Track, stops: tuple[tuple[Stop, float, float], ...]) -> bytes:
    """Return a course and its stops, each stop with its latitude and longitude, as a feature collection."""
    columns = zip(track.longitudes, track.latitudes, track.heights, strict=True)
    line = [[round(float(lon), 6), round(float(lat), 6), round(float(height), 1)] for lon, lat, height in columns]
    features: list[dict[str, Any]] = [
        {
            "type": "Feature",
            "properties": {"name": name},
            "geometry": {"type": "LineString", "coordinates": line},
        }
    ]
    features += [
        {
            "type": "Feature",
            "properties": {
                "name": stop.name,
                "km": round(stop.distance / 1000.0, 3),
                "offers": ", ".join(sorted(stop.offers)).replace("_", " "),
            },
            "geometry": {"type": "Point", "coordinates": [round(lon, 6), round(lat, 6)]},
        }
        for stop, lat, lon in stops
    ]
    return json.dumps({"type": "FeatureCollection", "features": features}).encode()
