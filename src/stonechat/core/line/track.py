"""A course as it was recorded: its points in riding order, turned, cut, and freed of lone errors."""

from dataclasses import dataclass

import numpy as np
from pyproj import Geod

from stonechat.core.numerics.arrays import BoolArray, FloatArray, frozen
from stonechat.errors import InvalidInput

WGS84 = Geod(ellps="WGS84")
COARSEST = 1_500.0  # m, median distance between points above which a course is not a course
LARGEST_JUMP = 20_000.0  # m
SHORTEST = 100.0  # m, least that is kept of a course
MOST_FILLED = 0.2  # 1, share of missing heights that may be filled in between their neighbours


@dataclass(frozen=True, kw_only=True)
class Track:
    """A course as recorded: at least two points, in riding order."""

    latitudes: FloatArray  # ° north, shape (n,)
    longitudes: FloatArray  # ° east, shape (n,)
    heights: FloatArray  # m above the sea, shape (n,)


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
    _, _, past = WGS84.inv(longitudes[:-2], latitudes[:-2], longitudes[2:], latitudes[2:])
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
        If less than 100 m would be left.

    Examples
    --------
    >>> line = make_track(np.array([45.0, 45.01]), np.array([7.0, 7.0]), np.array([500.0, 510.0]))
    >>> trimmed_track(line, 100.0, 600.0).heights.round(1).tolist()
    [500.9, 505.4]
    """
    at = distances_of(track)
    start, end = max(0.0, start), min(end, float(at[-1]))
    if end - start < SHORTEST:
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
    _, _, lengths = WGS84.inv(longitudes[:-1], latitudes[:-1], longitudes[1:], latitudes[1:])
    return np.asarray(lengths, dtype=np.float64)


def _refuse_disorder(lats: FloatArray, lons: FloatArray) -> None:
    """Refuse points that cannot be in riding order: great jumps, or turning back at every other point."""
    azimuths, _, lengths = WGS84.inv(lons[:-1], lats[:-1], lons[1:], lats[1:])
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
