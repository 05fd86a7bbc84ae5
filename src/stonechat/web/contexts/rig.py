"""What the Rig room shows."""

from dataclasses import dataclass

from stonechat.core.ledger.state import CarrierState
from stonechat.core.load.problem import DRAG_STEP
from stonechat.core.rig.carrier import ACCESS_NAMES, PLACES, TAKES, Carrier
from stonechat.render.drawings.rig_side import RigScene, rig_scene
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm, start_values
from stonechat.web.forms.rig import BikeForm, CarrierForm

NEW = "new"
BIKE = "bike"
_LETTERS = "abcdefgijklmnopqrstuvwxyz"  # not h: typed twice it means home


@dataclass(frozen=True, kw_only=True)
class CarrierRow:
    """A carrier in the table."""

    carrier: Carrier
    letter: str
    place: str
    access: str
    takes: str
    drag: float  # m², on this leg
    minutes: float  # min: own mass and wind, on this route
    edit_address: str
    mount_address: str


@dataclass(frozen=True, kw_only=True)
class RigView:
    """The Rig room."""

    scene: RigScene
    leg_name: str
    rows: tuple[CarrierRow, ...]
    bike_name: str
    bike_mass: float  # kg
    drag_area: float  # m², of rider and bike with all on this leg
    base_drag_area: float  # m²
    bike_form: BoundForm[BikeForm] | None
    bike_address: str
    carrier_form: BoundForm[CarrierForm] | None
    carrier_address: str
    editing: str
    edit_bike_address: str
    new_address: str
    close_address: str


def carrier_letters(desk: Desk) -> dict[str, str]:
    """Return the letter of each mounted carrier, as `m` and the letter move a thing there."""
    mounted = [carrier for carrier in desk.variant.carriers if carrier.mounted]
    return {carrier.id: letter for carrier, letter in zip(mounted, _LETTERS, strict=False)}


def scene_of(desk: Desk) -> RigScene:
    """Return the drawing of the bike as it leaves for the current leg."""
    variant, ridden = desk.variant, desk.evaluation.ridden
    return rig_scene(variant.bike, variant.carriers, ridden.film[desk.leg], carrier_letters(desk), variant.rider.mass)


def leg_name(desk: Desk) -> str:
    """Return where the current leg begins, and when."""
    leg = desk.evaluation.ridden.legs[desk.leg]
    return f"Leaving {leg.start_name}, km {leg.start / 1000:.0f}, {leg.leaves:%A %H:%M}"


def rig_view(desk: Desk) -> RigView:
    """Return what the Rig room shows."""
    variant, ridden = desk.variant, desk.evaluation.ridden
    load = ridden.film[desk.leg]
    states = {state.carrier.id: state for state in load.carriers}
    letters = carrier_letters(desk)
    return RigView(
        scene=scene_of(desk),
        leg_name=leg_name(desk),
        rows=tuple(
            _row(desk, carrier, states.get(carrier.id), letters.get(carrier.id, "")) for carrier in variant.carriers
        ),
        bike_name=variant.bike.name,
        bike_mass=variant.bike.mass,
        drag_area=load.drag_area,
        base_drag_area=variant.rider.drag_area,
        bike_form=_bike_form(desk),
        bike_address=desk.do("bike"),
        carrier_form=_carrier_form(desk),
        carrier_address=desk.do("carriers", desk.edit or NEW),
        editing=desk.edit,
        edit_bike_address=desk.at(edit=BIKE),
        new_address=desk.at(edit=NEW),
        close_address=desk.at(),
    )


def _row(desk: Desk, carrier: Carrier, state: CarrierState | None, letter: str) -> CarrierRow:
    prices = desk.evaluation.ridden.prices
    drag = 0.0 if state is None else carrier.drag + carrier.drag_fill * state.volume
    return CarrierRow(
        carrier=carrier,
        letter=letter,
        place=PLACES[carrier.place],
        access=ACCESS_NAMES[carrier.access],
        takes=", ".join(TAKES[kind] for kind in TAKES if kind in carrier.takes),
        drag=drag,
        minutes=0.0 if state is None else carrier.mass * prices.per_kg + drag / DRAG_STEP * prices.per_drag,
        edit_address=desk.at(edit=carrier.id),
        mount_address=desk.do("carriers", carrier.id, "mount"),
    )


def _bike_form(desk: Desk) -> BoundForm[BikeForm] | None:
    if "bike" in desk.forms:
        return desk.forms["bike"]
    return start_values(BikeForm, BikeForm.values(desk.variant.bike)) if desk.edit == BIKE else None


def _carrier_form(desk: Desk) -> BoundForm[CarrierForm] | None:
    if "carrier" in desk.forms:
        return desk.forms["carrier"]
    if desk.edit == NEW:
        return start_values(CarrierForm, {"takes_items": True, "dry": True, "open_time_s": 1.0, "mass_g": 100.0})
    found = next((carrier for carrier in desk.variant.carriers if carrier.id == desk.edit), None)
    return start_values(CarrierForm, CarrierForm.values(found)) if found else None
