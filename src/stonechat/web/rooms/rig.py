"""Rig: the bike and its carriers."""

from dataclasses import replace
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from stonechat.core.rig.carrier import Carrier
from stonechat.errors import InvalidInput
from stonechat.formats.numbers import parse_number
from stonechat.services import rigging
from stonechat.services.editing import carrier_named
from stonechat.services.history import open_plan
from stonechat.web.contexts.rig import BIKE, START, rig_view
from stonechat.web.desk import UNNAMED, Look, Room, look_at, workspace_of
from stonechat.web.forms.binding import bind
from stonechat.web.forms.rig import BikeForm, CarrierForm, StartForm
from stonechat.web.respond import after_change, show
from stonechat.web.rooms.common import SentForm

ROOM = Room(key="rig", name="Rig", letter="r", build=rig_view)
_BLANK = Carrier(id="new", name="new", place="frame", capacity=0.001, load_limit=1.0, mass=0.0, longest=0.1)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")


@router.post("/bike")
def measure(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Set the bike's measures."""
    form = bind(BikeForm, sent.fields)
    if form.value is None:
        desk = sent.desk(request, plan_id, variant_id, "rig", look=Look(tab=BIKE), forms={"bike": form})
        return show(request, desk, status=422)
    bike = form.value.to_core()
    opened = rigging.set_bike(workspace_of(request), plan_id, variant_id, revision=sent.revision, bike=bike)
    return after_change(request, sent.desk(request, plan_id, variant_id, "rig", opened))


@router.post("/bike/start")
def begin(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Draw a bike from three entries; its measures are open for correcting then."""
    form = bind(StartForm, sent.fields)
    if form.value is None:
        desk = sent.desk(request, plan_id, variant_id, "rig", look=Look(tab=START), forms={"start": form})
        return show(request, desk, status=422)
    opened = rigging.set_bike(
        workspace_of(request),
        plan_id,
        variant_id,
        revision=sent.revision,
        bike=form.value.to_core(),
        label="drew another bike",
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "rig", opened, look=Look(tab=BIKE)))


@router.post("/carriers/{carrier_id}")
def change_carrier(request: Request, plan_id: UUID, variant_id: str, carrier_id: str, sent: SentForm) -> Response:
    """Change a carrier, or add one."""
    workspace = workspace_of(request)
    form = bind(CarrierForm, sent.fields)
    desk = sent.desk(request, plan_id, variant_id, "rig", look=look_at(carrier_id), forms={"carrier": form})
    if form.value is None:
        return show(request, desk, status=422)
    is_new = carrier_id == UNNAMED
    base = _BLANK if is_new else carrier_named(desk.variant, carrier_id)
    carrier = form.value.to_core(base)
    opened = rigging.set_carrier(
        workspace,
        plan_id,
        variant_id,
        revision=sent.revision,
        carrier=replace(carrier, id="") if is_new else carrier,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "rig", opened))


@router.post("/catalogue")
def add_kind(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Hang something from the catalogue on the bike."""
    opened = rigging.add_kind(
        workspace_of(request), plan_id, variant_id, revision=sent.revision, kind=sent.text("kind")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "rig", opened))


@router.post("/carriers")
def several(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Mount, take off, copy or remove several carriers at once."""
    workspace = workspace_of(request)
    opened = rigging.change_carriers(
        workspace,
        open_plan(workspace, plan_id),
        variant_id,
        revision=sent.revision,
        carrier_ids=sent.texts("carrier"),
        how=sent.text("how"),
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "rig", opened))


@router.post("/carriers/{carrier_id}/put")
def put(request: Request, plan_id: UUID, variant_id: str, carrier_id: str, sent: SentForm) -> Response:
    """Hang a carrier elsewhere, or shift it."""
    workspace = workspace_of(request)
    try:
        shift = parse_number(sent.text("shift") or "0", unit="mm") / 1e3
    except InvalidInput as exc:
        raise InvalidInput(f"The shift is no length. {exc.message}", subject="shift") from exc
    opened = rigging.put_carrier(
        workspace,
        open_plan(workspace, plan_id),
        variant_id,
        revision=sent.revision,
        carrier_id=carrier_id,
        place=sent.text("place"),
        side=sent.text("side") or "centre",
        shift=shift,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "rig", opened))


@router.post("/carriers/{carrier_id}/mount")
def mount(request: Request, plan_id: UUID, variant_id: str, carrier_id: str, sent: SentForm) -> Response:
    """Mount a carrier, or take it off."""
    workspace = workspace_of(request)
    opened = rigging.mount_carrier(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, carrier_id=carrier_id
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "rig", opened))


@router.post("/carriers/{carrier_id}/drop")
def drop(request: Request, plan_id: UUID, variant_id: str, carrier_id: str, sent: SentForm) -> Response:
    """Take a carrier out of the rig."""
    workspace = workspace_of(request)
    opened = rigging.drop_carrier(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, carrier_id=carrier_id
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "rig", opened))
