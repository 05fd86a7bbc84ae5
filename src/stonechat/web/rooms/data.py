"""The rider's data: where it lies, how to keep a copy, how to be rid of it."""

from datetime import date
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from stonechat.errors import InvalidInput
from stonechat.services import custody
from stonechat.web.addresses import DATA, PLANS, manual_address
from stonechat.web.desk import workspace_of
from stonechat.web.respond import download, go_back, page
from stonechat.web.rooms.common import SentForm

router = APIRouter()


@router.get(DATA)
def data_page(request: Request) -> Response:
    """Show what is held, and what can be done with it."""
    return _page(request)


def _page(request: Request, *, error: str = "", status: int = 200) -> Response:
    workspace = workspace_of(request)
    return page(
        "plans/data.html",
        status=status,
        held=custody.holdings(workspace),
        place=workspace.place,
        word=custody.WORD,
        error=error,
        addresses={"files": f"{DATA}/files", "delete": f"{DATA}/delete", "manual": manual_address("data")},
    )


@router.get(DATA + "/files")
def files(request: Request) -> Response:
    """Give everything out as files."""
    data = custody.everything_as_files(workspace_of(request))
    return download(data, name=f"stonechat-{date.today():%Y-%m-%d}.zip", media_type="application/zip")


@router.post(DATA + "/delete")
def delete(request: Request, sent: SentForm) -> Response:
    """Delete everything for good."""
    try:
        custody.delete_everything(workspace_of(request), sent.text("word"))
    except InvalidInput as exc:
        return _page(request, error=exc.message, status=422)
    return go_back(PLANS, "Everything is deleted.")


@router.post(PLANS + "/{plan_id}/forget")
def forget(request: Request, plan_id: UUID) -> Response:
    """Delete a plan for good."""
    name = custody.forget_plan(workspace_of(request), plan_id)
    return go_back(PLANS, f"{name} is gone for good.")
