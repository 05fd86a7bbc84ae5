"""How a thing goes along: in words, and in the wind."""

from collections.abc import Iterable

from stonechat.core.kit.item import Item
from stonechat.core.rig.spots import SPOTS, spot_drag


def goes_along(item: Item) -> str:
    """Return how a thing goes along.

    Parameters
    ----------
    item : Item
        The thing.

    Returns
    -------
    words : str
        Worn, packed, or where it is fixed.

    Examples
    --------
    >>> goes_along(Item(id="l", name="lamp", mass=0.1, volume=0.0, fixed="helmet", stowed=True))
    'on the helmet, else packed'
    """
    if item.worn:
        return "worn"
    if not item.fixed:
        return "packed"
    name = SPOTS[item.fixed].name
    return f"{name}, else packed" if item.stowed else name


def fixed_drag(items: Iterable[Item]) -> float:
    """Return the drag area of what is fixed on bike and helmet all the time.

    Parameters
    ----------
    items : iterable of Item
        What is aboard; packed and worn things add nothing.

    Returns
    -------
    drag_area : float
        Sum over the things. [m²]

    Examples
    --------
    >>> fixed_drag([Item(id="l", name="lamp", mass=0.1, volume=1e-4, worn=True)])
    0.0
    """
    return sum((item.quantity * spot_drag(item.fixed, item.volume) for item in items if item.in_spot), 0.0)
