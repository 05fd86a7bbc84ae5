"""Foods and shelves: keys that exist, figures that labels bear out, what is eaten and what is kept."""

from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.line.stops import KINDS as STOP_KINDS
from stonechat.core.supply.foods import (
    DISHES,
    FOODS,
    SHELF_NAMES,
    SHELVES,
    START_SHELF,
    TAKEN_AWAY,
    eaten_on_the_way,
    energy_of,
    is_cooked,
    shelf_of,
)

FAT, CARBOHYDRATE, WATER = 9.0, 4.0, 0.0  # kcal/g, Regulation (EU) 1169/2011, Annex XIV
SALT_LICK = 390.0  # g of sodium in a kilogram of salt


def food(kind: str, **more: object) -> Item:
    values = {"id": kind, "name": kind, "category": "food", "kind": kind, "mass": 0.1, "volume": 1e-4}
    return Item(**{**values, **more})  # type: ignore[arg-type]


def test_no_food_has_more_energy_than_fat_or_less_than_its_carbohydrate_allows() -> None:
    for entry in FOODS.values():
        assert WATER < entry.energy <= FAT
        grams = entry.carbs * entry.energy / CARBOHYDRATE  # of carbohydrate in a gram of food
        assert grams <= 1.0, entry.name
        # what is left of a gram has to hold the rest of the energy, at most as fat
        assert (1.0 - entry.carbs) * entry.energy <= FAT * (1.0 - grams) + 1e-9, entry.name
        assert 0.0 <= entry.sodium < SALT_LICK / 10.0 and entry.tires > 0.0


def test_food_is_no_denser_than_its_ingredients() -> None:
    for entry in FOODS.values():
        assert 0.1 < entry.bulk / entry.energy < 1.3, entry.name  # kg/l


def test_shelves_hold_foods_that_are_known_and_are_called_something() -> None:
    assert SHELVES.keys() == SHELF_NAMES.keys()
    assert all(key in FOODS for sold in SHELVES.values() for key in sold)
    assert set(SHELVES) - {START_SHELF, TAKEN_AWAY} <= set(STOP_KINDS)
    assert all(any(FOODS[key].rides for key in sold) for sold in SHELVES.values())
    assert all(0.0 < amount < 3_000.0 for amount in DISHES.values())


def test_every_stop_that_sells_food_has_a_shelf() -> None:
    for key, kind in STOP_KINDS.items():
        if kind.offers & {"shop", "meal"}:
            assert SHELVES[shelf_of(key, kind.offers)], key
    assert shelf_of("bike_shop", frozenset({"shop"})) == "shop"


def test_foods_of_the_kit_are_those_that_it_calls_food() -> None:
    own = {key for key, kind in KINDS.items() if kind.category == "food"}
    assert own - FOODS.keys() <= {"electrolytes", "coffee", "caffeine", "emergency_food"}


def test_what_gives_energy_is_eaten_and_what_is_for_an_emergency_is_kept() -> None:
    assert eaten_on_the_way(food("bars")) and not eaten_on_the_way(food("emergency_food"))
    assert not eaten_on_the_way(food("electrolytes")) and not eaten_on_the_way(food("coffee"))
    assert not eaten_on_the_way(food("bars", category="tools"))
    assert energy_of(food("emergency_food")) > 0.0
    assert is_cooked(Item(id="m", name="m", category="food", kind="food_pouch", mass=0.1, volume=1e-4))


@given(st.integers(1, 40), st.floats(0.01, 0.5))
def test_energy_goes_by_mass_and_by_what_the_label_says(count: int, mass: float) -> None:
    by_kind = energy_of(food("nuts", quantity=count, mass=mass))
    assert abs(by_kind - 6_000.0 * count * mass) < 1e-6
    assert energy_of(food("nuts", quantity=count, facts=(("kcal", 250.0),))) == 250.0 * count


def test_what_is_half_eaten_gives_half() -> None:
    whole, half = food("nuts", content=0.1), food("nuts", content=0.1, left=0.5)
    assert energy_of(half) == 0.5 * energy_of(whole)
