"""Believable bikes from three entries, and measures that check one another."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.plan.limits import LIMITS
from stonechat.core.rig.bike import (
    BIKE_KINDS,
    MEASURE_NAMES,
    SADDLE_NOSE,
    SIZES,
    Bike,
    usual_bike,
    usual_setback,
    wheelbase_by_measures,
)
from stonechat.core.rig.geometry import frame_points

EVERY = [(kind, size) for kind in BIKE_KINDS for size in SIZES]


@pytest.mark.parametrize(("kind", "size"), EVERY)
def test_every_bike_of_three_entries_lies_within_the_limits(kind: str, size: str) -> None:
    bike = usual_bike(kind, size)
    for name in MEASURE_NAMES:
        low, high = LIMITS[name]
        assert low <= getattr(bike, name) <= high, name
    for angle in (bike.head_angle, bike.seat_angle):
        assert LIMITS["frame_angle"].low <= angle <= LIMITS["frame_angle"].high


@pytest.mark.parametrize(("kind", "size"), EVERY)
def test_the_front_axle_lies_ahead_of_the_steering_axis_by_the_rake(kind: str, size: str) -> None:
    bike = usual_bike(kind, size)
    p = frame_points(bike)
    down = math.radians(bike.head_angle)
    # distance of the axle from the line through the head tube, forward being positive
    ahead = (p.front_axle[0] - p.head_top[0]) * math.sin(down) + (p.front_axle[1] - p.head_top[1]) * math.cos(down)
    assert ahead == pytest.approx(bike.fork_rake, abs=0.001)  # the wheelbase is rounded to a millimetre


def test_sizes_grow() -> None:
    for kind in BIKE_KINDS:
        bikes = [usual_bike(kind, size) for size in SIZES]
        for name in ("stack", "reach", "seat_tube", "saddle_height", "wheelbase"):
            values = [getattr(bike, name) for bike in bikes]
            assert values == sorted(values) and len(set(values)) == len(values), (kind, name)


def test_travel_goes_with_the_kind() -> None:
    assert usual_bike("drop_rigid", "m").fork_travel == usual_bike("flat_rigid", "m").fork_travel == 0.0
    assert usual_bike("hardtail", "m").fork_travel > 0.0 == usual_bike("hardtail", "m").rear_travel
    assert usual_bike("full", "m").rear_travel > 0.0


def test_a_saddle_height_of_ones_own_moves_the_saddle_along_the_seat_tube() -> None:
    usual, high = usual_bike("drop_rigid", "m"), usual_bike("drop_rigid", "m", 0.78)
    assert high.saddle_height == 0.78 and high.stack == usual.stack
    assert frame_points(high).saddle[1] > frame_points(usual).saddle[1]


@given(st.floats(0.5, 0.95), st.floats(70.0, 78.0))
def test_a_straight_post_puts_the_saddle_over_the_seat_tubes_line(height: float, angle: float) -> None:
    # the tip lies its own length ahead of where the line of the seat tube ends
    back = height * math.cos(math.radians(angle)) - SADDLE_NOSE
    assert usual_setback(height, angle) == pytest.approx(back, abs=0.00051)


def test_a_wrong_head_angle_shows_in_the_wheelbase() -> None:
    # 1° slacker lengthens the front by (stack − drop) / sin² · 1° ≈ 528 mm / 0.894 / 57.3 = 10 mm
    steep, slack = wheelbase_by_measures(Bike(head_angle=71.0)), wheelbase_by_measures(Bike(head_angle=70.0))
    assert slack - steep == pytest.approx(0.528 / math.sin(math.radians(70.5)) ** 2 / 57.3, abs=0.001)


def test_the_wheel_grows_with_its_tyre() -> None:
    assert Bike(tyre_width=0.05).wheel_radius - Bike(tyre_width=0.04).wheel_radius == pytest.approx(0.0085)
