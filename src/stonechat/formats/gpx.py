"""GPX 1.0 and 1.1: courses in, with their waypoints; the plan's course and stops out."""

import re
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from lxml import etree

from stonechat.core.line.stops import Stop
from stonechat.core.line.track import Profile, Track, distance_along, make_track
from stonechat.errors import InvalidInput, TooLarge, UnreadableFile

NAMESPACE = "http://www.topografix.com/GPX/1/1"
FARTHEST = 5_000.0  # m, a waypoint farther off the course is no stop of it
MOST_WAYPOINTS = 500
_OFFER_WORDS = {
    "water": "water|fountain|tap",
    "doubtful_water": "spring|well|stream|trough",
    "meal": "restaurant|food|cafe|café|inn|diner|meal|pub",
    "shop": "shop|store|market|bakery|fuel|grocer",
    "bed": "hotel|lodg|hut|hostel|bed|camp|refuge|shelter",
    "socket": "socket|charg",
    "bike_shop": "bike shop|cycle shop|bicycle",
    "toilet": "toilet|restroom|wc",
}


@dataclass(frozen=True, kw_only=True)
class Waypoint:
    """A named place of a file."""

    name: str
    latitude: float  # °
    longitude: float  # °
    words: str  # symbol, type and comment, in lower case


@dataclass(frozen=True, kw_only=True)
class CourseFile:
    """What a course file holds."""

    name: str
    track: Track
    waypoints: tuple[Waypoint, ...]


def read_gpx(data: bytes, *, most_points: int = 150_000, most_bytes: int = 24_000_000) -> CourseFile:
    """Return the course of a GPX file: its longest track, else its longest route.

    Raises `TooLarge` over the limits, `UnreadableFile` where it is not GPX, `InvalidInput` where its points make
    no course.
    """
    if len(data) > most_bytes:
        raise TooLarge(
            f"The file has {len(data) / 1e6:.0f} MB; {most_bytes / 1e6:.0f} MB is the most. "
            "Export the course with fewer points."
        )
    root = _parse(data)
    lines = [_points(line, "trkpt") for line in _children(root, "trk")]
    lines = [line for line in lines if line] or [_points(line, "rtept") for line in _children(root, "rte")]
    points = max(lines, key=len, default=[])
    if not points:
        raise UnreadableFile("The GPX file holds no track and no route. Export the course itself, not only places.")
    if len(points) > most_points:
        raise TooLarge(
            f"The course has {len(points):,} points; {most_points:,} is the most. Thin it out to one every 10 m "
            "or more and bring it in again."
        )
    _refuse_turned_time(points)
    try:
        lats, lons, heights = (
            np.array([_number(p.get(key) if key != "ele" else _text(p, "ele"), key, n) for n, p in enumerate(points)])
            for key in ("lat", "lon", "ele")
        )
        if np.isnan(heights).all():
            raise InvalidInput("The course has no elevation. Climbs decide the times, so export it again with heights.")
        track = make_track(lats, lons, heights)
    except UnreadableFile:
        raise
    except InvalidInput as exc:
        raise UnreadableFile(exc.message) from exc
    name = _text(root, "metadata/name") or _text(root, "trk/name") or _text(root, "rte/name") or "Imported course"
    return CourseFile(name=name[:80], track=track, waypoints=_waypoints(root))


def _parse(data: bytes) -> etree._Element:
    if not data.strip():
        raise UnreadableFile("The file is empty. Choose the GPX file of your course.")
    if b"<!DOCTYPE" in data[:4096] or b"<!ENTITY" in data:
        raise UnreadableFile("The file defines entities of its own, which a GPX file never needs. It was not read.")
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, remove_comments=True)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as exc:
        raise UnreadableFile(
            f"The file is not readable as XML: line {exc.lineno}, column {exc.offset}. Export the course as GPX again."
        ) from exc
    if etree.QName(root).localname != "gpx":
        raise UnreadableFile(
            f"The file is XML but not GPX: it begins with <{etree.QName(root).localname[:30]}>. Choose a GPX file."
        )
    return root


def _children(node: etree._Element, name: str) -> list[etree._Element]:
    return [child for child in node if isinstance(child.tag, str) and etree.QName(child).localname == name]


def _points(line: etree._Element, name: str) -> list[etree._Element]:
    return list(line.iter("{*}" + name))


def _text(node: etree._Element, path: str) -> str:
    for part in path.split("/"):
        found = _children(node, part)
        if not found:
            return ""
        node = found[0]
    return (node.text or "").strip()


def _number(text: str | None, name: str, number: int) -> float:
    if name == "ele" and not text:
        return float("nan")
    try:
        return float(text or "")
    except ValueError:
        raise UnreadableFile(
            f"Point {number + 1:,}: “{(text or '')[:20]}” is no {name}. Export the course again."
        ) from None


def _refuse_turned_time(points: list[etree._Element]) -> None:
    before: datetime | None = None
    for number, point in enumerate(points):
        stamp = _text(point, "time")
        if not stamp:
            return
        try:
            now = datetime.fromisoformat(stamp)
        except ValueError:
            return
        if before is not None and now.tzinfo == before.tzinfo and now < before:
            raise UnreadableFile(
                f"The points are out of order: point {number + 1:,} is stamped {stamp}, before the point ahead of "
                "it. Sort them by time or export the course again."
            )
        before = now


def _waypoints(root: etree._Element) -> tuple[Waypoint, ...]:
    places = []
    for number, node in enumerate(_children(root, "wpt")[:MOST_WAYPOINTS]):
        words = " ".join(_text(node, part) for part in ("name", "sym", "type", "cmt", "desc"))
        places.append(
            Waypoint(
                name=(_text(node, "name") or f"Place {number + 1}")[:60],
                latitude=_number(node.get("lat"), "lat", number),
                longitude=_number(node.get("lon"), "lon", number),
                words=words.lower(),
            )
        )
    return tuple(places)


def candidate_stops(waypoints: tuple[Waypoint, ...], profile: Profile) -> tuple[tuple[Stop, ...], tuple[str, ...]]:
    """Return stops for the waypoints near the course, and the names of those too far off it.

    What a stop offers is guessed from its words; the rider looks it over. A stop whose offer is known is used.
    """
    stops, far, ids = [], [], set()
    for place in waypoints:
        distance, offset = distance_along(profile, place.latitude, place.longitude)
        if offset > FARTHEST:
            far.append(place.name)
            continue
        offers = frozenset(key for key, words in _OFFER_WORDS.items() if re.search(rf"\b(?:{words})", place.words))
        stem = re.sub(r"[^a-z0-9]+", "-", place.name.lower()).strip("-") or "stop"
        stop_id, number = stem, 2
        while stop_id in ids:
            stop_id, number = f"{stem}-{number}", number + 1
        ids.add(stop_id)
        stops.append(
            Stop(
                id=stop_id,
                name=place.name,
                distance=distance,
                offers=offers,
                detour=round(2.0 * offset, -1) if offset > 100.0 else 0.0,
                used=bool(offers),
            )
        )
    return tuple(sorted(stops, key=lambda stop: stop.distance)), tuple(far)


def write_gpx(name: str, track: Track, stops: tuple[tuple[Stop, float, float], ...]) -> bytes:
    """Return a GPX 1.1 file of a course and its stops, each stop with its latitude and longitude."""
    root = etree.Element(f"{{{NAMESPACE}}}gpx", nsmap={None: NAMESPACE}, version="1.1", creator="Stonechat")
    for stop, latitude, longitude in stops:
        node = _add(root, "wpt", lat=f"{latitude:.6f}", lon=f"{longitude:.6f}")
        _add(node, "name").text = stop.name
        _add(node, "desc").text = ", ".join(sorted(stop.offers)).replace("_", " ")
    line = _add(root, "trk")
    _add(line, "name").text = name
    segment = _add(line, "trkseg")
    for lat, lon, height in zip(track.latitudes, track.longitudes, track.heights, strict=True):
        point = _add(segment, "trkpt", lat=f"{lat:.6f}", lon=f"{lon:.6f}")
        _add(point, "ele").text = f"{height:.1f}"
    written: bytes = etree.tostring(root, xml_declaration=True, encoding="UTF-8")
    return written


def _add(parent: etree._Element, name: str, **attributes: str) -> etree._Element:
    return etree.SubElement(parent, f"{{{NAMESPACE}}}{name}", attributes)
