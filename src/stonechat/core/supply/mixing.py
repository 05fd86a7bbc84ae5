"""Drink powder: how much water it takes, and which bottles may hold it."""

from collections.abc import Iterable

from stonechat.core.rig.carrier import Carrier
from stonechat.core.supply.pour import holds

MIXED_SHARE = 0.5  # 1, of what is drunk riding: one bottle is mixed, one stays plain (estimate)
POWDER = 0.08  # kg of powder in a litre (0.06 to 0.10, estimate)


def mixed(powder: float) -> float:
    """Return the water that drink powder takes.

    Parameters
    ----------
    powder : float
        Mass of it. [kg]

    Returns
    -------
    litres : float
        To drink it as it is usual. [l]

    Examples
    --------
    >>> mixed(0.12)
    1.5
    """
    return powder / POWDER


def mixable(carriers: Iterable[Carrier]) -> float:
    """Return how much mixed drink a set of carriers holds.

    Parameters
    ----------
    carriers : iterable of Carrier
        Those mounted.

    Returns
    -------
    capacity : float
        Of those that are not for plain water only. [l]

    Examples
    --------
    >>> mixable(())
    0.0
    """
    return float(sum(holds(carrier) for carrier in carriers if carrier.drink != "plain"))
