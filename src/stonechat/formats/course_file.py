"""What any course file holds, and what becomes of it: lines to choose from, a track, places, stops to look over."""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from stonechat.core.line.profile import Profile, distance_along
from stonechat.core.line.stops import Stop, joined_stops
from stonechat.core.line.track import Track, make_track, reversed_track, step_lengths, trimmed_track
from stonechat.core.numerics.arrays import FloatArray
from stonechat.errors import InvalidInput, TooLarge, UnreadableFile
from stonechat.formats.place_words import read_place

USUAL_CONFIDENCE, DOUBTED = 0.9, 0.6  # 1, belief in a place that a file names, and in one that it doubts itself
FARTHEST = 5_000.0  # m, a waypoint farther off the course is no stop of it
MOST_WAYPOINTS = 500
Point = tuple[float, float, float]  # latitude, longitude [°], height [m], NaN where it is not given


@dataclass(frozen=True, kw_only=True)
class Waypoint:
    """A named place of a file."""

    name: str
    latitude: float  # °
    longitude: float  # °
    symbol: str = ""  # symbol and type, as the file calls them
    words: str = ""  # comment and description


@dataclass(frozen=True, kw_only=True)
class CourseLine:
    """One line of a file, in parts where it is broken."""

    name: str
    kind: str  # track, route, course, activity or line
    parts: tuple[FloatArray, ...]  # rows of latitude, longitude [°] and height [m, NaN where not given]

    @property
    def points(self) -> int:
        """How many points it has."""
        return sum(len(part) for part in self.parts)

    @property
    def length(self) -> float:
        """Its length without what lies between its parts; 0 where a position is impossible. [m]"""
        steps = [float(step_lengths(part[:, 0], part[:, 1]).sum()) for part in self.parts if len(part) > 1]
        total = sum(steps)
        return total if math.isfinite(total) else 0.0

    @property
    def has_heights(self) -> bool:
        """Whether most of its points have a height."""
        missing = sum(int(np.isnan(part[:, 2]).sum()) for part in self.parts)
        return missing <= 0.2 * self.points


@dataclass(frozen=True, kw_only=True)
class CourseFile:
    """What a course file holds."""

    name: str
    lines: tuple[CourseLine, ...]  # at least one
    waypoints: tuple[Waypoint, ...]

    @property
    def longest(self) -> int:
        """Place of the longest line by distance; more points do not make a line longer."""
        return max(range(len(self.lines)), key=lambda k: (self.lines[k].length, self.lines[k].points))

    @property
    def track(self) -> Track:
        """The track of the longest line, its parts joined."""
        return chosen_track(self, CourseChoice())

    @property
    def needs_choice(self) -> bool:
        """Whether a person should look: several lines, a gap, or no heights."""
        line = self.lines[self.longest]
        return len(self.lines) > 1 or len(unbroken_parts(line)) > 1 or not line.has_heights


@dataclass(frozen=True, kw_only=True)
class CourseChoice:
    """What to make of a file."""

    line: int | None = None  # which line; None: the longest
    gaps: str = "join"  # join: ride straight across; longest: keep the longest unbroken part
    reverse: bool = False
    start: float = 0.0  # m, what lies before is cut off
    end: float | None = None  # m
    heights: FloatArray | None = None  # rows of distance and height [m], in place of the file's own
    flat: float | None = None  # m, one height everywhere


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


GAP = 300.0  # m between points from which a line is broken, where it is also eight times the usual


def points_array(points: Sequence[Point]) -> FloatArray:
    """Return points as an array of three columns."""
    return np.array(points, dtype=np.float64).reshape(-1, 3)


def unbroken_parts(line: CourseLine) -> tuple[FloatArray, ...]:
    """Return the stretches of a line between its breaks and its gaps."""
    found: list[FloatArray] = []
    for part in line.parts:
        if len(part) < 3 or np.abs(part[:, 0]).max() > 90.0 or np.abs(part[:, 1]).max() > 180.0:
            found.append(part)
            continue
        steps = step_lengths(part[:, 0], part[:, 1])
        breaks = np.flatnonzero((steps > GAP) & (steps > 8.0 * max(float(np.median(steps)), 1.0))) + 1
        found += np.split(part, breaks)
    # parts that follow on from one another closely are one
    joined = [found[0]]
    for part in found[1:]:
        last = joined[-1]
        if not len(last) or not len(part):
            joined[-1] = np.concatenate((last, part))
            continue
        across = step_lengths(np.array([last[-1, 0], part[0, 0]]), np.array([last[-1, 1], part[0, 1]]))
        if np.isfinite(across[0]) and across[0] <= GAP:
            joined[-1] = np.concatenate((last, part))
        else:
            joined.append(part)
    return tuple(joined)


def _chosen_points(file: CourseFile, choice: CourseChoice) -> FloatArray:
    """Return the points of the line that was chosen, its gaps treated as was said."""
    if choice.line is not None and not 0 <= choice.line < len(file.lines):
        raise InvalidInput("Choose one of the lines of the file.", subject="line")
    line = file.lines[file.longest if choice.line is None else choice.line]
    match choice.gaps:
        case "join":
            return np.concatenate(line.parts)
        case "longest":
            return max(unbroken_parts(line), key=len)
        case other:
            raise InvalidInput(f"“{other[:20]}” is no way to treat gaps; say join or longest.", subject="gaps")


def chosen_track(file: CourseFile, choice: CourseChoice) -> Track:
    """Return the track that a person chose of a file, or refuse it with the sentence of what is wrong."""
    columns = _chosen_points(file, choice)
    try:
        track = make_track(columns[:, 0], columns[:, 1], _heights(columns, choice))
    except InvalidInput as exc:
        raise UnreadableFile(exc.message) from exc
    if choice.start > 0.0 or choice.end is not None:
        track = trimmed_track(track, choice.start, float("inf") if choice.end is None else choice.end)
    return reversed_track(track) if choice.reverse else track


def _heights(columns: FloatArray, choice: CourseChoice) -> FloatArray:
    """Return the heights of points: of a table over distance, one for all, or the file's own."""
    if choice.flat is not None:
        return np.full(len(columns), choice.flat)
    if choice.heights is not None:
        at = np.concatenate(([0.0], np.cumsum(step_lengths(columns[:, 0], columns[:, 1]))))
        if choice.heights[-1, 0] < 0.9 * at[-1]:
            raise InvalidInput(
                f"The table of heights ends at {choice.heights[-1, 0] / 1000:.1f} km, the course at "
                f"{at[-1] / 1000:.1f} km. Give heights to the finish."
            )
        return np.asarray(np.interp(at, choice.heights[:, 0], choice.heights[:, 1]), dtype=np.float64)
    if len(columns) and np.isnan(columns[:, 2]).all():
        raise InvalidInput(
            "The course has no elevation. Climbs decide the times: export it again with heights, bring a table of "
            "distance and height, or take it as flat."
        )
    return np.asarray(columns[:, 2], dtype=np.float64)


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

    Kind, offers and hours are read from its words and marked so; the rider looks them over. A stop whose offer is
    known is used; what lies at one place is one stop.
    """
    stops, far, ids = [], [], set()
    for place in waypoints:
        distance, offset = distance_along(profile, place.latitude, place.longitude)
        if offset > FARTHEST:
            far.append(place.name)
            continue
        said = read_place(place.name, place.symbol, place.words)
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
                offers=said.offers,
                kind=said.kind,
                hours=said.hours,
                hours_by=said.hours_by,
                detour=round(2.0 * offset, -1) if offset > 100.0 else 0.0,
                used=bool(said.offers) or said.kind in ("checkpoint", "ferry"),
                confidence=DOUBTED if said.is_doubted else USUAL_CONFIDENCE,
                read=said.read,
                note=place.words[:300],
            )
        )
    return joined_stops(sorted(stops, key=lambda stop: stop.distance)), tuple(far)
