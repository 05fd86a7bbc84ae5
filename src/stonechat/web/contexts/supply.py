"""What the Supply room shows."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.ledger.timetable import Leg
from stonechat.core.plan.plan import START
from stonechat.core.supply.carry import cannot_be_missed
from stonechat.render.measures import chart_units
from stonechat.web.contexts.window import Window, window
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm, start_values
from stonechat.web.forms.supply import SupplyForm


@dataclass(frozen=True, kw_only=True)
class SupplyRow:
    """A leg: what is needed, carried, and set by hand."""

    leg: Leg
    stop_id: str
    water_need: float  # l
    water_leaving: float  # l
    water_arriving: float  # l
    water_short: float  # l
    water_until: float  # l
    food_need: float  # kcal
    food_leaving: float  # kcal
    food_short: float  # kcal
    fills_water: bool
    buys_food: bool
    must: bool
    by_hand: bool
    mass: float  # kg
    is_current: bool
    edit_address: str
    use_address: str


@dataclass(frozen=True, kw_only=True)
class SupplyView:
    """The Supply room."""

    rows: Window[SupplyRow]
    water_capacity: float  # l
    water_total: float  # l
    food_total: float  # kcal
    heaviest: SupplyRow
    lightest: SupplyRow
    food_density: float  # kcal/kg
    reserve: float  # l
    load_address: str
    form: BoundForm[SupplyForm] | None
    form_address: str
    editing: str
    close_address: str


def supply_view(desk: Desk) -> SupplyView:
    """Return what the Supply room shows."""
    ridden, variant = desk.evaluation.ridden, desk.variant
    rows = tuple(_row(desk, k) for k in range(len(ridden.timetable.legs)))
    editing = next((row.stop_id for row in rows if row.stop_id == desk.look.open), "")
    return SupplyView(
        rows=window(desk, rows, desk.leg),
        water_capacity=ridden.provisions.capacity,
        water_total=float(ridden.provisions.water.needs.sum()),
        food_total=float(ridden.provisions.food.needs.sum()),
        heaviest=max(rows, key=lambda row: row.mass),
        lightest=min(rows, key=lambda row: row.mass),
        food_density=variant.supply.food_density,
        reserve=variant.supply.water_reserve,
        load_address=desk.do("load.json", rev=desk.opened.revision),
        form=_form(desk, editing),
        form_address=desk.do("supply", editing) if editing else "",
        editing=editing,
        close_address=desk.at(),
    )


def _row(desk: Desk, k: int) -> SupplyRow:
    ridden, supply = desk.evaluation.ridden, desk.variant.supply
    leg = ridden.timetable.legs[k]
    stop = ridden.timetable.visits[k - 1].stop if k else None
    stop_id = stop.id if stop else START
    water, food = ridden.provisions.water, ridden.provisions.food
    return SupplyRow(
        leg=leg,
        stop_id=stop_id,
        water_need=float(water.needs[k]),
        water_leaving=float(water.leaving[k]),
        water_arriving=float(water.arriving[k]),
        water_short=float(water.short[k]),
        water_until=float(water.until[k]),
        food_need=float(food.needs[k]),
        food_leaving=float(food.leaving[k]),
        food_short=float(food.short[k]),
        fills_water=bool(water.refilled[k]),
        buys_food=bool(food.refilled[k]),
        must=bool(cannot_be_missed(water, ridden.provisions.capacity)[k]),
        by_hand=stop_id in supply.water_by_stop or stop_id in supply.food_by_stop,
        mass=ridden.film[k].mass,
        is_current=k == desk.leg,
        edit_address=desk.at(open=stop_id, leg=k),
        use_address=desk.do("stops", stop_id, "use") if stop else "",
    )


def _form(desk: Desk, editing: str) -> BoundForm[SupplyForm] | None:
    if "supply" in desk.forms:
        return desk.forms["supply"]
    if not editing:
        return None
    supply = desk.variant.supply
    values = {"water_l": supply.water_by_stop.get(editing), "food_kcal": supply.food_by_stop.get(editing)}
    return start_values(SupplyForm, values)


def load_curve(desk: Desk) -> dict[str, object]:
    """Return mass, water and food along the route for the chart: each falls on the way and jumps at a refill."""
    ridden = desk.evaluation.ridden
    km: list[float] = []
    curves: dict[str, list[float]] = {"mass_kg": [], "water_l": [], "food_kg": []}
    density = desk.variant.supply.food_density
    for k, leg in enumerate(ridden.timetable.legs):
        water = (float(ridden.provisions.water.leaving[k]), float(ridden.provisions.water.arriving[k]))
        food = (float(ridden.provisions.food.leaving[k]) / density, float(ridden.provisions.food.arriving[k]) / density)
        mass = ridden.film[k].mass
        for end, place in enumerate((leg.start + 1.0, leg.end)):
            km.append(round(place / 1000.0, 3))
            curves["water_l"].append(round(water[end], 2))
            curves["food_kg"].append(round(food[end], 2))
            curves["mass_kg"].append(round(mass - (water[0] - water[end]) - (food[0] - food[end]), 2))
    marks = [{"km": round(leg.start / 1000.0, 1), "name": leg.start_name} for leg in ridden.timetable.legs]
    heights = np.interp(np.array(km) * 1000.0, ridden.way.profile.distances, ridden.way.profile.heights)
    return {
        "km": km,
        **curves,
        "height_m": [round(float(h), 0) for h in heights],
        "stops": marks,
        "units": chart_units(),
    }
