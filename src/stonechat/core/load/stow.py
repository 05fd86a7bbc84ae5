"""Where food goes: as the rider or a packing said, then at hand, then where there is room and least wind.

One bag is kept from filling up if it can be.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from stonechat.core.load.eating import is_at_hand
from stonechat.core.rig.carrier import ACCESS_RANK, Carrier
from stonechat.core.rig.places import WORN

FREE_LEAST = 0.4  # l that one bag keeps free for what is bought, found or wet (estimate)


@dataclass(frozen=True, kw_only=True)
class Taken:
    """What things take up in each carrier already."""

    volume: Mapping[str, float] = field(default_factory=dict)  # m³
    mass: Mapping[str, float] = field(default_factory=dict)  # kg
    leaking: frozenset[str] = frozenset()  # carriers that hold what would spoil food even in a zip bag
    oily: frozenset[str] = frozenset()  # carriers that hold anything that may leak: food goes there last
    wanted: Mapping[str, float] = field(default_factory=dict)  # m³ of food that is to go into each first


def keeps_room(carrier: Carrier) -> bool:
    """Whether a carrier can be the one that keeps room for what is bought.

    Parameters
    ----------
    carrier : Carrier
        The carrier.

    Returns
    -------
    is_able : bool
        It takes things, and is larger than that.

    Examples
    --------
    >>> keeps_room(Carrier(id="t", name="t", place="stem", capacity=0.0003, load_limit=1, mass=0.1, longest=0.2))
    False
    """
    return "items" in carrier.takes and carrier.capacity * 1e3 >= FREE_LEAST


def stow_food(carriers: tuple[Carrier, ...], taken: Taken, *, volume: float, mass: float) -> dict[str, float]:
    """Return how much food goes into each carrier.

    Parameters
    ----------
    carriers : tuple of Carrier
        Those mounted.
    taken : Taken
        What things take up.
    volume : float
        Of the food. [m³]
    mass : float
        Of the food. [kg]

    Returns
    -------
    stowed : dict of str to float
        By carrier, zeros too; what finds no room is missing in the sum. [m³]

    Notes
    -----
    Where that would fill every bag, and another order would keep `FREE_LEAST` free in one, the cheapest such is taken.

    Examples
    --------
    >>> bag = Carrier(id="f", name="f", place="frame", capacity=0.003, load_limit=3, mass=0.2, longest=0.4,
    ...               takes=frozenset({"items", "food"}))
    >>> stow_food((bag,), Taken(volume={"f": 0.002}), volume=0.0005, mass=0.3)
    {'f': 0.0005}
    """
    density = mass / volume if volume > 0.0 else 0.0
    plain = _filled(carriers, taken, volume, density, spared="")
    left = volume - sum(plain.values())
    roomiest = max((_free(carrier, taken, plain) for carrier in carriers), default=0.0)
    if left > 1e-12 or taken.wanted or roomiest >= FREE_LEAST / 1e3:
        return plain
    able = [carrier for carrier in carriers if keeps_room(carrier) and plain[carrier.id] > 0.0]
    others = [(carrier, _filled(carriers, taken, volume, density, spared=carrier.id)) for carrier in able]
    whole = [
        other
        for carrier, other in others
        if volume - sum(other.values()) <= 1e-12 and _free(carrier, taken, other) >= FREE_LEAST / 1e3 - 1e-12
    ]
    return min(whole, key=lambda other: _wind(carriers, other), default=plain)


def _wind(carriers: tuple[Carrier, ...], stowed: Mapping[str, float]) -> float:
    """Drag area that food adds. [m²]"""
    return sum(carrier.drag_fill * stowed[carrier.id] for carrier in carriers)


def _free(carrier: Carrier, taken: Taken, stowed: Mapping[str, float]) -> float:
    """Room left in a carrier that may keep some. [m³]"""
    if not keeps_room(carrier):
        return 0.0
    return carrier.capacity - taken.volume.get(carrier.id, 0.0) - stowed[carrier.id]


def _filled(
    carriers: tuple[Carrier, ...], taken: Taken, volume: float, density: float, *, spared: str
) -> dict[str, float]:
    """Fill as wanted, then away from oil, at hand, off the body, by least wind; one spared keeps `FREE_LEAST`. [m³]"""
    stowed = {carrier.id: 0.0 for carrier in carriers}
    order = sorted(
        (c for c in carriers if "food" in c.takes and c.id not in taken.leaking),
        key=lambda c: (c.id in taken.oily, not is_at_hand(c), c.place in WORN, c.drag_fill, ACCESS_RANK[c.access]),
    )
    rooms = {carrier.id: _room_for_food(carrier, taken, density, kept=carrier.id == spared) for carrier in order}
    for most in (taken.wanted, rooms):
        for carrier in order:
            room = max(0.0, min(rooms[carrier.id], most.get(carrier.id, 0.0)) - stowed[carrier.id])
            put = min(volume, room)
            stowed[carrier.id] += put
            volume -= put
    return stowed


def _room_for_food(carrier: Carrier, taken: Taken, density: float, *, kept: bool) -> float:
    """Return how much food a carrier takes beside the things in it. [m³]"""
    room = carrier.capacity - taken.volume.get(carrier.id, 0.0)
    room = max(0.0, room - (FREE_LEAST / 1e3 if kept else 0.0))
    if density > 0.0:
        room = min(room, max(0.0, carrier.load_limit - taken.mass.get(carrier.id, 0.0)) / density)
    return room
