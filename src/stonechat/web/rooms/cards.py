"""Cards: what is printed and what is taken along as a file."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from stonechat.render.documents.cards import bar_strip, packing_list, packing_pdf, strip_pdf
from stonechat.services import exchange
from stonechat.services.history import open_plan
from stonechat.web.contexts.cards import cards_view
from stonechat.web.desk import Room, open_desk, workspace_of
from stonechat.web.respond import download

ROOM = Room(key="cards", name="Cards", letter="p", build=cards_view)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
_PDF = "application/pdf"


@router.get("/packing-list.pdf")
def packing(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the packing list as PDF."""
    desk = open_desk(request, plan_id, variant_id, "cards")
    name = desk.opened.plan.name
    data = packing_pdf(packing_list(name, desk.variant, desk.evaluation.ridden))
    return download(data, name=f"{name}-packing-list.pdf", media_type=_PDF)


@router.get("/bar-strip.pdf")
def strip(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the bar strip as PDF."""
    desk = open_desk(request, plan_id, variant_id, "cards")
    name = desk.opened.plan.name
    data = strip_pdf(bar_strip(name, desk.variant, desk.evaluation.ridden))
    return download(data, name=f"{name}-bar-strip.pdf", media_type=_PDF)


@router.get("/plan.json")
def plan_json(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the plan as an open document."""
    opened = open_plan(workspace_of(request), plan_id)
    return download(exchange.export_json(opened), name=f"{opened.plan.name}.json", media_type="application/json")
