"""What stands in the wind, against counting on a grid and closed forms."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import contains_xy

from stonechat.core.rig.bike import Bike
from stonechat.core.rig.front import POSTURES, carrier_front, exposures, rider_front, shadow
from stonechat.core.rig.places import PLACES
from tests.core.rig.test_geometry import BIKES, carrier_at


def counted(shape, step: float = 0.002) -> float:  # type: ignore[no-untyped-def]
    """Return an area by counting the middles of a grid's cells inside."""
    left, low, right, high = shape.bounds
    ys, zs = np.arange(left, right, step) + step / 2, np.arange(low, high, step) + step / 2
    grid = np.meshgrid(ys, zs)
    return float(contains_xy(shape, grid[0], grid[1]).sum()) * step * step


@pytest.mark.parametrize("bike", BIKES)
@pytest.mark.parametrize("position", sorted(POSTURES))
def test_areas_are_what_counting_gives(bike: Bike, position: str) -> None:
    roll = carrier_at("bar", 0.009)
    (seen,) = exposures(bike, (roll,), position)
    dark, whole = shadow(bike, position), carrier_front(bike, roll)
    left, low, right, high = whole.bounds
    step = 0.002
    ys, zs = np.arange(left, right, step) + step / 2, np.arange(low, high, step) + step / 2
    grid = np.meshgrid(ys, zs)
    outside = contains_xy(whole, *grid) & ~contains_xy(dark, *grid)
    # the count errs by up to half a cell along the rims, some 1.5 m of them
    assert seen.area == pytest.approx(float(outside.sum()) * step * step, abs=0.0015)
    assert seen.area + seen.covered == pytest.approx(whole.area, abs=1e-9)


def test_a_lower_posture_covers_less() -> None:
    areas = [rider_front(Bike(), position).area for position in ("aero", "drops", "hoods", "upright")]
    assert areas == sorted(areas)
    assert counted(rider_front(Bike(), "hoods")) == pytest.approx(rider_front(Bike(), "hoods").area, rel=0.01)


def test_a_bag_of_the_tubes_thickness_in_the_frame_stands_in_nobodys_wind() -> None:
    thin = replace(carrier_at("frame"), width=0.035)
    (seen,) = exposures(Bike(), (thin,), "hoods")
    assert seen.area == pytest.approx(0.0, abs=2e-4)


def test_of_two_alike_bags_one_behind_the_other_only_the_first_counts() -> None:
    front = replace(carrier_at("bar_front"), width=0.3, height=0.15)
    behind = replace(carrier_at("bar"), width=0.3, height=0.15, shift=front.shift)
    apart = {e.carrier_id: e for e in exposures(Bike(), (behind,), "hoods")}
    both = {e.carrier_id: e for e in exposures(Bike(), (behind, front), "hoods")}
    alone = {e.carrier_id: e for e in exposures(Bike(), (front,), "hoods")}
    assert both["bar_front"].area == pytest.approx(alone["bar_front"].area)
    assert both["bar"].area < 0.4 * apart["bar"].area


@given(st.sampled_from(sorted(PLACES)), st.floats(0.02, 0.4), st.sampled_from(sorted(POSTURES)))
@settings(max_examples=40)
def test_a_wider_bag_never_stands_less_in_the_wind(place: str, width: float, position: str) -> None:
    narrow, wide = (replace(carrier_at(place), width=w) for w in (width, width * 1.5))
    areas = [exposures(Bike(), (bag,), position)[0].area for bag in (narrow, wide)]
    assert areas[0] <= areas[1] + 2e-4  # corners round off with the size


def test_left_and_right_mirror_one_another() -> None:
    pair = tuple(replace(carrier_at("fork"), id=side, side=side) for side in ("left", "right"))
    seen = exposures(Bike(), pair, "hoods")
    assert seen[0].area == pytest.approx(seen[1].area)
    assert seen[0].whole.centroid.x == pytest.approx(-seen[1].whole.centroid.x)
