"""Hands, feet and head: how cold the skin gets under gloves, shoes and hats.

A zone is one lump of flesh that blood warms and the wind cools; its constants are estimates, set so that changes fall
where riders make them: short gloves off below some 10 °C, overshoes on below 7 °C, winter gloves near freezing.
"""

from typing import NamedTuple

import numpy as np

from stonechat.core.night.riding import Going
from stonechat.core.numerics.arrays import FloatArray

NIMBLE = 15.0  # °C, skin of the fingers below which hands do no fine work [ISO11079]
HOT = 31.0  # °C, skin above which a zone is too warm (estimate)
_WARM = 30.0  # °C, skin with which a descent begins at most (estimate)
_BLOOD_MOST = 33.0  # °C, no warmer than the blood that reaches a zone (estimate)


class Flesh(NamedTuple):
    """What keeps a zone warm."""

    still: float  # W/m² that blood brings at rest
    per_heat: float  # 1, more of it for each W/m² of metabolic rate
    capacity: float  # J/(m²K)


FLESH = {  # estimates
    "hands": Flesh(still=55.0, per_heat=0.20, capacity=14e3),
    "feet": Flesh(still=55.0, per_heat=0.14, capacity=20e3),
    "head": Flesh(still=180.0, per_heat=0.0, capacity=20e3),
}


def skin_after(zone: str, going: Going, insulation: FloatArray, *, seconds: FloatArray, before: float) -> FloatArray:
    """Return the skin temperature of a zone at the end of a stretch.

    Parameters
    ----------
    zone : str
        Key of FLESH.
    going : Going
        What is done, shape (n,).
    insulation : ndarray, shape (m, 1)
        Of what it wears. [m²K/W]
    seconds : ndarray, shape (n,)
        How long; infinite: until nothing changes. [s]
    before : float
        Metabolic rate with which it began. [W/m²]

    Returns
    -------
    temps : ndarray, shape (m, n)
        Of the skin. [°C]

    Examples
    --------
    >>> going = Going(*(np.array([value]) for value in (5.0, 6.0, 359.0, 79.0, 0.85)))
    >>> shown = skin_after("hands", going, np.array([[0.0], [0.07]]), seconds=np.array([np.inf]), before=300.0)
    >>> np.round(shown, 1)
    array([[ 8.8],
           [16.9]])
    """
    flesh = FLESH[zone]
    wind = np.maximum(going.speeds, 0.4)
    air = 1.0 / (4.5 + 8.7 * wind**0.6)
    blood = flesh.still + flesh.per_heat * np.maximum(going.heats - 58.0, 0.0)
    ends = np.minimum(going.temps + blood * (insulation + air), _BLOOD_MOST + np.maximum(going.temps - 20.0, 0.0))
    begins_blood = flesh.still + flesh.per_heat * max(before - 58.0, 0.0)
    begins = np.minimum(going.temps + begins_blood * (insulation + 1.0 / 30.0), _WARM)
    left = np.exp(-np.asarray(seconds) / (flesh.capacity * (insulation + air)))
    return np.asarray(ends + (np.maximum(begins, ends) - ends) * left)
