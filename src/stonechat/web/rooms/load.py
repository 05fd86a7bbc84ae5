"""Load: what rides where, by hand and by the solver."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response

from stonechat.core.plan.packing import Trial
from stonechat.errors import InvalidInput
from stonechat.formats.numbers import parse_number
from stonechat.services import editing, packing, proposal
from stonechat.services.history import open_plan
from stonechat.services.load import options_for
from stonechat.web.contexts.load import load_view
from stonechat.web.contexts.load_pack import SCHOOLS, pack_view
from stonechat.web.desk import Look, Room, open_desk, workspace_of
from stonechat.web.respond import after_change, render, show, wants_fragment
from stonechat.web.rooms.common import SentForm

ROOM = Room(key="load", name="Load", letter="o", build=load_view)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
_MOST_FREE = 20.0  # l
_MOST_HELD = 40  # things held at once
_HOLD_NOTHING = {"Cache-Control": "no-store"}


@router.get("/options")
def options(
    request: Request,
    plan_id: UUID,
    variant_id: str,
    item: Annotated[list[str], Query(max_length=_MOST_HELD)],
    leg: int = 0,
) -> Response:
    """Give what held things would cost in each carrier, why they may not ride there, and how the bike would stand."""
    opened = open_plan(workspace_of(request), plan_id)
    found = options_for(opened, variant_id, tuple(dict.fromkeys(item)), leg)
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
def move(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Move things to a carrier, home, or to no place."""
    workspace = workspace_of(request)
    items, place = sent.texts("item"), sent.text("place")
    if not items:
        raise InvalidInput("No thing was named. Choose one, then its place.", subject="item")
    opened = editing.move_items(
        workspace,
        open_plan(workspace, plan_id),
        variant_id,
        revision=sent.revision,
        places=dict.fromkeys(items, place),
    )
    room = "kit" if sent.text("room") == "kit" else "load"
    return after_change(request, sent.desk(request, plan_id, variant_id, room, opened, look=sent.look))


@router.post("/pin")
def pin(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Pin a thing where it is, or let it go."""
    workspace = workspace_of(request)
    opened = editing.pin_item(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, item=sent.text("item")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/wear")
def wear(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Put a thing on, or take it off."""
    workspace = workspace_of(request)
    opened = editing.wear_item(workspace, open_plan(workspace, plan_id), revision=sent.revision, item=sent.text("item"))
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/carriers/{carrier_id}/empty")
def empty(request: Request, plan_id: UUID, variant_id: str, carrier_id: str, sent: SentForm) -> Response:
    """Put everything of a carrier on the floor."""
    workspace = workspace_of(request)
    opened = editing.empty_carrier(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, carrier_id=carrier_id
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/carriers/{carrier_id}/pin")
def pin_all(request: Request, plan_id: UUID, variant_id: str, carrier_id: str, sent: SentForm) -> Response:
    """Pin everything in a carrier, or let it all go."""
    workspace = workspace_of(request)
    opened = editing.pin_carrier(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, carrier_id=carrier_id
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/start-from")
def start_from(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Pack by a rule of thumb, to go on from there."""
    opened = packing.pack_by_rule(
        workspace_of(request), plan_id, variant_id, revision=sent.revision, rule=sent.text("rule")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened, look=Look(tab="starts")))


@router.post("/check-off")
def switch_check(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Do without a check, or want it again."""
    opened = editing.switch_check(
        workspace_of(request), plan_id, variant_id, revision=sent.revision, code=sent.text("check")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened, look=Look(tab="checks")))


@router.post("/pack")
def start_pack(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Start the solver."""
    packing.start_packing(workspace_of(request), plan_id, variant_id)
    return after_change(request, sent.desk(request, plan_id, variant_id, "load"))


@router.get("/pack")
def watch_pack(request: Request, plan_id: UUID, variant_id: str, leg: int = 0, part: str = "bike") -> Response:
    """Give where the solver stands; asked for again and again while it runs, and once it is over the whole stage."""
    look = Look(tab="whatif" if part == "whatif" else "")
    desk = open_desk(request, plan_id, variant_id, "load", leg=leg, look=look)
    pack = pack_view(desk, "whatif" if look.tab else "bike")
    if not wants_fragment(request.headers) or pack.run is None or not pack.run.is_active:
        response = show(request, desk)
        response.headers["HX-Retarget"] = "#stage"
        return response
    context = {"pack": pack, "revision": desk.opened.revision, "leg": desk.leg}
    return HTMLResponse(render("load/_pack.html", **context), headers=_HOLD_NOTHING)


@router.post("/pack/stop")
def stop_pack(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Let the solver end with the best it has."""
    packing.stop_packing(workspace_of(request), plan_id, variant_id)
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", look=sent.look))


@router.post("/pack/different")
def different(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Look for clearly different plans of nearly the same worth."""
    last = packing.packing_run(workspace_of(request), plan_id, variant_id, "pack")
    trial = packing.DECIDING if last is None else packing.trial_of(last)
    packing.start_packing(workspace_of(request), plan_id, variant_id, kind="different", trial=trial)
    return after_change(request, sent.desk(request, plan_id, variant_id, "load"))


@router.post("/pack/refuse")
def refuse(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Refuse the moves that are not ticked, and pack again."""
    refused = frozenset(sent.texts("proposed")) - set(sent.texts("take"))
    carriers = frozenset(sent.texts("carrier"))
    packing.refuse_moves(
        workspace_of(request), plan_id, variant_id, items=refused - carriers, carriers=refused & carriers
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load"))


@router.post("/pack/take")
def take_pack(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Take the moves that are ticked."""
    proposed, taken = set(sent.texts("proposed")), set(sent.texts("take"))
    other = sent.text("other")
    opened = proposal.take_packing(
        workspace_of(request),
        plan_id,
        variant_id,
        revision=sent.revision,
        refused=proposed - taken,
        kind=sent.text("kind") or "pack",
        other=int(other) if other.isascii() and other.isdigit() and len(other) < 3 else None,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/pack/way")
def go_out(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Take a way out of a packing that is impossible."""
    way = sent.text("way")
    opened = packing.go_out(
        workspace_of(request),
        plan_id,
        variant_id,
        revision=sent.revision,
        way=int(way) if way.isascii() and way.isdigit() and len(way) < 3 else -1,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/what-if")
def what_if(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Try a thing in a bag, a bag off or on, or another school."""
    plan = open_plan(workspace_of(request), plan_id).plan
    variant = plan.variant(variant_id)
    known = {carrier.id: carrier for carrier in variant.carriers}
    _, places = SCHOOLS.get(sent.text("school"), ("", frozenset()))
    closed = {key for key in sent.texts("without") if key in known}
    closed |= {carrier.id for carrier in variant.carriers if carrier.mounted and carrier.place in places}
    item, place = sent.text("item"), sent.text("place")
    held = {item: place} if item and place in known and place not in closed else {}
    if held:
        editing.refuse_impossible(plan, editing.item_named(plan, item), known[place])
    opened = frozenset(key for key in sent.texts("with") if key in known)
    if not held and not closed and not opened:
        raise InvalidInput(
            "Nothing is tried. Choose a thing and its bag, a bag off or on, or a school.", subject="item"
        )
    trial = Trial(held=held, closed=frozenset(closed), opened=opened, decides=True)
    packing.start_packing(workspace_of(request), plan_id, variant_id, kind="what-if", trial=trial)
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", look=Look(tab="whatif")))


def _litres(text: str) -> float:
    litres = parse_number(text or "0.5", unit="l")
    if not 0.0 <= litres <= _MOST_FREE:
        raise InvalidInput(f"Room to keep free is 0 to {_MOST_FREE:.0f} l.", subject="keep_free_l")
    return litres / 1e3


@router.post("/wishes")
def wishes(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Keep what the rider leaves to the packing."""
    opened = editing.set_wishes(
        workspace_of(request),
        plan_id,
        variant_id,
        revision=sent.revision,
        free=sent.texts("free"),
        decide_maybe=sent.text("decide_maybe") == "yes",
        sets_together=sent.text("sets_together") == "yes",
        keep_free_in=sent.text("keep_free_in"),
        keep_free=_litres(sent.text("keep_free_l")),
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/swap")
def swap(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Let two things change places."""
    items = tuple(key for key in (*sent.texts("item"), sent.text("other")) if key)
    opened = editing.swap_items(workspace_of(request), plan_id, variant_id, revision=sent.revision, items=items)
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened))


@router.post("/carriers/{carrier_id}/order")
def order(request: Request, plan_id: UUID, variant_id: str, carrier_id: str, sent: SentForm) -> Response:
    """Set the order inside a bag from its mouth inwards; nothing named: back to the best."""
    opened = editing.set_order(
        workspace_of(request),
        plan_id,
        variant_id,
        revision=sent.revision,
        carrier_id=carrier_id,
        items=sent.texts("item"),
        raised=sent.text("raised"),
        lowered=sent.text("lowered"),
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "load", opened, look=Look(tab="inside")))
