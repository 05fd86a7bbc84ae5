"""Clearances against distances worked out by hand, and their conditions."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.rig.bike import Bike, usual_bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.catalogue import KINDS
from stonechat.core.rig.clearance import HITS, Clearance, clearances, light_places, shock_sweep, touching_travel
from stonechat.core.rig.geometry import carrier_outline, frame_points
from stonechat.core.rig.stock import parts_of
from tests.core.rig.test_geometry import BIKES, SMALL, carrier_at


def of(bike: Bike, *carriers: Carrier, code: str) -> Clearance:
    found = [entry for entry in clearances(bike, carriers) if entry.code == code]
    assert found, code
    return min(found, key=lambda entry: entry.margin)


def to_point(corners, point) -> float:  # type: ignore[no-untyped-def]
    """Return the distance of a closed outline from a point outside it, edge by edge."""
    best = math.inf
    for a, b in zip(corners, (*corners[1:], corners[0]), strict=True):
        length = math.dist(a, b)
        along = ((point[0] - a[0]) * (b[0] - a[0]) + (point[1] - a[1]) * (b[1] - a[1])) / max(length**2, 1e-12)
        share = min(1.0, max(0.0, along))
        best = min(best, math.dist(point, (a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1]))))
    return best


@pytest.mark.parametrize("bike", BIKES)
@pytest.mark.parametrize("place", ["bar", "bar_front", "bar_under", "down_tube"])
def test_a_gap_to_the_front_tyre_is_measured_along_the_steering_axis(bike: Bike, place: str) -> None:
    bag = carrier_at(place)
    angle, travel = math.radians(bike.head_angle), bike.fork_travel
    axle = (bike.wheelbase - travel * math.cos(angle), bike.wheel_radius + travel * math.sin(angle))
    outline = carrier_outline(bike, bag)
    rest = to_point(outline, (bike.wheelbase, bike.wheel_radius)) - bike.wheel_radius
    assert of(bike, bag, code="tyre").margin == pytest.approx(
        min(rest, to_point(outline, axle) - bike.wheel_radius), abs=1e-9
    )


def test_rest_passes_and_full_travel_fails() -> None:
    roll = carrier_at("bar", 0.006)
    rigid = usual_bike("flat_rigid", "m")
    assert of(rigid, roll, code="tyre").state == "fine"
    # the same bike with a fork that gives way until the tyre meets the roll
    gap = of(rigid, roll, code="tyre").margin
    soft = replace(rigid, fork_travel=min(0.25, gap + 0.06))
    worst = of(soft, roll, code="tyre")
    assert worst.state == "broken"
    assert f"{gap * 1000:.0f} mm at rest, touches at" in worst.sentence
    assert f"of {soft.fork_travel * 1000:.0f} mm travel" in worst.sentence


@given(st.floats(0.03, 0.12), st.floats(0.02, 0.2))
def test_touching_is_where_the_gap_is_used_up(gap: float, travel: float) -> None:
    touch = touching_travel(lambda t: gap - t, travel)
    if gap - travel >= HITS:
        assert touch is None
    else:
        assert touch == pytest.approx(max(gap - HITS, 0.0), abs=1e-4)


@given(st.floats(0.0, 0.2), st.floats(0.0, 0.05))
def test_more_travel_never_leaves_more_room(travel: float, more: float) -> None:
    roll = carrier_at("bar", 0.008)
    less, most = (of(Bike(fork_travel=t), roll, code="tyre").margin for t in (travel, travel + more))
    assert most <= less + 1e-9


def test_a_seat_pack_comes_down_with_the_saddle() -> None:
    pack = carrier_at("seat", 0.011)
    fixed, dropper = Bike(), Bike(dropper_travel=0.1)
    up, lowered = of(fixed, pack, code="tyre"), of(dropper, pack, code="tyre")
    assert lowered.margin < up.margin and "with the saddle lowered" in lowered.sentence
    # each corner goes down the seat tube by the whole travel
    angle = math.radians(dropper.seat_angle)
    moved = [(x + 0.1 * math.cos(angle), z - 0.1 * math.sin(angle)) for x, z in carrier_outline(dropper, pack)]
    away = to_point(moved, (0.0, dropper.wheel_radius)) - dropper.wheel_radius
    assert lowered.margin == pytest.approx(away, abs=1e-9)


def test_a_rack_pack_leaves_the_dropper_free() -> None:
    pack = replace(KINDS["rack_pack"].parts[0], id="pack")
    found = clearances(replace(Bike(dropper_travel=0.15), bosses=frozenset({"rack"})), (pack,))
    assert [entry for entry in found if entry.code == "tyre"] == []


def test_a_frame_bag_in_the_way_of_the_shock_is_found() -> None:
    bike = usual_bike("full", "s")
    assert shock_sweep(bike) is not None
    across = replace(carrier_at("bottle_seat", 0.00075), shift=0.10)  # raised into the link
    assert of(bike, across, code="shock").margin < of(bike, carrier_at("bottle_down"), code="shock").margin
    assert [e for e in clearances(Bike(), (across,)) if e.code == "shock"] == []


def test_a_top_entry_bottle_wants_more_room_than_a_side_entry_one() -> None:
    half = carrier_at("frame_upper")
    top, side = (replace(carrier_at("bottle_seat", 0.0006), kind=kind) for kind in ("bottle_top", "bottle_side"))
    assert of(Bike(), half, top, code="frame").margin < of(Bike(), half, side, code="frame").margin


def test_a_full_frame_bag_excludes_a_bottle_inside_the_frame() -> None:
    assert of(Bike(), carrier_at("frame"), carrier_at("bottle_down"), code="frame").state == "broken"


def test_thickness_at_the_knees_is_counted_on_both_sides() -> None:
    # knees 116 mm apart: a bag of 100 mm leaves 8 mm to each, one of 130 mm is 7 mm too thick on each side
    slim, thick = (replace(carrier_at("frame"), width=w) for w in (0.100, 0.130))
    assert of(Bike(), slim, code="knees").margin == pytest.approx(0.008)
    assert of(Bike(), thick, code="knees").margin == pytest.approx(-0.007)
    assert "7 mm too thick" in of(Bike(), thick, code="knees").sentence


def test_heels_reach_back_by_crank_and_foot() -> None:
    side = carrier_at("rack_side", 0.004)
    heel = frame_points(Bike()).bottom_bracket[0] - Bike().crank - 0.190
    front = max(x for x, _ in carrier_outline(Bike(), side))
    assert of(Bike(), side, code="heels").margin == pytest.approx(heel - front)
    assert of(replace(Bike(), chainstay=0.40), side, code="heels").margin < heel - front


def test_bosses_are_missing_taken_twice_or_overloaded() -> None:
    left = replace(KINDS["fork_bottles"].parts[0], id="one")
    bare = replace(Bike(), bosses=frozenset())
    assert "this bike has none" in of(bare, left, code="bosses").sentence
    twice = of(Bike(), left, replace(left, id="two", name="second"), code="bosses")
    assert twice.state == "broken" and "is on them already" in twice.sentence
    heavy = of(Bike(), replace(left, load_limit=3.5), code="bosses")
    assert heavy.state == "tight" and "bear about 3.0 kg" in heavy.sentence
    assert [e for e in clearances(Bike(), (left,)) if e.code == "bosses"] == []


def test_a_pack_covers_a_light_on_the_post_but_not_one_on_the_stay() -> None:
    pack = carrier_at("seat", 0.011)
    assert of(Bike(rear_light="post"), pack, code="lights").state == "broken"
    assert of(Bike(rear_light="stay"), pack, code="lights").state == "fine"
    assert light_places(Bike(front_light="none", rear_light="none")) == {}


def test_a_bag_over_the_charge_port_is_told() -> None:
    bag = carrier_at("top_tube_front", 0.0012)
    assert of(Bike(charge_port="top_tube"), bag, code="lights").against == "charge port"
    assert of(Bike(charge_port="top_tube"), bag, code="lights").state == "broken"


def test_a_roll_must_fit_between_the_drops() -> None:
    # 440 mm bars less 22 mm of each drop leave 396 mm
    roll = replace(carrier_at("bar"), width=0.40)
    assert of(Bike(), roll, code="hands").margin == pytest.approx(-0.004)
    assert of(Bike(bar_width=0.48), roll, code="hands").margin == pytest.approx(0.036)


def test_what_is_not_mounted_is_in_nobodys_way() -> None:
    assert clearances(SMALL, (replace(carrier_at("bar"), mounted=False),)) == ()


def test_a_place_takes_one_carrier_on_each_side() -> None:
    def crowded(*kinds: str) -> list[str]:
        hung = [replace(part, id=f"{k}-{part.id}") for k, kind in enumerate(kinds) for part in parts_of(kind)]
        return [c.sentence for c in clearances(Bike(), tuple(hung)) if c.code == "place"]

    assert crowded("vest", "backpack") and crowded("frame_full", "frame_half") and crowded("frame_two", "frame_wedge")
    assert crowded("seat_small", "seat_large") and crowded("bar_pouch", "bar_bag")
    assert "Take one of them off" in crowded("stem_pair", "stem_one")[0]
    for kind in ("stem_pair", "frame_two", "vest", "fork_bags", "rack_sides"):
        assert crowded(kind) == []  # parts of a set
    assert crowded("jersey", "bib") == [] and crowded("frame_half", "bladder") == []
    assert crowded("frame_half", "frame_wedge", "top_front", "top_rear", "bar_roll", "bar_pouch", "seat_small") == []
