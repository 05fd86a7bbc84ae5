"""The drawing on bikes of many sizes and with carriers of many kinds, over random measures."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.ledger.loaded import CarrierState, LegLoad
from stonechat.core.load.balance import balance
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.geometry import bike_position, carrier_position, rider_position
from stonechat.core.rig.places import PLACES
from stonechat.render.drawings.rig_side import STATE_WORDS, carrier_state, rig_scene
from tests.core.rig.test_geometry import BIKES

SIZES = {
    "frame_upper": 0.003, "top_tube_front": 0.001, "top_tube_rear": 0.0008, "stem": 0.001, "bar": 0.0055,
    "bar_front": 0.002, "fork": 0.001, "down_tube": 0.0009, "seat": 0.007, "bottle_down": 0.00075,
    "bottle_seat": 0.00075, "body": 0.0014,
}  # fmt: skip


def carriers(scale: float = 1.0) -> tuple[Carrier, ...]:
    """One carrier at each place, a left and a right one where there are two."""
    made = []
    for place, size in SIZES.items():
        for side in ("left", "right") if place in ("fork", "stem") else ("centre",):
            name = PLACES[place] if side == "centre" else f"{PLACES[place]}, {side}"
            made.append(
                Carrier(
                    id=f"{place}-{side}", name=name, place=place, side=side, capacity=size * scale, load_limit=2.0,
                    mass=0.1, longest=0.3,
                )
            )  # fmt: skip
    return tuple(made)


def load_of(bike: Bike, hung: tuple[Carrier, ...], fill: float) -> LegLoad:
    """Return a load that fills every carrier alike."""
    states = tuple(
        CarrierState(carrier=c, items=(), volume=fill * c.capacity, mass=fill, water=0.0, food=0.0) for c in hung
    )
    masses = [(72.0, *rider_position(bike)), (10.0, *bike_position(bike))]
    masses += [(state.mass, *carrier_position(bike, state.carrier)) for state in states]
    return LegLoad(
        carriers=states, balance=balance(masses, bike.wheelbase), steering=0.0, sway=0.0, mass=90.0, drag_area=0.4,
        bag_drag=0.0,
        food_left_over=0.0,
    )  # fmt: skip


def check(bike: Bike, hung: tuple[Carrier, ...], fill: float) -> None:
    """Hold a drawing against what must be true of any."""
    scene = rig_scene(bike, hung, load_of(bike, hung, fill), {}, 72.0)
    boxes = [label.box for label in scene.labels]
    for k, box in enumerate(boxes):
        assert box.x >= 0 and box.x + box.width <= scene.width and box.y >= 0
        assert box.y + box.height <= scene.height
        assert not any(box.meets(other) for other in boxes[k + 1 :])
    assert {shape.id for shape in scene.carriers} == {carrier.id for carrier in hung}
    assert {key for label in scene.labels for key in label.ids} == {carrier.id for carrier in hung}
    for shape in scene.carriers:
        assert shape.path.startswith("M") and shape.path.endswith("Z") and "nan" not in shape.path
        assert shape.box.y + shape.box.height <= scene.ground_y + 1.0
        assert shape.level_height <= shape.box.height + 1e-9
    rear, front = scene.wheels
    assert rear.x < scene.gravity[0] < front.x and scene.gravity[1] < rear.y


@pytest.mark.parametrize("bike", BIKES)
@pytest.mark.parametrize("fill", [0.0, 0.5, 1.0])
def test_bikes_of_four_sizes_hold_every_carrier(bike: Bike, fill: float) -> None:
    check(bike, carriers(), fill)


measures = st.fixed_dictionaries(
    {
        "stack": st.floats(0.50, 0.68), "reach": st.floats(0.34, 0.47), "head_tube": st.floats(0.09, 0.24),
        "seat_tube": st.floats(0.40, 0.60), "saddle_height": st.floats(0.62, 0.82), "wheelbase": st.floats(0.99, 1.20),
        "head_angle": st.floats(66.0, 73.0), "seat_angle": st.floats(72.0, 76.0),
    }
)  # fmt: skip


@given(measures, st.floats(0.4, 1.6), st.floats(0.0, 1.0), st.booleans())
@settings(max_examples=40)
def test_any_bike_can_be_drawn(given_measures: dict[str, float], scale: float, fill: float, flat: bool) -> None:
    bike = replace(Bike(), bars="flat" if flat else "drop", aero_bars=not flat, **given_measures)
    check(bike, carriers(scale), fill)


@pytest.mark.parametrize(
    ("fill", "mass", "expected"),
    [
        (0.2, 0.1, "free"),
        (0.7, 0.1, "well"),
        (0.95, 0.1, "tight"),
        (1.05, 0.1, "over"),
        (0.2, 1.9, "tight"),
        (0.2, 2.1, "over"),
    ],
)
def test_a_carrier_is_judged_by_the_worse_of_room_and_limit(fill: float, mass: float, expected: str) -> None:
    bag = carriers()[0]
    state = CarrierState(carrier=bag, items=(), volume=fill * bag.capacity, mass=mass, water=0.0, food=0.0)
    assert carrier_state(state) == expected and STATE_WORDS[expected]


def test_a_full_bottle_is_not_called_tight() -> None:
    bottle = replace(carriers()[-2], takes=frozenset({"water"}))
    full = CarrierState(carrier=bottle, items=(), volume=0.0, mass=0.75, water=0.75, food=0.0)
    assert carrier_state(full) == "well"
    assert carrier_state(None) == "off"
