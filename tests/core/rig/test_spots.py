"""What sits in a spot of bike or helmet: where it is, its wind and its room."""

from dataclasses import replace

import pytest

from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.plan import Plan
from stonechat.core.rig.spots import SPOTS, spot_drag


@pytest.mark.parametrize("key", sorted(SPOTS))
def test_the_wind_of_a_fixed_thing_grows_with_its_side(key: str) -> None:
    assert spot_drag(key, 0.0) == 0.0
    # eight times the volume has four times the side of a cube
    assert spot_drag(key, 8e-4) == pytest.approx(4.0 * spot_drag(key, 1e-4))
    assert 0.0 <= spot_drag(key, 1e-3) <= 0.9 * 0.01  # a decimetre of bare side at the most


def test_what_is_behind_the_rider_costs_less_wind_than_what_is_before_him() -> None:
    assert spot_drag("seatpost", 1e-4) < spot_drag("stem", 1e-4) < spot_drag("bars", 1e-4)


def test_a_lamp_on_the_bars_costs_its_price_of_wind(demo: Plan) -> None:
    """The price of a fixed thing is held against riding with and without it, all else alike."""

    def fixed_in(spot: str) -> Evaluation:
        items = tuple(replace(i, fixed=spot, volume=8e-4) if i.id == "front-light" else i for i in demo.items)
        # food of one weight: in another hour's heat other food is bought
        supply = replace(demo.variants[0].supply, food_density=4_000.0, food_bulk=1_900.0)
        same = demo.with_variant(replace(demo.variants[0], supply=supply))
        return evaluate(replace(same, items=items), "a")

    calm, windy = fixed_in("frame").ridden, fixed_in("bars").ridden
    ridden = (windy.ledger.moving - calm.ledger.moving) / 60.0
    step = spot_drag("bars", 8e-4) - spot_drag("frame", 8e-4)
    priced = calm.ledger.prices.per_drag * step / 0.01
    # the price is a slope; half an hour later the wind is another
    assert priced > 0.5 and ridden == pytest.approx(priced, rel=0.15)


def test_a_spot_with_too_much_and_a_unit_out_of_sight_are_told(demo: Plan) -> None:
    def found(plan: Plan) -> list[str]:
        return [f.sentence for f in evaluate(plan, "a").findings if f.code == "spots"]

    assert "has room there" in found(demo)[0]
    blind = tuple(replace(i, fixed="seatpost") if i.kind == "gps_unit" else i for i in demo.items)
    assert "is not seen while riding there" in found(replace(demo, items=blind))[0]
    many = tuple(replace(i, fixed="helmet", worn=False) if i.category == "tools" else i for i in demo.items)
    assert "2 usually have room" in found(replace(demo, items=many))[0]
