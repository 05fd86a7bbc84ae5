"""Things of the kit."""

from dataclasses import dataclass

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
# usual for a category where nothing is said: access, reaches a day, must stay dry, spoiled by leaks (estimates)
USUAL = {
    "sleep": ("camp", 1.0, True, True),
    "clothes": ("off", 1.0, False, True),
    "tools": ("off", 0.1, False, False),
    "power": ("off", 1.0, True, False),
    "navigation": ("foot", 3.0, False, False),
    "hygiene": ("camp", 1.0, False, False),
    "food": ("riding", 6.0, True, True),
    "papers": ("foot", 1.0, True, False),
    "other": ("off", 0.5, False, False),
}
CONDITIONS = {"rain": "wet day", "cold": "cold day", "night": "night", "puncture": "puncture"}


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
    reaches: float = 0.0  # 1 per day, whatever the day is like
    reaches_rain: float = 0.0  # 1 more on a wet day
    reaches_cold: float = 0.0  # 1 more on a cold day
    reaches_night: float = 0.0  # 1 more for each night that is ridden into
    reaches_puncture: float = 0.0  # 1 for each puncture
    need: str = "want"  # key of NEEDS
    worn: bool = False  # worn on the body, takes no room
    weighed: bool = False  # mass is measured, not claimed
    roles: frozenset[str] = frozenset()  # keys of JOBS that it does
    tools: frozenset[str] = frozenset()  # sizes it turns, keys of TOOLS
    group: str = ""  # set that stays together: wash kit, puncture first answer
    container: str = ""  # id of the thing that holds it
    holds: bool = False  # pouch or dry bag that holds other things
    makes_dry: bool = False  # what it holds stays dry
    room: float = 0.0  # m³ that it holds where it holds things; 0: not known, as much as its carrier does
    carried_before: int = 0  # races it was carried in
    used_before: int = 0  # of them it was used in
    lost_before: int = 0
    broken_before: int = 0
    note: str = ""

    @property
    def is_spoilable(self) -> bool:
        """Whether a leak beside it would spoil it; a thing that leaks itself is kept in its own wrapping."""
        return self.spoils and not self.leaks

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
        """Packed volume of all of them, 0 where worn. [m³]"""
        return 0.0 if self.worn else self.volume * self.quantity
