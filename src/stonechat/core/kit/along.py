"""How a thing goes along, in words."""

from stonechat.core.kit.item import Item
from stonechat.core.rig.spots import SPOTS


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
