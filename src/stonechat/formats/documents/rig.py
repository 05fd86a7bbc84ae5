"""The bike and its carriers."""

import math
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from stonechat.core.line.surface import TYRES
from stonechat.core.rig.bike import (
    BOSSES,
    CHARGE_PORTS,
    FRONT_LIGHTS,
    REAR_LIGHTS,
    SADDLE_NOSE,
    TYRE_HEIGHT,
    Bike,
)
from stonechat.core.rig.carrier import DRINKS, DRYNESS, FREEZES, LOSSES, SIDES, TAKES, USES, Carrier
from stonechat.core.rig.places import PLACES
from stonechat.formats.documents.part import Id, Name, OneOf, Part, limit, same_named
from stonechat.units import (
    cm2_from_m2,
    g_from_kg,
    kg_from_g,
    l_from_m3,
    m2_from_cm2,
    m3_from_l,
    m_from_mm,
    mm_from_m,
)

_BIKE_MM = (
    "rim", "tyre_width", "wheelbase", "chainstay", "bottom_bracket_drop", "stack", "reach", "head_tube", "seat_tube",
    "saddle_height", "saddle_setback", "fork_rake", "fork_travel", "rear_travel", "dropper_travel", "crank", "stem",
    "bar_width",
)  # fmt: skip
_BIKE_PLAIN = (
    "name", "bars", "aero_bars", "tyre", "tubeless", "gear_least", "frame", "dynamo", "electronic", "front_light",
    "rear_light", "charge_port",
)  # fmt: skip
_CARRIER_MM = ("shift", "longest", "mouth", "length", "width", "height", "sway_lever")
_CARRIER_PLAIN = (
    "id", "name", "kind", "place", "side", "capacity_by_hand", "dryness", "access", "drag_by_hand",
    "drag_coefficient", "shield", "shield_low", "shield_high", "steadiness", "steadied_by", "quick_off", "loss",
    "freezes", "drink", "mounted",
)  # fmt: skip


class BikeDocument(Part):
    """A bike by its measures."""

    name: Name
    mass_kg: Annotated[float, limit("bike_mass")]
    front_share: Annotated[float, limit("front_share")] = 0.475
    rim_mm: Annotated[float, limit("rim", 1e3)]
    tyre_width_mm: Annotated[float, limit("tyre_width", 1e3)]
    wheelbase_mm: Annotated[float, limit("wheelbase", 1e3)]
    chainstay_mm: Annotated[float, limit("chainstay", 1e3)]
    bottom_bracket_drop_mm: Annotated[float, limit("bottom_bracket_drop", 1e3)]
    head_angle_deg: Annotated[float, limit("frame_angle")]
    seat_angle_deg: Annotated[float, limit("frame_angle")]
    stack_mm: Annotated[float, limit("stack", 1e3)]
    reach_mm: Annotated[float, limit("reach", 1e3)]
    head_tube_mm: Annotated[float, limit("head_tube", 1e3)]
    seat_tube_mm: Annotated[float, limit("seat_tube", 1e3)]
    saddle_height_mm: Annotated[float, limit("saddle_height", 1e3)]
    saddle_setback_mm: Annotated[float, limit("saddle_setback", 1e3)]
    fork_rake_mm: Annotated[float, limit("fork_rake", 1e3)]
    fork_travel_mm: Annotated[float, limit("travel", 1e3)] = 0.0
    rear_travel_mm: Annotated[float, limit("travel", 1e3)] = 0.0
    dropper_travel_mm: Annotated[float, limit("travel", 1e3)] = 0.0
    crank_mm: Annotated[float, limit("crank", 1e3)]
    stem_mm: Annotated[float, limit("stem", 1e3)] = 85.0
    bars: Literal["drop", "flat"] = "drop"
    bar_width_mm: Annotated[float, limit("bar_width", 1e3)] = 440.0
    aero_bars: bool = True
    tyre: Annotated[str, OneOf(TYRES, "tyre")] = "gravel"
    bosses: list[Annotated[str, OneOf(BOSSES, "set of bosses")]] = []
    tubeless: bool = True
    gear_least: Annotated[float, limit("gear")] = 0.75
    frame: Literal["metal", "carbon"] = "metal"
    dynamo: bool = False
    electronic: bool = False
    front_light: Annotated[str, OneOf(FRONT_LIGHTS, "place of the front light")] = "crown"
    rear_light: Annotated[str, OneOf(REAR_LIGHTS, "place of the rear light")] = "post"
    charge_port: Annotated[str, OneOf(CHARGE_PORTS, "place of the charge port")] = "none"

    @model_validator(mode="after")
    def _possible(self) -> "BikeDocument":
        if self.saddle_height_mm <= abs(self.saddle_setback_mm) + 200.0:
            raise ValueError("the saddle lies too far back for its height")
        if self.chainstay_mm <= abs(self.bottom_bracket_drop_mm):
            raise ValueError("the bottom-bracket drop is longer than the chainstay")
        return self

    @classmethod
    def of(cls, bike: Bike) -> "BikeDocument":
        """Return the document of a bike."""
        lengths = {f"{name}_mm": mm_from_m(getattr(bike, name)) for name in _BIKE_MM}
        return cls(
            mass_kg=bike.mass,
            front_share=bike.front_share,
            head_angle_deg=bike.head_angle,
            seat_angle_deg=bike.seat_angle,
            bosses=sorted(bike.bosses),
            **same_named(bike, _BIKE_PLAIN),
            **lengths,
        )

    def core(self) -> Bike:
        """Return the bike."""
        lengths: dict[str, Any] = {name: m_from_mm(getattr(self, f"{name}_mm")) for name in _BIKE_MM}
        return Bike(
            mass=self.mass_kg,
            front_share=self.front_share,
            head_angle=self.head_angle_deg,
            seat_angle=self.seat_angle_deg,
            bosses=frozenset(self.bosses),
            **same_named(self, _BIKE_PLAIN),
            **lengths,
        )


class CarrierDocument(Part):
    """A carrier."""

    id: Id
    name: Name
    kind: Annotated[str, Field(max_length=40)] = "own"
    place: Annotated[str, OneOf(PLACES, "place")]
    side: Annotated[str, OneOf(SIDES, "side")] = "centre"
    shift_mm: Annotated[float, limit("shift", 1e3)] = 0.0
    capacity_l: Annotated[float, limit("carrier_volume", 1e3)]
    capacity_least_l: Annotated[float, limit("carrier_volume_least", 1e3)] = 0.0
    capacity_by_hand: bool = True
    load_limit_kg: Annotated[float, limit("carrier_limit")]
    mass_g: Annotated[float, limit("carrier_mass", 1e3)]
    longest_mm: Annotated[float, limit("carrier_length", 1e3)]
    mouth_mm: Annotated[float, limit("mouth", 1e3)] = 0.0
    length_mm: Annotated[float, limit("carrier_box", 1e3)] = 0.0
    width_mm: Annotated[float, limit("carrier_box", 1e3)] = 0.0
    height_mm: Annotated[float, limit("carrier_box", 1e3)] = 0.0
    dryness: Annotated[str, OneOf(DRYNESS, "dryness")] = "dry"
    access: Literal["riding", "foot", "off"] = "off"
    open_time_s: Annotated[float, limit("open_time")] = 1.0
    gloves_time_s: Annotated[float, limit("open_time")] = 0.0
    drag_cm2: Annotated[float, limit("drag", 1e4)] = 0.0
    drag_fill_cm2_per_l: Annotated[float, limit("drag_fill", 10.0)] = 0.0
    drag_by_hand: bool = True
    drag_coefficient: Annotated[float, limit("drag_coefficient")] = 0.9
    shield: Annotated[float, limit("shield")] = 1.0
    shield_low: Annotated[float, limit("shield")] = 0.9
    shield_high: Annotated[float, limit("shield")] = 1.1
    takes: list[Annotated[str, OneOf(TAKES, "kind of load")]] = ["items"]
    sway_lever_mm: Annotated[float, limit("lever", 1e3)] = 0.0
    steadiness: Annotated[float, limit("steadiness")] = 1.0
    steadied_by: Annotated[str, Field(max_length=80)] = ""
    quick_off: bool = False
    loss: Annotated[str, OneOf(LOSSES, "risk of loss")] = "low"
    freezes: Annotated[str, OneOf(FREEZES, "exposure to frost")] = "open"
    drink: Annotated[str, OneOf(DRINKS, "drink")] = "either"
    uses: list[Annotated[str, OneOf(USES, "thing to take up")]] = []
    mounted: bool = True

    @model_validator(mode="after")
    def _within(self) -> "CarrierDocument":
        if self.capacity_least_l > self.capacity_l + 1e-9:
            raise ValueError("rolled small it cannot hold more than full")
        return self

    @classmethod
    def of(cls, carrier: Carrier) -> "CarrierDocument":
        """Return the document of a carrier."""
        return cls(
            capacity_l=l_from_m3(carrier.capacity),
            capacity_least_l=l_from_m3(carrier.capacity_least),
            load_limit_kg=carrier.load_limit,
            mass_g=g_from_kg(carrier.mass),
            open_time_s=carrier.open_time,
            gloves_time_s=carrier.gloves_time,
            drag_cm2=cm2_from_m2(carrier.drag),
            drag_fill_cm2_per_l=round(carrier.drag_fill * 10.0, 9),
            takes=sorted(carrier.takes),
            uses=sorted(carrier.uses),
            **same_named(carrier, _CARRIER_PLAIN),
            **{f"{name}_mm": mm_from_m(getattr(carrier, name)) for name in _CARRIER_MM},
        )

    def core(self) -> Carrier:
        """Return the carrier."""
        lengths: dict[str, Any] = {name: m_from_mm(getattr(self, f"{name}_mm")) for name in _CARRIER_MM}
        return Carrier(
            capacity=m3_from_l(self.capacity_l),
            capacity_least=m3_from_l(self.capacity_least_l),
            load_limit=self.load_limit_kg,
            mass=kg_from_g(self.mass_g),
            open_time=self.open_time_s,
            gloves_time=self.gloves_time_s,
            drag=m2_from_cm2(self.drag_cm2),
            drag_fill=self.drag_fill_cm2_per_l / 10.0,
            takes=frozenset(self.takes),
            uses=frozenset(self.uses),
            **same_named(self, _CARRIER_PLAIN),
            **lengths,
        )


def upgraded_bike(old: dict[str, Any]) -> dict[str, Any]:
    """Return a bike of version 1 as version 2 tells it: the wheel by rim and tyre, the saddle by its tip.

    The wheel keeps its radius, the saddle its place, the charge port and the bosses are what was usual.
    """
    new = dict(old)
    radius = float(new.pop("wheel_radius_mm"))
    rim = next((r for r in (622.0, 584.0, 507.0, 406.0) if radius - r / 2 >= 0.85 * 18.0), 305.0)
    back = math.cos(math.radians(float(old["seat_angle_deg"]))) * float(old["saddle_height_mm"])
    new |= {
        "rim_mm": rim,
        "tyre_width_mm": round((radius - rim / 2) / TYRE_HEIGHT, 3),
        "saddle_setback_mm": round(min(max(back - 1e3 * SADDLE_NOSE, -150.0), 250.0), 3),
        "bosses": ["down_tube", "fork_left", "fork_right", "seat_tube", "under_down_tube"],
        "bar_width_mm": 440.0 if old.get("bars", "drop") == "drop" else 740.0,
    }
    return new


def upgraded_carrier(old: dict[str, Any]) -> dict[str, Any]:
    """Return a carrier of version 1 as version 2 tells it; its drag and capacity stay as they were typed."""
    new = {key: value for key, value in old.items() if key != "dry"}
    return {**new, "dryness": "dry" if old.get("dry", True) else "open"}
