"""Supply: which stops are used, water and food by leg."""

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import Response

from stonechat.core.plan.plan import Supply
from stonechat.errors import InvalidInput
from stonechat.formats.numbers import parse_number
from stonechat.services import supply as supply_service
from stonechat.services.evaluation import evaluated
from stonechat.services.supplying import elsewhere_of, repacking_of
from stonechat.web.call import Change, changing
from stonechat.web.contexts.supply import CARRYING, supply_view
from stonechat.web.desk import Look, Room
from stonechat.web.forms.binding import bind
from stonechat.web.forms.supply import CarryForm, SupplyForm

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
    found = repacking_of(call.opened.plan, call.variant_id, ridden)
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
