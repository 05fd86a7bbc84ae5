"""Water and energy that a rider needs."""

import numpy as np

from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.physics.constants import JOULES_PER_KCAL

# litres per hour lost at 150 W, by air temperature; default with its band (estimates; [ISO7933] lies below
# them in the cool, because riders overdress, stop and climb with little wind)
_TEMPS = (0.0, 10.0, 20.0, 30.0, 40.0)  # °C at which the losses of water stand
_LOSS = (0.25, 0.35, 0.50, 0.80, 1.20)  # l/h at those (estimates)
LOSS_BAND = ((0.15, 0.20, 0.35, 0.60, 0.95), (0.50, 0.60, 0.85, 1.20, 1.70))  # l/h, least and most (estimates)
_EFFORT_TEMPS, _EFFORT = (0.0, 10.0, 40.0), (0.5, 0.7, 1.0)  # °C; 1, share of the loss that goes with effort (estimate)
URINE = 0.04  # l/h (estimate)
DRINK_MOST = 0.8  # l/h that can be drunk (0.4 to 1.2, estimate)


def water_loss(*, temp_air: FloatArray, power: FloatArray) -> FloatArray:
    """Return how much water a rider loses by sweat.

    Parameters
    ----------
    temp_air : ndarray, shape (n,)
        Air temperature; held at 0 and 40 outside that range. [°C]
    power : ndarray, shape (n,)
        Power at the pedals. [W]

    Returns
    -------
    loss : ndarray, shape (n,)
        Loss in litres per hour; an estimate, two thirds to one and two thirds of it are usual. [l/h]

    Examples
    --------
    >>> water_loss(temp_air=np.array([30.0]), power=np.array([200.0])).round(2)
    array([1.04])
    """
    at_rest = np.interp(temp_air, _TEMPS, _LOSS)
    share = np.interp(temp_air, _EFFORT_TEMPS, _EFFORT)
    return np.maximum(at_rest * (1.0 + share * (np.asarray(power) / 150.0 - 1.0)), 0.08)


def drinking_need(loss: FloatArray) -> FloatArray:
    """Return how much should be drunk: what is lost, as far as it can be drunk.

    Parameters
    ----------
    loss : ndarray, shape (n,)
        By sweat. [l/h]

    Returns
    -------
    need : ndarray, shape (n,)
        Litres per hour, never above the loss. [l/h]

    Examples
    --------
    >>> drinking_need(water_loss(temp_air=np.array([40.0]), power=np.array([150.0])))
    array([0.8])
    """
    return np.minimum(loss + URINE, DRINK_MOST)


def ride_energy(work: float, gross_efficiency: float) -> float:
    """Return the food energy that riding takes; rest metabolism is within it.

    Parameters
    ----------
    work : float
        Work at the pedals. [J]
    gross_efficiency : float
        Work done per energy spent. [1]

    Returns
    -------
    energy : float
        Energy spent. [kcal]

    References
    ----------
    [Coyle1992].

    Examples
    --------
    >>> round(ride_energy(150.0 * 3600.0, 0.22), 2)
    586.65
    """
    return work / JOULES_PER_KCAL / gross_efficiency
