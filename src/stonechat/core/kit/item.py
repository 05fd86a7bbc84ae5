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


@dataclass(frozen=True, kw_only=True)
class Item:
    """One thing, or several of a kind that stay together."""

    id: str
    name: str
    category: str = "other"  # key of CATEGORIES
    mass: float  # kg each
    volume: float  # m³ each, packed
    length: float = 0.0  # m, longest rigid side; 0: none
    quantity: int = 1
    keep_dry: bool = False
    leaks: bool = False  # oil, fuel, cream: not beside what it would spoil
    spoils: bool = False  # food, insulation: not beside what leaks
    access: str = "off"  # key of ACCESS_RANK
    reaches: float = 0.0  # 1 per day
    need: str = "want"  # key of NEEDS
    worn: bool = False  # worn on the body, takes no room
    weighed: bool = False  # mass is measured, not claimed
    note: str = ""

    @property
    def is_spoilable(self) -> bool:
        """Whether a leak beside it would spoil it; a thing that leaks itself is kept in its own wrapping."""
        return self.spoils and not self.leaks

    @property
    def total_mass(self) -> float:
        """Mass of all of them. [kg]"""
        return self.mass * self.quantity

    @property
    def total_volume(self) -> float:
        """Packed volume of all of them, 0 where worn. [m³]"""
        return 0.0 if self.worn else self.volume * self.quantity
