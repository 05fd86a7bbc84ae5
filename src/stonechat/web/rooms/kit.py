"""Kit: the things, their masses and prices, and what follows from them."""

from collections.abc import Iterable, Iterator
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends
from fastapi.responses import JSONResponse, Response

from stonechat.core.kit.item import Item
from stonechat.core.kit.ranges import doubt_of
from stonechat.core.kit.sheet import MOST_COLUMNS
from stonechat.errors import InvalidInput
from stonechat.formats.kit_fields import KNOWN
from stonechat.render.documents.cards import countdown_pdf
from stonechat.services import exchange
from stonechat.services.kit import bring as tables
from stonechat.services.kit import many, pair, shelf, things, weighing
from stonechat.services.kit.bring import Choices
from stonechat.text import listed
from stonechat.web.call import Call, Change, changing, reading
from stonechat.web.contexts.kit.judge import countdown_view
from stonechat.web.contexts.kit.things import kit_view
from stonechat.web.desk import UNNAMED, Look, Room, look_at
from stonechat.web.forms.binding import BoundForm, bind, typed_figure
from stonechat.web.forms.kit import SETTABLE, ItemForm
from stonechat.web.forms.weigh import WheelForm
from stonechat.web.respond import after_change, download

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
_MOST_PASTED = 2_000_000
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="kit", name="Kit", letter="k", build=kit_view, router=router)
Here = Annotated[Call, Depends(reading("kit"))]
Changed = Annotated[Change, Depends(changing("kit"))]


@router.get("/kit.csv")
def kit_csv(call: Here) -> Response:
    """Give the kit as CSV."""
    opened = call.opened
    return download(exchange.export_kit(opened), name=f"{opened.plan.name}-kit.csv", media_type="text/csv")


@router.get("/kit.xlsx")
def kit_xlsx(call: Here) -> Response:
    """Give the kit as XLSX."""
    opened = call.opened
    return download(exchange.export_kit_sheet(opened), name=f"{opened.plan.name}-kit.xlsx", media_type=XLSX)


@router.get("/kit-own.csv")
def own_csv(call: Here) -> Response:
    """Give the kit in the columns of the rider's own table, as CSV."""
    data = exchange.export_own_sheet(call.opened, call.variant_id, as_xlsx=False)
    return download(data, name=f"{call.opened.plan.name}-kit.csv", media_type="text/csv")


@router.get("/kit-own.xlsx")
def own_xlsx(call: Here) -> Response:
    """Give the kit in the columns of the rider's own table, as XLSX."""
    data = exchange.export_own_sheet(call.opened, call.variant_id, as_xlsx=True)
    return download(data, name=f"{call.opened.plan.name}-kit.xlsx", media_type=XLSX)


def _bring(upload_id: object) -> Look:
    return Look(tab="bring", open=str(upload_id))


@router.post("/kit")
def stage(call: Changed) -> Response:
    """Keep a table that was sent or pasted, and show what its columns are taken for."""
    pasted = call.text("pasted")
    if len(pasted) > _MOST_PASTED:
        raise InvalidInput("That is more than a kit list. Paste fewer rows, or send a file.", subject="pasted")
    data = pasted.encode() if pasted.strip() else call.file("file")
    name = "what was pasted" if pasted.strip() else "the table"
    upload = tables.stage_table(call.workspace, name, data)
    return call.answer(look=_bring(upload))


def _choices(call: Change) -> Choices:
    count = next((index for index in range(MOST_COLUMNS) if f"field-{index}" not in call.fields), MOST_COLUMNS)
    header = call.text("header_row")
    return Choices(
        columns=tuple((call.text(f"field-{index}"), call.text(f"unit-{index}")) for index in range(count)),
        header_row=int(header) if header.isascii() and header.isdigit() and len(header) < 4 else None,
        same_name=call.text("same_name") or "update",
        replace_kit=call.text("replace_kit") == "yes",
        doubtful=_numbers(call.texts("doubtful")),
        kinds=tuple(_kinds(call)),
        bags=tuple(_bags(call)),
    )


def _kinds(call: Change) -> Iterator[tuple[int, str]]:
    """Yield what rows were said to be: the ticked ones, `kind-12`, or `other-12` by title; `-` leaves it open."""
    ticked = _ticked_rows(call)
    for name, value in call.fields.items():
        what, _, row = name.partition("-")
        if what not in ("kind", "other") or not _numbers([row]) - ticked:
            continue
        said = (call.text(f"other-{row}") or value).strip().lower()
        if said not in ("-", "") or (what == "kind" and not said):
            yield int(row), _kind_named(said, name)
    said = call.text("kind-of-ticked").strip().lower()
    yield from ((row, _kind_named(said, "kind-of-ticked")) for row in ticked)


def _ticked_rows(call: Change) -> frozenset[int]:
    """Return the rows of which something is said together."""
    if call.text("take") != "kind":
        return frozenset()
    ticked = _numbers(call.texts("row"))
    if not ticked:
        raise InvalidInput("No row is ticked. Tick those that are meant.", subject="row")
    return ticked


def _numbers(words: Iterable[str]) -> frozenset[int]:
    return frozenset(int(word) for word in words if word.isascii() and word.isdigit() and len(word) < 7)


def _kind_named(said: str, field: str) -> str:
    if said and said not in KNOWN["kind_of_thing"]:
        raise InvalidInput(f"“{said[:30]}” is no kind of thing that is known here.", subject=field)
    return KNOWN["kind_of_thing"].get(said, "")


def _bags(call: Change) -> Iterator[tuple[str, str]]:
    """Yield which carrier each bag of the table is: `bag-0` with its words in `words-0`."""
    for index in range(200):
        if f"bag-{index}" not in call.fields:
            return
        yield call.text(f"words-{index}"), call.text(f"bag-{index}")


@router.post("/kit/{upload_id}")
def bring(call: Changed, upload_id: UUID) -> Response:
    """Show a table by other columns, or take it into the kit."""
    choices = _choices(call)
    look = _bring(upload_id)
    if call.text("take") != "yes":
        return call.show(call.desk(look=look, carry={"choices": choices}))
    brought = tables.bring_in(call.workspace, call.opened, call.variant_id, upload_id, choices, revision=call.revision)
    words = f"{brought.added} added, {brought.updated} updated, {brought.skipped} left out as they were there."
    if brought.refused:
        words += f" Without a place yet: {listed(brought.refused, 6)}."
    if brought.aside:
        rows = "1 row was" if brought.aside == 1 else f"{brought.aside} rows were"
        words += f" {rows} put aside, waiting here with the reasons."
        look = _bring(brought.upload_id)
    else:
        look = Look(tab="bring")
    return after_change(call.request, call.desk(brought.opened, look=look), words)


@router.get("/kit/{upload_id}.csv")
def aside_csv(call: Here, upload_id: UUID) -> Response:
    """Give a kept table, such as the rows put aside, as CSV."""
    data = tables.table_bytes(call.workspace, upload_id)
    return download(data, name="rows-put-aside.csv", media_type="text/csv")


def _told(form: BoundForm[ItemForm], item_id: str, items: tuple[Item, ...]) -> tuple[BoundForm[ItemForm], Item | None]:
    """Return the thing that a form tells, and the form with what is wrong beyond its own fields."""
    if form.value is None:
        return form, None
    try:
        return form, form.value.to_core(item_id, items)
    except InvalidInput as exc:
        return form.with_error(exc.subject or "", exc.message), None


@router.post("/items/{item_id}")
def change_item(call: Changed, item_id: str) -> Response:
    """Change a thing, or add one; what is hard to believe is asked about once."""
    form, item = _told(bind(ItemForm, call.fields), "" if item_id == UNNAMED else item_id, call.opened.plan.items)
    doubt = doubt_of(item) if item is not None and form.value is not None and not form.value.sure else ""
    if doubt:
        form = form.with_error("mass_g", f"{doubt} Mend it, or tick “It is so”.")
    if item is None or doubt:
        desk = call.desk(look=look_at(item_id), forms={"item": form}, carry={"doubted": bool(doubt)})
        return call.show(desk, status=422)
    opened = things.set_item(call.workspace, call.plan_id, revision=call.revision, item=item)
    return call.answer(opened)


@router.post("/many")
def change_many(call: Changed) -> Response:
    """Set one thing of all that are ticked."""
    what, items = call.text("what"), call.texts("item")
    if what == "field":
        name, value = call.text("field"), call.text("to-field")
        opened = many.change_each(
            call.workspace,
            call.opened,
            revision=call.revision,
            chosen=many.ticked_items(call.opened, items),
            what=SETTABLE.get(name, name).split(",")[0].lower(),
            setter=ItemForm.setter(name, value, call.opened.plan.items),
        )
    else:
        opened = many.change_many(
            call.workspace,
            call.opened,
            call.variant_id,
            revision=call.revision,
            items=items,
            what=what,
            to=call.text("to") or call.text(f"to-{what}"),
        )
    look = Look(sort=call.text("sort"), find=call.text("find"), show=call.text("show"))
    return call.answer(opened, look=look)


@router.post("/items/{item_id}/drop")
def drop_item(call: Changed, item_id: str) -> Response:
    """Take a thing out of the kit."""
    opened = things.drop_item(call.workspace, call.opened, revision=call.revision, item=item_id)
    return call.answer(opened)


@router.post("/items/{item_id}/way")
def set_way(call: Changed, item_id: str) -> Response:
    """Let a thing join from a drop box, or be posted home."""
    opened = things.set_way(
        call.workspace,
        call.opened,
        call.variant_id,
        revision=call.revision,
        item=item_id,
        joins=call.text("joins"),
        posts=call.text("posts"),
    )
    return call.answer(opened, look=Look(open=item_id))


@router.post("/pair")
def ride_with(call: Changed) -> Response:
    """Name the plan of the one who rides along."""
    opened = pair.ride_with(call.workspace, call.opened, revision=call.revision, partner=call.text("partner"))
    return call.answer(opened, look=Look(tab="pair"))


@router.post("/pair/hand")
def hand_over(call: Changed) -> Response:
    """Move a thing into the partner's kit."""
    opened = pair.hand_over(call.workspace, call.opened, revision=call.revision, item=call.text("item"))
    return call.answer(opened, look=Look(tab="pair"))


@router.post("/pair/share")
def share(call: Changed) -> Response:
    """Carry a thing for both, or for oneself again."""
    opened = many.change_many(
        call.workspace,
        call.opened,
        call.variant_id,
        revision=call.revision,
        items=call.texts("item"),
        what="shared",
        to=call.text("to"),
    )
    return call.answer(opened, look=Look(tab="pair"))


@router.post("/shelf/take")
def take_from_shelf(call: Changed) -> Response:
    """Take a thing of the shelf into this kit."""
    opened = call.opened
    item = shelf.shelf_item(call.workspace, call.text("item"), demo=opened.demo)
    opened = things.take_from_shelf(call.workspace, opened, revision=call.revision, item=item)
    return call.answer(opened, look=Look(tab="shelf"))


@router.post("/shelf/own")
def take_onto_shelf(call: Changed) -> Response:
    """Put the things of this plan onto the shelf."""
    opened = call.opened
    shelf.take_onto_shelf(call.workspace, opened.plan.items, demo=opened.demo)
    return call.answer(look=Look(tab="shelf"))


@router.post("/shelf/drop")
def drop_from_shelf(call: Changed) -> Response:
    """Take a thing off the shelf."""
    shelf.drop_from_shelf(call.workspace, call.text("item"), demo=call.opened.demo)
    return call.answer(look=Look(tab="shelf"))


@router.post("/tick")
def tick(call: Changed) -> Response:
    """Tick a task of the countdown, or untick it."""
    opened = things.tick_task(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, task=call.text("task")
    )
    return call.answer(opened, look=Look(tab="countdown"))


@router.get("/countdown.pdf")
def print_countdown(call: Here) -> Response:
    """Give the countdown as PDF."""
    desk = call.desk()
    data = countdown_pdf(desk.opened.plan.name, desk.variant, countdown_view(desk).tasks)
    return download(data, name=f"{desk.opened.plan.name}-countdown.pdf", media_type="application/pdf")


@router.post("/job-off")
def drop_job(call: Changed) -> Response:
    """Do without a job, or want it again."""
    opened = things.drop_job(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, job=call.text("job")
    )
    return call.answer(opened, look=Look(tab="jobs"))


@router.get("/scale")
def read_scale(call: Here) -> Response:
    """Give what the scale shows now."""
    scale = weighing.scale_of(call.plan_id)
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


def _count(call: Change) -> int:
    given = call.text("count") or "1"
    if not given.isascii() or not given.isdigit() or len(given) > 4:
        raise InvalidInput(f"“{given[:20]}” is no count. Write how many lie on the scale.", subject="count")
    return int(given)


@router.post("/scale/put")
def put_on_scale(call: Changed) -> Response:
    """Let the simulated hand put something on the scale."""
    opened = call.opened
    if call.text("bag"):
        weighing.put_bag_on(opened, call.variant_id, call.text("bag"))
    else:
        weighing.put_on(opened, call.text("item"), _count(call))
    look = Look(tab="weigh", open=call.text("item"))
    if "HX-Request" not in call.request.headers and call.text("quiet"):
        return Response(status_code=204)
    return call.answer(look=look)


@router.post("/scale/tare")
def tare_scale(call: Changed) -> Response:
    """Set the scale to zero."""
    weighing.scale_of(call.plan_id).tare()
    if call.text("quiet"):
        return Response(status_code=204)
    return call.answer(look=Look(tab="weigh"))


@router.post("/scale/choose")
def choose_scale(call: Changed) -> Response:
    """Take another scale, or let it misbehave."""
    weighing.choose_scale(call.plan_id, call.text("make"), call.text("trouble"))
    look = Look(tab="weigh", open=call.text("item"))
    return call.answer(look=look)


@router.post("/scale/take")
def take_mass(call: Changed) -> Response:
    """Take the stable reading for a thing, or a mass typed in, and go to the next."""
    typed = call.text("typed").strip()
    item, count = call.text("item"), _count(call)
    mass = typed_figure(typed, "g") / 1e3 if typed else weighing.stable_mass(call.plan_id, item)
    opened = weighing.weigh_item(
        call.workspace, call.opened, revision=call.revision, item_id=item, mass=mass, count=count
    )
    desk = call.desk(opened, look=Look(tab="weigh"))
    return after_change(call.request, desk)


@router.post("/scale/bag")
def weigh_bag(call: Changed) -> Response:
    """Hold a packed bag on the scale against the sum of its things."""
    opened = call.opened
    typed = call.text("typed").strip()
    mass = typed_figure(typed, "g") / 1e3 if typed else weighing.stable_mass(call.plan_id, call.text("bag"))
    bag = weighing.compare_bag(opened, call.variant_id, call.text("bag"), mass)
    return call.show(call.desk(opened, look=Look(tab="weigh"), carry={"bag": bag}))


@router.post("/wheels")
def weigh_wheels(call: Changed) -> Response:
    """Keep a weighing at both wheels."""
    form = bind(WheelForm, call.fields)
    if form.value is None:
        desk = call.desk(look=Look(tab="weigh"), forms={"wheels": form})
        return call.show(desk, status=422)
    opened = weighing.add_wheel_load(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        what=form.value.what,
        front=form.value.front_kg,
        rear=form.value.rear_kg,
    )
    return call.answer(opened, look=Look(tab="weigh"))


@router.post("/wheels/correct")
def correct_bike(call: Changed) -> Response:
    """Take the bike's mass and axle share from its last bare weighing."""
    opened = weighing.correct_bike(call.workspace, call.opened, call.variant_id, revision=call.revision)
    return call.answer(opened, look=Look(tab="weigh"))
