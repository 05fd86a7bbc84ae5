"""Kinds of food, and what places sell: figures as labels commonly give them, a list that riders change as they know."""

from collections.abc import Mapping
from dataclasses import dataclass

from stonechat.core.kit.item import Item

START_SHELF = "start"  # what a rider buys before the race, at leisure
TAKEN_AWAY = "taken_away"  # what is taken along from where one eats
LATER = frozenset({"emergency_food"})  # kinds of the kit that are not eaten as planned


@dataclass(frozen=True, kw_only=True)
class Food:
    """One kind of food as it is sold."""

    key: str
    name: str
    energy: float  # kcal/g
    bulk: float  # kcal/ml, in the wrapping it rides in
    carbs: float  # 1, of its energy from carbohydrate
    sodium: float  # g/kg
    tires: float  # h of riding on it between two shops until one wants something else
    melts: float | None = None  # °C of the air from which it is a mess
    freezes: float | None = None  # °C of the air below which it cannot be bitten
    wants: str = ""  # what it is not eaten without: key of WANTS

    @property
    def rides(self) -> bool:
        """Whether it is eaten riding, with nothing else at hand."""
        return not self.wants


WANTS = {"": "nothing", "spoon": "a spoon", "stove": "a stove", "water": "a bottle of its own"}


def _food(
    key: str,
    name: str,
    figures: tuple[float, float, float, float, float],
    *,
    melts: float | None = None,
    freezes: float | None = None,
    wants: str = "",
) -> Food:
    energy, bulk, carbs, sodium, tires = figures
    return Food(
        key=key,
        name=name,
        energy=energy,
        bulk=bulk,
        carbs=carbs,
        sodium=sodium,
        tires=tires,
        melts=melts,
        freezes=freezes,
        wants=wants,
    )


# kcal/g, kcal/ml, share from carbohydrate, g of sodium in a kilogram, hours until one is tired of it: estimates from
# what labels commonly say. Keys are those of the kit where it knows such a thing.
FOODS: Mapping[str, Food] = {
    food.key: food
    for food in (
        _food("bars", "energy bars", (4.0, 3.6, 0.62, 2.0, 4.0), freezes=-8.0),
        _food("gels", "gels", (2.6, 2.6, 0.98, 2.0, 2.0), freezes=-10.0),
        _food("sweets", "gummies and sweets", (3.4, 2.8, 0.97, 0.5, 2.0), freezes=-12.0),
        _food("nuts", "salted nuts", (6.0, 4.2, 0.12, 3.0, 2.0)),
        _food("dried_fruit", "dried fruit", (3.0, 2.1, 0.93, 0.2, 3.0)),
        _food("chocolate", "chocolate", (5.4, 6.0, 0.42, 0.5, 2.5), melts=27.0, freezes=-15.0),
        _food("biscuits", "biscuits", (4.8, 2.1, 0.58, 3.5, 4.0)),
        _food("crisps", "crisps", (5.3, 0.9, 0.40, 6.0, 2.0)),
        _food("pastry", "pastry and cake", (4.0, 1.3, 0.50, 3.0, 4.0)),
        _food("bread", "bread and rolls", (2.5, 0.8, 0.80, 5.0, 6.0), freezes=-12.0),
        _food("cheese_sausage", "cheese and sausage", (4.0, 3.5, 0.02, 12.0, 2.0), melts=30.0),
        _food("sandwich", "filled sandwich", (2.6, 1.3, 0.48, 6.0, 6.0), freezes=-6.0),
        _food("pizza", "cold pizza", (2.7, 1.5, 0.50, 6.0, 5.0), freezes=-6.0),
        _food("rice_cakes", "rice cakes", (2.0, 1.6, 0.85, 2.0, 5.0), freezes=-4.0),
        _food("fruit", "bananas", (0.9, 0.55, 0.95, 0.0, 1.5), freezes=-3.0),
        _food("cola", "cola", (0.42, 0.42, 1.0, 0.0, 4.0), freezes=-2.0, wants="water"),
        _food("food", "mixed food", (4.0, 1.9, 0.60, 4.0, 24.0)),
        _food("nut_butter", "nut butter", (5.9, 5.5, 0.13, 4.0, 2.0), wants="spoon"),
        _food("food_pouch", "dried meal", (4.3, 1.3, 0.55, 12.0, 12.0), wants="stove"),
        _food("drink_mix", "drink powder", (3.8, 3.0, 0.98, 3.0, 8.0), wants="water"),
    )
}

_SMALL = ("chocolate", "biscuits", "crisps", "nuts", "sweets", "bread", "cheese_sausage", "fruit", "cola")
_LARGE = (*_SMALL, "bars", "dried_fruit", "pastry", "sandwich", "nut_butter", "food_pouch")
# what a place usually has (estimates): by the kind of stop, or the start, or what is taken along from a meal
SHELVES: Mapping[str, tuple[str, ...]] = {
    START_SHELF: (*_LARGE, "gels", "rice_cakes", "drink_mix"),
    "supermarket": _LARGE,
    "town": (*_LARGE, "pizza"),
    "convenience": (*_SMALL, "sandwich", "pastry"),
    "shop": _SMALL,
    "fuel": ("chocolate", "biscuits", "crisps", "nuts", "sweets", "bars", "sandwich", "cola"),
    "bakery": ("pastry", "bread", "sandwich"),
    TAKEN_AWAY: ("sandwich", "pastry", "cola"),
}
SHELF_NAMES = {
    START_SHELF: "before the start",
    "supermarket": "supermarket",
    "town": "town",
    "convenience": "convenience shop",
    "shop": "village shop",
    "fuel": "petrol station",
    "bakery": "bakery",
    TAKEN_AWAY: "café, to take along",
}
# kcal of what is eaten on the spot (estimates)
DISHES: Mapping[str, float] = {
    "hot meal": 900.0,
    "two hot meals": 1_700.0,
    "sandwich and a coffee": 550.0,
    "cake and a drink": 450.0,
    "soup and bread": 400.0,
}


def shelf_of(kind: str, offers: frozenset[str]) -> str:
    """Return which shelf a stop has.

    Parameters
    ----------
    kind : str
        Key of the kinds of stop.
    offers : frozenset of str
        What it gives.

    Returns
    -------
    shelf : str
        Key of SHELVES; a village shop where it sells food and is of no kind that is known for it.

    Examples
    --------
    >>> shelf_of("fuel", frozenset({"shop"})), shelf_of("hut", frozenset({"meal"}))
    ('fuel', 'taken_away')
    >>> shelf_of("other", frozenset({"shop"}))
    'shop'
    """
    if "shop" not in offers:
        return TAKEN_AWAY
    return kind if kind in SHELVES else "shop"


def eaten_on_the_way(item: Item, foods: Mapping[str, Food] = FOODS) -> bool:
    """Tell whether a thing of the kit is food that is eaten as planned.

    Parameters
    ----------
    item : Item
        The thing.
    foods : mapping of str to Food
        Kinds of food by key.

    Returns
    -------
    is_eaten : bool
        Of a kind of food that is known to give energy; what is for an emergency is kept.

    Examples
    --------
    >>> eaten_on_the_way(Item(id="b", name="bars", category="food", kind="bars", mass=0.06, volume=6e-5))
    True
    """
    return item.category == "food" and item.kind not in LATER and energy_of(item, foods) > 0.0


def is_cooked(item: Item, foods: Mapping[str, Food] = FOODS) -> bool:
    """Tell whether a thing of the kit is eaten cooked, at rest.

    Parameters
    ----------
    item : Item
        The thing.
    foods : mapping of str to Food
        Kinds of food by key.

    Returns
    -------
    is_cooked : bool
        By its kind.

    Examples
    --------
    >>> is_cooked(Item(id="m", name="meal", category="food", kind="food_pouch", mass=0.15, volume=5e-4))
    True
    """
    return item.kind in foods and foods[item.kind].wants == "stove"


def energy_of(item: Item, foods: Mapping[str, Food] = FOODS) -> float:
    """Return the energy of a thing of the kit.

    Parameters
    ----------
    item : Item
        The thing.
    foods : mapping of str to Food
        Kinds of food by key.

    Returns
    -------
    energy : float
        Of all of them: as the rider gave it, else by its kind; none where that is no food that is known. [kcal]

    Examples
    --------
    >>> round(energy_of(Item(id="b", name="bars", kind="bars", mass=0.06, volume=6e-5, quantity=5)))
    1200
    """
    told = item.fact("kcal")
    if told is not None:
        return told * item.quantity
    kind = "food" if item.kind in LATER else item.kind
    return foods[kind].energy * 1000.0 * item.total_mass if kind in foods else 0.0
