"""Supply: which stops are used, water and food by leg."""

from dataclasses import replace
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import Response

from stonechat.core.plan.buying import foods_of
from stonechat.core.plan.limits import LIMITS
from stonechat.core.plan.plan import Supply
from stonechat.core.supply.foods import SHELVES, Food
from stonechat.errors import InvalidInput
from stonechat.formats.numbers import parse_number
from stonechat.services import rhythm as rhythm_service
from stonechat.services import supply as supply_service
from stonechat.services.evaluation import evaluated
from stonechat.services.supplying import elsewhere_of, repacking_of
from stonechat.web.call import Change, changing
from stonechat.web.contexts.food import FOOD
from stonechat.web.contexts.supply import CARRYING, supply_view
from stonechat.web.desk import NEW, UNNAMED, Look, Room
from stonechat.web.forms.binding import bind
from stonechat.web.forms.supply import CarryForm, FoodForm, SupplyForm

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="supply", name="Supply", letter="s", build=supply_view, router=router, legs=True)
Changed = Annotated[Change, Depends(changing("supply"))]
_BOTTLE_MOST = 10.0  # l, of a bottle that is strapped on


@router.post("/supply-choice")
def choose(call: Changed) -> Response:
    """Choose the stops, or stop at every one."""
    opened = supply_service.choose_stops(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, choose=call.text("choose") == "yes"
    )
    return call.answer(opened)


@router.post("/supply-carrying")
def carrying(call: Changed) -> Response:
    """Set what is carried for."""
    form = bind(CarryForm, call.fields)
    if form.value is None:
        return call.refuse(look=Look(tab=CARRYING), forms={"carry": form})
    value = form.value

    def change(supply: Supply) -> Supply:
        return replace(
            supply,
            water_reserve=value.water_reserve_l,
            food_reserve=value.food_reserve_kcal,
            spread=value.spread / 100.0,
            for_climbs=value.for_climbs,
            sweat=value.sweat,
            gut=value.gut_g_h,
            tired=value.tired_h * 3600.0,
        )

    return _carried(call, change)


@router.post("/supply-spread")
def carry_beyond(call: Changed) -> Response:
    """Carry so much beyond the needs."""
    share = _figure(call, "spread", 1.0)
    return _carried(call, lambda supply: replace(supply, spread=share))


def _carried(call: Change, change: "supply_service.Changing") -> Response:
    opened = supply_service.carry_for(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, change=change
    )
    return call.answer(opened)


@router.post("/supply-start")
def start_then(call: Changed) -> Response:
    """Start at another hour."""
    try:
        start = datetime.fromisoformat(call.text("start"))
    except ValueError as exc:
        raise InvalidInput("That is no time to start. Load the page again and choose one of the list.") from exc
    if start.tzinfo is not None or not 1990 <= start.year <= 2100:
        raise InvalidInput("That start is out of reach. Load the page again and choose one of the list.")
    opened = rhythm_service.set_rhythm(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        label="start at another hour",
        change=lambda rhythm: replace(rhythm, start=start),
    )
    return call.answer(opened)


@router.post("/supply-shelves")
def shelves(call: Changed) -> Response:
    """Set what places sell."""
    known = foods_of(call.opened.plan.variant(call.variant_id).supply)
    sold = {key: tuple(food for food in call.texts(f"shelf-{key}") if food in known) for key in SHELVES}
    opened = supply_service.fill_shelves(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, shelves=sold
    )
    return call.answer(opened, look=Look(tab=FOOD))


@router.post("/supply-dishes")
def dishes(call: Changed) -> Response:
    """Set what is eaten on the spot."""
    low, high = LIMITS["meal"]
    eaten = {}
    for name, energy in zip(call.texts("dish"), call.texts("dish_kcal"), strict=False):
        if not name.strip():
            continue
        kcal = parse_number(energy)
        if not low < kcal <= high:
            raise InvalidInput(f"“{name.strip()[:30]}” has {kcal:g} kcal; a dish has more than 0 and up to {high:g}.")
        eaten[name.strip()[:60]] = kcal
    if len(eaten) > supply_service.MOST_FOODS:
        raise InvalidInput(f"A plan knows {supply_service.MOST_FOODS} dishes at most.")
    opened = supply_service.set_dishes(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, dishes=eaten
    )
    return call.answer(opened, look=Look(tab=FOOD))


@router.post("/supply-food/{key}")
def keep_food(call: Changed, key: str) -> Response:
    """Keep a kind of food as its label gives it; `-` stands for a new one."""
    form = bind(FoodForm, call.fields)
    value = form.value
    if value is None:
        return call.refuse(look=Look(tab=FOOD, open=NEW if key == UNNAMED else key), forms={"food": form})
    known = "" if key == UNNAMED else key
    food = Food(
        key=known,
        name=value.name,
        energy=value.energy / 100.0,
        bulk=value.bulk / 100.0,
        carbs=value.carbs / 100.0,
        sodium=value.sodium,
        tires=value.tires_h,
        melts=value.melts,
        freezes=value.freezes,
        wants=value.wants,
    )
    opened = supply_service.keep_food(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, key=known, food=food
    )
    return call.answer(opened, look=Look(tab=FOOD))


@router.post("/supply-food/{key}/usual")
def forget_food(call: Changed, key: str) -> Response:
    """Take a food as is usual, or out of the list."""
    opened = supply_service.forget_food(call.workspace, call.plan_id, call.variant_id, revision=call.revision, key=key)
    return call.answer(opened, look=Look(tab=FOOD))


@router.post("/supply/{stop_id}/buy")
def buy(call: Changed, stop_id: str) -> Response:
    """Buy so much of a food at a stop in any case."""
    energy = parse_number(call.text("kcal") or "0")
    low, high = LIMITS["food"]
    if not low <= energy <= high:
        raise InvalidInput(f"{energy:g} kcal is outside {low:g} to {high:g}. Buy less, or at another stop too.")
    opened = supply_service.buy(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        stop_id=stop_id,
        food=call.text("food"),
        energy=energy,
    )
    return call.answer(opened, look=Look(open=stop_id))


@router.post("/supply/{stop_id}/wish")
def wish(call: Changed, stop_id: str) -> Response:
    """Ride past a stop, stop there, or leave it to the program."""
    opened = supply_service.wish_stop(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        stop_id=stop_id,
        wish=call.text("wish"),
    )
    return call.answer(opened)


@router.post("/supply/{stop_id}/strap")
def strap(call: Changed, stop_id: str) -> Response:
    """Strap a bottle on at a stop."""
    litres = _figure(call, "litres", _BOTTLE_MOST)
    opened = supply_service.strap_bottle(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, stop_id=stop_id, litres=litres
    )
    return call.answer(opened)


@router.post("/supply/{stop_id}/clear")
def clear(call: Changed, stop_id: str) -> Response:
    """Leave a stop to the program again."""
    opened = supply_service.clear_stop(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, stop_id=stop_id
    )
    return call.answer(opened)


@router.post("/supply-repack")
def repack(call: Changed) -> Response:
    """Repack on the way as it pays."""
    ridden = evaluated(call.opened, call.variant_id).ridden
    found = repacking_of(call.opened, call.variant_id)
    opened = supply_service.repack(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        places={move.item: elsewhere_of(ridden, move) for move in found.moves},
    )
    return call.answer(opened)


@router.post("/supply-repack/{item_id}/leave")
def leave_in_place(call: Changed, item_id: str) -> Response:
    """Leave a thing in its usual place all the way."""
    opened = supply_service.leave_in_place(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, item_id=item_id
    )
    return call.answer(opened)


def _figure(call: Change, name: str, most: float) -> float:
    value = parse_number(call.text(name))
    if not 0.0 <= value <= most:
        raise InvalidInput(f"{value:g} is outside 0 to {most:g}. Load the page again and repeat the change.")
    return value


@router.post("/supply/{stop_id}")
def leave_with(call: Changed, stop_id: str) -> Response:
    """Set what to leave a stop with."""
    form = bind(SupplyForm, call.fields)
    if form.value is None:
        desk = call.desk(look=Look(open=stop_id), forms={"supply": form})
        return call.show(desk, status=422)
    opened = supply_service.set_supply(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        stop_id=stop_id,
        water=form.value.water_l,
        food=form.value.food_kcal,
        meal=form.value.meal_kcal,
    )
    return call.answer(opened)
