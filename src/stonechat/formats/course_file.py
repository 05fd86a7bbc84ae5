"""What any course file holds, and what becomes of it: a track, places, stops to look over."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from stonechat.core.line.stops import Stop
from stonechat.core.line.track import Profile, Track, distance_along, make_track
from stonechat.errors import InvalidInput, TooLarge, UnreadableFile

FARTHEST = 5_000.0  # m, a waypoint farther off the course is no stop of it
MOST_WAYPOINTS = 500
Point = tuple[float, float, float]  # latitude, longitude [°], height [m], NaN where it is not given
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


@dataclass(frozen=True, kw_only=True)
class FileLimits:
    """What a course file may hold."""

    points: int = 150_000
    bytes: int = 24_000_000


def refuse_large(data: bytes, limits: FileLimits) -> None:
    """Refuse a file that is empty or over the limit of size."""
    if not data.strip():
        raise UnreadableFile("The file is empty. Choose the file of your course.")
    if len(data) > limits.bytes:
        raise TooLarge(
            f"The file has {len(data) / 1e6:.0f} MB; {limits.bytes / 1e6:.0f} MB is the most. "
            "Export the course with fewer points."
        )


def refuse_many(count: int, limits: FileLimits) -> None:
    """Refuse a course of too many points."""
    if count > limits.points:
        raise TooLarge(
            f"The course has {count:,} points; {limits.points:,} is the most. Thin it out to one every 10 m "
            "or more and bring it in again."
        )


def track_of(points: Sequence[Point]) -> Track:
    """Return the track of a file's points, or refuse them with the sentence of what is wrong."""
    try:
        columns = np.array(points, dtype=np.float64).reshape(-1, 3)
        if columns.size and np.isnan(columns[:, 2]).all():
            raise InvalidInput("The course has no elevation. Climbs decide the times, so export it again with heights.")
        return make_track(columns[:, 0], columns[:, 1], columns[:, 2])
    except UnreadableFile:
        raise
    except InvalidInput as exc:
        raise UnreadableFile(exc.message) from exc


def figure_in_point(text: str | None, name: str, number: int) -> float:
    """Return a figure of a point (counted from 0); a missing height is NaN."""
    if name == "ele" and not text:
        return float("nan")
    try:
        return float(text or "")
    except ValueError:
        raise UnreadableFile(
            f"Point {number + 1:,}: “{(text or '')[:20]}” is no {name}. Export the course again."
        ) from None


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
