"""Heat balance of a rider by the equations of ISO 11079, over many stretches and outfits at once."""

from typing import NamedTuple

import numpy as np

from stonechat.core.night.sleep import CLO, DEBT
from stonechat.core.numerics.arrays import FloatArray

VALID_TO = 10.0  # °C, up to which ISO 11079 holds; beyond, its balance is used as an estimate
LOW, NEUTRAL = "low", "neutral"  # strain that one accepts: cool but in balance, or neither warm nor cool
_HARDEST, _EASIEST = 400.0, 58.0  # W/m², between which ISO 11079 holds
_SLOWEST, _FASTEST = 0.4, 18.0  # m/s, between which it does
_HALVINGS = 22  # of the span in which an insulation is looked for
_MOST = 10.0  # clo, above which no insulation is looked for


class Going(NamedTuple):
    """What a rider does and meets, shape (n,) each."""

    temps: FloatArray  # °C
    speeds: FloatArray  # m/s of air past the rider
    heats: FloatArray  # W/m², metabolic rate
    works: FloatArray  # W/m², of it at the pedals
    humidities: FloatArray  # 1


def storage(going: Going, insulation: FloatArray, permeability: FloatArray, strain: str = LOW) -> FloatArray:
    """Return the heat that is stored, or lost, in clothes.

    Parameters
    ----------
    going : Going
        What is done, shape (n,).
    insulation : ndarray, shape (m, 1) or (n,)
        Of the clothes as they are, still and dry. [m²K/W]
    permeability : ndarray
        To air of the outermost layer, of the shape of `insulation`. [l/(m²s)]
    strain : str
        LOW or NEUTRAL.

    Returns
    -------
    storage : ndarray, shape (m, n) or (n,)
        Below 0 one gets colder. [W/m²]

    References
    ----------
    [ISO11079]: skin, wetness, breath, what wind and walking take from clothes.

    Examples
    --------
    >>> going = Going(*(np.array([value]) for value in (5.0, 14.0, 110.0, 0.0, 0.85)))
    >>> lost = storage(going, np.array([1.5 * CLO]), np.array([5.0]))
    >>> round(float(-DEBT / lost[0]), 2)
    0.51
    """
    still, airy = _held(going)
    return _stored(going, _resulting(np.asarray(insulation), np.asarray(permeability), still, airy), strain)


def needed(going: Going, permeability: FloatArray, strain: str = LOW, hours: FloatArray | float = np.inf) -> FloatArray:
    """Return the insulation that clothes must have.

    Parameters
    ----------
    going : Going
        What is done, shape (n,).
    permeability : ndarray, shape (n,)
        To air of the outermost layer. [l/(m²s)]
    strain : str
        LOW or NEUTRAL.
    hours : ndarray or float
        For how long; infinite: in balance. [h]

    Returns
    -------
    insulation : ndarray, shape (n,)
        As the clothes are, still and dry; none at least, and _MOST clo at most. [m²K/W]

    Examples
    --------
    >>> going = Going(*(np.array([value]) for value in (0.0, 6.0, 359.0, 79.0, 0.85)))
    >>> np.round(needed(going, np.array([50.0])) / CLO, 3), np.round(needed(going, np.array([50.0]), NEUTRAL) / CLO, 3)
    (array([0.641]), array([1.215]))
    """
    low, high = np.zeros(going.temps.shape), np.full(going.temps.shape, _MOST * CLO)
    least = -DEBT / np.asarray(hours, dtype=np.float64)
    for _ in range(_HALVINGS):
        middle = 0.5 * (low + high)
        enough = storage(going, middle, permeability, strain) >= least
        low, high = np.where(enough, low, middle), np.where(enough, middle, high)
    return np.asarray(0.5 * (low + high))


def bearable(going: Going, insulation: FloatArray, permeability: FloatArray) -> FloatArray:
    """Return how long it takes until one is cold.

    Parameters
    ----------
    going : Going
        What is done, shape (n,).
    insulation : ndarray
        Of the clothes. [m²K/W]
    permeability : ndarray
        To air of the outermost layer. [l/(m²s)]

    Returns
    -------
    hours : ndarray
        Of the shape of `storage`; infinite where one does not get cold. [h]

    Examples
    --------
    >>> going = Going(*(np.array([value]) for value in (30.0, 6.0, 359.0, 79.0, 0.85)))
    >>> bearable(going, np.array([0.3 * CLO]), np.array([50.0]))
    array([inf])
    """
    lost = storage(going, insulation, permeability)
    return np.where(lost < 0.0, DEBT / np.maximum(-lost, 1e-9), np.inf)


def wind_chill(temps: FloatArray, speeds: FloatArray) -> FloatArray:
    """Return what moving air feels like on bare skin.

    Parameters
    ----------
    temps : ndarray
        Of the air. [°C]
    speeds : ndarray
        Of the air past the rider; taken as it is, where the formula means the wind at 10 m. [m/s]

    Returns
    -------
    felt : ndarray
        The air temperature itself where it is warmer than 10 °C or the air hardly moves. [°C]

    References
    ----------
    [Osczevski2005]

    Examples
    --------
    >>> np.round(wind_chill(np.array([-10.0, 15.0]), np.array([30.0 / 3.6, 8.0])), 4)
    array([-19.5205,  15.    ])
    """
    kmh = np.maximum(speeds * 3.6, 1e-9)
    felt = 13.12 + 0.6215 * temps - 11.37 * kmh**0.16 + 0.3965 * temps * kmh**0.16
    return np.where((temps <= VALID_TO) & (kmh > 4.8), np.minimum(felt, temps), temps)


def _held(going: Going) -> tuple[FloatArray, FloatArray]:
    """Return the insulation of the air around, and the wind and walking that take from clothes."""
    walking = np.minimum(1.2, 0.0052 * (_kept(going) - 58.0))  # m/s, as fast as arms and legs move at such an effort
    wind = np.clip(going.speeds, _SLOWEST, _FASTEST)
    airy = 0.15 * wind + 0.22 * walking
    return 0.092 * np.exp(-airy) - 0.0045, airy


def _kept(going: Going) -> FloatArray:
    return np.clip(going.heats, _EASIEST, _HARDEST)


def _resulting(still: FloatArray, permeability: FloatArray, air: FloatArray, airy: FloatArray) -> FloatArray:
    """Return what clothes insulate in wind and motion. [m²K/W]"""
    kept = 0.54 * permeability**0.075 * np.exp(-airy) - 0.06 * np.log(permeability) + 0.5
    found = np.broadcast_to(still, np.broadcast_shapes(still.shape, air.shape)).astype(np.float64)
    for _ in range(12):  # clothes widen the body by what they insulate, so this is met in a few turns
        wider = 1.0 + 1.197 * np.maximum(found, 0.0)
        found = (still + 0.085 / wider) * kept - air / wider
    return np.asarray(np.maximum(found, 1e-4))


def _stored(going: Going, resulting: FloatArray, strain: str) -> FloatArray:
    heat = _kept(going)
    skin = 33.34 - 0.0354 * heat if strain == LOW else 35.7 - 0.0285 * heat
    wet = 0.06 if strain == LOW else 0.001 * heat
    air, _ = _held(going)
    vapour = going.humidities * _saturation(going.temps)
    out = 29.0 + 0.2 * going.temps  # °C of the breath
    breath = 1.73e-2 * heat * (_saturation(out) - vapour) + 1.4e-3 * heat * (out - going.temps)
    sweat = wet * (_saturation(skin) - vapour) / (0.06 / 0.38 * (air + resulting))
    dry = (skin - going.temps) / (resulting + air / (1.0 + 1.197 * resulting))
    return np.asarray(heat - np.minimum(going.works, 0.3 * heat) - sweat - breath - dry)


def _saturation(temps: FloatArray) -> FloatArray:
    """Return the vapour pressure at saturation, as ISO 11079 writes it. [kPa]"""
    return np.asarray(0.1333 * np.exp(18.6686 - 4030.183 / (temps + 235.0)))
