"""Things of the kit."""

from collections.abc import Iterable
from dataclasses import dataclass, fields
from enum import StrEnum

HOME = "home"  # place of what a variant leaves at home
NEEDS = {"must": "must", "want": "want", "maybe": "maybe"}
CATEGORIES = {  # name, litres per kilogram where no volume is given (estimates)
    "sleep": ("sleep", 6.0),
    "clothes": ("clothes", 4.5),
    "tools": ("tools and repair", 1.0),
    "power": ("light and power", 1.2),
    "navigation": ("navigation", 1.3),
    "hygiene": ("hygiene and health", 1.8),
    "food": ("food", 2.0),
    "papers": ("papers", 1.5),
    "other": ("other", 2.0),
}
# usual for a category where the kind of a thing is not known: access, reaches a day (estimates)
USUAL = {
    "sleep": ("camp", 1.0),
    "clothes": ("off", 1.0),
    "tools": ("off", 0.1),
    "power": ("off", 1.0),
    "navigation": ("foot", 3.0),
    "hygiene": ("camp", 1.0),
    "food": ("riding", 6.0),
    "papers": ("foot", 1.0),
    "other": ("off", 0.5),
}


class Carried(StrEnum):
    """How a thing goes along."""

    PACKED = "packed"  # in a bag
    WORN = "worn"  # on the body
    FIXED = "fixed"  # on bike or helmet, in a spot of its own


CONDITIONS = {"rain": "wet day", "cold": "cold day", "night": "night", "puncture": "puncture"}
ZIPPED = 0.1e-3  # m³ of what may leak that a zip bag keeps in (estimate)


@dataclass(frozen=True, kw_only=True)
class Reaches:
    """How often a thing is reached for."""

    per_day: float = 0.0  # 1 per day, whatever the day is like
    rain: float = 0.0  # 1 more on a wet day
    cold: float = 0.0  # 1 more on a cold day
    night: float = 0.0  # 1 more for each night that is ridden into
    puncture: float = 0.0  # 1 for each puncture

    @staticmethod
    def sum(parts: "Iterable[Reaches]") -> "Reaches":
        """Add up, as of a pouch with what is in it."""
        listed = list(parts)
        return Reaches(**{part.name: sum(getattr(one, part.name) for one in listed) for part in fields(Reaches)})


@dataclass(frozen=True, kw_only=True)
class Pouch:
    """What a pouch or dry bag is to what it holds."""

    makes_dry: bool = False  # what it holds stays dry
    room: float = 0.0  # m³ that it holds; 0: not known, as much as its carrier does


@dataclass(frozen=True, kw_only=True)
class Record:
    """What became of a thing in past races."""

    carried: int = 0  # races it was carried in
    used: int = 0  # of them it was used in
    lost: int = 0
    broken: int = 0


@dataclass(frozen=True, kw_only=True)
class Item:
    """One thing, or several of a kind that stay together."""

    id: str
    name: str
    category: str = "other"  # key of CATEGORIES
    mass: float  # kg each, full
    claimed: float = 0.0  # kg each as its maker says; 0: not known
    content: float = 0.0  # kg of each that is used up
    left: float = 1.0  # 1, share of the content that is left
    volume: float  # m³ each, packed
    length: float = 0.0  # m, longest rigid side; 0: none
    width: float = 0.0  # m, second rigid side: what must pass a bag's mouth; 0: none
    quantity: int = 1
    keep_dry: bool = False
    fragile: bool = False
    leaks: bool = False  # oil, fuel, cream: not beside what it would spoil
    spoils: bool = False  # food, insulation: not beside what leaks
    access: str = "off"  # key of ACCESS_RANK
    reaches: Reaches = Reaches()
    need: str = "want"  # key of NEEDS
    worn: bool = False  # worn on the body: wants no place and takes no room
    fixed: str = ""  # spot on bike or helmet, key of SPOTS; wants no place either; empty: none
    stowed: bool = False  # fixed only while it is in use, as a helmet lamp by night: it has its bag as well
    kind: str = ""  # what it is, key of KINDS; empty: not known
    weighed: bool = False  # mass is measured, not claimed
    roles: frozenset[str] = frozenset()  # keys of JOBS that it does
    tools: frozenset[str] = frozenset()  # sizes it turns, keys of TOOLS
    shared: bool = False  # carried for a partner too: both rely on it
    group: str = ""  # set that stays together: wash kit, puncture first answer
    container: str = ""  # id of the thing that holds it
    pouch: Pouch | None = None  # where it holds other things
    record: Record = Record()
    facts: tuple[tuple[str, float], ...] = ()  # keys of FACTS, in their order, with the figure in its unit
    cells: tuple[tuple[str, str], ...] = ()  # of the rider's own table: columns that say nothing here
    note: str = ""

    @property
    def packed(self) -> bool:
        """Whether it wants a place in a bag."""
        return not self.worn and (not self.fixed or self.stowed)

    @property
    def in_spot(self) -> bool:
        """Whether it sits in its spot of bike or helmet all the time."""
        return bool(self.fixed) and not self.packed

    def fact(self, key: str) -> float | None:
        """Return one of its further figures in the unit of FACTS, None where nobody gave it."""
        return dict(self.facts).get(key)

    @property
    def holds(self) -> bool:
        """Whether it is a pouch or dry bag that holds other things."""
        return self.pouch is not None

    @property
    def makes_dry(self) -> bool:
        """Whether what it holds stays dry."""
        return self.pouch is not None and self.pouch.makes_dry

    @property
    def room(self) -> float:
        """Room for what it holds; 0: not known, as much as its carrier has. [m³]"""
        return 0.0 if self.pouch is None else self.pouch.room

    @property
    def is_spoilable(self) -> bool:
        """Whether a leak beside it would spoil it; a thing that leaks itself is kept in its own wrapping."""
        return self.spoils and not self.leaks

    @property
    def floods(self) -> bool:
        """Whether a leak of it is more than a zip bag keeps in."""
        return self.leaks and self.total_volume > ZIPPED

    @property
    def mass_now(self) -> float:
        """Mass of one with what is left in it. [kg]"""
        return self.mass - self.content * (1.0 - self.left)

    @property
    def total_mass(self) -> float:
        """Mass of all of them. [kg]"""
        return self.mass_now * self.quantity

    @property
    def total_volume(self) -> float:
        """Packed volume of all of them, 0 where it wants no place. [m³]"""
        return 0.0 if not self.packed else self.volume * self.quantity
