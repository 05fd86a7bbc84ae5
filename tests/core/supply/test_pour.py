"""Water goes where it is drunk from, low, and out of the frost."""

from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.rig.carrier import Carrier
from stonechat.core.supply.pour import holds, pour, water_capacity


def bottle(key: str, litres: float, **more: object) -> Carrier:
    figures = {"place": "bottle_down", "takes": frozenset({"water"}), "access": "foot", **more}
    return Carrier(id=key, name=key, capacity=litres / 1e3, load_limit=9.0, mass=0.1, longest=0.2, **figures)  # type: ignore[arg-type]


LOW, HIGH = bottle("low", 0.75), bottle("high", 0.75, place="fork")
HAND = bottle("hand", 0.5, place="stem", access="riding")
VEST = bottle("vest", 1.5, place="back", access="off", freezes="body")
HEIGHTS = {"low": 0.4, "high": 0.6, "hand": 1.0, "vest": 1.2}


def test_the_first_is_at_hand_the_next_the_lowest() -> None:
    poured = pour((HIGH, LOW, HAND), HEIGHTS, 1.0, 15.0)
    assert poured == {"high": 0.0, "low": 0.5, "hand": 0.5}


def test_in_frost_what_the_body_warms_comes_before_the_lowest() -> None:
    assert pour((HIGH, LOW, VEST), HEIGHTS, 1.0, -10.0) == {"high": 0.0, "low": 0.0, "vest": 1.0}
    assert pour((HIGH, LOW, VEST), HEIGHTS, 1.0, 5.0)["vest"] == 0.0


@given(st.floats(0.0, 6.0), st.floats(-30.0, 40.0))
def test_no_litre_is_lost_and_no_bottle_overflows(litres: float, coldest: float) -> None:
    carriers = (HIGH, LOW, HAND, VEST)
    poured = pour(carriers, HEIGHTS, litres, coldest)
    assert all(-1e-12 <= poured[c.id] <= holds(c) + 1e-12 for c in carriers)
    assert abs(sum(poured.values()) - min(litres, water_capacity(carriers))) < 1e-9
