"""Energy by day against the published formula and sums by hand."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.supply.energy import GLYCOGEN, Spent, balances, gut_limit, resting_metabolism


def test_the_day_that_is_reckoned_by_hand() -> None:
    # 15 h at 150 W (8,100 kJ), 4 h awake and 5 h asleep; 75 kg, 1.80 m, 35 years
    resting = resting_metabolism(mass=75.0, height=1.80, age=35.0, sex="m")
    assert resting == 10.0 * 75.0 + 6.25 * 180.0 - 5.0 * 35.0 + 5.0
    day = Spent(riding=15.0, asleep=5.0, awake=4.0, work=8_100.0 / 4.184 / 0.22, eaten=300.0 * 15.0 + 1_500.0)
    (balance,) = balances((day,), resting)
    assert balance.spent == pytest.approx(9_535.0, abs=0.5)
    assert balance.deficit == pytest.approx(3_535.0, abs=0.5)
    assert balance.tissue == pytest.approx(0.459, abs=0.0005)


def test_what_the_rider_has_not_said_lies_between() -> None:
    known = [resting_metabolism(mass=70.0, height=1.74, age=38.0, sex=sex) for sex in ("f", "m")]
    assert resting_metabolism(mass=70.0, height=None, age=None, sex="") == pytest.approx(sum(known) / 2)


def test_the_gut_takes_what_its_carbohydrate_allows() -> None:
    assert gut_limit() * 0.65 / 4.0 == pytest.approx(75.0)


@given(st.lists(st.tuples(st.floats(0.0, 15_000.0), st.floats(0.0, 9_000.0)), min_size=1, max_size=20))
def test_the_tank_is_never_under_empty_nor_over_full(days: list[tuple[float, float]]) -> None:
    stretches = tuple(Spent(riding=12.0, asleep=5.0, awake=7.0, work=work, eaten=eaten) for work, eaten in days)
    assert all(0.0 <= balance.glycogen <= GLYCOGEN for balance in balances(stretches, 1_600.0))
