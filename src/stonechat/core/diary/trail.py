"""Where one was when: positions put onto the course, and what of the plan came true."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numba import njit

from stonechat.core.line.profile import Profile
from stonechat.core.numerics.arrays import FloatArray, IntArray

NEAR = 400.0  # m from the course within which one is on it
MOST_FIXES = 400  # of a trail that is kept
_EARTH = 6_371_008.8  # m, mean radius
_BACK = 3_000.0  # m that one may go back along the course, to a turn that was missed
_FASTEST = 22.0  # m/s of a long stretch
_LEAP = 5_000.0  # m that one may come on beside speed, as where a report was late
_SPACING = 50.0  # m between places of the course that are tried
# m off the course that a m along it weighs: ahead, behind, and ahead of what is ridden at _USUAL m/s
_AHEAD, _BEHIND, _LEAPT, _USUAL = 0.01, 0.1, 0.03, 9.0
_STOPPED = 120.0  # m that one moves at most while standing
_HALT = 180.0  # s of standing whose ends are kept
NIGHT = 2.0 * 3600.0  # s of standing that count as a night
_BEFORE = 150.0  # m before a stop at which it counts as reached
_AT_STOP = 600.0  # m from a stop within which one stands at it


@dataclass(frozen=True, kw_only=True)
class Trail:
    """Where one was when: both rise, or stay."""

    elapsed: tuple[float, ...] = ()  # s since a start
    distances: tuple[float, ...] = ()  # m along the course

    @property
    def is_empty(self) -> bool:
        """Whether nothing is known."""
        return len(self.elapsed) < 2

    def later(self, seconds: float) -> "Trail":
        """Return the same by a start that lies so many seconds earlier."""
        return Trail(elapsed=tuple(then + seconds for then in self.elapsed), distances=self.distances)


@dataclass(frozen=True, kw_only=True)
class Matched:
    """Positions on the course."""

    trail: Trail
    off: float  # 1, share of positions that lie off the course


def match_trail(elapsed: FloatArray, latitudes: FloatArray, longitudes: FloatArray, profile: Profile) -> Matched:
    """Return a trail of positions, each on that part of the course that can be reached since the one before.

    Parameters
    ----------
    elapsed : ndarray, shape (n,)
        Rising. [s]
    latitudes, longitudes : ndarray, shape (n,)
        NaN where there was none. [°]
    profile : Profile
        The course.

    Returns
    -------
    matched : Matched
        The trail, thinned, and the share of positions off the course.
    """
    good = np.isfinite(latitudes) & np.isfinite(longitudes)
    if good.sum() < 2:
        return Matched(trail=Trail(), off=1.0)
    at = np.arange(0.0, profile.length + _SPACING, _SPACING)
    lats, lons = (np.interp(at, profile.distances, v) for v in (profile.latitudes, profile.longitudes))
    middle = np.cos(np.radians(float(lats.mean())))
    scale = np.radians(1.0) * _EARTH
    course = np.column_stack((lons * middle * scale, lats * scale))
    given = np.column_stack((longitudes[good] * middle * scale, latitudes[good] * scale))
    indices = _matched(given, elapsed[good], course)
    on = indices >= 0
    if on.sum() < 2:
        return Matched(trail=Trail(), off=1.0)
    distances = np.maximum.accumulate(at[indices[on]])
    return Matched(trail=thinned(elapsed[good][on], np.minimum(distances, profile.length)), off=1.0 - float(on.mean()))


@njit(cache=True)
def _matched(given: FloatArray, elapsed: FloatArray, course: FloatArray) -> IntArray:
    """Return the place of each position on the course, -1 where it is off it."""
    out = np.full(given.shape[0], -1, dtype=np.int64)
    last, then = -1, 0.0
    for k in range(given.shape[0]):
        low, high = 0, course.shape[0]
        if last >= 0:
            reach = (elapsed[k] - then) * _FASTEST + _LEAP
            low = max(0, last - int(_BACK / _SPACING))
            high = min(course.shape[0], last + int(reach / _SPACING) + 1)
        best, nearest = np.inf, -1
        for j in range(low, high):
            east, north = course[j, 0] - given[k, 0], course[j, 1] - given[k, 1]
            far = east * east + north * north
            if far >= NEAR * NEAR:
                continue
            if last >= 0:
                # of places that lie as near the next one along the way is meant: a course meets itself
                ahead = (j - last) * _SPACING
                doubt = _AHEAD * ahead if ahead >= 0.0 else -_BEHIND * ahead
                doubt += _LEAPT * max(0.0, ahead - _USUAL * (elapsed[k] - then))
                far += doubt * doubt
            if far < best:
                best, nearest = far, j
        if nearest >= 0:
            out[k] = nearest
            last, then = nearest, elapsed[k]
    return out


def thinned(elapsed: FloatArray, distances: FloatArray, most: int = MOST_FIXES) -> Trail:
    """Return a trail of few fixes that keeps the beginnings and ends of halts.

    Parameters
    ----------
    elapsed, distances : ndarray, shape (n,)
        Rising. [s], [m]
    most : int
        Fixes that are kept. [1]

    Returns
    -------
    trail : Trail
        Both ends of the longest halts, the rest spread evenly by distance.

    Examples
    --------
    >>> moments = np.array([0.0, 100.0, 200.0, 900.0, 1000.0, 1100.0])
    >>> thinned(moments, np.array([0.0, 500.0, 1000.0, 1000.0, 1500.0, 2000.0]), most=5).elapsed
    (0.0, 200.0, 900.0, 1100.0)
    """
    keep = np.zeros(elapsed.size, dtype=np.bool_)
    keep[[0, -1]] = True
    halts = sorted(_halts(elapsed, distances, _HALT), key=lambda halt: elapsed[halt[0]] - elapsed[halt[1]])
    for first, last in halts[: max(1, (most - 2) // 4)]:
        keep[[first, last]] = True
    spare = most - int(keep.sum())
    if elapsed.size <= most:
        keep[:] = True
    elif spare > 0:
        # evenly by distance, as times between are told by speed
        at = np.linspace(distances[0], distances[-1], spare)
        keep[np.minimum(np.searchsorted(distances, at), elapsed.size - 1)] = True
    return Trail(elapsed=tuple(elapsed[keep].round(0).tolist()), distances=tuple(distances[keep].round(0).tolist()))


def _halts(
    times: Sequence[float] | FloatArray, at: Sequence[float] | FloatArray, least: float
) -> list[tuple[int, int]]:
    """Return the first and the last fix of each stretch of time in one place."""
    found, k = list[tuple[int, int]](), 0
    while k < len(times) - 1:
        j = k
        while j + 1 < len(times) and at[j + 1] - at[k] <= _STOPPED:
            j += 1
        if times[j] - times[k] >= least:
            found.append((k, j))
        k = max(j, k + 1)
    return found


@dataclass(frozen=True, kw_only=True)
class Stand:
    """A place where one stood."""

    distance: float  # m
    begins: float  # s
    length: float  # s


def stands(trail: Trail, least: float = 240.0) -> tuple[Stand, ...]:
    """Return where one stood for long.

    Parameters
    ----------
    trail : Trail
        Where one was when.
    least : float
        Standing that counts. [s]

    Returns
    -------
    stands : tuple of Stand
        In order.

    Examples
    --------
    >>> stands(Trail(elapsed=(0.0, 100.0, 1100.0), distances=(0.0, 900.0, 950.0)))
    (Stand(distance=900.0, begins=100.0, length=1000.0),)
    """
    times, at = trail.elapsed, trail.distances
    return tuple(
        Stand(distance=at[k], begins=times[k], length=times[j] - times[k]) for k, j in _halts(times, at, least)
    )


def reached_at(trail: Trail, distances: FloatArray) -> FloatArray:
    """Return when places were reached.

    Parameters
    ----------
    trail : Trail
        Where one was when.
    distances : ndarray, shape (n,)
        Along the course. [m]

    Returns
    -------
    elapsed : ndarray, shape (n,)
        NaN beyond what is known. [s]
    """
    if trail.is_empty:
        return np.full(np.shape(distances), np.nan)
    at, first = np.unique(np.asarray(trail.distances), return_index=True)
    times = np.asarray(trail.elapsed)[first]
    return np.asarray(np.interp(distances, at, times, left=np.nan, right=np.nan), dtype=np.float64)


@dataclass(frozen=True, kw_only=True)
class AtStop:
    """A stop as planned and as it was."""

    planned: float  # s since the start
    reached: float  # s; NaN: not known
    stay_planned: float  # s
    stayed: float  # s


def at_stops(trail: Trail, places: Sequence[float], arrives: Sequence[float], stays: Sequence[float]) -> list[AtStop]:
    """Return each stop as planned and as it was.

    Parameters
    ----------
    trail : Trail
        Where one was when.
    places, arrives, stays : sequence of float
        Of the stops as planned: where, when, for how long. [m], [s], [s]

    Returns
    -------
    stops : list of AtStop
        In the order of the stops.
    """
    stood = stands(trail, least=60.0)
    # a little before it, as one who stands there stands on either side of it
    reached = reached_at(trail, np.maximum(np.asarray(places, dtype=np.float64) - _BEFORE, 0.0))
    found = []
    for place, planned, stay, then in zip(places, arrives, stays, reached.tolist(), strict=True):
        here = sum(one.length for one in stood if abs(one.distance - place) <= _AT_STOP)
        found.append(AtStop(planned=planned, reached=then, stay_planned=stay, stayed=here))
    return found


def causes(trail: Trail, distances: FloatArray, clocks: FloatArray) -> dict[str, tuple[float, float]]:
    """Return where the time went, planned and in truth, over the way that is known.

    Parameters
    ----------
    trail : Trail
        Where one was when.
    distances, clocks : ndarray, shape (n,)
        Where the plan is when. [m], [s]

    Returns
    -------
    causes : dict of str to (float, float)
        Moving, stops and nights: planned and in truth, to where the trail ends. [s]
    """
    end = trail.distances[-1]
    plan = Trail(
        elapsed=tuple(clocks[distances <= end].tolist()), distances=tuple(distances[distances <= end].tolist())
    )
    sums = []
    for one in (plan, trail):
        stood = stands(one)
        nights = sum(stand.length for stand in stood if stand.length >= NIGHT)
        stops = sum(stand.length for stand in stood if stand.length < NIGHT)
        whole = one.elapsed[-1] - one.elapsed[0] if not one.is_empty else 0.0
        sums.append({"moving": whole - nights - stops, "stops": stops, "nights": nights})
    return {key: (sums[0][key], sums[1][key]) for key in sums[0]}
