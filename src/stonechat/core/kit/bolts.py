"""Every bolt of a bike: which tool turns it and how tight. Torques are usual ones; the part's own figure counts."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp

from stonechat.core.kit.item import Item
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier

TOOLS = {
    "hex2": "2 mm hex", "hex2.5": "2.5 mm hex", "hex3": "3 mm hex", "hex4": "4 mm hex", "hex5": "5 mm hex",
    "hex6": "6 mm hex", "hex8": "8 mm hex", "t10": "T10", "t25": "T25", "t30": "T30", "cross": "cross-head",
    "flat": "flat screwdriver", "spoke": "spoke key", "pliers": "pliers", "coin": "coin", "core": "valve-core key",
}  # fmt: skip
# mm that a tool reaches into what is deep or narrow, and N·m that it gives by hand (estimates)
GIVES: dict[str, tuple[float, float]] = {
    "multi_tool": (30.0, 15.0), "hex_key": (60.0, 25.0), "torx_key": (60.0, 12.0), "screwdriver": (80.0, 3.0),
    "spanner": (20.0, 35.0), "torque_key": (40.0, 12.0), "crank_tool": (20.0, 40.0), "pliers": (20.0, 8.0),
    "spoke_key": (10.0, 3.0), "valve_tool": (10.0, 1.0), "axle_lever": (40.0, 20.0),
}  # fmt: skip
UNKNOWN = (30.0, 12.0)  # mm, N·m of a tool whose kind is not known (estimate)
MULTITOOL = frozenset({"hex2", "hex2.5", "hex3", "hex4", "hex5", "hex6", "hex8", "t25", "cross", "flat"})


@dataclass(frozen=True, kw_only=True)
class Bolt:
    """One kind of bolt on the bike."""

    part: str
    tool: str  # key of TOOLS
    torque: tuple[float, float]  # N·m, usual range; 0 where it is not turned by torque
    count: int = 1
    reach: float = 20.0  # mm that a tool must reach in, or be long


# what only some bikes have
_WHERE: tuple[tuple[Callable[[Bike], bool], tuple[Bolt, ...]], ...] = (
    (
        lambda bike: bike.aero_bars,
        (
            Bolt(part="aero-bar clamps", tool="hex4", reach=25.0, torque=(5.0, 7.0), count=4),
            Bolt(part="arm pads", tool="hex4", reach=30.0, torque=(4.0, 6.0), count=4),
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
            Bolt(part="shock eyes", tool="hex5", reach=25.0, torque=(8.0, 12.0), count=2),
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
        Bolt(
            part="brake levers", tool="hex5" if bike.bars == "drop" else "hex4", reach=30.0, torque=(5.0, 8.0), count=2
        ),
        Bolt(part="brake calipers", tool="hex5", reach=25.0, torque=(6.0, 8.0), count=4),
        Bolt(part="brake rotors", tool="t25", torque=(4.0, 6.2), count=12),
        Bolt(part="brake pads, keeper", tool="hex3", torque=(0.1, 0.5), count=2),
        Bolt(part="wheel axles", tool="hex6", reach=25.0, torque=(10.0, 14.0), count=2),
        Bolt(part="crank", tool="hex8", reach=25.0, torque=(30.0, 50.0)),
        Bolt(part="chainring", tool="t30" if bike.bars == "flat" else "hex5", torque=(8.0, 14.0), count=4),
        Bolt(part="pedals", tool="hex8", torque=(30.0, 40.0), count=2),
        Bolt(part="cleats", tool="hex4", reach=10.0, torque=(4.0, 6.0), count=4),
        Bolt(part="rear derailleur", tool="hex5", reach=25.0, torque=(8.0, 12.0)),
        Bolt(part="derailleur hanger", tool="hex4", torque=(3.0, 6.0), count=2),
        Bolt(part="seat clamp", tool="hex5", torque=(4.0, 7.0)),
        Bolt(part="saddle rails", tool="hex5", reach=25.0, torque=(8.0, 14.0), count=2),
        Bolt(part="spokes", tool="spoke", reach=5.0, torque=(0.0, 0.0), count=56),
        Bolt(part="valve cores", tool="core", reach=5.0, torque=(0.2, 0.4), count=2),
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


def with_own(bolts: Iterable[Bolt], own: Iterable[Bolt]) -> tuple[Bolt, ...]:
    """Return bolts as the rider knows them.

    Parameters
    ----------
    bolts : iterable of Bolt
        The usual ones.
    own : iterable of Bolt
        In place of those of the same part, or besides; with a count of 0 there is none.

    Returns
    -------
    bolts : tuple of Bolt
        In their order, further ones last. [N·m]

    Examples
    --------
    >>> from dataclasses import replace
    >>> crank, cage = (Bolt(part=p, tool="hex5", torque=(5.0, 8.0)) for p in ("crank", "cage"))
    >>> [bolt.part for bolt in with_own((crank, cage), (replace(crank, count=0), replace(cage, part="bell")))]
    ['cage', 'bell']
    """
    said = {bolt.part: bolt for bolt in own}
    found = [said.pop(bolt.part, bolt) for bolt in bolts]
    return tuple(bolt for bolt in (*found, *said.values()) if bolt.count > 0)


@dataclass(frozen=True, kw_only=True)
class BoltCover:
    """A bolt and what turns it."""

    bolt: Bolt
    items: tuple[Item, ...]  # of its size, long enough and strong enough
    short: tuple[Item, ...]  # of its size, and too short for where it sits
    weak: tuple[Item, ...]  # of its size, and too short a lever for its torque

    @property
    def said(self) -> str:
        """Why nothing turns it as it should; empty where something does."""
        if self.items:
            return ""
        if self.weak:
            return f"{self.weak[0].name} turns it, not as tight as {self.bolt.torque[0]:g} N·m"
        if self.short:
            return f"{self.short[0].name} has the size, and does not reach {self.bolt.reach:g} mm in"
        return "nothing aboard"


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
    >>> tool = Item(id="m", name="multitool", kind="multi_tool", mass=0.15, volume=0.0, tools=MULTITOOL)
    >>> [entry.bolt.part for entry in cover_bolts(bolts_of(Bike(), ()), (tool,)) if not entry.items]
    ['crank', 'pedals', 'spokes', 'valve cores']
    """
    return tuple(sorted((_cover(bolt, items) for bolt in bolts), key=lambda entry: bool(entry.items)))


def _cover(bolt: Bolt, items: tuple[Item, ...]) -> BoltCover:
    sized = [item for item in items if bolt.tool in item.tools]
    short = [item for item in sized if GIVES.get(item.kind, UNKNOWN)[0] < bolt.reach]
    weak = [item for item in sized if item not in short and GIVES.get(item.kind, UNKNOWN)[1] < bolt.torque[0]]
    good = [item for item in sized if item not in short and item not in weak]
    return BoltCover(bolt=bolt, items=tuple(good), short=tuple(short), weak=tuple(weak))


def lightest_set(covers: Iterable[BoltCover]) -> tuple[Item, ...]:
    """Return the lightest tools that turn all that can be turned.

    Parameters
    ----------
    covers : iterable of BoltCover
        Bolts with the things that turn them.

    Returns
    -------
    items : tuple of Item
        Proven lightest (weighted set cover by branch and bound). [kg]

    Examples
    --------
    >>> one, two, both = (
    ...     Item(id=k, name=k, mass=m, volume=0.0, tools=frozenset(t.split()))
    ...     for k, m, t in (("one", 0.02, "hex2"), ("two", 0.03, "hex3"), ("both", 0.04, "hex2 hex3"))
    ... )
    >>> bolts = tuple(Bolt(part=tool, tool=tool, torque=(1.0, 2.0)) for tool in ("hex2", "hex3"))
    >>> [item.id for item in lightest_set(cover_bolts(bolts, (one, two, both)))]
    ['both']
    """
    wanted = [cover.items for cover in covers if cover.items]
    tools = list({item.id: item for items in wanted for item in items}.values())
    if not tools:
        return ()
    turns = np.array([[item in items for item in tools] for items in wanted], dtype=float)
    masses = np.array([item.total_mass + 1e-6 for item in tools])
    found = milp(
        masses,
        integrality=np.ones(len(tools), dtype=int),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(turns, 1, np.inf),
    )
    return tuple(item for item, taken in zip(tools, np.asarray(found.x), strict=True) if taken > 0.5)
