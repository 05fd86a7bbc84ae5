"""What is slept in: labels before weights, mats on one another, nothing twice, and what a rider knows of jackets."""

from dataclasses import replace

import pytest

from stonechat.core.kit.item import Item
from stonechat.core.night.bedding import bedding_of, filled, rating_of
from stonechat.core.night.sleep import CLO, COMFORT, LIMIT, US_R, SleepSystem, bag_insulation, least_temperature

QUILT = Item(id="q", name="quilt", category="sleep", kind="quilt", mass=0.55, volume=0.004)
MAT = Item(id="m", name="mat", category="sleep", kind="mat_inflatable", mass=0.4, volume=0.001)
BIVVY = Item(id="b", name="bivvy", category="sleep", kind="bivvy", mass=0.3, volume=0.001)


def test_a_label_stands_above_a_weight_and_a_heavier_quilt_is_warmer() -> None:
    assert rating_of(replace(QUILT, facts=(("comfort", -3.0),))) == -3.0
    ratings = [rating_of(replace(QUILT, mass=mass)) for mass in (0.3, 0.5, 0.7, 1.0)]
    assert ratings == sorted(ratings, reverse=True)  # type: ignore[type-var]
    assert rating_of(MAT) is None
    assert bedding_of((QUILT, MAT)).unsaid == ("quilt", "mat")
    told = replace(QUILT, facts=(("comfort", 3.0),)), replace(MAT, facts=(("r_value", 4.2),))
    assert bedding_of(told).unsaid == ()


def test_mats_lie_on_one_another_and_of_two_bags_the_warmer_is_slept_in() -> None:
    two = replace(MAT, facts=(("r_value", 2.0),)), replace(MAT, id="m2", kind="mat_foam", facts=(("r_value", 1.5),))
    assert bedding_of(two).system.mat == pytest.approx(3.5 * US_R)
    warm = replace(QUILT, id="w", name="warm", facts=(("comfort", -5.0),))
    both = bedding_of((QUILT, warm))
    assert both.system.bag == pytest.approx(bag_insulation(-5.0, "comfort")) and both.things[0] == "warm"
    assert "quilt" not in both.things


def test_a_bag_without_shelter_lies_in_the_wind() -> None:
    assert not bedding_of((QUILT, MAT)).system.is_sheltered
    assert bedding_of((QUILT, MAT, BIVVY)).system.is_sheltered
    assert not bedding_of(()).has_bag and bedding_of(()).things == ()


def test_a_down_jacket_of_80_g_is_worth_two_kelvin_in_a_bag() -> None:
    # over the label's half a clo, in a bag of comfort 5: table of the model
    bag, dry = bag_insulation(5.0, "comfort"), 0.5 * CLO
    jacket = SleepSystem(bag=bag, mat=4.8 * US_R, clothes=(filled(0.08, "upper"), dry))
    assert least_temperature(jacket, COMFORT) == pytest.approx(3.0, abs=0.1)
    assert least_temperature(jacket, LIMIT) == pytest.approx(-2.7, abs=0.1)
    trousers = replace(jacket, clothes=(dry, filled(0.06, "lower")))
    assert least_temperature(trousers, COMFORT) == pytest.approx(3.9, abs=0.15)


def test_dry_clothes_are_warmer_than_what_was_ridden_in_and_a_jacket_than_none() -> None:
    base = Item(id="l", name="dry top", category="clothes", kind="base_layer", mass=0.14, volume=0.0005)
    jacket = Item(id="j", name="down jacket", category="clothes", kind="down_jacket", mass=0.27, volume=0.0017)
    ridden, dry, warm = (bedding_of(kit).system.clothes for kit in ((QUILT,), (QUILT, base), (QUILT, base, jacket)))
    assert ridden[0] < dry[0] < warm[0] and dry[1] == warm[1] > ridden[1]
    # what is worn riding is ridden in
    assert bedding_of((QUILT, replace(base, worn=True))).system.clothes == ridden
