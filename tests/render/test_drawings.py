"""Drawings as numbers, and quantities for people."""

from dataclasses import replace
from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.plan import Plan
from stonechat.render import filters
from stonechat.render.drawings.bike_side import SCALE
from stonechat.render.drawings.labels import Box, Wanted, Zone, place_labels
from stonechat.render.drawings.rig_side import RigScene, rig_scene


def scene(plan: Plan, evaluation: Evaluation, leg: int = 0, variant: int = 0) -> RigScene:
    chosen = plan.variants[variant]
    keys = {carrier.id: "abcdefghijklmnopq"[k] for k, carrier in enumerate(chosen.carriers)}
    return rig_scene(chosen.bike, chosen.carriers, evaluation.ridden.film[leg], keys, chosen.rider.mass)


def test_the_bike_is_drawn_to_scale(demo: Plan, demo_evaluation: Evaluation) -> None:
    drawn, bike = scene(demo, demo_evaluation), demo.variants[0].bike
    rear, front = drawn.wheels
    assert front.x - rear.x == pytest.approx(bike.wheelbase * SCALE)
    assert rear.tyre + 0.5 * rear.tyre_width == pytest.approx(bike.wheel_radius * SCALE)
    assert rear.y + rear.tyre + 0.5 * rear.tyre_width == pytest.approx(drawn.ground_y)


def test_the_plumb_line_divides_the_wheelbase_as_the_axles_share(demo: Plan, demo_evaluation: Evaluation) -> None:
    drawn = scene(demo, demo_evaluation)
    rear, front = drawn.axles
    share = (drawn.gravity[0] - rear.x) / (front.x - rear.x)
    assert share == pytest.approx(front.share) and rear.share + front.share == pytest.approx(1.0)


@pytest.mark.parametrize("variant", [0, 1, 2])
def test_everything_lies_on_the_sheet_and_no_labels_touch(demo: Plan, variant: int) -> None:
    evaluation = evaluate(demo, demo.variants[variant].id)
    for leg in range(0, len(evaluation.ridden.timetable.legs), 7):
        drawn = scene(demo, evaluation, leg, variant)
        boxes = [label.box for label in drawn.labels]
        for k, box in enumerate(boxes):
            assert box.x >= 0 and box.x + box.width <= drawn.width
            assert box.y >= 0 and box.y + box.height <= drawn.height
            assert not any(box.meets(other) for other in boxes[k + 1 :])
        for shape in drawn.carriers:
            assert shape.box.x >= 0 and shape.box.x + shape.box.width <= drawn.width
            assert shape.level_y - shape.box.y + 1e-9 >= 0


def test_the_level_in_a_carrier_is_its_fill(demo: Plan, demo_evaluation: Evaluation) -> None:
    drawn = scene(demo, demo_evaluation)
    states = {state.carrier.id: state for state in demo_evaluation.ridden.film[0].carriers}
    for shape in drawn.carriers:
        if shape.id in states:
            assert shape.level_height / shape.box.height == pytest.approx(min(1.0, states[shape.id].fill))


def test_a_carrier_over_its_limit_and_one_not_mounted_are_told_apart(demo: Plan) -> None:
    carriers = tuple(
        replace(c, load_limit=0.1) if c.id == "seat" else replace(c, mounted=c.id != "pouch")
        for c in demo.variants[0].carriers
    )
    changed = demo.with_variant(replace(demo.variants[0], carriers=carriers))
    shapes = {shape.id: shape for shape in scene(changed, evaluate(changed, "a")).carriers}
    assert shapes["seat"].state == "over" and "over" in shapes["seat"].words
    assert shapes["pouch"].state == "off" and "not mounted" in shapes["pouch"].words


boxes = st.builds(Box, x=st.floats(0, 600), y=st.floats(0, 300), width=st.floats(10, 200), height=st.floats(10, 120))
zones = st.builds(
    Zone, x=st.floats(0, 700), y=st.floats(0, 400), align=st.sampled_from(["left", "middle", "right"]),
    step=st.sampled_from([36.0, -36.0]), inside=st.booleans(),
)  # fmt: skip


@given(st.lists(st.tuples(boxes, zones, st.text("abc ", min_size=1, max_size=18)), max_size=8))
def test_labels_never_touch_wherever_they_want_to_go(entries: list[tuple[Box, Zone, str]]) -> None:
    wanted = [
        Wanted(ids=(str(k),), first=text, second="0.42 kg", state="free", shape=box, zone=zone)
        for k, (box, zone, text) in enumerate(entries)
    ]
    placed = place_labels(wanted, 760.0, 460.0)
    for k, label in enumerate(placed):
        assert not any(label.box.meets(other.box) for other in placed[k + 1 :])


@pytest.mark.parametrize(
    ("filter_", "value", "expected"),
    [
        (filters.minutes_signed, 4.2, "+4:12"),
        (filters.minutes_signed, -0.8, "−0:48"),
        (filters.minutes_signed, 0.001, "±0:00"),
        (filters.minutes_signed, -125.0, "−2 h 05"),
        (filters.duration, 9_060.0, "2 h 31"),
        (filters.duration, float("nan"), "–"),
        (filters.distance_km, 1_140_000.0, "1\u202f140 km"),
        (filters.mass_g, 0.0425, "42 g"),
        (filters.litres, 0.0035, "3.5 l"),
        (filters.kcal, 1_084.0, "1\u202f080 kcal"),
        (filters.percent, 0.441, "44 %"),
        (filters.temperature, -2.4, "−2 °C"),
        (filters.temperature, -0.2, "0 °C"),
        (filters.clock, datetime(2027, 9, 28, 3, 40), "Tue 03:40"),
    ],
)
def test_quantities_carry_unit_and_sign(filter_, value: object, expected: str) -> None:  # type: ignore[no-untyped-def]
    assert filter_(value) == expected
