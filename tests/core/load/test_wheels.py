"""Wheel loads: shares by the lever, and what they correct."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.load.balance import balance
from stonechat.core.load.wheels import WheelLoad, compare_wheels, corrected_bike
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.geometry import bike_position


@given(st.floats(2.0, 12.0), st.floats(2.0, 12.0))
def test_a_corrected_bike_stands_as_it_was_weighed(front: float, rear: float) -> None:
    load = WheelLoad(what="bare", front=front, rear=rear)
    bike = corrected_bike(Bike(), load)
    statics = balance(((bike.mass, *bike_position(bike)),), bike.wheelbase)
    # shares are kept to a thousandth, masses to 10 g
    assert statics.front_force / 9.80665 == pytest.approx(front, abs=0.03)
    assert statics.rear_force / 9.80665 == pytest.approx(rear, abs=0.03)


def test_what_differs_is_said_with_its_sign() -> None:
    verdict = compare_wheels(WheelLoad(what="loaded", front=9.0, rear=11.0), mass=19.0, front_share=0.40, band=0.2)
    assert verdict.mass_difference == pytest.approx(1.0) and verdict.share_difference == pytest.approx(0.05)
    assert not verdict.agrees
    near = compare_wheels(WheelLoad(what="loaded", front=7.7, rear=11.4), mass=19.0, front_share=0.40, band=0.2)
    assert near.agrees
