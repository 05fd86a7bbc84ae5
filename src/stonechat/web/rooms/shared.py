"""What somebody with a link sees: the pack of a variant as it stands, and nothing else."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from stonechat.services.sharing import shared_plan
from stonechat.web.addresses import SHARED
from stonechat.web.contexts.cards import pack_answer, pack_neighbour
from stonechat.web.desk import open_desk, workspace_of

router = APIRouter(prefix=SHARED)


@router.get("/{token}/")
def shared(request: Request, token: str) -> Response:
    """Show what a link shows."""
    workspace = workspace_of(request)
    opened, variant_id = shared_plan(workspace, token)
    return pack_answer(open_desk(workspace, opened, variant_id, "cards"))


@router.get("/{token}/{part}")
def shared_part(request: Request, token: str, part: str) -> Response:
    """Give what the page asks for beside itself."""
    opened, _ = shared_plan(workspace_of(request), token)
    return pack_neighbour(part, opened.plan.name)
