"""Light: how bright the way wants it, by speed and ground, and how long what is aboard burns so."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray

FAST, SLOW = 8.0, 4.0  # m/s from which one rides into what one does not see yet, and under which little is enough
FAST_ROUGH = 5.0  # m/s from which rough ground wants the beam (estimate)
DIMS = 2.5  # m/s under which a lamp on the hub is too dim to ride by (estimate)
LOW, MID, HIGH = 0, 1, 2  # places in NAMES
NAMES = ("low", "mid", "high")
WAYS = ("fast", "steady", "fast on rough ground", "slow climb", "on foot")


@dataclass(frozen=True, kw_only=True)
class DarkHours:
    """How long one rides in the dark, by what the way is like; shape (5,) in the order of WAYS."""

    hours: FloatArray  # h
    modes: IntArray  # LOW, MID or HIGH that it wants

    @property
    def total(self) -> float:
        """All of it. [h]"""
        return float(self.hours.sum())


def ways_of(speeds: FloatArray, rough: BoolArray, on_foot: BoolArray) -> IntArray:
    """Return what the way is like for a lamp.

    Parameters
    ----------
    speeds : ndarray
        Of the bike. [m/s]
    rough : ndarray
        Whether the ground is rough.
    on_foot : ndarray
        Whether the bike is pushed.

    Returns
    -------
    ways : ndarray
        Places in WAYS.

    Examples
    --------
    >>> ways_of(np.array([12.0, 6.0, 6.0, 2.0]), np.array([False, False, True, False]), np.zeros(4, dtype=bool))
    array([0, 1, 2, 3])
    """
    found = np.where(speeds < SLOW, 3, 1)
    found = np.where(rough & (speeds >= FAST_ROUGH), 2, found)
    found = np.where(~rough & (speeds >= FAST), 0, found)
    return np.where(on_foot, 4, found)


_WANTED = np.array([HIGH, MID, HIGH, LOW, LOW])


def modes_of(ways: IntArray, *, dim_when_slow: bool) -> IntArray:
    """Return the mode that each way wants: LOW, MID or HIGH.

    Parameters
    ----------
    ways : ndarray
        Places in WAYS.
    dim_when_slow : bool
        Whether the lamp is turned down on slow climbs and on foot.

    Returns
    -------
    modes : ndarray
        Places in NAMES.

    Examples
    --------
    >>> modes_of(np.array([0, 3]), dim_when_slow=False)
    array([2, 1])
    """
    wanted = _WANTED[ways]
    return wanted if dim_when_slow else np.maximum(wanted, MID)


def dark_hours(hours: FloatArray) -> DarkHours:
    """Return hours in the dark with the light that each way wants.

    Parameters
    ----------
    hours : ndarray, shape (5,)
        In the order of WAYS. [h]

    Returns
    -------
    dark : DarkHours
        By way. [h]
    """
    return DarkHours(hours=hours, modes=_WANTED)
