"""Levels against a plain walk through the legs."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.supply.carry import cannot_be_missed, carry_levels
from stonechat.core.supply.needs import drinking_need, ride_energy, water_loss

amounts = st.lists(st.floats(0, 4), min_size=1, max_size=12)


@given(amounts, st.data(), st.floats(0.5, 8), st.floats(0, 0.5))
def test_levels_are_those_of_a_plain_walk(
    needs: list[float], data: st.DataObject, capacity: float, reserve: float
) -> None:
    refills = data.draw(st.lists(st.booleans(), min_size=len(needs), max_size=len(needs)))
    levels = carry_levels(
        needs=np.array(needs),
        refills=np.array(refills),
        capacity=capacity,
        reserve=reserve,
        wanted=(None,) * len(needs),
    )
    level = 0.0
    for k, need in enumerate(needs):
        if refills[k] or k == 0:
            ahead, j = 0.0, k
            while True:  # what is needed up to the next refill
                ahead += needs[j]
                j += 1
                if j == len(needs) or refills[j]:
                    break
            level = max(level, min(ahead + reserve, capacity))
        assert levels.leaving[k] == pytest.approx(level, abs=1e-9)
        assert levels.short[k] == pytest.approx(max(0.0, need - level), abs=1e-9)
        level = max(0.0, level - need)
        assert levels.arriving[k] == pytest.approx(level, abs=1e-9)
    assert (levels.leaving <= capacity + 1e-9).all() and (levels.arriving >= 0.0).all()


def test_what_the_rider_asks_for_is_taken_as_far_as_it_fits() -> None:
    levels = carry_levels(
        needs=np.array([1.0, 1.0]), refills=np.array([True, True]), capacity=2.0, reserve=0.3, wanted=(5.0, 0.4)
    )
    assert levels.leaving[0] == 2.0
    assert levels.leaving[1] == 1.0  # more was left than asked for: nothing is poured away
    assert levels.short[1] == 0.0


@given(amounts, st.data(), st.floats(0.5, 6))
def test_a_stop_cannot_be_missed_when_without_it_the_legs_run_dry(
    needs: list[float], data: st.DataObject, capacity: float
) -> None:
    refills = data.draw(st.lists(st.booleans(), min_size=len(needs), max_size=len(needs)))
    given_ = {"needs": np.array(needs), "capacity": capacity, "reserve": 0.0, "wanted": (None,) * len(needs)}
    levels = carry_levels(refills=np.array(refills), **given_)
    for k, must in enumerate(cannot_be_missed(levels, capacity)):
        if not levels.refilled[k] or k == 0:
            assert not must
            continue
        without = carry_levels(refills=np.array([r and j != k for j, r in enumerate(refills)]), **given_)
        before = max(j for j in range(k) if levels.refilled[j])
        after = next((j for j in range(k + 1, len(needs)) if levels.refilled[j]), len(needs))
        assert must == (without.short[before:after].sum() > 1e-9)


# the table of losses at 150 W, and its rule for other powers worked by hand: 30 °C: 0.8 (1 + 0.9 (200/150 - 1))
@pytest.mark.parametrize(
    ("temp", "power", "loss"),
    [(20.0, 150.0, 0.50), (30.0, 200.0, 0.8 * 1.3), (5.0, 100.0, 0.30 * 0.8), (50.0, 150.0, 1.2)],
)
def test_water_loss_by_the_table(temp: float, power: float, loss: float) -> None:
    share = {30.0: 0.9, 5.0: 0.6}.get(temp, 1.0)
    expected = loss if power == 150.0 else {30.0: 0.8, 5.0: 0.3}[temp] * (1 + share * (power / 150 - 1))
    assert water_loss(temp_air=np.array([temp]), power=np.array([power]))[0] == pytest.approx(expected)


@given(st.floats(-10, 45), st.floats(0, 300))
def test_nobody_drinks_more_than_is_lost_or_can_be_drunk(temp: float, power: float) -> None:
    need = drinking_need(water_loss(temp_air=np.array([temp]), power=np.array([power])))[0]
    assert 0.0 < need <= 0.8
    assert need <= water_loss(temp_air=np.array([temp]), power=np.array([power]))[0] + 0.04 + 1e-12


def test_energy_is_work_over_efficiency() -> None:
    # an hour at 150 W is 540 kJ; at 22 % efficiency 2,454.5 kJ, that is 586.65 kcal of 4,184 J
    assert ride_energy(540_000.0, 0.22) == pytest.approx(540_000 / 0.22 / 4184)
