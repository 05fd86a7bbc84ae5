"""Kit: the things, their masses and prices, and what follows from them."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from stonechat.core.kit.ranges import doubt_of
from stonechat.errors import InvalidInput
from stonechat.render.documents.cards import countdown_pdf
from stonechat.services import editing, exchange, kit_import, shelf, weighing
from stonechat.services.history import open_plan
from stonechat.services.kit_import import Choices
from stonechat.web.contexts.kit import kit_view
from stonechat.web.contexts.kit_judge import countdown_view
from stonechat.web.desk import UNNAMED, Look, Room, look_at, open_desk, workspace_of
from stonechat.web.forms.binding import bind, typed_figure
from stonechat.web.forms.kit import ItemForm
from stonechat.web.forms.weigh import WheelForm
from stonechat.web.respond import after_change, download, show
from stonechat.web.rooms.common import Sent, SentForm

ROOM = Room(key="kit", name="Kit", letter="k", build=kit_view)
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
_MOST_PASTED = 2_000_000
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")


@router.get("/kit.csv")
def kit_csv(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the kit as CSV."""
    opened = open_plan(workspace_of(request), plan_id)
    return download(exchange.export_kit(opened), name=f"{opened.plan.name}-kit.csv", media_type="text/csv")


@router.get("/kit.xlsx")
def kit_xlsx(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the kit as XLSX."""
    opened = open_plan(workspace_of(request), plan_id)
    return download(exchange.export_kit_sheet(opened), name=f"{opened.plan.name}-kit.xlsx", media_type=XLSX)


def _bring(upload_id: object) -> Look:
    return Look(tab="bring", open=str(upload_id))


@router.post("/kit")
def stage(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Keep a table that was sent or pasted, and show what its columns are taken for."""
    pasted = sent.text("pasted")
    if len(pasted) > _MOST_PASTED:
        raise InvalidInput("That is more than a kit list. Paste fewer rows, or send a file.", subject="pasted")
    data = pasted.encode() if pasted.strip() else sent.file("file")
    name = "what was pasted" if pasted.strip() else "the table"
    upload = kit_import.stage_table(workspace_of(request), name, data)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", look=_bring(upload)))


def _choices(sent: Sent) -> Choices:
    columns = []
    for index in range(60):
        if f"field-{index}" not in sent.fields:
            break
        columns.append((sent.text(f"field-{index}"), sent.text(f"unit-{index}")))
    header = sent.text("header_row")
    rows = [int(row) for row in sent.texts("doubtful") if row.isascii() and row.isdigit() and len(row) < 7]
    return Choices(
        columns=tuple(columns),
        header_row=int(header) if header.isascii() and header.isdigit() and len(header) < 4 else None,
        same_name=sent.text("same_name") or "update",
        replace_kit=sent.text("replace_kit") == "yes",
        doubtful=frozenset(rows),
    )


@router.post("/kit/{upload_id}")
def bring(request: Request, plan_id: UUID, variant_id: str, upload_id: UUID, sent: SentForm) -> Response:
    """Show a table by other columns, or take it into the kit."""
    workspace, choices = workspace_of(request), _choices(sent)
    look = _bring(upload_id)
    if sent.text("take") != "yes":
        return show(request, sent.desk(request, plan_id, variant_id, "kit", look=look, carry={"choices": choices}))
    brought = kit_import.bring_in(workspace, open_plan(workspace, plan_id), upload_id, choices, revision=sent.revision)
    words = f"{brought.added} added, {brought.updated} updated, {brought.skipped} left out as they were there."
    if brought.aside:
        rows = "1 row was" if brought.aside == 1 else f"{brought.aside} rows were"
        words += f" {rows} put aside, waiting here with the reasons."
        look = _bring(brought.upload_id)
    else:
        look = Look(tab="bring")
    desk = sent.desk(request, plan_id, variant_id, "kit", brought.opened, look=look, carry={"left_over": words})
    return after_change(request, desk, words)


@router.get("/kit/{upload_id}.csv")
def aside_csv(request: Request, plan_id: UUID, variant_id: str, upload_id: UUID) -> Response:
    """Give a kept table, such as the rows put aside, as CSV."""
    data = kit_import.table_bytes(workspace_of(request), upload_id)
    return download(data, name="rows-put-aside.csv", media_type="text/csv")


@router.post("/items/{item_id}")
def change_item(request: Request, plan_id: UUID, variant_id: str, item_id: str, sent: SentForm) -> Response:
    """Change a thing, or add one; what is hard to believe is asked about once."""
    workspace = workspace_of(request)
    form = bind(ItemForm, sent.fields)
    items = open_plan(workspace, plan_id).plan.items
    item = None
    if form.value is not None:
        try:
            item = form.value.to_core("" if item_id == UNNAMED else item_id, items)
        except InvalidInput as exc:
            form = form.with_error(exc.subject or "", exc.message)
    doubted = item is not None and form.value is not None and not form.value.sure and bool(doubt_of(item))
    if item is not None and doubted:
        form = form.with_error("mass_g", f"{doubt_of(item)} Mend it, or tick “It is so”.")
    if item is None or doubted:
        desk = sent.desk(
            request, plan_id, variant_id, "kit", look=look_at(item_id), forms={"item": form}, carry={"doubted": doubted}
        )
        return show(request, desk, status=422)
    opened = editing.set_item(workspace, plan_id, revision=sent.revision, item=item)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened))


@router.post("/items/{item_id}/drop")
def drop_item(request: Request, plan_id: UUID, variant_id: str, item_id: str, sent: SentForm) -> Response:
    """Take a thing out of the kit."""
    workspace = workspace_of(request)
    opened = editing.drop_item(workspace, open_plan(workspace, plan_id), revision=sent.revision, item=item_id)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened))


@router.post("/items/{item_id}/way")
def set_way(request: Request, plan_id: UUID, variant_id: str, item_id: str, sent: SentForm) -> Response:
    """Let a thing join from a drop box, or be posted home."""
    workspace = workspace_of(request)
    opened = editing.set_way(
        workspace,
        open_plan(workspace, plan_id),
        variant_id,
        revision=sent.revision,
        item=item_id,
        joins=sent.text("joins"),
        posts=sent.text("posts"),
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened, look=Look(open=item_id)))


@router.post("/shelf/take")
def take_from_shelf(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Take a thing of the shelf into this kit."""
    workspace = workspace_of(request)
    opened = open_plan(workspace, plan_id)
    item = shelf.shelf_item(workspace, sent.text("item"), demo=opened.demo)
    opened = editing.take_from_shelf(workspace, opened, revision=sent.revision, item=item)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened, look=Look(tab="shelf")))


@router.post("/shelf/own")
def take_onto_shelf(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Put the things of this plan onto the shelf."""
    workspace = workspace_of(request)
    opened = open_plan(workspace, plan_id)
    shelf.take_onto_shelf(workspace, opened.plan.items, demo=opened.demo)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", look=Look(tab="shelf")))


@router.post("/shelf/drop")
def drop_from_shelf(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Take a thing off the shelf."""
    workspace = workspace_of(request)
    shelf.drop_from_shelf(workspace, sent.text("item"), demo=open_plan(workspace, plan_id).demo)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", look=Look(tab="shelf")))


@router.post("/tick")
def tick(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Tick a task of the countdown, or untick it."""
    opened = editing.tick_task(
        workspace_of(request), plan_id, variant_id, revision=sent.revision, task=sent.text("task")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened, look=Look(tab="countdown")))


@router.get("/countdown.pdf")
def print_countdown(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the countdown as PDF."""
    desk = open_desk(request, plan_id, variant_id, "kit")
    data = countdown_pdf(desk.opened.plan.name, desk.variant, countdown_view(desk).tasks)
    return download(data, name=f"{desk.opened.plan.name}-countdown.pdf", media_type="application/pdf")


@router.post("/job-off")
def drop_job(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Do without a job, or want it again."""
    opened = editing.drop_job(workspace_of(request), plan_id, variant_id, revision=sent.revision, job=sent.text("job"))
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened, look=Look(tab="jobs")))


@router.get("/scale")
def read_scale(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give what the scale shows now."""
    scale = weighing.scale_of(plan_id)
    reading = scale.read()
    return JSONResponse(
        {
            "holds": scale.holds,
            "state": reading.state,
            "mass_g": round(reading.mass * 1e3, 3),
            "words": weighing.words_for(reading, scale),
            "since_s": round(reading.since, 1),
        },
        headers={"Cache-Control": "no-store"},
    )


def _count(sent: Sent) -> int:
    given = sent.text("count") or "1"
    if not given.isascii() or not given.isdigit() or len(given) > 4:
        raise InvalidInput(f"“{given[:20]}” is no count. Write how many lie on the scale.", subject="count")
    return int(given)


@router.post("/scale/put")
def put_on_scale(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Let the simulated hand put something on the scale."""
    opened = open_plan(workspace_of(request), plan_id)
    if sent.text("bag"):
        weighing.put_bag_on(opened, variant_id, sent.text("bag"))
    else:
        weighing.put_on(opened, sent.text("item"), _count(sent))
    look = Look(tab="weigh", open=sent.text("item"))
    if "HX-Request" not in request.headers and sent.text("quiet"):
        return Response(status_code=204)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", look=look))


@router.post("/scale/tare")
def tare_scale(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Set the scale to zero."""
    weighing.scale_of(plan_id).tare()
    if sent.text("quiet"):
        return Response(status_code=204)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", look=Look(tab="weigh")))


@router.post("/scale/choose")
def choose_scale(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Take another scale, or let it misbehave."""
    weighing.choose_scale(plan_id, sent.text("make"), sent.text("trouble"))
    look = Look(tab="weigh", open=sent.text("item"))
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", look=look))


@router.post("/scale/take")
def take_mass(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Take the stable reading for a thing, or a mass typed in, and go to the next."""
    workspace = workspace_of(request)
    typed = sent.text("typed").strip()
    item, count = sent.text("item"), _count(sent)
    mass = typed_figure(typed, "g") / 1e3 if typed else weighing.stable_mass(plan_id, item)
    opened = weighing.weigh_item(
        workspace, open_plan(workspace, plan_id), revision=sent.revision, item_id=item, mass=mass, count=count
    )
    desk = sent.desk(request, plan_id, variant_id, "kit", opened, look=Look(tab="weigh"))
    return after_change(request, desk)


@router.post("/scale/bag")
def weigh_bag(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Hold a packed bag on the scale against the sum of its things."""
    opened = open_plan(workspace_of(request), plan_id)
    typed = sent.text("typed").strip()
    mass = typed_figure(typed, "g") / 1e3 if typed else weighing.stable_mass(plan_id, sent.text("bag"))
    bag = weighing.compare_bag(opened, variant_id, sent.text("bag"), mass)
    return show(
        request, sent.desk(request, plan_id, variant_id, "kit", opened, look=Look(tab="weigh"), carry={"bag": bag})
    )


@router.post("/wheels")
def weigh_wheels(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Keep a weighing at both wheels."""
    form = bind(WheelForm, sent.fields)
    if form.value is None:
        desk = sent.desk(request, plan_id, variant_id, "kit", look=Look(tab="weigh"), forms={"wheels": form})
        return show(request, desk, status=422)
    opened = weighing.add_wheel_load(
        workspace_of(request),
        plan_id,
        variant_id,
        revision=sent.revision,
        what=form.value.what,
        front=form.value.front_kg,
        rear=form.value.rear_kg,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened, look=Look(tab="weigh")))


@router.post("/wheels/correct")
def correct_bike(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Take the bike's mass and axle share from its last bare weighing."""
    workspace = workspace_of(request)
    opened = weighing.correct_bike(workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision)
    return after_change(request, sent.desk(request, plan_id, variant_id, "kit", opened, look=Look(tab="weigh")))
