"""Statics against sums by hand."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.load.balance import balance, bands_for, steering_inertia
from stonechat.core.physics.constants import GRAVITY
from stonechat.core.rig.bike import Bike

places = st.tuples(st.floats(0.1, 30), st.floats(-0.3, 1.3), st.floats(-0.4, 0.4), st.floats(0.2, 1.4))


def test_rider_and_bike_by_hand() -> None:
    # 75 kg at (0.44, 1.12) and 11 kg at (0.50, 0.55) on a wheelbase of 1.06 m: x 0.4477, z 1.0471, front 42.23 %
    found = balance([(75.0, 0.44, 0.0, 1.12), (11.0, 0.50, 0.0, 0.55)], 1.06)
    assert (found.x, found.z) == pytest.approx((0.4477, 1.0471), abs=5e-5)
    assert found.front_share == pytest.approx(0.4223, abs=1e-4)


@given(st.lists(places, min_size=1, max_size=12))
def test_wheel_forces_carry_the_weight_and_its_moment(masses: list[tuple[float, float, float, float]]) -> None:
    found = balance(masses, 1.05)
    weight = sum(m for m, *_ in masses) * GRAVITY
    assert found.front_force + found.rear_force == pytest.approx(weight)
    assert found.front_force * 1.05 == pytest.approx(sum(m * x for m, x, _, _ in masses) * GRAVITY, abs=1e-6)


def test_one_kilogram_at_the_side_leans_the_bike_by_its_angle() -> None:
    found = balance([(99.0, 0.46, 0.0, 1.01), (1.0, 0.46, -0.11, 1.01)], 1.06)
    assert math.degrees(found.lean) == pytest.approx(-math.degrees(math.atan(0.0011 / 1.01)), rel=1e-9)


def test_mass_on_the_steering_axis_turns_freely() -> None:
    bike = Bike()
    head = math.radians(bike.head_angle)
    # a point of the axis: rake behind the front axle, square to the axis
    base = (bike.wheelbase - bike.fork_rake * math.sin(head), bike.wheel_radius - bike.fork_rake * math.cos(head))
    up = (base[0] - 0.5 * math.cos(head), base[1] + 0.5 * math.sin(head))
    assert steering_inertia([(2.0, up[0], 0.0, up[1])], bike) == pytest.approx(0.0, abs=1e-12)
    assert steering_inertia([(2.0, up[0], 0.3, up[1])], bike) == pytest.approx(2.0 * 0.09)


@given(st.floats(0.0, 1.0), st.sets(st.sampled_from(["seat", "rack", "frame", "bar"])))
def test_bands_never_widen_as_the_ground_gets_looser(loose: float, places: set[str]) -> None:
    hard, soft = bands_for(0.0, places), bands_for(loose, places)
    assert soft.front_low == hard.front_low < soft.front_high <= hard.front_high
    assert 0.0 < soft.lean <= hard.lean and 0.0 < soft.sway <= hard.sway and 0.0 < soft.steering <= hard.steering


def test_a_rig_with_nothing_behind_may_bear_more_in_front_and_a_rack_more_behind() -> None:
    assert bands_for(0.3, ("bar",)).front_high > bands_for(0.3, ("bar", "seat")).front_high
    assert bands_for(0.3, ("rack",)).sway > bands_for(0.3, ("seat",)).sway
