"""The same course cleaned and cut into even segments for the ride."""

from dataclasses import dataclass

import numpy as np
from numba import njit
from scipy.ndimage import gaussian_filter1d, median_filter

from stonechat.core.line.surface import SURFACE_INDEX, SURFACES, SurfaceSpan
from stonechat.core.line.track import WGS84, Track, distances_of
from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray, frozen
from stonechat.errors import InvalidInput

SPACING = 100.0  # m, length of a ride segment
FINE_SPACING = 20.0  # m, step at which heights are smoothed
SPIKE_WINDOW = 5  # points of the fine step that the median looks at
TURN_CHORD = 60.0  # m, chord over which a bend is measured; shorter ones see the noise of the points
WIDEST_BEND = 2_000.0  # m, radius from which a bend counts as straight


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
    >>> from stonechat.core.line.track import make_track
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
