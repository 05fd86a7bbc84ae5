"""What the Rig room shows."""

import json
from dataclasses import dataclass, replace

from stonechat.core.kit.along import fixed_drag
from stonechat.core.ledger.loaded import CarrierState
from stonechat.core.load.problem import DRAG_STEP
from stonechat.core.numerics.findings import State
from stonechat.core.rhythm.rider import POSITIONS
from stonechat.core.rig.bike import WHEELBASE_OFF, Bike, wheelbase_by_measures
from stonechat.core.rig.carrier import ACCESS_NAMES, TAKES, Carrier
from stonechat.core.rig.catalogue import CATALOGUE, Kind, places_for
from stonechat.core.rig.clearance import Clearance, clearances
from stonechat.core.rig.fitting import Drag, drags_of
from stonechat.core.rig.geometry import carrier_outline, outline_centre, shift_range
from stonechat.core.rig.places import PLACES
from stonechat.render.drawings.bike_side import Sheet
from stonechat.render.drawings.rig_front import FrontScene, front_scene
from stonechat.render.drawings.rig_side import RigScene, carrier_letters, rig_scene
from stonechat.render.filters import distance_km, time_of_day
from stonechat.web.desk import NEW, UNNAMED, Desk
from stonechat.web.forms.binding import BoundForm, FieldView, start_values
from stonechat.web.forms.rig import BIKE_GROUPS, CARRIER_GROUPS, BikeForm, CarrierForm, StartForm

BIKE = "bike"
START = "start"
MEASURES = "measures"
_PAIRED = frozenset({"fork", "stem", "rack_side", "bar_end"})
Groups = tuple[tuple[str, tuple[FieldView, ...]], ...]


@dataclass(frozen=True, kw_only=True)
class CarrierRow:
    """A carrier in the table."""

    carrier: Carrier
    letter: str
    place: str
    access: str
    takes: str
    drag: float  # m², on this leg
    drawn: Drag  # m², as drawn
    minutes: float  # min: own mass and wind, on this route
    edit_address: str
    mount_address: str
    drop_address: str


@dataclass(frozen=True, kw_only=True)
class RigView:
    """The Rig room."""

    scene: RigScene
    front: FrontScene
    slots: str  # where each carrier may be dragged to, for the script
    leg_name: str
    rows: tuple[CarrierRow, ...]
    clearances: tuple[Clearance, ...]  # those that are not fine, worst first
    fine: tuple[Clearance, ...]
    doubt: str  # what does not agree in the measures
    bike_name: str
    bike_mass: float  # kg
    drag_area: float  # m², of rider and bike with all on this leg
    base_drag_area: float  # m²
    fixed_drag: float  # m², of things fixed on bike and helmet
    base_band: tuple[float, float]  # m²
    start_form: BoundForm[StartForm] | None
    start_address: str
    bike_form: BoundForm[BikeForm] | None
    bike_groups: Groups
    bike_address: str
    carrier_form: BoundForm[CarrierForm] | None
    carrier_groups: Groups
    carrier_address: str
    put_address: str
    editing: str
    catalogue: tuple[Kind, ...]
    several_address: str
    several: tuple[tuple[str, str], ...]  # what can be done with the ticked ones
    catalogue_address: str
    edit_bike_address: str
    edit_start_address: str
    measures_address: str
    measures_shown: bool
    new_address: str
    close_address: str


def scene_of(desk: Desk) -> RigScene:
    """Return the drawing of the bike as it leaves for the current leg."""
    variant, ridden = desk.variant, desk.evaluation.ridden
    return rig_scene(
        variant.bike,
        variant.carriers,
        ridden.film[desk.leg],
        carrier_letters(desk.variant.carriers),
        variant.rider.mass,
        measured=desk.look.tab == MEASURES,
    )


def leg_name(desk: Desk) -> str:
    """Return where the current leg begins, and when."""
    leg = desk.evaluation.ridden.timetable.legs[desk.leg]
    return f"Leaving {leg.start_name} at {distance_km(leg.start)}, {leg.leaves:%A} {time_of_day(leg.leaves)}"


def rig_view(desk: Desk) -> RigView:
    """Return what the Rig room shows."""
    variant, ridden = desk.variant, desk.evaluation.ridden
    load = ridden.film[desk.leg]
    states = {state.carrier.id: state for state in load.carriers}
    letters = carrier_letters(desk.variant.carriers)
    drawn = drags_of(variant.bike, variant.carriers, variant.rider.position)
    found = sorted(clearances(variant.bike, variant.carriers), key=lambda c: (c.state.rank, c.margin))
    bike_form, carrier_form = _bike_form(desk), _carrier_form(desk)
    return RigView(
        scene=scene_of(desk),
        front=front_scene(variant.bike, variant.carriers, variant.rider.position, letters),
        slots=_slots(desk),
        leg_name=leg_name(desk),
        rows=tuple(
            _row(desk, carrier, states.get(carrier.id), letters.get(carrier.id, ""), drawn[carrier.id])
            for carrier in variant.carriers
        ),
        clearances=tuple(entry for entry in found if entry.state != State.FINE),
        fine=tuple(entry for entry in found if entry.state == State.FINE),
        doubt=_doubt(desk),
        bike_name=variant.bike.name,
        bike_mass=variant.bike.mass,
        drag_area=load.drag_area,
        base_drag_area=variant.rider.drag_area,
        fixed_drag=fixed_drag(ridden.aboard_on(desk.leg)),
        base_band=POSITIONS[variant.rider.position][::2],
        start_form=_start_form(desk),
        start_address=desk.do("bike", "start"),
        bike_form=bike_form,
        bike_groups=_groups(bike_form, BIKE_GROUPS),
        bike_address=desk.do("bike"),
        carrier_form=carrier_form,
        carrier_groups=_groups(carrier_form, CARRIER_GROUPS),
        carrier_address=desk.do("carriers", desk.look.open or UNNAMED),
        put_address=desk.do("carriers"),
        editing=desk.look.open,
        catalogue=CATALOGUE,
        several_address=desk.do("carriers"),
        several=(("mount", "Mount"), ("off", "Take off"), ("copy", "Copy"), ("remove", "Remove")),
        catalogue_address=desk.do("catalogue"),
        edit_bike_address=desk.at(tab=BIKE),
        edit_start_address=desk.at(tab=START),
        measures_address=desk.at() if desk.look.tab == MEASURES else desk.at(tab=MEASURES),
        measures_shown=desk.look.tab == MEASURES,
        new_address=desk.at(tab=NEW),
        close_address=desk.at(),
    )


def _doubt(desk: Desk) -> str:
    bike = desk.variant.bike
    other = wheelbase_by_measures(bike)
    if abs(other - bike.wheelbase) <= WHEELBASE_OFF:
        return ""
    return (
        f"The wheelbase is given as {bike.wheelbase * 1000:.0f} mm; chainstay, reach, stack, head angle and rake "
        f"come to {other * 1000:.0f} mm. One of them is off: measure again."
    )


def _groups(form: BoundForm[BikeForm] | BoundForm[CarrierForm] | None, named: object) -> Groups:
    if form is None:
        return ()
    return tuple((title, form.named(*names)) for title, names in named)  # type: ignore[attr-defined]


def _slots(desk: Desk) -> str:
    """Return for each mounted carrier the lines along which it can be dragged, in drawing units."""
    bike = desk.variant.bike
    sheet = Sheet(bike)
    slots: dict[str, list[dict[str, object]]] = {}
    for carrier in desk.variant.carriers:
        if not carrier.mounted or not carrier_outline(bike, carrier):
            continue
        for place in places_for(carrier):
            sides = ("left", "right") if place in _PAIRED and carrier.place in _PAIRED else (carrier.side,)
            slots[carrier.id] = slots.get(carrier.id, []) + [_slot(bike, sheet, carrier, place, side) for side in sides]
    return json.dumps(slots)


def _slot(bike: Bike, sheet: Sheet, carrier: Carrier, place: str, side: str) -> dict[str, object]:
    """Return the line along which a carrier can be dragged in one place."""
    there = replace(carrier, place=place, side=side, shift=0.0)
    shifts = shift_range(bike, there)
    ends = [sheet.at(outline_centre(carrier_outline(bike, replace(there, shift=shift)))) for shift in shifts]
    return {
        "place": place,
        "side": side,
        "words": PLACES[place] + ("" if side == "centre" else f", {side}"),
        "ends": [[round(v, 1) for v in end] for end in ends],
        "shifts_mm": [round(shift * 1e3, 1) for shift in shifts],
        "here": (place, side) == (carrier.place, carrier.side),
        "now_mm": round(carrier.shift * 1e3, 1),
    }


def _row(desk: Desk, carrier: Carrier, state: CarrierState | None, letter: str, drawn: Drag) -> CarrierRow:
    prices = desk.evaluation.ridden.ledger.prices
    drag = 0.0 if state is None else carrier.drag + carrier.drag_fill * state.volume
    return CarrierRow(
        carrier=carrier,
        letter=letter,
        place=PLACES[carrier.place],
        access=ACCESS_NAMES[carrier.access],
        takes=", ".join(TAKES[kind] for kind in TAKES if kind in carrier.takes),
        drag=drag,
        drawn=drawn,
        minutes=0.0 if state is None else carrier.mass * prices.per_kg + drag / DRAG_STEP * prices.per_drag,
        edit_address=desk.at(open=carrier.id),
        mount_address=desk.do("carriers", carrier.id, "mount"),
        drop_address=desk.do("carriers", carrier.id, "drop"),
    )


def _start_form(desk: Desk) -> BoundForm[StartForm] | None:
    if "start" in desk.forms:
        return desk.forms["start"]
    return start_values(StartForm, {"kind": "drop_rigid", "size": "m"}) if desk.look.tab == START else None


def _bike_form(desk: Desk) -> BoundForm[BikeForm] | None:
    if "bike" in desk.forms:
        return desk.forms["bike"]
    return start_values(BikeForm, BikeForm.values(desk.variant.bike)) if desk.look.tab == BIKE else None


def _carrier_form(desk: Desk) -> BoundForm[CarrierForm] | None:
    if "carrier" in desk.forms:
        return desk.forms["carrier"]
    if desk.look.tab == NEW:
        blank = Carrier(id="new", name="", place="frame", capacity=0.001, load_limit=1.0, mass=0.1, longest=0.2)
        shown = {**CarrierForm.values(replace(blank, name="x")), "name": "", "drag_by_hand": False}
        return start_values(CarrierForm, shown)
    found = next((carrier for carrier in desk.variant.carriers if carrier.id == desk.look.open), None)
    return start_values(CarrierForm, CarrierForm.values(found)) if found else None
