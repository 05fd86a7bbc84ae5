"""Volumes and drag as drawn, against closed forms."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon

from stonechat.core.rig.bike import Bike
from stonechat.core.rig.catalogue import KINDS
from stonechat.core.rig.fitting import SEAMS, SHADOW_BAND, drag_of, drags_of, fit_rig, frame_room
from stonechat.core.rig.front import exposures
from stonechat.core.rig.geometry import carrier_outline
from tests.core.rig.test_geometry import BIKES, carrier_at

ROLL = replace(carrier_at("bar", 0.009), capacity_least=0.0, shield=0.7, shield_low=0.45, shield_high=0.9)


def shoelace(corners) -> float:  # type: ignore[no-untyped-def]
    pairs = zip(corners, (*corners[1:], corners[0]), strict=True)
    return abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in pairs)) / 2


@pytest.mark.parametrize("bike", BIKES)
def test_a_frame_bag_holds_its_drawn_area_times_its_thickness(bike: Bike) -> None:
    bag = replace(carrier_at("frame"), width=0.06)
    assert frame_room(bike, bag, ()) == pytest.approx(shoelace(carrier_outline(bike, bag)) * 0.06 * SEAMS)


def test_a_bottle_takes_its_own_outline_from_a_frame_bag() -> None:
    bag, bottle = replace(carrier_at("frame"), width=0.06), carrier_at("bottle_down", 0.00075)
    less = frame_room(Bike(), bag, ()) - frame_room(Bike(), bag, (bottle,))
    inside = Polygon(carrier_outline(Bike(), bag)).intersection(Polygon(carrier_outline(Bike(), bottle)).buffer(0.008))
    assert less == pytest.approx(inside.area * 0.06 * SEAMS) and less > 0.0003
    assert frame_room(Bike(), bag, (replace(bottle, mounted=False),)) == frame_room(Bike(), bag, ())


def test_drag_is_coefficient_times_area_times_what_is_not_shielded() -> None:
    (seen,) = exposures(Bike(), (ROLL,), "hoods")
    drag = drag_of(ROLL, seen)
    assert drag.full == pytest.approx(0.9 * seen.area * 0.3)
    assert drag.fixed == 0.0  # rolled to nothing it adds nothing
    # bands add by their squares: shielding from .45 to .9, and a tenth of what lies in the shadow
    stirred = 0.9 * SHADOW_BAND * seen.covered
    assert drag.high - drag.full == pytest.approx(((0.9 * seen.area * 0.25) ** 2 + stirred**2) ** 0.5)
    assert drag.full - drag.low == pytest.approx(((0.9 * seen.area * 0.20) ** 2 + stirred**2) ** 0.5)


def test_a_stiff_box_has_all_its_drag_when_empty() -> None:
    box = replace(carrier_at("bar_top", 0.0034), capacity_least=0.0034, shield=0.6, shield_low=0.5, shield_high=0.7)
    drag = drags_of(Bike(), (box,), "hoods")[box.id]
    assert drag.fixed == drag.full > 0.0


def test_what_is_set_by_hand_stays() -> None:
    typed = replace(ROLL, drag=0.0123, drag_fill=0.4)
    assert fit_rig(Bike(), (typed,), "hoods") == (typed,)
    bag = replace(carrier_at("frame"), capacity=0.0077)
    assert fit_rig(Bike(), (bag,), "hoods")[0].capacity == 0.0077


def test_what_is_drawn_follows_the_bike() -> None:
    bag = replace(carrier_at("frame"), capacity_by_hand=False)
    small, large = (fit_rig(bike, (bag,), "hoods")[0].capacity for bike in BIKES[1:3])
    assert small < large


@given(st.lists(st.sampled_from(sorted(KINDS)), max_size=5, unique=True), st.sampled_from(["aero", "hoods"]))
@settings(max_examples=25)
def test_fitting_twice_changes_nothing(keys: list[str], position: str) -> None:
    rig = tuple(replace(p, id=f"{k}-{n}", kind=k) for k in keys for n, p in enumerate(KINDS[k].parts))
    once = fit_rig(Bike(), rig, position)
    assert fit_rig(Bike(), once, position) == once


def test_full_drag_as_priced_is_full_drag_as_drawn() -> None:
    (fitted,) = fit_rig(Bike(), (replace(ROLL, drag_by_hand=False, capacity_least=0.003),), "hoods")
    drawn = drags_of(Bike(), (fitted,), "hoods")[fitted.id]
    # rounding: a hundredth of a square centimetre, and a thousandth of one for each litre
    assert fitted.drag + fitted.drag_fill * fitted.capacity == pytest.approx(drawn.full, abs=2e-6)
