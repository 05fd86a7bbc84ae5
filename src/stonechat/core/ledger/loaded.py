"""The bike as it is loaded on each leg."""

from dataclasses import dataclass

from stonechat.core.kit.item import Item
from stonechat.core.load.balance import Balance
from stonechat.core.rig.carrier import Carrier


@dataclass(frozen=True, kw_only=True)
class CarrierState:
    """What one carrier holds on one leg."""

    carrier: Carrier
    items: tuple[Item, ...]
    volume: float  # m³ of things and food
    mass: float  # kg of things, food and water; what is worn is the rider's
    water: float  # l
    food: float  # m³
    worn: frozenset[str] = frozenset()  # ids of things of it that are worn all along the leg: no room, rider's mass

    @property
    def fill(self) -> float:
        """Share of the capacity that is taken. [1]"""
        used = self.volume + self.water / 1000.0
        return used / self.carrier.capacity if self.carrier.capacity > 0.0 else 0.0

    @property
    def items_mass(self) -> float:
        """Mass of the things in it. [kg]"""
        return sum(item.total_mass for item in self.items if not item.worn and item.id not in self.worn)


@dataclass(frozen=True, kw_only=True)
class LegLoad:
    """The bike as it leaves for a leg."""

    carriers: tuple[CarrierState, ...]
    balance: Balance
    steering: float  # kg·m² that the load adds
    sway: float  # kg·m
    mass: float  # kg, rider, bike and load
    drag_area: float  # m²
    bag_drag: float  # m² of it, of bags and of what is fixed in spots
    food_left_over: float  # m³ of food for which there is no room
