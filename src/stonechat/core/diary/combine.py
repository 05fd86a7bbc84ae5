"""One figure from several rides: the surer and the newer weigh more, and rides that disagree make the band wider."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

HALF_LIFE = 365.0  # days after which a ride weighs half: riders change, and bikes (estimate)


@dataclass(frozen=True, kw_only=True)
class Estimate:
    """A figure with the half width of its 95 % band."""

    value: float
    band: float
    age: float = 0.0  # days since it was measured


def combined(estimates: Sequence[Estimate]) -> Estimate:
    """Return one estimate of several.

    Parameters
    ----------
    estimates : sequence of Estimate
        At least one, each with a band above 0.

    Returns
    -------
    estimate : Estimate
        Mean by precision and age; its band grows by the Birge ratio where they differ more than their bands say.

    References
    ----------
    [Birge1932].

    Examples
    --------
    >>> combined([Estimate(value=0.36, band=0.01), Estimate(value=0.38, band=0.01)]).value
    0.37
    """
    weights = [0.5 ** (one.age / HALF_LIFE) / one.band**2 for one in estimates]
    total = sum(weights)
    value = sum(w * one.value for w, one in zip(weights, estimates, strict=True)) / total
    band = math.sqrt(sum((w * one.band) ** 2 for w, one in zip(weights, estimates, strict=True))) / total
    if len(estimates) > 1:
        misfit = sum(w * (one.value - value) ** 2 for w, one in zip(weights, estimates, strict=True)) * 1.96**2
        band *= max(1.0, math.sqrt(misfit / (len(estimates) - 1)))
    return Estimate(value=value, band=band, age=min(one.age for one in estimates))
