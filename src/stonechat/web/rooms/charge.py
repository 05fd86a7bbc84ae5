"""Charge: every battery by the clock."""

from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import Response

from stonechat.core.plan.power_ways import WAITS
from stonechat.errors import InvalidInput
from stonechat.formats.numbers import parse_number
from stonechat.services import charging as charging_service
from stonechat.web.call import Change, changing
from stonechat.web.contexts.charge import charge_view
from stonechat.web.desk import Room
from stonechat.web.forms.binding import bind
from stonechat.web.forms.charge import RuleForm

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="charge", name="Charge", letter="c", build=charge_view, router=router)
Changed = Annotated[Change, Depends(changing("charge"))]


@router.post("/charge-rule")
def set_rule(call: Changed) -> Response:
    """Charge by a rule."""
    form = bind(RuleForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"rule": form})
    before = call.opened.plan.variant(call.variant_id).charging
    if form.value.hub_when == "legs" and not before.hub_on:
        raise InvalidInput("No legs are named yet: the cheapest rule names them. Choose another time for the hub.")
    opened = charging_service.set_rule(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, rule=form.value.rule(before)
    )
    return call.answer(opened)


@router.post("/charge-best")
def take_best(call: Changed) -> Response:
    """Charge by the cheapest rule."""
    opened = charging_service.take_best(call.workspace, call.opened, call.variant_id, revision=call.revision)
    return call.answer(opened)


@router.post("/charge-stay/{stop_id}")
def stay_longer(call: Changed, stop_id: str) -> Response:
    """Stay longer at a socket."""
    minutes = parse_number(call.text("minutes"))
    if minutes not in WAITS:
        raise InvalidInput(f"{minutes:g} min is none of the halts that were tried. Load the page again.")
    opened = charging_service.stay_longer(
        call.workspace, call.opened, call.variant_id, revision=call.revision, stop_id=stop_id, minutes=minutes
    )
    return call.answer(opened)
