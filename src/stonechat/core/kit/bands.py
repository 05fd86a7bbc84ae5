"""How sure a mass is: what is not weighed yet counts with a band in every total."""

from collections.abc import Iterable

from stonechat.core.kit.item import Item

CLAIM_BAND = 0.08  # 1, one standard error of a claimed or guessed mass against the scale (estimate)
SCALE_BAND = 0.001  # kg, of one weighing


def mass_band(items: Iterable[Item]) -> float:
    """Return the half-width of the band of a total mass.

    Parameters
    ----------
    items : iterable of Item
        The things that are added up.

    Returns
    -------
    band : float
        About nine totals in ten lie within it: 1.645 standard errors, errors of single things being independent. [kg]

    Notes
    -----
    Several of one kind err together; the error of a claim is taken as 8 % of the mass (estimate).

    Examples
    --------
    >>> round(mass_band([Item(id="a", name="a", mass=1.0, volume=0.0)]), 3)
    0.132
    """
    squares = sum(
        (SCALE_BAND if item.weighed else CLAIM_BAND * item.mass_now) ** 2 * item.quantity**2 for item in items
    )
    return float(1.645 * squares**0.5)
