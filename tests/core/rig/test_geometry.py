"""The bike's points and its carriers against its own measures."""

import math
from dataclasses import replace

import pytest

from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.geometry import carrier_outline, carrier_position, frame_points, outline_centre
from stonechat.core.rig.places import PLACES

SMALL = Bike(stack=0.54, reach=0.365, seat_tube=0.45, head_tube=0.11, saddle_height=0.66, wheelbase=1.01)
LARGE = Bike(stack=0.66, reach=0.41, seat_tube=0.60, head_tube=0.22, saddle_height=0.82, wheelbase=1.09)
SOFT = Bike(
    wheelbase=1.125, head_angle=67.5, stack=0.625, reach=0.435, head_tube=0.105, seat_tube=0.465, fork_travel=0.1,
    tyre_width=0.067, bottom_bracket_drop=0.06,
)  # fmt: skip
BIKES = [Bike(), SMALL, LARGE, SOFT]


def carrier_at(place: str, capacity: float = 0.002) -> Carrier:
    return Carrier(id=place, name=place, place=place, capacity=capacity, load_limit=2.0, mass=0.1, longest=0.3)


@pytest.mark.parametrize("bike", BIKES)
def test_points_reproduce_the_measures(bike: Bike) -> None:
    p = frame_points(bike)
    assert math.dist(p.rear_axle, p.bottom_bracket) == pytest.approx(bike.chainstay)
    assert math.dist(p.rear_axle, p.front_axle) == pytest.approx(bike.wheelbase)
    assert math.dist(p.bottom_bracket, p.saddle) == pytest.approx(bike.saddle_height)
    assert math.dist(p.head_top, p.head_bottom) == pytest.approx(bike.head_tube)
    assert p.head_top[0] - p.bottom_bracket[0] == pytest.approx(bike.reach)
    rise = p.head_top[1] - p.head_bottom[1]
    assert math.degrees(math.atan2(rise, p.head_bottom[0] - p.head_top[0])) == pytest.approx(bike.head_angle)


@pytest.mark.parametrize("bike", BIKES)
def test_bags_in_the_triangle_lie_between_its_tubes(bike: Bike) -> None:
    p = frame_points(bike)
    corners = (p.bottom_bracket, p.top_tube_rear, p.top_tube_front, p.down_tube_front)
    for place in ("frame", "frame_upper", "frame_lower"):
        for x, z in carrier_outline(bike, carrier_at(place)):
            for (ax, az), (bx, bz) in zip(corners, (*corners[1:], corners[0]), strict=True):
                # all corners lie to the same side of each tube, seen round the triangle
                assert (bx - ax) * (z - az) - (bz - az) * (x - ax) < 0.0


@pytest.mark.parametrize("bike", [Bike(), LARGE, SOFT])  # on the small one the tool bottle would touch
def test_what_hangs_outside_clears_the_tyres_at_rest(bike: Bike) -> None:
    p = frame_points(bike)
    for place in ("seat", "down_tube", "bar", "bar_front", "bottle_seat", "bottle_down"):
        for corner in carrier_outline(bike, carrier_at(place, 0.001)):
            assert math.dist(corner, p.rear_axle) > bike.wheel_radius - 0.002, place
            assert math.dist(corner, p.front_axle) > bike.wheel_radius - 0.002, place


def test_every_place_has_a_position_on_its_own_side() -> None:
    for place in PLACES:
        left, right = (replace(carrier_at(place), side=side) for side in ("left", "right"))
        assert carrier_position(Bike(), left)[1] == -carrier_position(Bike(), right)[1] > 0.0


def test_the_centre_of_an_l_shape_is_the_mean_of_its_parts() -> None:
    # 2x1 box at the bottom (area 2, centre 1, 0.5) and 1x1 on its left half (area 1, centre 0.5, 1.5)
    shape = ((0.0, 0.0), (2.0, 0.0), (2.0, 1.0), (1.0, 1.0), (1.0, 2.0), (0.0, 2.0))
    assert outline_centre(shape) == pytest.approx(((2 * 1 + 0.5) / 3, (2 * 0.5 + 1.5) / 3))
