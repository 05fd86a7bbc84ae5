"""The sleeper against published figures of the model, its limits, and what everybody knows of cold nights."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.night.sleep import (
    CLO,
    COMFORT,
    DEBT,
    LIMIT,
    US_R,
    Bed,
    SleepSystem,
    bag_insulation,
    clear_sky,
    ground_temperature,
    heat_balance,
    heat_flows,
    hours_until_cold,
    least_temperature,
)

WORN = (0.5 * CLO, 0.5 * CLO)
LABEL = SleepSystem(mat=4.8 * US_R, clothes=WORN)


def rated(comfort: float, **more: object) -> SleepSystem:
    return replace(LABEL, bag=bag_insulation(comfort, "comfort"), **more)  # type: ignore[arg-type]


# label: insulation in m²K/W and clo, and the limit that the model gives
TABLE = [(10, 0.365, 2.35, 5.2), (5, 0.510, 3.29, -0.4), (0, 0.666, 4.30, -5.9), (-5, 0.835, 5.39, -11.3),
         (-10, 1.015, 6.55, -16.7), (-15, 1.209, 7.80, -22.0)]  # fmt: skip


@pytest.mark.parametrize(("comfort", "insulation", "clo", "limit"), TABLE)
def test_labels_give_the_insulation_of_the_table(comfort: float, insulation: float, clo: float, limit: float) -> None:
    found = bag_insulation(comfort, "comfort")
    assert found == pytest.approx(insulation, abs=6e-4) and found / CLO == pytest.approx(clo, abs=6e-3)
    assert least_temperature(replace(LABEL, bag=found), LIMIT) == pytest.approx(limit, abs=0.06)


def test_the_worked_example() -> None:
    assert bag_insulation(5.0, "comfort") == pytest.approx(0.510044, abs=1e-6)
    assert least_temperature(rated(5.0), LIMIT) == pytest.approx(-0.36876, abs=1e-5)
    assert least_temperature(rated(5.0, mat=US_R), COMFORT) == pytest.approx(12.90116, abs=1e-5)


@pytest.mark.parametrize(
    ("more", "comfort", "limit"),
    [
        ({"mat": 0.5 * US_R}, 15.8, 13.0), ({"mat": 2.0 * US_R}, 9.3, 5.2), ({"mat": 3.2 * US_R}, 6.9, 2.1),
        ({"mat": 6.0 * US_R}, 4.1, -1.6), ({"shelter": 0.05}, 3.4, -2.1),
        ({"clothes": (1.5 * CLO, 1.5 * CLO)}, 1.1, -4.7),
    ],
)  # fmt: skip
def test_what_differs_from_the_label_counts_as_in_the_table(
    more: dict[str, object], comfort: float, limit: float
) -> None:
    system = rated(5.0, **more)
    assert least_temperature(system, COMFORT) == pytest.approx(comfort, abs=0.06)
    assert least_temperature(system, LIMIT) == pytest.approx(limit, abs=0.06)


def test_wind_without_shelter_is_worth_a_few_kelvin() -> None:
    bare = rated(5.0, is_sheltered=False)
    assert least_temperature(bare, COMFORT, wind=2.0) == pytest.approx(7.3, abs=0.06)
    assert least_temperature(bare, LIMIT, wind=2.0) == pytest.approx(2.1, abs=0.06)


@pytest.mark.parametrize(
    ("air", "balance", "hours"), [(15, 20.6, None), (0, 0.5, None), (-5, -6.1, 6.6), (-15, -18.9, 2.1)]
)
def test_a_bag_a_mat_and_a_bivvy_through_colder_nights(air: float, balance: float, hours: float | None) -> None:
    system = rated(5.0, mat=3.2 * US_R, shelter=0.05, clothes=(0.6 * CLO, 0.6 * CLO))  # what is ridden in, dry
    found = heat_balance(system, Bed(air=air, ground=air + 2.0), LIMIT)
    assert found == pytest.approx(balance, abs=0.06)
    assert hours_until_cold(found) == (pytest.approx(hours, abs=0.06) if hours else math.inf)


@given(st.floats(-20.0, 15.0), st.floats(-20.0, 15.0), st.floats(0.1, 6.0))
def test_a_warmer_bag_a_better_mat_and_warmer_air_are_never_colder(one: float, other: float, mat: float) -> None:
    low, high = sorted((one, other))
    assert bag_insulation(low, "comfort") >= bag_insulation(high, "comfort")
    assert bag_insulation(low, "limit") <= bag_insulation(low, "comfort")
    here = rated(low, mat=mat * US_R)
    assert least_temperature(here, COMFORT) >= least_temperature(here, LIMIT)
    assert least_temperature(rated(low, mat=(mat + 0.5) * US_R), COMFORT) <= least_temperature(here, COMFORT) + 1e-9
    beds = [Bed(air=air, ground=air) for air in (low, high)]
    assert heat_balance(here, beds[0], LIMIT) <= heat_balance(here, beds[1], LIMIT) + 1e-9


@given(st.floats(-15.0, 12.0))
def test_a_label_read_back_is_the_label(rating: float) -> None:
    for label, sense in (("comfort", COMFORT), ("limit", LIMIT)):
        bag = bag_insulation(rating, label)
        if bag > 0.0:
            assert least_temperature(replace(LABEL, bag=bag), sense) == pytest.approx(rating, abs=1e-6)


@given(st.floats(-40.0, -0.5))
def test_heat_lost_until_cold_is_the_debt(balance: float) -> None:
    assert -balance * hours_until_cold(balance) == pytest.approx(DEBT)


def test_the_ground_is_warmer_than_the_coldest_air_but_not_on_snow() -> None:
    assert ground_temperature(low=2.0, mean=12.0) == pytest.approx(5.5)
    assert ground_temperature(low=-6.0, mean=-2.0, snow=True) == pytest.approx(-4.0)
    assert ground_temperature(low=4.0, mean=9.0, snow=True) == 0.0


def test_heat_flows_add_up_and_a_clear_sky_takes_more_above_and_nothing_more_beneath() -> None:
    system = SleepSystem(bag=0.5, mat=0.4, clothes=(0.08, 0.08), shelter=0.05)
    roof, stars = (Bed(air=0.0, ground=2.0, sky=sky) for sky in (0.0, clear_sky(0.0)))
    under, open_ = (heat_flows(system, bed, LIMIT) for bed in (roof, stars))
    assert heat_balance(system, roof, LIMIT) == pytest.approx(46.5 - under.lost)
    assert open_.lost > under.lost and open_.beneath == under.beneath and open_.breath == under.breath
    # a clear sky at 0 °C is some 24 K colder than the air [Swinbank1963]: 0.0552 T^1.5
    assert clear_sky(0.0) == pytest.approx(0.67 * (273.15 - 0.0552 * 273.15**1.5))
    # the outer side meets air and sky by their coefficients: 4.5 of 8 W/(m²K)
    area, curl = 0.63 * 0.75, 0.84
    top = 0.5 + 0.75 * 0.08 + 0.05 + 1 / 8
    more = area * curl * clear_sky(0.0) * 4.5 / 8.0 / top
    assert open_.above[0] - under.above[0] == pytest.approx(more)
    assert least_temperature(system, LIMIT, sky=16.0) > least_temperature(system, LIMIT) + 2.0
