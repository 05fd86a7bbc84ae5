"""Baskets against a search over whole tenths, and against what a rider would say of them."""

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.supply.basket import CARBS_LEAST, ROOM_WORTH, Basket, Way, basket_for, hand_basket
from stonechat.core.supply.foods import FOODS, SHELVES

INTAKE = 260.0
MILD = {"hottest": 20.0, "coldest": 8.0}


def way(hours: float, room: float = float("inf"), **weather: float) -> Way:
    return Way(hours=hours, room=room, **{**MILD, **weather})


def bought(shelf: str, hours: float, **more: float) -> Basket:
    basket = basket_for(FOODS, SHELVES[shelf], way(hours, **more), intake=INTAKE)
    assert basket is not None
    return basket


def burden(shares: dict[str, float]) -> float:
    """What a kcal of a basket weighs and fills. [g]"""
    return sum(share * (1.0 / FOODS[key].energy + ROOM_WORTH / FOODS[key].bulk) for key, share in shares.items())


RIDEABLE = sorted(key for key, food in FOODS.items() if food.rides)


@given(st.lists(st.sampled_from(RIDEABLE), min_size=1, max_size=4, unique=True), st.integers(1, 20))
@settings(max_examples=120, deadline=None)
def test_no_mixture_of_tenths_is_lighter(shelf: list[str], hours: int) -> None:
    basket = basket_for(FOODS, shelf, way(float(hours)), intake=INTAKE)
    assert basket is not None
    shares = dict(basket.shares)
    assert sum(shares.values()) == pytest.approx(1.0, abs=0.01)
    caps = {key: min(1.0, FOODS[key].tires / hours) for key in shelf}
    if sum(caps.values()) < 1.0:
        assert basket.tired
        return
    best = float("inf")
    for tenths in product(range(11), repeat=len(shelf)):
        other = {key: tenth / 10.0 for key, tenth in zip(shelf, tenths, strict=True)}
        carbs = sum(share * FOODS[key].carbs for key, share in other.items())
        if sum(tenths) == 10 and carbs >= CARBS_LEAST and all(other[key] <= caps[key] for key in shelf):
            best = min(best, burden(other))
    # what is less than a morsel is left out, which moves the sum by some hundredths
    assert burden(shares) <= best * 1.05


def test_a_hot_day_has_no_chocolate_and_a_frosty_one_no_bananas() -> None:
    for hours in (4.0, 12.0):
        assert "chocolate" in dict(bought("shop", hours).shares)
        assert "chocolate" not in dict(bought("shop", hours, hottest=32.0).shares)
        assert not {"fruit", "sandwich"} & dict(bought("town", hours, coldest=-10.0).shares).keys()


def test_nobody_rides_a_day_on_nuts() -> None:
    for shelf in SHELVES:
        for hours in (6.0, 14.0, 24.0):
            basket = bought(shelf, hours)
            top = max(share for _, share in basket.shares)
            if not basket.tired:
                assert max(share * hours / FOODS[key].tires for key, share in basket.shares) <= 1.15
                assert top < 1.0 or hours <= 6.0
            assert basket.carbs >= CARBS_LEAST - 0.02


def test_little_room_makes_for_denser_food() -> None:
    roomy, tight = bought("shop", 14.0), bought("shop", 14.0, room=0.115)
    assert tight.bulk > roomy.bulk
    assert INTAKE / tight.bulk <= 0.115 * 1.05 < INTAKE / roomy.bulk  # l for an hour of riding
    # where not even the smallest fits, it is the smallest
    smallest = bought("shop", 14.0, room=0.02)
    assert smallest.bulk >= tight.bulk - 1.0


def test_where_everything_melts_it_is_bought_all_the_same() -> None:
    basket = basket_for(FOODS, ("chocolate",), way(3.0, hottest=35.0), intake=INTAKE)
    assert basket is not None and dict(basket.shares) == {"chocolate": 1.0}


def test_what_needs_a_stove_or_a_bottle_is_not_ridden_on() -> None:
    assert basket_for(FOODS, ("food_pouch", "drink_mix", "nut_butter", "cola"), way(3.0), intake=INTAKE) is None
    assert basket_for(FOODS, (), way(3.0), intake=INTAKE) is None
    assert basket_for(FOODS, ("unheard_of",), way(3.0), intake=INTAKE) is None


@given(st.floats(50.0, 3_000.0), st.floats(50.0, 3_000.0))
def test_what_is_bought_by_hand_is_all_there(nuts: float, energy: float) -> None:
    best = bought("shop", 8.0)
    basket = hand_basket(FOODS, {"nuts": nuts}, best, energy)
    total = max(nuts, energy)
    # however little of it there is, beside what the best of it adds
    assert dict(basket.shares)["nuts"] * total >= nuts - 0.002 * total
    assert sum(entry for _, entry in basket.shares) == pytest.approx(1.0, abs=0.02)


def test_a_basket_of_nothing_is_refused() -> None:
    with pytest.raises(ValueError, match="holds something"):
        hand_basket(FOODS, {"unheard_of": 100.0}, None, 0.0)
