"""Several rides as one figure: by hand, by age, by surface; bands that are factors; what disagrees."""

import math
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.diary.combine import HALF_LIFE, Estimate, combined
from stonechat.core.diary.rides import Ride, Told, told_by

NOW = datetime(2027, 9, 1, tzinfo=UTC)


def a_ride(key: str, value: float, low: float, high: float, *, days: float = 0.0, surface: str = "") -> Ride:
    return Ride(
        id=f"{value}{days}", name="r", purpose="test", start=NOW - timedelta(days=days), length=3_600.0, moving=3_500.0,
        distance=3e4, mass=90.0, surface=surface, figures={key: Told(value=value, low=low, high=high)},
    )  # fmt: skip


def test_one_ride_is_told_as_it_is() -> None:
    told = told_by([a_ride("power", 150.0, 140.0, 160.0)], "power", NOW)
    assert told is not None and (told.value, told.low, told.high) == pytest.approx((150.0, 140.0, 160.0))
    assert told_by([a_ride("power", 150.0, 140.0, 160.0)], "endurance", NOW) is None


def test_the_surer_weighs_more_by_the_square_of_its_band() -> None:
    rides = [a_ride("power", 150.0, 140.0, 160.0), a_ride("power", 153.0, 148.0, 158.0)]
    told = told_by(rides, "power", NOW)
    assert told is not None and told.value == pytest.approx((150.0 + 4.0 * 153.0) / 5.0)
    assert told.high - told.value == pytest.approx(math.sqrt(1.0 / (1 / 10**2 + 1 / 5**2)))


def test_after_a_half_life_a_ride_weighs_half() -> None:
    rides = [a_ride("power", 150.0, 140.0, 160.0, days=HALF_LIFE), a_ride("power", 156.0, 146.0, 166.0)]
    told = told_by(rides, "power", NOW)
    assert told is not None and told.value == pytest.approx((0.5 * 150.0 + 156.0) / 1.5)


def test_rolling_is_told_by_rides_on_that_surface_alone() -> None:
    rides = [
        a_ride("rolling", 0.006, 0.0055, 0.0065, surface="tarmac"),
        a_ride("rolling", 0.012, 0.011, 0.013, surface="smooth_gravel"),
    ]
    told = told_by(rides, "rolling", NOW, "tarmac")
    assert told is not None and told.value == pytest.approx(0.006)
    assert told_by(rides, "rolling", NOW, "track") is None


def test_a_band_that_is_a_factor_stays_one_and_never_passes_nought() -> None:
    rides = [a_ride("fade_time", 20.0, 8.0, 50.0), a_ride("fade_time", 40.0, 16.0, 100.0)]
    told = told_by(rides, "fade_time", NOW)
    assert told is not None and told.low > 0.0
    assert told.value == pytest.approx(math.sqrt(20.0 * 40.0))
    assert told.value / told.low == pytest.approx(told.high / told.value)


@given(values=st.lists(st.floats(0.2, 0.6), min_size=1, max_size=8), band=st.floats(1e-3, 0.1))
def test_the_whole_lies_among_its_parts_and_disagreement_widens_it(values: list[float], band: float) -> None:
    found = combined([Estimate(value=value, band=band) for value in values])
    assert min(values) - 1e-9 <= found.value <= max(values) + 1e-9
    assert found.band >= band / math.sqrt(len(values)) * (1.0 - 1e-9)
    if max(values) - min(values) > 20.0 * band:
        assert found.band > 2.0 * band / math.sqrt(len(values))
