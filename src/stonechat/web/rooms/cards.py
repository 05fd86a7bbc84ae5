"""Cards: what is printed and what is taken along as a file."""

from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import Response

from stonechat.render.documents.cards import bar_strip, packing_list, packing_pdf, strip_pdf
from stonechat.services import exchange
from stonechat.web.call import Call, reading
from stonechat.web.contexts.cards import cards_view
from stonechat.web.desk import Room
from stonechat.web.respond import download

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="cards", name="Cards", letter="p", build=cards_view, router=router)
Here = Annotated[Call, Depends(reading("cards"))]
_PDF = "application/pdf"


@router.get("/packing-list.pdf")
def packing(call: Here) -> Response:
    """Give the packing list as PDF."""
    desk = call.desk()
    name = desk.opened.plan.name
    data = packing_pdf(packing_list(name, desk.variant, desk.evaluation.ridden))
    return download(data, name=f"{name}-packing-list.pdf", media_type=_PDF)


@router.get("/bar-strip.pdf")
def strip(call: Here) -> Response:
    """Give the bar strip as PDF."""
    desk = call.desk()
    name = desk.opened.plan.name
    data = strip_pdf(bar_strip(name, desk.variant, desk.evaluation.ridden))
    return download(data, name=f"{name}-bar-strip.pdf", media_type=_PDF)


@router.get("/plan.json")
def plan_json(call: Here) -> Response:
    """Give the plan as an open document."""
    opened = call.opened
    return download(exchange.export_json(opened), name=f"{opened.plan.name}.json", media_type="application/json")
