"""Food of the kit: never more than is asked for or there is, all of it accounted for."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.supply.mixing import MIXED_SHARE, POWDER
from stonechat.core.supply.rations import COOKING, Night, Ration, eat


@st.composite
def rations(draw: st.DrawFn) -> list[Ration]:
    return [
        Ration(
            id=str(k),
            energy=draw(st.floats(10.0, 3_000.0)),
            mass=draw(st.floats(0.01, 1.0)),
            first=draw(st.integers(0, 3)),
            last=draw(st.sampled_from((None, 2, 5))),
            meals=draw(st.sampled_from((0, 0, 1, 3))),
            is_powder=draw(st.booleans()),
        )
        for k in range(draw(st.integers(0, 5)))
    ]


@given(rations(), st.lists(st.floats(0.0, 2_000.0), min_size=1, max_size=8), st.data())
def test_what_is_eaten_is_asked_for_and_was_there(stock: list[Ration], needs: list[float], data: st.DataObject) -> None:
    legs = len(needs)
    nights = [Night(data.draw(st.integers(0, legs - 1)), data.draw(st.booleans())) for _ in range(2)]
    drunk = np.array([data.draw(st.floats(0.0, 3.0)) for _ in needs])
    eaten = eat(stock, np.array(needs), nights, drunk)
    assert np.all(eaten.energy <= np.array(needs) + 1e-6)
    for ration in stock:
        left = eaten.left[ration.id]
        assert left[0] == pytest.approx(1.0) and np.all(np.diff(left) <= 1e-12) and np.all(left >= 0.0)
        for leg in range(legs - 1):
            assert ration.aboard(leg) or left[leg + 1] == left[leg]
    # mass and energy of all that is gone, but for the last leg, whose end is the finish
    gone = [1.0 - float(eaten.left[r.id][-1]) for r in stock]
    energy = float((eaten.energy + eaten.cooked)[:-1].sum())
    assert energy == pytest.approx(sum(g * r.energy for g, r in zip(gone, stock, strict=True)), abs=1e-3)
    assert float(eaten.mass[:-1].sum()) == pytest.approx(
        sum(g * r.mass for g, r in zip(gone, stock, strict=True)), abs=1e-6
    )


def test_powder_is_drunk_with_the_water_that_is_drunk() -> None:
    mix = Ration(id="mix", energy=1_900.0, mass=0.5, is_powder=True)
    eaten = eat([mix], np.array([500.0, 500.0]), drunk=np.array([1.0, 0.0]))
    assert eaten.powder.tolist() == pytest.approx([MIXED_SHARE * POWDER, 0.0])


def test_a_meal_is_cooked_each_night_and_takes_water_where_there_is_none() -> None:
    meals = Ration(id="meal", energy=1_300.0, mass=0.3, meals=2)
    nights = (Night(1, False), Night(3, True), Night(4, False))
    eaten = eat([meals], np.full(6, 400.0), nights)
    assert eaten.cooked.tolist() == [0.0, 650.0, 0.0, 650.0, 0.0, 0.0] and not eaten.energy.any()
    assert eaten.water.tolist() == pytest.approx([0.0, COOKING * 0.15, 0.0, 0.0, 0.0, 0.0])
    assert eaten.ends("meal") == 3


def test_the_first_in_order_is_eaten_first() -> None:
    one, other = Ration(id="one", energy=300.0, mass=0.1), Ration(id="other", energy=300.0, mass=0.1)
    eaten = eat([one, other], np.array([200.0, 200.0, 200.0]))
    assert eaten.left["one"].tolist() == pytest.approx([1.0, 1.0 / 3.0, 0.0])
    assert eaten.left["other"].tolist() == pytest.approx([1.0, 1.0, 2.0 / 3.0])
