"""Cards: what is printed and what is taken along as a file."""

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import Response

from stonechat.errors import NotFound
from stonechat.formats.device_course import write_calendar, write_fit_course, write_tcx_course
from stonechat.render.documents.print_set import page_picture
from stonechat.services import exchange, sharing
from stonechat.services.devices import all_tables, appointments, device_course
from stonechat.services.history import change_plan
from stonechat.services.late import start_late
from stonechat.services.variant import change_variant
from stonechat.web.call import Call, Change, changing, reading
from stonechat.web.contexts.cards import (
    EMERGENCY,
    PACK,
    cards_view,
    pack_answer,
    pack_making,
    pack_neighbour,
    pack_of,
    pages_of,
    printed,
)
from stonechat.web.desk import Look, Room
from stonechat.web.forms.binding import bind
from stonechat.web.forms.cards import EmergencyForm, PrintForm
from stonechat.web.respond import download, part

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="cards", name="Cards", letter="p", build=cards_view, router=router)
Here = Annotated[Call, Depends(reading("cards"))]
Changed = Annotated[Change, Depends(changing("cards"))]
_PDF = "application/pdf"
_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@router.get("/cards.pdf")
def cards_pdf(call: Here) -> Response:
    """Give the chosen cards as PDF."""
    desk = call.desk()
    return download(printed(desk), name=f"{desk.opened.plan.name}-cards.pdf", media_type=_PDF)


@router.get("/cards-pages")
def cards_pages(call: Here) -> Response:
    """Show the pages of the print."""
    pages, more = pages_of(call.desk())
    return part("cards/_pages.html", pages=pages, more=more)


@router.get("/cards-page/{number}")
def cards_page(call: Here, number: int) -> Response:
    """Give one page of the print as a picture."""
    try:
        data = page_picture(printed(call.desk()), number - 1)
    except IndexError:
        raise NotFound(f"The print has no page {number}. Load the page again.", subject=str(number)) from None
    return Response(data, media_type="image/png", headers={"Cache-Control": "private, max-age=600"})


@router.post("/cards-print")
def set_print(call: Changed) -> Response:
    """Choose what is printed, and how."""
    form = bind(PrintForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"print": form})
    rule = form.value.rule()
    opened = change_variant(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        label="chose what is printed",
        change=lambda variant: replace(variant, printing=rule),
    )
    return call.answer(opened)


@router.post("/cards-emergency")
def set_emergency(call: Changed) -> Response:
    """Keep what the emergency page says."""
    form = bind(EmergencyForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"emergency": form}, look=Look(tab=EMERGENCY))
    words = form.value.words()
    opened = change_plan(
        call.workspace,
        call.plan_id,
        revision=call.revision,
        label="wrote the emergency page",
        change=lambda plan: replace(plan, emergency=words),
    )
    return call.answer(opened, look=Look(tab=EMERGENCY))


@router.get("/course.fit")
def course_fit(call: Here) -> Response:
    """Give the course with its stops for a device, as FIT."""
    desk = call.desk()
    data = write_fit_course(device_course(desk.opened.plan, desk.evaluation.ridden))
    return download(data, name=f"{desk.opened.plan.name}.fit", media_type="application/octet-stream")


@router.get("/course.tcx")
def course_tcx(call: Here) -> Response:
    """Give the course with its stops for a device, as TCX."""
    desk = call.desk()
    data = write_tcx_course(device_course(desk.opened.plan, desk.evaluation.ridden))
    return download(data, name=f"{desk.opened.plan.name}.tcx", media_type="application/xml")


@router.get("/timetable.ics")
def calendar(call: Here) -> Response:
    """Give the timetable as a calendar."""
    desk = call.desk()
    entries = appointments(desk.opened.plan, desk.variant, desk.evaluation.ridden)
    data = write_calendar(desk.opened.plan.name, entries, desk.evaluation.ridden.way.start)
    return download(data, name=f"{desk.opened.plan.name}.ics", media_type="text/calendar")


@router.get("/tables.xlsx")
def tables(call: Here) -> Response:
    """Give every table as one workbook."""
    desk = call.desk()
    data = all_tables(desk.opened.plan, desk.evaluation.ridden)
    return download(data, name=f"{desk.opened.plan.name}-tables.xlsx", media_type=_XLSX)


@router.post("/pack-make")
def make_pack(call: Changed) -> Response:
    """Make the pack, in the background."""
    start_late(call.workspace, call.plan_id, call.variant_id)
    return call.answer(look=Look(tab=PACK))


@router.get("/pack-making")
def watch_pack(call: Here) -> Response:
    """Tell how far the pack is; asked for again and again until it is there."""
    desk = call.desk(look=Look(tab=PACK))
    return call.part(desk, "cards/_making.html", pack=pack_making(desk))


@router.get("/pack.html")
def pack_file(call: Here) -> Response:
    """Give the offline pack as one file."""
    desk = call.desk()
    return download(pack_of(desk).html, name=f"{desk.opened.plan.name}-pack.html", media_type="text/html")


@router.get("/pack/")
def pack(call: Here) -> Response:
    """Show the offline pack, which its worker keeps for when there is no network."""
    return pack_answer(call.desk())


@router.get("/pack/{part}")
def pack_part(call: Here, part: str) -> Response:
    """Give what the pack's page asks for beside itself."""
    return pack_neighbour(part, call.opened.plan.name)


@router.post("/cards-share")
def share(call: Changed) -> Response:
    """Make a link by which somebody may look at this variant."""
    sharing.make_share(call.workspace, call.opened, call.variant_id)
    return call.answer(look=Look(tab=PACK), note="The link is made. Whoever has it sees this variant as it stands.")


@router.post("/cards-share/{token}/back")
def take_back(call: Changed, token: str) -> Response:
    """Take a link back."""
    sharing.take_back(call.workspace, call.plan_id, token)
    return call.answer(look=Look(tab=PACK), note="The link shows nothing any more.")


@router.get("/plan.json")
def plan_json(call: Here) -> Response:
    """Give the plan as an open document."""
    opened = call.opened
    return download(exchange.export_json(opened), name=f"{opened.plan.name}.json", media_type="application/json")
