"""Rhythm: rider, hours, timetable."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from stonechat.services import editing
from stonechat.web.contexts.rhythm import rhythm_view
from stonechat.web.desk import Room, workspace_of
from stonechat.web.forms.binding import bind
from stonechat.web.forms.rhythm import RhythmForm
from stonechat.web.respond import after_change, show
from stonechat.web.rooms.common import SentForm

ROOM = Room(key="rhythm", name="Rhythm", letter="h", build=rhythm_view)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")


@router.post("/rhythm")
def set_rhythm(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Set rider and hours."""
    form = bind(RhythmForm, sent.fields)
    desk = sent.desk(request, plan_id, variant_id, "rhythm", forms={"rhythm": form})
    if form.value is None:
        return show(request, desk, status=422)
    rider, rhythm = form.value.to_core(desk.variant.rider, desk.variant.rhythm)
    opened = editing.set_rider(
        workspace_of(request), plan_id, variant_id, revision=sent.revision, rider=rider, rhythm=rhythm
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "rhythm", opened))
