"""The forms of the bike, of a carrier, and of three entries that draw a believable bike."""

from typing import Any

from pydantic import model_validator

from stonechat.core.line.surface import TYRES
from stonechat.core.rig.bike import (
    BARS,
    BIKE_KINDS,
    BOSSES,
    CHARGE_PORTS,
    FRAMES,
    FRONT_LIGHTS,
    REAR_LIGHTS,
    SIZES,
    Bike,
    usual_bike,
)
from stonechat.core.rig.carrier import ACCESS_NAMES, DRINKS, DRYNESS, FREEZES, LOSSES, TAKES, USES, Carrier
from stonechat.core.rig.places import PLACES
from stonechat.formats.documents.rig import BikeDocument, CarrierDocument
from stonechat.web.forms.binding import Form, choice, figure, text, tick

_ACCESS = {key: ACCESS_NAMES[key] for key in ("riding", "foot", "off")}
_SIDES = {"centre": "middle", "left": "left", "right": "right"}

BIKE_GROUPS = (
    ("Bike", ("name", "mass_kg", "front_share", "rim_mm", "tyre_width_mm", "tyre", "tubeless", "gear_least",
              "frame", "dynamo", "electronic")),
    ("Frame", ("stack_mm", "reach_mm", "seat_tube_mm", "head_tube_mm", "head_angle_deg", "seat_angle_deg",
               "wheelbase_mm", "chainstay_mm", "bottom_bracket_drop_mm", "fork_rake_mm", "crank_mm")),
    ("Rider's points", ("saddle_height_mm", "saddle_setback_mm", "stem_mm", "bars", "bar_width_mm", "aero_bars")),
    ("Travel", ("fork_travel_mm", "rear_travel_mm", "dropper_travel_mm")),
    ("Lights and ports", ("front_light", "rear_light", "charge_port")),
    ("Bosses", tuple(f"boss_{key}" for key in BOSSES)),
)  # fmt: skip
CARRIER_GROUPS = (
    ("Carrier", ("name", "place", "side", "shift_mm", "takes_items", "takes_water", "takes_food", "drink")),
    ("Size", ("capacity_l", "capacity_least_l", "capacity_by_hand", "load_limit_kg", "mass_g", "longest_mm",
              "mouth_mm", "length_mm", "width_mm", "height_mm")),
    ("Getting at it", ("dryness", "access", "open_time_s", "gloves_time_s", "quick_off")),
    ("Wind", ("drag_by_hand", "drag_cm2", "drag_fill_cm2_per_l", "drag_coefficient", "shield", "shield_low",
              "shield_high")),
    ("Hold", ("sway_lever_mm", "steadiness", "steadied_by", "loss", "freezes")),
    ("Takes up", tuple(f"use_{key}" for key in USES)),
)  # fmt: skip


class StartForm(Form):
    """Three entries from which a bike is drawn."""

    kind: str = choice("Kind of bike", BIKE_KINDS)
    size: str = choice("Size", SIZES)
    saddle_height_mm: float | None = figure(
        "Saddle height", unit="mm", limit="saddle_height", factor=1e3, optional=True, help="empty: usual for the size"
    )

    def to_core(self) -> Bike:
        """Return the bike."""
        height = None if self.saddle_height_mm is None else round(self.saddle_height_mm) / 1e3
        return usual_bike(self.kind, self.size, height)


class BikeForm(Form):
    """The bike by its measures."""

    name: str = text("Bike", least=1)
    mass_kg: float = figure("Mass, ready to ride", unit="kg", limit="bike_mass")
    front_share: float = figure("Front wheel's share", limit="front_share", help="of the bare bike; weigh it in Kit")
    rim_mm: float = figure("Rim", unit="mm", limit="rim", factor=1e3, help="bead seat: 622, 584, 559")
    tyre_width_mm: float = figure("Tyre width", unit="mm", limit="tyre_width", factor=1e3)
    tyre: str = choice("Tyres roll as", TYRES)
    stack_mm: float = figure("Stack", unit="mm", limit="stack", factor=1e3)
    reach_mm: float = figure("Reach", unit="mm", limit="reach", factor=1e3)
    seat_tube_mm: float = figure("Seat tube", unit="mm", limit="seat_tube", factor=1e3)
    head_tube_mm: float = figure("Head tube", unit="mm", limit="head_tube", factor=1e3)
    head_angle_deg: float = figure("Head angle", unit="°", limit="frame_angle")
    seat_angle_deg: float = figure("Seat angle", unit="°", limit="frame_angle")
    wheelbase_mm: float = figure("Wheelbase", unit="mm", limit="wheelbase", factor=1e3)
    chainstay_mm: float = figure("Chainstay", unit="mm", limit="chainstay", factor=1e3)
    bottom_bracket_drop_mm: float = figure("Bottom-bracket drop", unit="mm", limit="bottom_bracket_drop", factor=1e3)
    fork_rake_mm: float = figure("Fork rake", unit="mm", limit="fork_rake", factor=1e3)
    crank_mm: float = figure("Crank", unit="mm", limit="crank", factor=1e3)
    saddle_height_mm: float = figure(
        "Saddle height", unit="mm", limit="saddle_height", factor=1e3, help="bottom bracket to saddle"
    )
    saddle_setback_mm: float = figure(
        "Saddle setback", unit="mm", limit="saddle_setback", factor=1e3, help="tip behind the bottom bracket, level"
    )
    stem_mm: float = figure("Stem", unit="mm", limit="stem", factor=1e3)
    bars: str = choice("Bars", BARS)
    bar_width_mm: float = figure("Bar width", unit="mm", limit="bar_width", factor=1e3, help="hoods, or end to end")
    aero_bars: bool = tick("Clip-on aero bars")
    fork_travel_mm: float = figure("Fork travel", unit="mm", limit="travel", factor=1e3, help="0: rigid")
    rear_travel_mm: float = figure("Rear wheel travel", unit="mm", limit="travel", factor=1e3, help="0: no shock")
    dropper_travel_mm: float = figure("Dropper travel", unit="mm", limit="travel", factor=1e3, help="0: fixed post")
    tubeless: bool = tick("Tubeless", help="sealant and plugs; else tubes")
    gear_least: float = figure("Smallest gear", limit="gear", help="teeth in front over teeth behind: 30 / 40 is 0.75")
    frame: str = choice("Frame", FRAMES)
    dynamo: bool = tick("Hub dynamo")
    electronic: bool = tick("Electronic shifting")
    front_light: str = choice("Front light", FRONT_LIGHTS)
    rear_light: str = choice("Rear light and reflector", REAR_LIGHTS)
    charge_port: str = choice("Charge port", CHARGE_PORTS)
    boss_down_tube: bool = tick("inside, on the down tube")
    boss_seat_tube: bool = tick("inside, on the seat tube")
    boss_top_tube: bool = tick("on the top tube")
    boss_under_down_tube: bool = tick("under the down tube")
    boss_fork_left: bool = tick("left fork leg")
    boss_fork_right: bool = tick("right fork leg")
    boss_rack: bool = tick("rear rack")

    @model_validator(mode="after")
    def _fits_together(self) -> "BikeForm":
        if self.saddle_height_mm <= abs(self.saddle_setback_mm) + 200.0:
            raise ValueError("The saddle lies too far back for its height. Check height and setback.")
        if self.chainstay_mm <= abs(self.bottom_bracket_drop_mm):
            raise ValueError("The bottom-bracket drop is longer than the chainstay. Check both.")
        return self

    def _document(self) -> BikeDocument:
        given = self.model_dump(exclude={f"boss_{key}" for key in BOSSES})
        bosses = [key for key in BOSSES if getattr(self, f"boss_{key}")]
        return BikeDocument.model_validate({**given, "bosses": bosses})

    @staticmethod
    def values(bike: Bike) -> dict[str, Any]:
        """Return what the form shows for a bike."""
        shown = BikeDocument.of(bike).model_dump(exclude={"bosses"})
        return {**shown, **{f"boss_{key}": key in bike.bosses for key in BOSSES}}

    def to_core(self) -> Bike:
        """Return the bike."""
        return self._document().core()


class CarrierForm(Form):
    """A carrier's figures."""

    name: str = text("Carrier", least=1)
    place: str = choice("Place", PLACES)
    side: str = choice("Side", _SIDES)
    shift_mm: float = figure("Shifted along its place", unit="mm", limit="shift", factor=1e3)
    takes_items: bool = tick("Takes things")
    takes_water: bool = tick("Takes water")
    takes_food: bool = tick("Takes food")
    drink: str = choice("Water in it", DRINKS, optional="either")
    capacity_l: float = figure("Capacity, full", unit="l", limit="carrier_volume", factor=1e3)
    capacity_least_l: float = figure("Rolled small", unit="l", limit="carrier_volume_least", factor=1e3)
    capacity_by_hand: bool = tick("Capacity as typed", help="else a frame bag's comes from the triangle")
    load_limit_kg: float = figure("Load limit", unit="kg", limit="carrier_limit", help="the maker's figure comes first")
    mass_g: float = figure("Own mass", unit="g", limit="carrier_mass", factor=1e3)
    longest_mm: float = figure("Longest thing", unit="mm", limit="carrier_length", factor=1e3)
    mouth_mm: float = figure("Mouth", unit="mm", limit="mouth", factor=1e3, help="widest thing through; 0: any")
    length_mm: float = figure("Length, full", unit="mm", limit="carrier_box", factor=1e3, help="0: usual here")
    width_mm: float = figure("Width across", unit="mm", limit="carrier_box", factor=1e3, help="0: usual here")
    height_mm: float = figure("Height", unit="mm", limit="carrier_box", factor=1e3, help="0: usual here")
    dryness: str = choice("Rain", DRYNESS)
    access: str = choice("Reached", _ACCESS)
    open_time_s: float = figure("To open", unit="s", limit="open_time", help="zip 1, roll 6, strap 10; estimate")
    gloves_time_s: float = figure("More with gloves", unit="s", limit="open_time", help="estimate")
    quick_off: bool = tick("Comes off in one grip")
    drag_by_hand: bool = tick("Drag as typed", help="else from the drawing")
    drag_cm2: float = figure("Drag, empty", unit="cm²", limit="drag", factor=1e4)
    drag_fill_cm2_per_l: float = figure("Drag by fill", unit="cm²/l", limit="drag_fill", factor=10.0)
    drag_coefficient: float = figure("Drag coefficient", limit="drag_coefficient", help="estimate")
    shield: float = figure("Shielded", limit="shield", help="share of its wind met anyway; estimate")
    shield_low: float = figure("Shielded, least", limit="shield")
    shield_high: float = figure("Shielded, most", limit="shield")
    sway_lever_mm: float = figure("Hangs behind its hold", unit="mm", limit="lever", factor=1e3, help="0: no sway")
    steadiness: float = figure("Steadiness", limit="steadiness", help="1 a strap, 3 rigid")
    steadied_by: str = text("Steadied by")
    loss: str = choice("Risk of loss", LOSSES)
    freezes: str = choice("In frost", FREEZES)
    use_down_tube: bool = tick("down-tube bosses")
    use_seat_tube: bool = tick("seat-tube bosses")
    use_top_tube: bool = tick("top-tube bosses")
    use_under_down_tube: bool = tick("bosses under the down tube")
    use_fork_left: bool = tick("left fork bosses")
    use_fork_right: bool = tick("right fork bosses")
    use_rack: bool = tick("rack eyelets")
    use_bar_middle: bool = tick("middle of the bars")
    use_saddle_rails: bool = tick("saddle rails")
    use_steerer: bool = tick("spacers under the stem")

    @model_validator(mode="after")
    def _fits_together(self) -> "CarrierForm":
        if not self.shield_low <= self.shield <= self.shield_high:
            raise ValueError("The shielding lies between its least and its most. Check the three figures.")
        return self

    @staticmethod
    def values(carrier: Carrier) -> dict[str, Any]:
        """Return what the form shows for a carrier."""
        shown = CarrierDocument.of(carrier).model_dump(include=set(CarrierForm.model_fields))
        ticks = {f"takes_{kind}": kind in carrier.takes for kind in TAKES}
        return {**shown, **ticks, **{f"use_{key}": key in carrier.uses for key in USES}}

    def to_core(self, carrier: Carrier) -> Carrier:
        """Return the carrier with these figures; one that takes nothing takes things."""
        takes = [kind for kind in TAKES if getattr(self, f"takes_{kind}")] or ["items"]
        uses = [key for key in USES if getattr(self, f"use_{key}")]
        ticks = {f"takes_{kind}" for kind in TAKES} | {f"use_{key}" for key in USES}
        document = CarrierDocument.of(carrier).model_dump()
        given = self.model_dump(exclude=ticks)
        given["capacity_least_l"] = min(self.capacity_least_l, self.capacity_l)  # rolled small follows the size
        return CarrierDocument.model_validate({**document, **given, "takes": takes, "uses": uses}).core()
