"""The same course cleaned and cut into segments for the ride, shorter ones where the grade turns over."""

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import CubicSpline

from stonechat.core.line.heights import (
    LONGEST_STEP,
    SPIKE_LEAST,
    ascent_by_threshold,
    cleaning_step,
    height_noise,
    smoothed,
    without_noise,
    without_spikes,
)
from stonechat.core.line.surface import SURFACE_INDEX, SURFACES, SurfaceSpan
from stonechat.core.line.track import WGS84, Track, distances_of
from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray, frozen
from stonechat.errors import InvalidInput

SPACING = 100.0  # m, length of a ride segment where the grade hardly changes
SHORTEST = 25.0  # m, about the shortest it is cut to
TURNS = 0.003  # 1, height of the ground off the segment's line in its middle, per length, from which it is halved
LEAST_CLIMB = 0.5  # m, rises smaller than this are not counted, unless the rider says so
TURN_CHORD = 60.0  # m, chord over which a bend is measured; shorter ones see the noise of the points
WIDEST_BEND = 2_000.0  # m, radius from which a bend counts as straight


@dataclass(frozen=True, kw_only=True)
class Cleaning:
    """How heights are cleaned and how climbing is counted."""

    smoothing: float | None = None  # m, standard deviation of a Gaussian along the way; None: by the noise there is
    ascent_threshold: float | None = None  # m, a rise counts once it is this high; None: by what noise may be left


@dataclass(frozen=True, kw_only=True)
class Profile:
    """A cleaned course cut into segments of 100 m, or halves and quarters of that where the grade turns over."""

    distances: FloatArray  # m, at the segment ends, shape (n + 1,)
    heights: FloatArray  # m, at the segment ends, shape (n + 1,)
    latitudes: FloatArray  # °, at the segment ends, shape (n + 1,)
    longitudes: FloatArray  # °, at the segment ends, shape (n + 1,)
    lengths: FloatArray  # m, shape (n,)
    grades: FloatArray  # 1, shape (n,)
    headings: FloatArray  # ° clockwise from north, shape (n,)
    bends: FloatArray  # m, radius of the tightest bend on the segment, at most 2,000, shape (n,)
    surfaces: IntArray  # index into SURFACES, shape (n,)
    noise: float | None  # m, standard deviation of the recorded heights from point to point; None: not to be told
    threshold: float  # m, a rise counts once it is this high
    ascent: float  # m
    ascent_by_end: FloatArray  # m climbed from the start, at the segment ends, shape (n + 1,)

    @property
    def length(self) -> float:
        """Length of the course. [m]"""
        return float(self.distances[-1])


def place_on(profile: Profile, distance: float) -> tuple[float, float]:
    """Return the latitude and longitude of a place on a course.

    Parameters
    ----------
    profile : Profile
        The course.
    distance : float
        Along it. [m]

    Returns
    -------
    latitude, longitude : float
        Between two segment ends by a straight line. [°]
    """
    return (
        float(np.interp(distance, profile.distances, profile.latitudes)),
        float(np.interp(distance, profile.distances, profile.longitudes)),
    )


def make_profile(
    *,
    track: Track,
    cleaning: Cleaning,
    spans: tuple[SurfaceSpan, ...] = (),
    default_surface: str = "tarmac",
) -> Profile:
    """Return the cleaned course in segments.

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
    Heights are taken at every 10 to 20 m, as close as the points lie, and freed of spikes and of the noise that is
    measured in them (`stonechat.core.line.heights`), or smoothed by a Gaussian where the rider says how wide. A segment
    is halved while the ground in its middle lies off its line by more than `TURNS` of its length.

    Examples
    --------
    >>> from stonechat.core.line.track import make_track
    >>> line = make_track(np.array([45.0, 45.009]), np.array([7.0, 7.0]), np.array([500.0, 520.0]))
    >>> make_profile(track=line, cleaning=Cleaning()).lengths.size
    10
    """
    at = distances_of(track)
    total = float(at[-1])
    if total < SPACING:
        raise InvalidInput(f"The course is {total:.0f} m long. It must be at least {SPACING:.0f} m.")
    fine, heights, noise = _cleaned(track, at, cleaning)
    ends, end_heights = _segments(fine, heights, total)
    lengths = np.diff(ends)
    threshold = cleaning.ascent_threshold
    if threshold is None:  # what the rider smooths may leave noise, which is no climbing
        threshold = LEAST_CLIMB if cleaning.smoothing is None else max(LEAST_CLIMB, noise or 0.0)
    climbed = ascent_by_threshold(heights, threshold)
    by_end = np.interp(ends, fine, climbed)
    end_lats, end_lons = np.interp(ends, at, track.latitudes), np.interp(ends, at, track.longitudes)
    headings, _, _ = WGS84.inv(end_lons[:-1], end_lats[:-1], end_lons[1:], end_lats[1:])
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
        noise=noise,
        threshold=threshold,
        ascent=float(climbed[-1]),
        ascent_by_end=frozen(by_end),
    )


def _cleaned(track: Track, at: FloatArray, cleaning: Cleaning) -> tuple[FloatArray, FloatArray, float | None]:
    """Return even distances, the heights there freed of spikes and noise, and how much noise there was. [m, m, m]"""
    fine = np.linspace(0.0, at[-1], max(2, round(float(at[-1]) / cleaning_step(at)) + 1))
    step = float(fine[1] - fine[0])
    heights: FloatArray = without_spikes(np.interp(fine, at, track.heights))
    expected = np.interp(at, fine, heights)
    noise = height_noise(at, np.where(np.abs(track.heights - expected) > SPIKE_LEAST, expected, track.heights))
    if cleaning.smoothing is None:
        return fine, without_noise(heights, step, noise or 0.0, at), noise
    return fine, smoothed(heights, step, cleaning.smoothing), noise


def _segments(fine: FloatArray, heights: FloatArray, total: float) -> tuple[FloatArray, FloatArray]:
    """Return ends of segments and the heights there: every 100 m, closer where the grade turns over. [m, m]"""
    curve = CubicSpline(fine, heights) if fine.size > 3 else None

    def height(at: FloatArray) -> FloatArray:
        return np.asarray(np.interp(at, fine, heights) if curve is None else curve(at), dtype=np.float64)

    ends = np.append(np.arange(0.0, total - 0.5 * SPACING, SPACING), total)
    at_ends = height(ends)
    while True:
        lengths, middles = np.diff(ends), 0.5 * (ends[:-1] + ends[1:])
        at_middles = height(middles)
        off = np.abs(at_middles - 0.5 * (at_ends[:-1] + at_ends[1:]))
        turns = (off > TURNS * lengths) & (lengths > 1.5 * SHORTEST)
        if not turns.any():
            return ends, at_ends
        order = np.argsort(np.concatenate((ends, middles[turns])), kind="stable")
        ends = np.concatenate((ends, middles[turns]))[order]
        at_ends = np.concatenate((at_ends, at_middles[turns]))[order]


def segments_at(profile: Profile, distances: FloatArray) -> IntArray:
    """Return the segments that begin nearest to some distances.

    Parameters
    ----------
    profile : Profile
        The course.
    distances : ndarray, shape (s,)
        Along it. [m]

    Returns
    -------
    segments : ndarray, shape (s,)
        Index of the segment; one more than the last at the finish. [1]

    Examples
    --------
    >>> from stonechat.core.line.track import make_track
    >>> line = make_track(np.array([45.0, 45.009]), np.array([7.0, 7.0]), np.array([500.0, 520.0]))
    >>> segments_at(make_profile(track=line, cleaning=Cleaning()), np.array([0.0, 260.0, 990.0])).tolist()
    [0, 3, 10]
    """
    marks = np.asarray(distances, dtype=np.float64)
    after = np.clip(np.searchsorted(profile.distances, marks), 1, profile.distances.size - 1)
    nearer_before = marks - profile.distances[after - 1] < profile.distances[after] - marks
    return np.asarray(np.where(nearer_before, after - 1, after), dtype=np.int64)


def _bends(at: FloatArray, track: Track, ends: FloatArray) -> FloatArray:
    """Return the radius of the tightest bend on each segment, from the turn between two chords. [m]"""
    fine = np.linspace(0.0, at[-1], max(2, round(float(at[-1]) / LONGEST_STEP) + 1))
    lats, lons = np.interp(fine, at, track.latitudes), np.interp(fine, at, track.longitudes)
    reach = round(TURN_CHORD / LONGEST_STEP)
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
    >>> from stonechat.core.line.track import make_track
    >>> line = make_track(np.array([45.0, 45.009]), np.array([7.0, 7.0]), np.array([500.0, 520.0]))
    >>> distance_along(make_profile(track=line, cleaning=Cleaning()), 45.0, 7.0)
    (0.0, 0.0)
    """
    count = profile.latitudes.size
    _, _, offsets = WGS84.inv(
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
    >>> from stonechat.core.line.track import make_track
    >>> line = make_track(np.array([45.0, 45.009]), np.array([7.0, 7.0]), np.array([500.0, 520.0]))
    >>> surface_shares(make_profile(track=line, cleaning=Cleaning()))
    {'tarmac': 1.0}
    """
    metres = np.bincount(profile.surfaces, weights=profile.lengths, minlength=len(SURFACES))
    shares = {s.key: float(m) / profile.length for s, m in zip(SURFACES, metres, strict=True) if m > 0.0}
    return dict(sorted(shares.items(), key=lambda pair: -pair[1]))


def loose_share(profile: Profile) -> float:
    """Return the share of a course on loose ground.

    Parameters
    ----------
    profile : Profile
        The cleaned course.

    Returns
    -------
    share : float
        By distance. [1]

    Examples
    --------
    >>> from stonechat.core.line.track import make_track
    >>> line = make_track(np.array([45.0, 45.009]), np.array([7.0, 7.0]), np.array([500.0, 520.0]))
    >>> loose_share(make_profile(track=line, cleaning=Cleaning()))
    0.0
    """
    loose = np.array([surface.is_loose for surface in SURFACES])[profile.surfaces]
    return float(profile.lengths[loose].sum() / profile.lengths.sum())
