"""Sweat by heat balance against figures measured with the library apart from this table, and in its directions."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.physics.air import air_density
from stonechat.core.supply.heat import COLDEST, heat_balance_loss, humidity_at
from stonechat.core.supply.needs import water_loss


def loss(temp: float, power: float = 150.0, humidity: float = 0.4, *, dark: bool = True) -> float:
    told = heat_balance_loss(
        temp_air=np.array([temp]), power=np.array([power]), humidity=np.array([humidity]), dark=np.array([dark])
    )
    return float(told[0])


@pytest.mark.parametrize(("temp", "humidity", "grams"), [(20.0, 0.55, 258.5), (30.0, 0.40, 587.5), (40.0, 0.20, 947.3)])
def test_at_150_w_in_the_shade_it_is_what_the_library_gives(temp: float, humidity: float, grams: float) -> None:
    # run apart: 75 kg, 1.80 m, 0.4 clo, 3 m/s, means over 240 min
    assert loss(temp, humidity=humidity) == pytest.approx(grams / 1000.0, abs=0.012)


@given(st.floats(15.0, 40.0), st.floats(80.0, 180.0), st.floats(0.2, 0.6))
def test_heat_effort_and_sun_ask_for_more(temp: float, power: float, humidity: float) -> None:
    here = loss(temp, power, humidity)
    assert loss(temp + 2.0 if temp < 38.0 else temp, power, humidity) >= here - 0.012
    assert loss(temp, power + 5.0, humidity) >= here - 1e-9
    assert loss(temp, power, humidity, dark=False) >= here - 1e-9
    assert 0.03 < here < 1.6


@given(st.floats(-10.0, 14.9), st.floats(0.0, 250.0))
def test_below_its_range_it_is_the_table_of_riders(temp: float, power: float) -> None:
    table = water_loss(temp_air=np.array([temp]), power=np.array([power]))[0]
    assert loss(temp, power) == table
    assert temp < COLDEST


def test_it_lies_below_the_table_in_the_mild_and_meets_it_in_the_heat() -> None:
    table = [float(water_loss(temp_air=np.array([temp]), power=np.array([150.0]))[0]) for temp in (20.0, 30.0, 38.0)]
    balance = [loss(temp, dark=False) for temp in (20.0, 30.0, 38.0)]
    shares = np.array(balance) / np.array(table)
    assert shares[0] < 0.75 < shares[2] and all(np.diff(shares) > 0.0)


@given(st.floats(0.1, 0.95), st.floats(-5.0, 30.0), st.floats(-5.0, 40.0))
def test_vapour_stays_the_same_through_the_day(humidity: float, mean: float, temp: float) -> None:
    def at(temp_air: float, share: float) -> float:
        dry, wet = air_density(1e5, temp_air, 0.0), air_density(1e5, temp_air, share)
        return (dry - wet) * (temp_air + 273.15)  # proportional to the vapour pressure

    found = float(humidity_at(humidity=np.array([humidity]), temp_mean=np.array([mean]), temp_air=np.array([temp]))[0])
    assert found <= 1.0
    if found < 1.0:
        assert at(temp, found) == pytest.approx(at(mean, humidity), rel=1e-3)
