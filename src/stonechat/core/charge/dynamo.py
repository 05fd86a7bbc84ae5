"""A hub dynamo: what it gives and how it brakes, by speed. The fits are estimates for hubs of 6 V and 3 W."""

from collections.abc import Sequence

import numpy as np

from stonechat.core.numerics.arrays import FloatArray

_MOST, _HALF, _POWER, _LEAST = 6.8, 5.0, 2.4, 2.2  # W, m/s at half of it, 1, m/s below which a charger gives nothing
_LAMP, _LAMP_FULL, _LAMP_POWER = 3.0, 4.2, 1.5  # W, m/s from which the lamp is full, 1
_IDLE, _BEARING = 0.2, 0.11  # W, W/(m/s) that an unloaded hub brakes
_EFFICIENCY = 0.60  # 1, of the hub (0.5 to 0.7)


def charger_output(speeds: FloatArray, points: Sequence[tuple[float, float]] = ()) -> FloatArray:
    """Return what a charger on the hub gives.

    Parameters
    ----------
    speeds : ndarray
        Of the bike. [m/s]
    points : sequence of tuple of float, optional
        Speed and power of the rider's own hub and charger, ascending; between them it is read straight: m/s and W.

    Returns
    -------
    power : ndarray
        Electric (estimate). [W]

    Examples
    --------
    >>> np.round(charger_output(np.array([1.0, 5.0, 20.0 / 3.6])), 2)
    array([0.  , 3.4 , 3.83])
    """
    if points:
        at, given = zip(*points, strict=True)
        return np.asarray(np.interp(speeds, at, given, left=0.0), dtype=np.float64)
    ratio = (np.maximum(speeds, 0.0) / _HALF) ** _POWER
    return np.where(speeds >= _LEAST, _MOST * ratio / (1.0 + ratio), 0.0)


def lamp_output(speeds: FloatArray) -> FloatArray:
    """Return what a lamp on the hub takes.

    Parameters
    ----------
    speeds : ndarray
        Of the bike. [m/s]

    Returns
    -------
    power : ndarray
        Electric; it dims where one climbs (estimate). [W]

    Examples
    --------
    >>> np.round(lamp_output(np.array([2.0, 5.0])), 2)
    array([0.99, 3.  ])
    """
    return np.asarray(_LAMP * np.minimum(1.0, (np.maximum(speeds, 0.0) / _LAMP_FULL) ** _LAMP_POWER))


def hub_drag(speeds: FloatArray, output: FloatArray) -> FloatArray:
    """Return the power at the wheel that a hub takes.

    Parameters
    ----------
    speeds : ndarray
        Of the bike. [m/s]
    output : ndarray
        Electric. [W]

    Returns
    -------
    power : ndarray
        Mechanical (estimate). [W]

    Examples
    --------
    >>> speed = np.array([25.0 / 3.6])
    >>> np.round(hub_drag(speed, charger_output(speed)), 1), np.round(hub_drag(speed, np.zeros(1)), 2)
    (array([8.8]), array([0.96]))
    """
    return np.asarray(_IDLE + _BEARING * np.maximum(speeds, 0.0) + output / _EFFICIENCY)
