"""Prices between the masses that were ridden."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.kit.item import Item, Reaches
from stonechat.core.ledger.ledger import MassCurve
from stonechat.core.ledger.price import item_price
from stonechat.core.load.problem import Prices
from tests.strategies import CARRIERS

CURVE = MassCurve(masses=np.array([0.0, 0.25, 1.0, 4.0]), minutes=np.array([0.0, 7.0, 26.5, 110.0]))
PRICES = Prices(per_kg=25.0, per_drag=10.0, days=4.0)


@pytest.mark.parametrize(
    ("mass", "minutes"), [(0.0, 0.0), (0.25, 7.0), (0.125, 3.5), (1.0, 26.5), (2.5, 68.25), (4.0, 110.0), (8.0, 220.0)]
)
def test_mass_is_priced_along_the_curve_and_in_proportion_beyond_it(mass: float, minutes: float) -> None:
    assert CURVE.saved(mass) == pytest.approx(minutes)


@given(st.floats(0, 12), st.floats(0, 3))
def test_more_mass_never_costs_less(mass: float, more: float) -> None:
    assert CURVE.saved(mass + more) >= CURVE.saved(mass) - 1e-12


def test_a_price_is_weight_and_placing() -> None:
    thing = Item(id="t", name="thing", mass=0.125, volume=0.001, quantity=2, access="off", reaches=Reaches(per_day=1.5))
    price = item_price(item=thing, carrier=CARRIERS[2], prices=PRICES, mass_curve=CURVE, reaching=4.5)
    assert price.weight == pytest.approx(7.0)
    # the wind of two litres where a litre adds 1.2 cm², at the price of 100 cm²
    wind = PRICES.per_drag * CARRIERS[2].drag_fill * 0.002 / 0.01
    assert wind > 0.0 and price.placing == pytest.approx(4.5 + wind)
    assert price.total == price.weight + price.placing
    assert item_price(item=thing, carrier=None, prices=PRICES, mass_curve=CURVE).placing == 0.0
