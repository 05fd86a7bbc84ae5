"""Night: warm enough asleep and awake."""

from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import Response

from stonechat.formats.numbers import parse_number
from stonechat.services import night as night_service
from stonechat.web.call import Change, changing
from stonechat.web.contexts.night import night_view
from stonechat.web.desk import Room
from stonechat.web.forms.binding import bind
from stonechat.web.forms.night import ColdForm

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="night", name="Night", letter="n", build=night_view, router=router)
Changed = Annotated[Change, Depends(changing("night"))]


@router.post("/night-cold")
def set_cold(call: Changed) -> Response:
    """Say how cold one runs."""
    form = bind(ColdForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"cold": form})
    opened = night_service.set_runs_cold(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, kelvin=form.value.kelvin
    )
    return call.answer(opened)


@router.post("/night-rest/{number}")
def rest_elsewhere(call: Changed, number: int) -> Response:
    """Take a rest at another place or hour."""
    opened = night_service.rest_elsewhere(
        call.workspace,
        call.opened,
        call.variant_id,
        revision=call.revision,
        number=number,
        stop=call.text("stop"),
        begins=parse_number(call.text("begins")),
    )
    return call.answer(opened)


@router.post("/night-reaches/{item_id}")
def count_reaches(call: Changed, item_id: str) -> Response:
    """Reach for a thing as often as the ladder changes it."""
    opened = night_service.count_reaches(
        call.workspace, call.opened, call.variant_id, revision=call.revision, item_id=item_id
    )
    return call.answer(opened)
