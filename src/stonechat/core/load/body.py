"""What is carried on the body costs: it presses, warms and sweats, hour by hour. Estimates, half to twice."""

from collections.abc import Iterable

from stonechat.core.kit.item import Item
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.places import WORN

PER_KG = 0.25  # min per kg and hour of riding that what is on the body costs (estimate, half to twice)
PER_LITRE = 0.05  # min per litre and hour of riding, for bulk and warmth (estimate, half to twice)
HARSH = 2.0  # 1, for what is hard (estimate)
LEAKING = 6.0  # 1, for what may leak onto clothes (estimate)
FOOD_LEFT = 0.5  # 1, mean share of the food on the body that is there while it is eaten (estimate)
_HARD = frozenset({"tools", "power", "navigation"})
_RIGID = 0.08  # m, a rigid side from which a thing is felt (estimate)


def harshness(item: Item) -> float:
    """Return by how much a thing is felt on the body more than by its mass and bulk.

    Parameters
    ----------
    item : Item
        The thing.

    Returns
    -------
    factor : float
        1 for what is soft. [1]

    Examples
    --------
    >>> harshness(Item(id="b", name="bank", category="power", mass=0.2, volume=0.0001))
    2.0
    """
    if item.leaks:
        return LEAKING
    return HARSH if item.length > _RIGID or (item.category in _HARD and not item.spoils) else 1.0


def body_minutes(items: Iterable[Item], carrier: Carrier, hours: float) -> float:
    """Return what things cost on the body.

    Parameters
    ----------
    items : iterable of Item
        What rides in the carrier.
    carrier : Carrier
        The carrier; those on the bike cost nothing here.
    hours : float
        Riding hours for which they are there. [h]

    Returns
    -------
    minutes : float
        Over the race. [min]

    Examples
    --------
    >>> pocket = Carrier(id="j", name="j", place="body", capacity=0.001, load_limit=1.0, mass=0.0, longest=0.2)
    >>> bank = Item(id="b", name="bank", category="power", mass=0.2, volume=0.0002)
    >>> round(body_minutes((bank,), pocket, 50.0), 6)
    6.0
    """
    if carrier.place not in WORN:
        return 0.0
    return hours * sum(
        (PER_KG * item.total_mass + PER_LITRE * item.total_volume * 1e3) * harshness(item) for item in items
    )


def food_on_body(carrier: Carrier, density: float, hours: float) -> float:
    """Return what a cubic metre of food costs on the body.

    Parameters
    ----------
    carrier : Carrier
        The carrier; those on the bike cost nothing here.
    density : float
        Of the food. [kg/m³]
    hours : float
        Riding hours. [h]

    Returns
    -------
    minutes : float
        Over the race; it is eaten, so it is there for a share of it. [min per m³]

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4)
    >>> food_on_body(bag, 600.0, 50.0)
    0.0
    """
    if carrier.place not in WORN:
        return 0.0
    return FOOD_LEFT * hours * (PER_KG * density + PER_LITRE * 1e3)
