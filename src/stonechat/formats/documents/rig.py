"""The bike and its carriers."""

from typing import Annotated, Literal

from pydantic import field_validator, model_validator

from stonechat.core.line.surface import TYRES
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import PLACES, SIDES, TAKES, Carrier
from stonechat.formats.documents.part import Id, Name, Part, limit, one_of
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
    "wheel_radius", "wheelbase", "chainstay", "bottom_bracket_drop", "stack", "reach", "head_tube", "seat_tube",
    "saddle_height", "fork_rake", "crank",
)  # fmt: skip


class BikeDocument(Part):
    """A bike by its measures."""

    name: Name
    mass_kg: Annotated[float, limit("bike_mass")]
    wheel_radius_mm: Annotated[float, limit("wheel_radius", 1e3)]
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
    fork_rake_mm: Annotated[float, limit("fork_rake", 1e3)]
    fork_travel_mm: Annotated[float, limit("travel", 1e3)] = 0.0
    crank_mm: Annotated[float, limit("crank", 1e3)]
    bars: Literal["drop", "flat"] = "drop"
    aero_bars: bool = True
    tyre: str = "gravel"

    @field_validator("tyre")
    @classmethod
    def _known(cls, value: str) -> str:
        return one_of(value, TYRES, "tyre")

    @classmethod
    def of(cls, bike: Bike) -> "BikeDocument":
        """Return the document of a bike."""
        lengths = {f"{name}_mm": mm_from_m(getattr(bike, name)) for name in (*_BIKE_MM, "fork_travel")}
        return cls(
            name=bike.name,
            mass_kg=bike.mass,
            head_angle_deg=bike.head_angle,
            seat_angle_deg=bike.seat_angle,
            bars="flat" if bike.bars == "flat" else "drop",
            aero_bars=bike.aero_bars,
            tyre=bike.tyre,
            **lengths,
        )

    def core(self) -> Bike:
        """Return the bike."""
        lengths = {name: m_from_mm(getattr(self, f"{name}_mm")) for name in (*_BIKE_MM, "fork_travel")}
        return Bike(
            name=self.name,
            mass=self.mass_kg,
            head_angle=self.head_angle_deg,
            seat_angle=self.seat_angle_deg,
            bars=self.bars,
            aero_bars=self.aero_bars,
            tyre=self.tyre,
            **lengths,
        )


class CarrierDocument(Part):
    """A carrier."""

    id: Id
    name: Name
    place: str
    side: str = "centre"
    capacity_l: Annotated[float, limit("carrier_volume", 1e3)]
    load_limit_kg: Annotated[float, limit("carrier_limit")]
    mass_g: Annotated[float, limit("carrier_mass", 1e3)]
    longest_mm: Annotated[float, limit("carrier_length", 1e3)]
    dry: bool = True
    access: Literal["riding", "foot", "off"] = "off"
    open_time_s: Annotated[float, limit("open_time")] = 1.0
    drag_cm2: Annotated[float, limit("drag", 1e4)] = 0.0
    drag_fill_cm2_per_l: Annotated[float, limit("drag_fill", 10.0)] = 0.0
    takes: list[str] = ["items"]
    sway_lever_mm: Annotated[float, limit("lever", 1e3)] = 0.0
    steadiness: Annotated[float, limit("steadiness")] = 1.0
    mounted: bool = True

    @model_validator(mode="after")
    def _known(self) -> "CarrierDocument":
        one_of(self.place, PLACES, "place")
        one_of(self.side, SIDES, "side")
        for entry in self.takes:
            one_of(entry, TAKES, "kind of load")
        return self

    @classmethod
    def of(cls, carrier: Carrier) -> "CarrierDocument":
        """Return the document of a carrier."""
        return cls(
            id=carrier.id,
            name=carrier.name,
            place=carrier.place,
            side=carrier.side,
            capacity_l=l_from_m3(carrier.capacity),
            load_limit_kg=carrier.load_limit,
            mass_g=g_from_kg(carrier.mass),
            longest_mm=mm_from_m(carrier.longest),
            dry=carrier.dry,
            access=carrier.access,
            open_time_s=carrier.open_time,
            drag_cm2=cm2_from_m2(carrier.drag),
            drag_fill_cm2_per_l=round(carrier.drag_fill * 10.0, 9),
            takes=sorted(carrier.takes),
            sway_lever_mm=mm_from_m(carrier.sway_lever),
            steadiness=carrier.steadiness,
            mounted=carrier.mounted,
        )

    def core(self) -> Carrier:
        """Return the carrier."""
        return Carrier(
            id=self.id,
            name=self.name,
            place=self.place,
            side=self.side,
            capacity=m3_from_l(self.capacity_l),
            load_limit=self.load_limit_kg,
            mass=kg_from_g(self.mass_g),
            longest=m_from_mm(self.longest_mm),
            dry=self.dry,
            access=self.access,
            open_time=self.open_time_s,
            drag=m2_from_cm2(self.drag_cm2),
            drag_fill=self.drag_fill_cm2_per_l / 10.0,
            takes=frozenset(self.takes),
            sway_lever=m_from_mm(self.sway_lever_mm),
            steadiness=self.steadiness,
            mounted=self.mounted,
        )
