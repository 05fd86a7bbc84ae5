"""Load: what rides where, by hand and by the solver."""

from typing import Annotated

from fastapi import APIRouter, Depends, Query
from fastapi.responses import HTMLResponse, JSONResponse, Response

from stonechat.core.load.together.ways import WAYS
from stonechat.core.plan.plan import Wishes
from stonechat.errors import InvalidInput
from stonechat.formats.numbers import parse_number
from stonechat.services.load import moving, packing, proposal
from stonechat.services.load.places import options_for
from stonechat.web.call import Call, Change, changing, reading
from stonechat.web.contexts.load.bike import load_view
from stonechat.web.contexts.load.pack import PACKING_SCHOOLS, pack_view
from stonechat.web.desk import Desk, Look, Room
from stonechat.web.respond import render, wants_fragment

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")


def _seen(desk: Desk) -> None:
    """Note that the end of a packing was shown."""
    packing.see_packing(desk.workspace, desk.opened.id, desk.variant_id)


ROOM = Room(key="load", name="Load", letter="o", build=load_view, router=router, opens=True, seen=_seen)
Here = Annotated[Call, Depends(reading("load"))]
Changed = Annotated[Change, Depends(changing("load"))]
_MOST_FREE = 20.0  # l
_MOST_MINDED = 5.0  # 1, by how much more than usual the body may be minded
_MOST_HELD = 40  # things held at once
_HOLD_NOTHING = {"Cache-Control": "no-store"}


@router.get("/options")
def options(
    call: Here,
    item: Annotated[list[str], Query(max_length=_MOST_HELD)],
) -> Response:
    """Give what held things would cost in each carrier, why they may not ride there, and how the bike would stand."""
    found = options_for(call.opened, call.variant_id, tuple(dict.fromkeys(item)), call.leg)
    return JSONResponse(
        [
            {
                "carrier": entry.carrier_id,
                "change_min": round(entry.change, 3),
                "reason": entry.reason,
                "possible": entry.is_possible,
                "stance": None
                if stance is None
                else {
                    "front_pct": round(100.0 * stance.front_share, 2),
                    "lean_deg": round(stance.lean, 3),
                    "sway_kgm": round(stance.sway, 3),
                    "steering_kgm2": round(stance.steering, 4),
                },
            }
            for entry, stance in found
        ],
        headers=_HOLD_NOTHING,
    )


@router.post("/move")
def move(call: Changed) -> Response:
    """Move things to a carrier, home, or to no place."""
    items, place = call.texts("item"), call.text("place")
    if not items:
        raise InvalidInput("No thing was named. Choose one, then its place.", subject="item")
    if since := call.text("since"):
        opened = moving.move_from(
            call.workspace,
            call.opened,
            call.variant_id,
            revision=call.revision,
            items=items,
            place=place,
            since=since,
        )
    else:
        opened = moving.move_items(
            call.workspace,
            call.opened,
            call.variant_id,
            revision=call.revision,
            places=dict.fromkeys(items, place),
        )
    room = "kit" if call.text("room") == "kit" else "load"
    return call.answer(opened, room=room, look=call.look)


@router.post("/pin")
def pin(call: Changed) -> Response:
    """Pin a thing where it is, or let it go."""
    opened = moving.pin_item(
        call.workspace, call.opened, call.variant_id, revision=call.revision, item=call.text("item")
    )
    return call.answer(opened)


@router.post("/wear")
def wear(call: Changed) -> Response:
    """Put a thing on, or take it off."""
    opened = moving.wear_item(call.workspace, call.opened, revision=call.revision, item=call.text("item"))
    return call.answer(opened)


@router.post("/carriers/{carrier_id}/empty")
def empty(call: Changed, carrier_id: str) -> Response:
    """Put everything of a carrier on the floor."""
    opened = moving.empty_carrier(
        call.workspace, call.opened, call.variant_id, revision=call.revision, carrier_id=carrier_id
    )
    return call.answer(opened)


@router.post("/carriers/{carrier_id}/pin")
def pin_all(call: Changed, carrier_id: str) -> Response:
    """Pin everything in a carrier, or let it all go."""
    opened = moving.pin_carrier(
        call.workspace, call.opened, call.variant_id, revision=call.revision, carrier_id=carrier_id
    )
    return call.answer(opened)


@router.post("/start-from")
def start_from(call: Changed) -> Response:
    """Pack by a rule of thumb, to go on from there."""
    opened = packing.pack_by_rule(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, rule=call.text("rule")
    )
    return call.answer(opened, look=Look(tab="starts"))


@router.post("/check-off")
def switch_check(call: Changed) -> Response:
    """Do without a check, or want it again."""
    opened = moving.switch_check(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, code=call.text("check")
    )
    return call.answer(opened, look=Look(tab="checks"))


@router.post("/pack")
def start_pack(call: Changed) -> Response:
    """Start the solver."""
    packing.start_packing(call.workspace, call.plan_id, call.variant_id)
    return call.answer()


@router.get("/pack")
def watch_pack(call: Here, part: str = "bike") -> Response:
    """Give where the solver stands; asked for again and again while it runs, and once it is over the whole stage."""
    look = Look(tab="whatif" if part == "whatif" else "")
    desk = call.desk(look=look)
    pack = pack_view(desk, "whatif" if look.tab else "bike")
    if not wants_fragment(call.request.headers) or pack.run is None or not pack.run.is_active:
        response = call.show(desk)
        response.headers["HX-Retarget"] = "#stage"
        return response
    context = {"pack": pack, "revision": desk.opened.revision, "leg": desk.leg}
    return HTMLResponse(render("load/_pack.html", **context), headers=_HOLD_NOTHING)


@router.post("/pack/stop")
def stop_pack(call: Changed) -> Response:
    """Let the solver end with the best it has."""
    packing.stop_packing(call.workspace, call.plan_id, call.variant_id)
    return call.answer(look=call.look)


@router.post("/pack/different")
def different(call: Changed) -> Response:
    """Look for clearly different plans of nearly the same worth."""
    last = packing.packing_run(call.workspace, call.plan_id, call.variant_id, "pack")
    trial = packing.DECIDING if last is None else packing.trial_of(last)
    packing.start_packing(call.workspace, call.plan_id, call.variant_id, kind="different", trial=trial)
    return call.answer()


@router.post("/pack/refuse")
def refuse(call: Changed) -> Response:
    """Refuse the moves that are not ticked, and pack again."""
    refused = frozenset(call.texts("proposed")) - set(call.texts("take"))
    carriers = frozenset(call.texts("carrier"))
    packing.refuse_moves(
        call.workspace, call.plan_id, call.variant_id, items=refused - carriers, carriers=refused & carriers
    )
    return call.answer()


@router.post("/pack/take")
def take_pack(call: Changed) -> Response:
    """Take the moves that are ticked."""
    proposed, taken = set(call.texts("proposed")), set(call.texts("take"))
    other = call.text("other")
    opened = proposal.take_packing(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        refused=proposed - taken,
        kind=call.text("kind") or "pack",
        other=int(other) if other.isascii() and other.isdigit() and len(other) < 3 else None,
    )
    return call.answer(opened)


@router.post("/pack/way")
def go_out(call: Changed) -> Response:
    """Take a way out of a packing that is impossible."""
    way = call.text("way")
    opened = packing.go_out(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        way=int(way) if way.isascii() and way.isdigit() and len(way) < 3 else -1,
    )
    return call.answer(opened)


@router.post("/what-if")
def what_if(call: Changed) -> Response:
    """Try a thing in a bag, a bag off or on, or another school."""
    _, places = PACKING_SCHOOLS.get(call.text("school"), ("", frozenset()))
    trial = packing.trial_asked(
        call.opened,
        call.variant_id,
        thing=(call.text("item"), call.text("place")),
        closed=call.texts("without"),
        opened_ids=call.texts("with"),
        emptied=places,
    )
    packing.start_packing(call.workspace, call.plan_id, call.variant_id, kind="what-if", trial=trial)
    return call.answer(look=Look(tab="whatif"))


def _litres(text: str) -> float:
    litres = parse_number(text or "0.5", unit="l")
    if not 0.0 <= litres <= _MOST_FREE:
        raise InvalidInput(f"Room to keep free is 0 to {_MOST_FREE:.0f} l.", subject="keep_free_l")
    return litres / 1e3


def _minded(text: str) -> float:
    factor = parse_number(text or "1", unit="")
    if not 0.0 <= factor <= _MOST_MINDED:
        raise InvalidInput(f"What is carried on the body counts 0 to {_MOST_MINDED:.0f} times.", subject="body")
    return factor


@router.post("/wishes")
def wishes(call: Changed) -> Response:
    """Keep what the rider leaves to the packing."""
    wished = Wishes(
        free_carriers=frozenset(call.texts("free")),
        decide_maybe=call.text("decide_maybe") == "yes",
        sets_together=call.text("sets_together") == "yes",
        keep_free_in=call.text("keep_free_in"),
        keep_free=_litres(call.text("keep_free_l")),
        body=_minded(call.text("body")),
        way=call.text("way") if call.text("way") in WAYS else "",
    )
    opened = moving.set_wishes(call.workspace, call.plan_id, call.variant_id, revision=call.revision, wishes=wished)
    return call.answer(opened)


@router.post("/food")
def let_food_go(call: Changed) -> Response:
    """Let food go where there is room again."""
    opened = moving.let_food_go(call.workspace, call.plan_id, call.variant_id, revision=call.revision)
    return call.answer(opened)


@router.post("/swap")
def swap(call: Changed) -> Response:
    """Let two things change places."""
    items = tuple(key for key in (*call.texts("item"), call.text("other")) if key)
    opened = moving.swap_items(call.workspace, call.plan_id, call.variant_id, revision=call.revision, items=items)
    return call.answer(opened)


def _step(call: Change) -> tuple[str, int] | None:
    """Return what is raised or lowered by one."""
    return next(((call.text(name), by) for name, by in (("raised", -1), ("lowered", 1)) if call.text(name)), None)


@router.post("/carriers/{carrier_id}/order")
def order(call: Changed, carrier_id: str) -> Response:
    """Set the order inside a bag from its mouth inwards; nothing named: back to the best."""
    opened = moving.set_order(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        carrier_id=carrier_id,
        items=call.texts("item"),
        step=_step(call),
    )
    return call.answer(opened, look=Look(tab="inside"))
