"""Mend: what can fail, what answers it, and what each spare is worth."""

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import Response

from stonechat.core.mend.rule import Told
from stonechat.errors import InvalidInput
from stonechat.services import mend_rule
from stonechat.web.call import Change, changing
from stonechat.web.contexts.mend import THINGS, WEAR, mend_view
from stonechat.web.desk import NEW, UNNAMED, Look, Room
from stonechat.web.forms.binding import bind
from stonechat.web.forms.mend import AgesForm, BoltForm, HabitForm, OwnForm, ToldForm

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="mend", name="Mend", letter="m", build=mend_view, router=router, legs=True)
Changed = Annotated[Change, Depends(changing("mend"))]


@router.post("/mend-habit")
def set_habit(call: Changed) -> Response:
    """Say how the rider mends, and what is accepted."""
    form = bind(HabitForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"habit": form})
    skill, accepted = form.value.skill, form.value.accepted / 100.0
    opened = mend_rule.change_rule(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        label="changed how is mended",
        change=lambda rule: replace(rule, skill=skill, accepted=accepted),
    )
    return call.answer(opened)


@router.post("/mend-told/{key}")
def tell(call: Changed, key: str) -> Response:
    """Say what the rider knows better of a failure."""
    form = bind(ToldForm, call.fields)
    look = Look(open=key)
    if form.value is None:
        return call.refuse(forms={"told": form}, look=look)
    try:
        opened = mend_rule.tell(
            call.workspace, call.opened, call.variant_id, revision=call.revision, key=key, told=form.value.told()
        )
    except InvalidInput as wrong:
        return call.refuse(forms={"told": form.with_error("rate", str(wrong))}, look=look)
    return call.answer(opened, look=look)


@router.post("/mend-told/{key}/usual")
def as_usual(call: Changed, key: str) -> Response:
    """Take a failure as the table says."""
    opened = mend_rule.tell(call.workspace, call.opened, call.variant_id, revision=call.revision, key=key, told=Told())
    return call.answer(opened, look=Look(open=key))


@router.post("/mend-own/{key}")
def keep_own(call: Changed, key: str) -> Response:
    """Keep a failure of the rider's own."""
    form = bind(OwnForm, call.fields)
    known = "" if key == UNNAMED else key
    look = Look(open=known) if known else Look(tab=NEW)
    if form.value is None:
        return call.refuse(forms={"own": form}, look=look)
    try:
        opened = mend_rule.keep_own(
            call.workspace, call.opened, call.variant_id, revision=call.revision, failure=form.value.failure(known)
        )
    except InvalidInput as wrong:
        return call.refuse(forms={"own": form.with_error("", str(wrong))}, look=look)
    own = opened.plan.variant(call.variant_id).mending.own
    return call.answer(opened, look=Look(open=own[-1].key))


@router.post("/mend-own/{key}/forget")
def forget_own(call: Changed, key: str) -> Response:
    """Take a failure of the rider's own out."""
    opened = mend_rule.forget_own(call.workspace, call.plan_id, call.variant_id, revision=call.revision, key=key)
    return call.answer(opened)


@router.post("/mend-ages")
def set_ages(call: Changed) -> Response:
    """Say how old parts are at the start."""
    form = bind(AgesForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"ages": form}, look=Look(tab=WEAR))
    ages, pads = form.value.ages(), form.value.pads
    opened = mend_rule.change_rule(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        label="changed the age of parts",
        change=lambda rule: replace(rule, ages=ages, pads=pads),
    )
    return call.answer(opened, look=Look(tab=WEAR))


@router.post("/mend-bolt")
def keep_bolt(call: Changed) -> Response:
    """Keep a bolt as the rider knows it."""
    form = bind(BoltForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"bolt": form}, look=Look(tab=WEAR, open=call.text("part") or UNNAMED))
    opened = mend_rule.keep_bolt(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, bolt=form.value.bolt()
    )
    return call.answer(opened, look=Look(tab=WEAR))


@router.post("/mend-does")
def tool_does(call: Changed) -> Response:
    """Say that a tool does what its name does not tell."""
    opened = mend_rule.tool_does(
        call.workspace, call.opened, revision=call.revision, item_id=call.text("item"), word=call.text("word")
    )
    return call.answer(opened, look=Look(open=call.text("failure")))


@router.post("/mend-count")
def count_uses(call: Changed) -> Response:
    """Let Load count what mends are expected to want."""
    opened = mend_rule.count_uses(call.workspace, call.opened, call.variant_id, revision=call.revision)
    return call.answer(opened, look=Look(tab=THINGS), note="Load counts them so now.")
