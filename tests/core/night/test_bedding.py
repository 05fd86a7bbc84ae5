"""What is slept in: labels before weights, mats on one another, nothing twice, and what a rider knows of jackets."""

from dataclasses import replace

import pytest

from stonechat.core.kit.item import Item
from stonechat.core.night.bedding import Damp, bedding_of, fill_of, filled, kept_when, rating_of, usual_rating
from stonechat.core.night.sleep import CLO, COMFORT, LIMIT, US_R, SleepSystem, bag_insulation, least_temperature

QUILT = Item(id="q", name="quilt", category="sleep", kind="quilt", mass=0.55, volume=0.004)
MAT = Item(id="m", name="mat", category="sleep", kind="mat_inflatable", mass=0.4, volume=0.001)
BIVVY = Item(id="b", name="bivvy", category="sleep", kind="bivvy", mass=0.3, volume=0.001)


def test_a_label_stands_above_a_weight_and_a_heavier_quilt_is_warmer() -> None:
    assert rating_of(replace(QUILT, facts=(("comfort", -3.0), ("limit", -9.0)))) == (-3.0, "comfort")
    ratings = [usual_rating("quilt", mass) for mass in (0.3, 0.5, 0.7, 1.0)]
    assert ratings == sorted(ratings, reverse=True)
    assert rating_of(MAT) is None and rating_of(QUILT) is None
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
    assert bedding_of(()).bag is None and bedding_of(()).things == ()


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


def test_a_label_that_does_not_say_which_is_taken_for_the_colder_and_named() -> None:
    limit, rated = (replace(QUILT, facts=((key, -5.0),)) for key in ("limit", "rated"))
    assert bedding_of((limit,)).system.bag == bedding_of((rated,)).system.bag
    assert bedding_of((limit,)).system.bag < bedding_of((replace(QUILT, facts=(("comfort", -5.0),)),)).system.bag
    assert bedding_of((rated,)).unclear == ("quilt",) and bedding_of((limit,)).unclear == ()


def test_a_quilt_without_label_is_reckoned_by_its_fill_and_down_by_its_power() -> None:
    # 300 g of 850 in the formula of lofted fill: 0.3 · 850 · 16.387e-6 / 0.02835 · 0.38 / (2.0 · 0.040)
    down = replace(QUILT, facts=(("fill_g", 300.0), ("loft", 850.0)))
    assert bedding_of((down,)).system.bag == pytest.approx(0.3 * 850 * 16.387e-6 / 0.02835 * 0.38 / 0.08)
    fibre = replace(QUILT, name="synthetic quilt", facts=(("fill_g", 300.0),))
    assert 0.0 < bedding_of((fibre,)).system.bag < 0.6 * bedding_of((down,)).system.bag
    assert fill_of(QUILT) is None and fill_of(down) is not None


@pytest.mark.parametrize(
    ("name", "water", "left"),
    [("down quilt", 0.15, 0.76), ("down quilt", 0.4, 0.36), ("synthetic quilt", 0.4, 0.82), ("down quilt", 2.0, 0.10)],
)
def test_wet_fill_keeps_what_the_model_says(name: str, water: float, left: float) -> None:
    assert kept_when(replace(QUILT, name=name), Damp(each=water)) == pytest.approx(left)


def test_what_is_told_of_a_wet_bag_stands_above_what_is_usual() -> None:
    treated = replace(QUILT, name="down quilt", facts=(("wet_keeps", 60.0),))
    assert kept_when(treated, Damp(each=0.4)) == pytest.approx(0.6) and kept_when(treated, Damp()) == 1.0
    assert kept_when(treated, Damp(each=0.2)) == pytest.approx(0.8)  # half as wet loses half as much


def test_wet_down_in_a_bag_of_comfort_five_ends_where_the_table_says() -> None:
    label = replace(QUILT, name="down quilt", facts=(("comfort", 5.0),))
    mat = replace(MAT, facts=(("r_value", 4.8),))
    shirt = Item(id="l", name="top", category="clothes", kind="base_layer", mass=0.1, volume=0.0005)
    bivvy = replace(BIVVY, kind="tent")
    for water, comfort, limit in ((0.15, 9.2, 4.3), (0.40, 16.9, 12.9)):
        system = bedding_of((label, mat, shirt, bivvy), damp=Damp(each=water)).system
        still = replace(system, shelter=0.0)
        assert least_temperature(still, COMFORT) == pytest.approx(comfort, abs=0.1)
        assert least_temperature(still, LIMIT) == pytest.approx(limit, abs=0.1)


def test_one_piece_is_never_in_two_places() -> None:
    shirt = Item(id="l", name="top", category="clothes", kind="base_layer", mass=0.1, volume=0.0005)
    slept, ridden = bedding_of((QUILT, shirt)), bedding_of((QUILT, shirt), ridden_in={"l"})
    assert ridden.system.clothes[0] < slept.system.clothes[0] and "top" not in ridden.things


def test_a_rain_suit_over_all_is_warmer_and_a_tarp_keeps_no_wind_off() -> None:
    suit = [
        Item(id=k, name=k, category="clothes", kind=k, mass=0.2, volume=0.001) for k in ("rain_jacket", "rain_trousers")
    ]
    bare, worn = (bedding_of((QUILT, *suit), over_all=flag).system.clothes for flag in (False, True))
    assert worn[0] > bare[0] and worn[1] > bare[1]
    assert not bedding_of((QUILT, replace(BIVVY, kind="tarp"))).system.is_sheltered


def test_a_short_mat_leaves_the_legs_on_the_ground() -> None:
    full, short, told = (
        bedding_of((QUILT, mat)).system
        for mat in (MAT, replace(MAT, name="torso mat"), replace(MAT, facts=(("mat_cm", 95.0),)))
    )
    assert full.legs_on_mat == 1.0 and 0.0 < short.legs_on_mat < 0.5 and told.legs_on_mat == 0.0
    limits = [least_temperature(system, LIMIT) for system in (full, short, told)]
    assert limits == sorted(limits) and limits[2] > limits[0] + 1.0
    bare = replace(told, mat=0.0, legs_on_mat=1.0)
    assert limits[2] < least_temperature(bare, LIMIT)
