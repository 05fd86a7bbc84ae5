"""A course as it was recorded, and the same course cleaned and cut into even segments for the ride."""

from dataclasses import dataclass

import numpy as np
from numba import njit
from pyproj import Geod
from scipy.ndimage import gaussian_filter1d, median_filter

from stonechat.core.line.surface import SURFACE_INDEX, SURFACES, SurfaceSpan
from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray, frozen
from stonechat.errors import InvalidInput

_WGS84 = Geod(ellps="WGS84")
SPACING = 100.0  # m, length of a ride segment
FINE_SPACING = 20.0  # m, step at which heights are smoothed
SPIKE_WINDOW = 5  # points of the fine step that the median looks at
COARSEST = 1_500.0  # m, median distance between points above which a course is not a course
LARGEST_JUMP = 20_000.0  # m
MOST_FILLED = 0.2  # 1, share of missing heights that may be filled in between their neighbours
TURN_CHORD = 60.0  # m, chord over which a bend is measured; shorter ones see the noise of the points
WIDEST_BEND = 2_000.0  # m, radius from which a bend counts as straight


@dataclass(frozen=True, kw_only=True)
class Track:
    """A course as recorded: at least two points, in riding order."""

    latitudes: FloatArray  # ° north, shape (n,)
    longitudes: FloatArray  # ° east, shape (n,)
    heights: FloatArray  # m above the sea, shape (n,)


@dataclass(frozen=True, kw_only=True)
class Cleaning:
    """How heights are cleaned and how climbing is counted."""

    smoothing: float = 60.0  # m, standard deviation of the Gaussian along the way
    ascent_threshold: float = 5.0  # m, a rise counts once it is this high


@dataclass(frozen=True, kw_only=True)
class Profile:
    """A cleaned course cut into segments of 100 m (the last may be shorter)."""

    distances: FloatArray  # m, at the segment ends, shape (n + 1,)
    heights: FloatArray  # m, at the segment ends, shape (n + 1,)
    latitudes: FloatArray  # °, at the segment ends, shape (n + 1,)
    longitudes: FloatArray  # °, at the segment ends, shape (n + 1,)
    lengths: FloatArray  # m, shape (n,)
    grades: FloatArray  # 1, shape (n,)
    headings: FloatArray  # ° clockwise from north, shape (n,)
    bends: FloatArray  # m, radius of the tightest bend on the segment, at most 2,000, shape (n,)
    surfaces: IntArray  # index into SURFACES, shape (n,)
    ascent: float  # m
    ascent_by_end: FloatArray  # m climbed from the start, at the segment ends, shape (n + 1,)

    @property
    def length(self) -> float:
        """Length of the course. [m]"""
        return float(self.distances[-1])


def make_track(latitudes: FloatArray, longitudes: FloatArray, heights: FloatArray) -> Track:
    """Return a track whose points are known to be in order.

    Parameters
    ----------
    latitudes, longitudes : ndarray, shape (n,)
        Position of each point. [°]
    heights : ndarray, shape (n,)
        Height of each point above the sea. [m]

    Returns
    -------
    track : Track
        The same points, neighbours at the same place and spikes off the way dropped; a few missing heights are
        filled in between their neighbours. [m]

    Raises
    ------
    InvalidInput
        If there are fewer than two places, a position is off the globe, more than a fifth of the heights are
        missing, or the points jump or turn back so often that they cannot be in riding order.

    Examples
    --------
    >>> track = make_track(np.array([45.0, 45.01]), np.array([7.0, 7.0]), np.array([500.0, 510.0]))
    >>> len(track.heights)
    2
    """
    lats, lons, elevations = (np.asarray(values, dtype=np.float64) for values in (latitudes, longitudes, heights))
    if lats.size and not (np.all(np.abs(lats) <= 90.0) and np.all(np.abs(lons) <= 180.0)):
        worst = int(np.argmax((np.abs(lats) > 90.0) | (np.abs(lons) > 180.0) | ~np.isfinite(lats + lons)))
        raise InvalidInput(f"Point {worst + 1} of the course is off the globe ({lats[worst]}, {lons[worst]}).")
    elevations = _filled(elevations)
    if elevations.size and (elevations.min() < -500.0 or elevations.max() > 9_000.0):
        worst = int(np.argmax(np.abs(elevations - 4_000.0)))
        raise InvalidInput(
            f"Point {worst + 1} of the course stands at {elevations[worst]:.0f} m. Heights must lie within "
            "-500 and 9,000 m; are they in feet?"
        )
    kept = np.ones(lats.size, dtype=bool)
    kept[1:] = (np.diff(lats) != 0.0) | (np.diff(lons) != 0.0)
    lats, lons, elevations = lats[kept], lons[kept], elevations[kept]
    if lats.size < 2:
        raise InvalidInput("The course has only one place in it. A course needs at least two points.")
    _refuse_disorder(lats, lons)
    kept = ~spikes(lats, lons)
    return Track(latitudes=frozen(lats[kept]), longitudes=frozen(lons[kept]), heights=frozen(elevations[kept]))


def _filled(heights: FloatArray) -> FloatArray:
    """Return heights with the missing ones taken from between their neighbours, or refuse too many gaps."""
    missing = ~np.isfinite(heights)
    if missing.sum() > MOST_FILLED * heights.size:
        raise InvalidInput(
            f"Point {int(np.argmax(missing)) + 1} of the course has no height "
            f"({int(missing.sum()):,} of {missing.size:,} points have none). "
            "Export the course again with elevation, or bring heights of your own."
        )
    if not missing.any():
        return heights
    at = np.arange(heights.size)
    return np.asarray(np.interp(at, at[~missing], heights[~missing]), dtype=np.float64)


def spikes(latitudes: FloatArray, longitudes: FloatArray) -> BoolArray:
    """Return which points jump off the way and straight back: lone errors of a satellite receiver.

    Parameters
    ----------
    latitudes, longitudes : ndarray, shape (n,)
        Positions. [°]

    Returns
    -------
    is_spike : ndarray, shape (n,)
        True for a point whose way there and back is over 100 m, and over eight times the way past it. [1]

    Examples
    --------
    >>> spikes(np.array([45.0, 45.0001, 45.01, 45.0002]), np.array([7.0, 7.0, 7.0, 7.0])).tolist()
    [False, False, True, False]
    """
    is_spike = np.zeros(latitudes.size, dtype=bool)
    if latitudes.size < 3:
        return is_spike
    steps = step_lengths(latitudes, longitudes)
    around = steps[:-1] + steps[1:]
    _, _, past = _WGS84.inv(longitudes[:-2], latitudes[:-2], longitudes[2:], latitudes[2:])
    is_spike[1:-1] = (around > 100.0) & (around > 8.0 * np.maximum(np.asarray(past), 1.0))
    is_spike[2:] &= ~is_spike[1:-1]  # of two in a row only the first: its neighbour may be the good one
    return is_spike


def reversed_track(track: Track) -> Track:
    """Return a track in the other direction.

    Parameters
    ----------
    track : Track
        The course as recorded.

    Returns
    -------
    track : Track
        The same points from the last to the first. [m]

    Examples
    --------
    >>> line = make_track(np.array([45.0, 45.01]), np.array([7.0, 7.0]), np.array([500.0, 510.0]))
    >>> reversed_track(line).heights.tolist()
    [510.0, 500.0]
    """
    return Track(
        latitudes=frozen(track.latitudes[::-1]),
        longitudes=frozen(track.longitudes[::-1]),
        heights=frozen(track.heights[::-1]),
    )


def trimmed_track(track: Track, start: float, end: float) -> Track:
    """Return the part of a track between two distances.

    Parameters
    ----------
    track : Track
        The course as recorded.
    start, end : float
        Distances along it; held within the course. [m]

    Returns
    -------
    track : Track
        From one to the other, with points made at both ends. [m]

    Raises
    ------
    InvalidInput
        If less than one segment would be left.

    Examples
    --------
    >>> line = make_track(np.array([45.0, 45.01]), np.array([7.0, 7.0]), np.array([500.0, 510.0]))
    >>> trimmed_track(line, 100.0, 600.0).heights.round(1).tolist()
    [500.9, 505.4]
    """
    at = distances_of(track)
    start, end = max(0.0, start), min(end, float(at[-1]))
    if end - start < SPACING:
        raise InvalidInput(f"Between {start / 1000:.1f} and {end / 1000:.1f} km less than 100 m would be left.")
    inside = (at > start + 0.5) & (at < end - 0.5)
    marks = np.concatenate(([start], at[inside], [end]))
    lats, lons, heights = (np.interp(marks, at, v) for v in (track.latitudes, track.longitudes, track.heights))
    return Track(latitudes=frozen(lats), longitudes=frozen(lons), heights=frozen(heights))


def distances_of(track: Track) -> FloatArray:
    """Return how far along the course each point lies.

    Parameters
    ----------
    track : Track
        The course as recorded.

    Returns
    -------
    distances : ndarray, shape (n,)
        From the start. [m]

    Examples
    --------
    >>> line = make_track(np.array([45.0, 45.01]), np.array([7.0, 7.0]), np.array([500.0, 510.0]))
    >>> distances_of(line).round(0).tolist()
    [0.0, 1111.0]
    """
    return np.concatenate(([0.0], np.cumsum(step_lengths(track.latitudes, track.longitudes))))


def step_lengths(latitudes: FloatArray, longitudes: FloatArray) -> FloatArray:
    """Return the geodesic distance between neighbouring points.

    Parameters
    ----------
    latitudes, longitudes : ndarray, shape (n,)
        Positions on the WGS84 ellipsoid. [°]

    Returns
    -------
    lengths : ndarray, shape (n - 1,)
        Distances. [m]

    References
    ----------
    [Karney2013], by way of the PROJ library.

    Examples
    --------
    >>> round(float(step_lengths(np.array([0.0, 0.0]), np.array([0.0, 1.0]))[0]), 1)
    111319.5
    """
    _, _, lengths = _WGS84.inv(longitudes[:-1], latitudes[:-1], longitudes[1:], latitudes[1:])
    return np.asarray(lengths, dtype=np.float64)


def _refuse_disorder(lats: FloatArray, lons: FloatArray) -> None:
    """Refuse points that cannot be in riding order: great jumps, or turning back at every other point."""
    azimuths, _, lengths = _WGS84.inv(lons[:-1], lats[:-1], lons[1:], lats[1:])
    lengths = np.asarray(lengths)
    worst = int(np.argmax(lengths))
    turn = np.abs((np.diff(np.asarray(azimuths)) + 180.0) % 360.0 - 180.0)
    wide = (lengths[:-1] > 20.0) & (lengths[1:] > 20.0)
    reversals = int(((turn > 135.0) & wide).sum())
    if lats.size >= 12 and reversals > 0.2 * (lats.size - 2):
        raise InvalidInput(
            f"The points are out of order: the course turns straight back at {reversals:,} of its "
            f"{lats.size:,} points. Sort them by riding order or export the course again."
        )
    if lengths[worst] > LARGEST_JUMP or np.median(lengths) > COARSEST:
        raise InvalidInput(
            f"Between points {worst + 1:,} and {worst + 2:,} the course jumps {lengths[worst] / 1000:.1f} km. "
            "Points are missing or out of order; export the course again with a point at least every "
            "1.5 km."
        )


@njit(cache=True)
def ascent_by_threshold(heights: FloatArray, threshold: float) -> FloatArray:
    """Return the climbing done from the start to each point, small ups and downs left out.

    Parameters
    ----------
    heights : ndarray, shape (n,)
        Heights along the way. [m]
    threshold : float
        A rise counts once it is at least this high over the last low, and a fall ends it once it is as deep. [m]

    Returns
    -------
    climbed : ndarray, shape (n,)
        Climbing up to each point. [m]

    Examples
    --------
    >>> ascent_by_threshold(np.array([0.0, 10.0, 8.0, 20.0, 0.0]), 5.0)
    array([ 0., 10., 10., 20., 20.])
    """
    climbed = np.zeros(heights.size)
    low = high = heights[0]
    done = 0.0
    climbing = False
    for index, height in enumerate(heights):
        if climbing:
            if height > high:
                done += height - high
                high = height
            elif high - height >= threshold:
                climbing, low = False, height
        elif height < low:
            low = height
        elif height - low >= threshold and height > low:
            climbing, high = True, height
            done += height - low
        climbed[index] = done
    return climbed


def make_profile(
    *,
    track: Track,
    cleaning: Cleaning,
    spans: tuple[SurfaceSpan, ...] = (),
    default_surface: str = "tarmac",
) -> Profile:
    """Return the cleaned course in segments of 100 m.

    Parameters
    ----------
    track : Track
        The course as recorded.
    cleaning : Cleaning
        Smoothing length and climbing threshold. [m]
    spans : tuple of SurfaceSpan
        Stretches on another surface than the default; a later one covers an earlier one. [m]
    default_surface : str
        Key of the surface where no span says otherwise.

    Returns
    -------
    profile : Profile
        Segments with grade and surface. [m]

    Raises
    ------
    InvalidInput
        If the course is shorter than one segment.

    Notes
    -----
    Heights are taken at every 20 m, spikes are cut by a running median of five, then smoothed by a Gaussian of
    the given length; time is convex in grade, so unsmoothed noise would make the ride too slow (4 % for 1 m of
    noise at 100 m).

    Examples
    --------
    >>> line = make_track(np.array([45.0, 45.009]), np.array([7.0, 7.0]), np.array([500.0, 520.0]))
    >>> make_profile(track=line, cleaning=Cleaning()).lengths.size
    10
    """
    at = distances_of(track)
    total = float(at[-1])
    if total < SPACING:
        raise InvalidInput(f"The course is {total:.0f} m long. It must be at least {SPACING:.0f} m.")
    fine = np.linspace(0.0, total, max(2, round(total / FINE_SPACING) + 1))
    heights: FloatArray = median_filter(np.interp(fine, at, track.heights), size=SPIKE_WINDOW, mode="nearest")
    step = fine[1] - fine[0]
    if cleaning.smoothing > 0.0:
        heights = gaussian_filter1d(heights, cleaning.smoothing / step, mode="nearest")
    ends = np.append(np.arange(0.0, total - 0.5 * SPACING, SPACING), total)
    end_heights = np.interp(ends, fine, heights)
    lengths = np.diff(ends)
    climbed = ascent_by_threshold(heights, cleaning.ascent_threshold)
    by_end = np.interp(ends, fine, climbed)
    end_lats, end_lons = np.interp(ends, at, track.latitudes), np.interp(ends, at, track.longitudes)
    headings, _, _ = _WGS84.inv(end_lons[:-1], end_lats[:-1], end_lons[1:], end_lats[1:])
    return Profile(
        distances=frozen(ends),
        heights=frozen(end_heights),
        latitudes=frozen(end_lats),
        longitudes=frozen(end_lons),
        lengths=frozen(lengths),
        grades=frozen(np.diff(end_heights) / lengths),
        headings=frozen(np.asarray(headings) % 360.0),
        bends=frozen(_bends(at, track, ends)),
        surfaces=_surface_by_segment(ends, spans, default_surface),
        ascent=float(climbed[-1]),
        ascent_by_end=frozen(by_end),
    )


def _bends(at: FloatArray, track: Track, ends: FloatArray) -> FloatArray:
    """Return the radius of the tightest bend on each segment, from the turn between two chords. [m]"""
    fine = np.linspace(0.0, at[-1], max(2, round(float(at[-1]) / FINE_SPACING) + 1))
    lats, lons = np.interp(fine, at, track.latitudes), np.interp(fine, at, track.longitudes)
    reach = round(TURN_CHORD / FINE_SPACING)
    radius = np.full(fine.size, WIDEST_BEND)
    if fine.size > 2 * reach:
        # within a chord the ground is flat enough for plane angles
        north = lats[reach:] - lats[:-reach]
        east = (lons[reach:] - lons[:-reach]) * np.cos(np.radians(lats[reach:]))
        course = np.unwrap(np.arctan2(east, north))
        turn = np.abs(course[reach:] - course[:-reach])
        radius[reach:-reach] = np.minimum(TURN_CHORD / np.maximum(turn, 1e-6), WIDEST_BEND)
    segment = np.minimum(np.searchsorted(ends, fine, side="right") - 1, ends.size - 2)
    tightest = np.full(ends.size - 1, WIDEST_BEND)
    np.minimum.at(tightest, segment, radius)
    return tightest


def _surface_by_segment(ends: FloatArray, spans: tuple[SurfaceSpan, ...], default: str) -> IntArray:
    middles = 0.5 * (ends[:-1] + ends[1:])
    surfaces = np.full(middles.size, SURFACE_INDEX[default], dtype=np.int64)
    for span in spans:
        inside: BoolArray = (middles >= span.start) & (middles < span.end)
        surfaces[inside] = SURFACE_INDEX[span.surface]
    surfaces.flags.writeable = False
    return surfaces


def distance_along(profile: Profile, latitude: float, longitude: float) -> tuple[float, float]:
    """Return where the course passes nearest to a place, and how far away that is.

    Parameters
    ----------
    profile : Profile
        The course.
    latitude, longitude : float
        The place. [°]

    Returns
    -------
    distance : float
        Along the course, at the nearest segment end. [m]
    offset : float
        From the course to the place. [m]

    Examples
    --------
    >>> line = make_track(np.array([45.0, 45.009]), np.array([7.0, 7.0]), np.array([500.0, 520.0]))
    >>> distance_along(make_profile(track=line, cleaning=Cleaning()), 45.0, 7.0)
    (0.0, 0.0)
    """
    count = profile.latitudes.size
    _, _, offsets = _WGS84.inv(
        np.full(count, longitude), np.full(count, latitude), profile.longitudes, profile.latitudes
    )
    nearest = int(np.argmin(offsets))
    return float(profile.distances[nearest]), float(offsets[nearest])


def surface_shares(profile: Profile) -> dict[str, float]:
    """Return the share of the way on each surface.

    Parameters
    ----------
    profile : Profile
        The course.

    Returns
    -------
    shares : dict of str to float
        By surface key, largest first; surfaces not met are left out. [1]

    Examples
    --------
    >>> line = make_track(np.array([45.0, 45.009]), np.array([7.0, 7.0]), np.array([500.0, 520.0]))
    >>> surface_shares(make_profile(track=line, cleaning=Cleaning()))
    {'tarmac': 1.0}
    """
    metres = np.bincount(profile.surfaces, weights=profile.lengths, minlength=len(SURFACES))
    shares = {s.key: float(m) / profile.length for s, m in zip(SURFACES, metres, strict=True) if m > 0.0}
    return dict(sorted(shares.items(), key=lambda pair: -pair[1]))
