"""The forms of the bike and of a carrier."""

from typing import Any

from pydantic import field_validator

from stonechat.core.line.surface import TYRES
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import ACCESS_NAMES, PLACES, TAKES, Carrier
from stonechat.formats.documents.rig import BikeDocument, CarrierDocument
from stonechat.web.forms.binding import Form, choice, figure, text, tick

_ACCESS = {key: ACCESS_NAMES[key] for key in ("riding", "foot", "off")}


class BikeForm(Form):
    """The bike by its measures."""

    name: str = text("Bike", least=1)
    mass_kg: float = figure("Mass, ready to ride", unit="kg", limit="bike_mass")
    stack_mm: float = figure("Stack", unit="mm", limit="stack", factor=1e3)
    reach_mm: float = figure("Reach", unit="mm", limit="reach", factor=1e3)
    seat_tube_mm: float = figure("Seat tube", unit="mm", limit="seat_tube", factor=1e3)
    head_tube_mm: float = figure("Head tube", unit="mm", limit="head_tube", factor=1e3)
    head_angle_deg: float = figure("Head angle", unit="°", limit="frame_angle")
    seat_angle_deg: float = figure("Seat angle", unit="°", limit="frame_angle")
    saddle_height_mm: float = figure(
        "Saddle height", unit="mm", limit="saddle_height", factor=1e3, help="bottom bracket to saddle"
    )
    wheelbase_mm: float = figure("Wheelbase", unit="mm", limit="wheelbase", factor=1e3)
    chainstay_mm: float = figure("Chainstay", unit="mm", limit="chainstay", factor=1e3)
    bottom_bracket_drop_mm: float = figure("Bottom-bracket drop", unit="mm", limit="bottom_bracket_drop", factor=1e3)
    wheel_radius_mm: float = figure("Wheel radius", unit="mm", limit="wheel_radius", factor=1e3, help="with the tyre")
    fork_rake_mm: float = figure("Fork rake", unit="mm", limit="fork_rake", factor=1e3)
    fork_travel_mm: float = figure("Fork travel", unit="mm", limit="travel", factor=1e3, help="0: rigid")
    crank_mm: float = figure("Crank", unit="mm", limit="crank", factor=1e3)
    bars: str = choice("Bars", {"drop": "drop", "flat": "flat"})
    aero_bars: bool = tick("Aero bars")
    tyre: str = choice("Tyres", TYRES)

    @field_validator("bars")
    @classmethod
    def _is_known(cls, value: str) -> str:
        if value not in ("drop", "flat"):
            raise ValueError("Choose drop or flat.")
        return value

    @field_validator("tyre")
    @classmethod
    def _is_a_tyre(cls, value: str) -> str:
        if value not in TYRES:
            raise ValueError("Choose a tyre from the list.")
        return value

    @staticmethod
    def values(bike: Bike) -> dict[str, Any]:
        """Return what the form shows for a bike."""
        return BikeDocument.of(bike).model_dump()

    def to_core(self) -> Bike:
        """Return the bike."""
        return BikeDocument.model_validate(self.model_dump()).core()


class CarrierForm(Form):
    """A carrier's figures."""

    name: str = text("Carrier", least=1)
    place: str = choice("Place", PLACES)
    side: str = choice("Side", {"centre": "middle", "left": "left", "right": "right"})
    capacity_l: float = figure("Capacity", unit="l", limit="carrier_volume", factor=1e3)
    load_limit_kg: float = figure("Load limit", unit="kg", limit="carrier_limit", help="the maker's figure comes first")
    mass_g: float = figure("Own mass", unit="g", limit="carrier_mass", factor=1e3)
    longest_mm: float = figure("Longest thing", unit="mm", limit="carrier_length", factor=1e3)
    access: str = choice("Reached", _ACCESS)
    open_time_s: float = figure("To open", unit="s", limit="open_time", help="zip 1, roll 6, strap 10; estimate")
    drag_cm2: float = figure("Drag, empty", unit="cm²", limit="drag", factor=1e4, help="estimate")
    drag_fill_cm2_per_l: float = figure("Drag by fill", unit="cm²/l", limit="drag_fill", factor=10.0, help="estimate")
    dry: bool = tick("Keeps rain out")
    takes_items: bool = tick("Takes things")
    takes_water: bool = tick("Takes water")
    takes_food: bool = tick("Takes food")

    @field_validator("place")
    @classmethod
    def _is_a_place(cls, value: str) -> str:
        if value not in PLACES:
            raise ValueError("Choose a place from the list.")
        return value

    @field_validator("side", "access")
    @classmethod
    def _is_listed(cls, value: str) -> str:
        if value not in ("centre", "left", "right", *_ACCESS):
            raise ValueError("Choose one from the list.")
        return value

    @staticmethod
    def values(carrier: Carrier) -> dict[str, Any]:
        """Return what the form shows for a carrier."""
        shown = CarrierDocument.of(carrier).model_dump(include=set(CarrierForm.model_fields))
        return {**shown, **{f"takes_{kind}": kind in carrier.takes for kind in TAKES}}

    def to_core(self, carrier: Carrier) -> Carrier:
        """Return the carrier with these figures; one that takes nothing takes things."""
        takes = [kind for kind in TAKES if getattr(self, f"takes_{kind}")] or ["items"]
        given = self.model_dump(exclude={f"takes_{kind}" for kind in TAKES})
        document = CarrierDocument.of(carrier).model_dump()
        return CarrierDocument.model_validate({**document, **given, "takes": takes}).core()
