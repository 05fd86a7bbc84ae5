"""Every bolt of a bike: which tool turns it and how tight. Torques are usual ones; the part's own figure counts."""

from collections.abc import Callable
from dataclasses import dataclass

from stonechat.core.kit.item import Item
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier

TOOLS = {
    "hex2": "2 mm hex", "hex2.5": "2.5 mm hex", "hex3": "3 mm hex", "hex4": "4 mm hex", "hex5": "5 mm hex",
    "hex6": "6 mm hex", "hex8": "8 mm hex", "t10": "T10", "t25": "T25", "t30": "T30", "cross": "cross-head",
    "flat": "flat screwdriver", "spoke": "spoke key", "pliers": "pliers", "coin": "coin", "core": "valve-core key",
}  # fmt: skip
MULTITOOL = frozenset({"hex2", "hex2.5", "hex3", "hex4", "hex5", "hex6", "hex8", "t25", "cross", "flat"})


@dataclass(frozen=True, kw_only=True)
class Bolt:
    """One kind of bolt on the bike."""

    part: str
    tool: str  # key of TOOLS
    torque: tuple[float, float]  # N·m, usual range; 0 where it is not turned by torque
    count: int = 1


# what only some bikes have
_WHERE: tuple[tuple[Callable[[Bike], bool], tuple[Bolt, ...]], ...] = (
    (
        lambda bike: bike.aero_bars,
        (
            Bolt(part="aero-bar clamps", tool="hex4", torque=(5.0, 7.0), count=4),
            Bolt(part="arm pads", tool="hex4", torque=(4.0, 6.0), count=4),
        ),
    ),
    (
        lambda bike: bike.electronic,
        (
            Bolt(part="derailleur limit screws", tool="hex2", torque=(0.0, 0.0), count=2),
            Bolt(part="lever battery doors", tool="cross", torque=(0.1, 0.3), count=2),
        ),
    ),
    (lambda bike: not bike.electronic, (Bolt(part="gear cable clamp", tool="hex4", torque=(4.0, 6.0)),)),
    (
        lambda bike: bike.rear_travel > 0.0,
        (
            Bolt(part="shock eyes", tool="hex5", torque=(8.0, 12.0), count=2),
            Bolt(part="suspension pivots", tool="hex6", torque=(12.0, 20.0), count=4),
        ),
    ),
    (lambda bike: bike.dropper_travel > 0.0, (Bolt(part="dropper lever", tool="hex4", torque=(3.0, 5.0)),)),
    (lambda bike: bool(bike.dynamo), (Bolt(part="dynamo light bracket", tool="hex5", torque=(5.0, 7.0)),)),
)


def bolts_of(bike: Bike, carriers: tuple[Carrier, ...]) -> tuple[Bolt, ...]:
    """Return the bolts of a bike with what is mounted on it.

    Parameters
    ----------
    bike : Bike
        For bars, suspension, shifting and dynamo.
    carriers : tuple of Carrier
        Those mounted, for their bosses and racks.

    Returns
    -------
    bolts : tuple of Bolt
        From front to rear; sizes and torques are what is usual (estimate), to be checked on the bike. [N·m]

    Examples
    --------
    >>> len(bolts_of(Bike(), ())) < len(bolts_of(Bike(rear_travel=0.1, dynamo=True, electronic=True), ()))
    True
    """
    bolts = [
        Bolt(part="stem on steerer", tool="hex4", torque=(5.0, 6.0), count=2),
        Bolt(part="stem faceplate", tool="hex4", torque=(4.0, 6.0), count=4),
        Bolt(part="headset cap", tool="hex5", torque=(1.0, 2.0)),
        Bolt(part="brake levers", tool="hex5" if bike.bars == "drop" else "hex4", torque=(5.0, 8.0), count=2),
        Bolt(part="brake calipers", tool="hex5", torque=(6.0, 8.0), count=4),
        Bolt(part="brake rotors", tool="t25", torque=(4.0, 6.2), count=12),
        Bolt(part="brake pads, keeper", tool="hex3", torque=(0.1, 0.5), count=2),
        Bolt(part="wheel axles", tool="hex6", torque=(10.0, 14.0), count=2),
        Bolt(part="crank", tool="hex8", torque=(30.0, 50.0)),
        Bolt(part="chainring", tool="t30" if bike.bars == "flat" else "hex5", torque=(8.0, 14.0), count=4),
        Bolt(part="pedals", tool="hex8", torque=(30.0, 40.0), count=2),
        Bolt(part="cleats", tool="hex4", torque=(4.0, 6.0), count=4),
        Bolt(part="rear derailleur", tool="hex5", torque=(8.0, 12.0)),
        Bolt(part="derailleur hanger", tool="hex4", torque=(3.0, 6.0), count=2),
        Bolt(part="seat clamp", tool="hex5", torque=(4.0, 7.0)),
        Bolt(part="saddle rails", tool="hex5", torque=(8.0, 14.0), count=2),
        Bolt(part="spokes", tool="spoke", torque=(0.0, 0.0), count=56),
        Bolt(part="valve cores", tool="core", torque=(0.2, 0.4), count=2),
    ]
    bolts += [bolt for wanted, more in _WHERE for bolt in more if wanted(bike)]
    return (*bolts, *_bossed(bike, carriers))


def _bossed(bike: Bike, carriers: tuple[Carrier, ...]) -> list[Bolt]:
    """Return the bolts of what hangs on the frame's bosses."""
    bolts = []
    for use in sorted({use for carrier in carriers if carrier.mounted for use in carrier.uses} & bike.bosses):
        name = next(carrier.name for carrier in carriers if carrier.mounted and use in carrier.uses)
        count = 3 if use.startswith("fork") else 2
        torque = (5.0, 8.0) if use == "rack" else (2.0, 4.0)
        bolts.append(Bolt(part=f"{name} on its bosses", tool="hex4", torque=torque, count=count))
    return bolts


@dataclass(frozen=True, kw_only=True)
class BoltCover:
    """A bolt and what turns it."""

    bolt: Bolt
    items: tuple[Item, ...]


def cover_bolts(bolts: tuple[Bolt, ...], items: tuple[Item, ...]) -> tuple[BoltCover, ...]:
    """Return each bolt with the things aboard that turn it, those without any first.

    Parameters
    ----------
    bolts : tuple of Bolt
        Of the bike.
    items : tuple of Item
        What goes along.

    Returns
    -------
    covers : tuple of BoltCover
        Every bolt once. [1]

    Examples
    --------
    >>> tool = Item(id="m", name="multitool", mass=0.15, volume=0.0, tools=MULTITOOL)
    >>> [entry.bolt.part for entry in cover_bolts(bolts_of(Bike(), ()), (tool,)) if not entry.items]
    ['spokes', 'valve cores']
    """
    covers = [BoltCover(bolt=b, items=tuple(item for item in items if b.tool in item.tools)) for b in bolts]
    return tuple(sorted(covers, key=lambda entry: bool(entry.items)))
