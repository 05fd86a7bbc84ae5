"""Rig: the bike and its carriers."""

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import Response

from stonechat.core.rig.carrier import Carrier
from stonechat.errors import InvalidInput
from stonechat.formats.numbers import parse_number
from stonechat.services import rig as rig_service
from stonechat.services.variant import carrier_named
from stonechat.web.call import Change, changing
from stonechat.web.contexts.rig import BIKE, START, rig_view
from stonechat.web.desk import UNNAMED, Look, Room, look_at
from stonechat.web.forms.binding import bind
from stonechat.web.forms.rig import BikeForm, CarrierForm, StartForm

_BLANK = Carrier(id="new", name="new", place="frame", capacity=0.001, load_limit=1.0, mass=0.0, longest=0.1)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="rig", name="Rig", letter="r", build=rig_view, router=router)
Changed = Annotated[Change, Depends(changing("rig"))]


@router.post("/bike")
def measure(call: Changed) -> Response:
    """Set the bike's measures."""
    form = bind(BikeForm, call.fields)
    if form.value is None:
        desk = call.desk(look=Look(tab=BIKE), forms={"bike": form})
        return call.show(desk, status=422)
    bike = form.value.to_core()
    opened = rig_service.set_bike(call.workspace, call.plan_id, call.variant_id, revision=call.revision, bike=bike)
    return call.answer(opened)


@router.post("/bike/start")
def begin(call: Changed) -> Response:
    """Draw a bike from three entries; its measures are open for correcting then."""
    form = bind(StartForm, call.fields)
    if form.value is None:
        desk = call.desk(look=Look(tab=START), forms={"start": form})
        return call.show(desk, status=422)
    opened = rig_service.set_bike(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        bike=form.value.to_core(),
        label="drew another bike",
    )
    return call.answer(opened, look=Look(tab=BIKE))


@router.post("/carriers/{carrier_id}")
def change_carrier(call: Changed, carrier_id: str) -> Response:
    """Change a carrier, or add one."""
    form = bind(CarrierForm, call.fields)
    desk = call.desk(look=look_at(carrier_id), forms={"carrier": form})
    if form.value is None:
        return call.show(desk, status=422)
    is_new = carrier_id == UNNAMED
    base = _BLANK if is_new else carrier_named(desk.variant, carrier_id)
    carrier = form.value.to_core(base)
    opened = rig_service.set_carrier(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        carrier=replace(carrier, id="") if is_new else carrier,
    )
    return call.answer(opened)


@router.post("/catalogue")
def add_kind(call: Changed) -> Response:
    """Hang something from the catalogue on the bike."""
    opened = rig_service.add_kind(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, kind=call.text("kind")
    )
    return call.answer(opened)


@router.post("/carriers")
def several(call: Changed) -> Response:
    """Mount, take off, copy or remove several carriers at once."""
    opened = rig_service.change_carriers(
        call.workspace,
        call.opened,
        call.variant_id,
        revision=call.revision,
        carrier_ids=call.texts("carrier"),
        how=call.text("how"),
    )
    return call.answer(opened)


@router.post("/carriers/{carrier_id}/put")
def put(call: Changed, carrier_id: str) -> Response:
    """Hang a carrier elsewhere, or shift it."""
    try:
        shift = parse_number(call.text("shift") or "0", unit="mm") / 1e3
    except InvalidInput as exc:
        raise InvalidInput(f"The shift is no length. {exc.message}", subject="shift") from exc
    opened = rig_service.put_carrier(
        call.workspace,
        call.opened,
        call.variant_id,
        revision=call.revision,
        carrier_id=carrier_id,
        place=call.text("place"),
        side=call.text("side") or "centre",
        shift=shift,
    )
    return call.answer(opened)


@router.post("/carriers/{carrier_id}/mount")
def mount(call: Changed, carrier_id: str) -> Response:
    """Mount a carrier, or take it off."""
    opened = rig_service.mount_carrier(
        call.workspace, call.opened, call.variant_id, revision=call.revision, carrier_id=carrier_id
    )
    return call.answer(opened)


@router.post("/carriers/{carrier_id}/drop")
def drop(call: Changed, carrier_id: str) -> Response:
    """Take a carrier out of the rig."""
    opened = rig_service.drop_carrier(
        call.workspace, call.opened, call.variant_id, revision=call.revision, carrier_id=carrier_id
    )
    return call.answer(opened)
