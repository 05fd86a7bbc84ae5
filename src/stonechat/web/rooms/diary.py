"""Diary: what happened on the way, beside what was planned."""

from datetime import date
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import JSONResponse, Response

from stonechat.core.diary.debrief import BagVerdict
from stonechat.core.diary.shakedown import Shaken
from stonechat.errors import InvalidInput
from stonechat.render.documents.debrief import debrief_pdf, debrief_report
from stonechat.services import debrief as debrief_service
from stonechat.services import diary as diary_service
from stonechat.services import habits as habit_service
from stonechat.services import replay as replay_service
from stonechat.services import rides as ride_service
from stonechat.services import shakedown as shakedown_service
from stonechat.services.rides import AskedRide
from stonechat.web.addresses import room_address
from stonechat.web.call import Call, Change, changing, reading
from stonechat.web.contexts.diary import DEBRIEF, RACE, RIDES, SHAKEDOWN, diary_view
from stonechat.web.contexts.diary.notes import Codes
from stonechat.web.contexts.diary.race import race_view
from stonechat.web.contexts.diary.rides import all_rides, body_words, figure_rows, habit_rows
from stonechat.web.desk import Look, Room
from stonechat.web.forms.binding import bind
from stonechat.web.forms.diary import FoundForm, NoteForm, RestForm, RideForm, ShakedownForm, WordsForm
from stonechat.web.respond import download, go_on

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="diary", name="Diary", letter="d", build=diary_view, router=router)
Changed = Annotated[Change, Depends(changing("diary"))]
Here = Annotated[Call, Depends(reading("diary"))]
_GPX = "application/gpx+xml"


@router.post("/diary-note")
def add_note(call: Changed) -> Response:
    """Write a note."""
    form = bind(NoteForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"note": form})
    given = form.value
    said = diary_service.Said(
        kind=given.kind,
        text=given.words,
        at=given.moment(call.desk().evaluation.ridden.way.start.tzinfo),
        distance=None if given.km is None else 1000.0 * given.km,
    )
    try:
        opened = diary_service.add_note(call.workspace, call.opened, call.variant_id, revision=call.revision, said=said)
    except InvalidInput as wrong:
        return call.refuse(forms={"note": form.with_error("km", str(wrong))})
    return call.answer(opened)


@router.post("/diary-bring")
def bring(call: Changed) -> Response:
    """Bring in what a pack gave out."""
    brought = diary_service.bring_notes(
        call.workspace, call.opened, call.variant_id, revision=call.revision, data=call.file("file")
    )
    return call.answer(brought.opened, note=brought.note)


@router.post("/diary-codes")
def bring_codes(call: Changed) -> Response:
    """Bring in notes that a pack shows as codes: by a picture, or as read by the camera."""
    picture = call.file("picture") if call.has_file("picture") else b""
    joined = diary_service.look_at_codes(picture, call.text("seen"))
    brought = diary_service.bring_codes(
        call.workspace, call.opened, call.variant_id, revision=call.revision, joined=joined
    )
    if brought is None:
        words = diary_service.codes_words(joined)
        return call.refuse(carry={"codes": Codes(words=words, seen=joined.texts)})
    return call.answer(brought.opened, note=brought.note)


@router.post("/diary-look")
def look(call: Changed) -> Response:
    """Tell which codes a camera's picture shows, with those seen before."""
    joined = diary_service.look_at_codes(call.file("picture"), call.text("seen"))
    return JSONResponse(
        {
            "seen": list(joined.texts),
            "missing": list(joined.missing),
            "count": joined.count,
            "words": diary_service.codes_words(joined),
        }
    )


@router.post("/diary-note/{number}/drop")
def drop(call: Changed, number: int) -> Response:
    """Take a note out."""
    opened = diary_service.drop_note(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, number=number
    )
    return call.answer(opened)


# ---- the race as it went


@router.post("/replay")
def start_replay(call: Changed) -> Response:
    """Let simulated devices replay a race."""
    given = call.text("seed").strip() or "1"
    if not given.isascii() or not given.isdigit() or len(given) > 6:
        raise InvalidInput("The number of the race is one from 1 to 999999.", subject="seed")
    replay_service.start_replay(call.opened, call.variant_id, speed=_speed(call), seed=int(given))
    return call.answer(look=Look(tab=RACE))


def _speed(call: Change) -> int:
    given = call.text("speed")
    return int(given) if given.isascii() and given.isdigit() and len(given) < 6 else -1


@router.post("/replay-run")
def run_replay(call: Changed) -> Response:
    """Go on at another speed, or stand still."""
    speed = _speed(call)
    if speed not in (0, *replay_service.SPEEDS):
        raise InvalidInput("Choose one of the speeds.", subject="speed")
    replay_service.running(call.plan_id, call.variant_id).run(speed)
    return call.answer(look=Look(tab=RACE))


@router.post("/replay-go")
def go_replay(call: Changed) -> Response:
    """Go so many hours on or back."""
    replay = replay_service.running(call.plan_id, call.variant_id)
    given = call.text("hours")
    if given not in ("-6", "6", "end"):
        raise InvalidInput("Go six hours on, six back, or to the finish.", subject="hours")
    replay.go_to(replay.length if given == "end" else replay.elapsed + 3600.0 * int(given))
    return call.answer(look=Look(tab=RACE))


@router.post("/replay-end")
def end_replay(call: Changed) -> Response:
    """End the replay; what was kept of it stays."""
    replay_service.end_replay(call.plan_id, call.variant_id)
    return call.answer(look=Look(tab=RACE))


@router.get("/replay-live")
def live(call: Here) -> Response:
    """Show where the race stands now; asked for again and again."""
    desk = call.desk(look=Look(tab=RACE))
    return call.part(desk, "diary/_live.html", part=race_view(desk))


@router.post("/replay-keep")
def keep_trail(call: Changed) -> Response:
    """Keep what the tracker told."""
    read = replay_service.keep_trail(call.workspace, call.opened, call.variant_id, revision=call.revision)
    return call.answer(read.opened, note=read.note, look=Look(tab=RACE))


@router.post("/replay-file")
def keep_file(call: Changed) -> Response:
    """Read in the bike computer's file as it stands."""
    read = replay_service.keep_file(call.workspace, call.opened, call.variant_id, revision=call.revision)
    return call.answer(read.opened, note=read.note, look=Look(tab=RACE))


@router.get("/computer.gpx")
def computer_file(call: Here) -> Response:
    """Give the bike computer's file as it stands."""
    replay = replay_service.running(call.plan_id, call.variant_id)
    return download(replay.computer.file(replay.now), name=f"{call.opened.plan.name}-ride.gpx", media_type=_GPX)


@router.post("/plan-rest")
def plan_rest(call: Changed) -> Response:
    """Make a plan of the rest of the race."""
    form = bind(RestForm, {key: value for key, value in call.fields.items() if key != "gone"})
    if form.value is None:
        return call.refuse(forms={"rest": form}, look=Look(tab=RACE))
    given, desk = form.value, call.desk(look=Look(tab=RACE))
    way = desk.evaluation.ridden.way
    # by moments, as a clock may have been set on the way
    elapsed = given.at.replace(tzinfo=way.start.tzinfo).timestamp() - way.start.timestamp() if given.at else -1.0
    if not 0.0 <= elapsed < 200.0 * 86_400.0:
        return call.refuse(forms={"rest": form.with_error("at", "Say a day and time after the start.")}, look=desk.look)
    if not 0.0 < given.km * 1000.0 < way.profile.length - 1000.0:
        words = f"Say a km of this course of {way.profile.length / 1e3:.0f} km, short of its end."
        return call.refuse(forms={"rest": form.with_error("km", words)}, look=desk.look)
    aboard = replay_service.Aboard(
        distance=given.km * 1000.0,
        elapsed=elapsed,
        water=given.water,
        food=given.kcal,
        gone=frozenset(call.texts("gone")),
    )
    trail = replay_service.trail_known(call.opened, call.variant_id)
    plan_id = replay_service.plan_rest(call.workspace, call.opened, call.variant_id, aboard, trail=trail)
    note = "This is the rest of the race from where you are, with what is aboard. The plan of the whole is as it was."
    return go_on(call.request, room_address(plan_id, call.variant_id, "rhythm"), note)


# ---- rides, and what they tell


@router.post("/ride")
def add_ride(call: Changed) -> Response:
    """Read a ride in."""
    form = bind(RideForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"ride": form}, look=Look(tab=RIDES))
    given = form.value
    asked = AskedRide(name=given.name, purpose=given.purpose, mass=given.mass, surface=given.surface)
    read = ride_service.add_ride(
        call.workspace, call.opened, call.variant_id, revision=call.revision, data=call.file("file"), asked=asked
    )
    return call.answer(read.opened, note=read.note, look=Look(tab=RIDES))


@router.post("/ride/{ride_id}/drop")
def drop_ride(call: Changed, ride_id: str) -> Response:
    """Take a ride out."""
    opened = ride_service.drop_ride(
        call.workspace, call.opened, call.variant_id, revision=call.revision, ride_id=ride_id
    )
    return call.answer(opened, look=Look(tab=RIDES))


@router.get("/ride-figures")
def ride_figures(call: Here) -> Response:
    """Show what rides tell, and what taking it does to the finish."""
    desk = call.desk(look=Look(tab=RIDES))
    return call.part(
        desk, "diary/_figures.html", rows=figure_rows(desk), ways_address=desk.do("ride-ways", leg=desk.leg)
    )


@router.get("/ride-ways")
def ride_ways(call: Here) -> Response:
    """Show the ways that races tell: each is ridden to be priced, so they follow the figures."""
    desk = call.desk(look=Look(tab=RIDES))
    return call.part(desk, "diary/_ways.html", habits=habit_rows(desk), words=body_words(desk))


@router.post("/ride-take")
def take_figure(call: Changed) -> Response:
    """Take a figure that rides tell."""
    opened = ride_service.take_figure(
        call.workspace,
        call.opened,
        call.variant_id,
        revision=call.revision,
        key=call.text("key"),
        surface=call.text("of"),
        rides=all_rides(call.desk()),
    )
    return call.answer(opened, look=Look(tab=RIDES))


@router.post("/habit-take")
def take_habit(call: Changed) -> Response:
    """Take a way that races tell."""
    opened = habit_service.take_habit(
        call.workspace,
        call.opened,
        call.variant_id,
        revision=call.revision,
        key=call.text("key"),
        of=call.text("of"),
    )
    return call.answer(opened, look=Look(tab=RIDES))


# ---- debrief


@router.post("/debrief-things")
def say_of_things(call: Changed) -> Response:
    """Say what became of things: each as `thing|use|some` or `thing|fate|lost`, in the order in which it was said."""
    said = [entry.split("|") for entry in call.texts("said")]
    if any(len(entry) != 3 for entry in said):
        raise InvalidInput("What was said of a thing cannot be read. Load the page again.", subject="said")
    debrief_service.say_of_things(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision,
        said=tuple((thing, what, value) for thing, what, value in said),
    )  # fmt: skip
    return Response(status_code=204)


@router.get("/debrief.pdf")
def report(call: Here) -> Response:
    """Give the report of the race."""
    desk = call.desk()
    data = debrief_pdf(debrief_report(desk.opened.plan, desk.variant, desk.evaluation.ridden))
    return download(data, name=f"{desk.opened.plan.name}-debrief.pdf", media_type="application/pdf")


@router.post("/debrief-bag")
def say_of_bag(call: Changed) -> Response:
    """Say how full a bag was."""
    given = call.text("day").strip()
    day = int(given) if given.isascii() and given.isdigit() and len(given) <= 3 else None
    if given and (day is None or not 1 <= day <= 200):
        raise InvalidInput("The day of the race is a number, 1 the first.", subject="day")
    opened = debrief_service.say_of_bag(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        carrier_id=call.text("bag"),
        verdict=BagVerdict(state=call.text("state"), day=day),
    )
    return call.answer(opened, look=Look(tab=DEBRIEF))


@router.post("/debrief-words")
def say_words(call: Changed) -> Response:
    """Say in words what worked, what to change, what was missing."""
    form = bind(WordsForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"words": form}, look=Look(tab=DEBRIEF))
    given = form.value
    opened = debrief_service.say_words(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        worked=given.worked,
        change=given.change,
        wished=given.wished,
    )
    return call.answer(opened, look=Look(tab=DEBRIEF))


@router.post("/debrief-count")
def count_in(call: Changed) -> Response:
    """Count the race into the records of its things."""
    opened = debrief_service.count_in(call.workspace, call.plan_id, call.variant_id, revision=call.revision)
    note = "Counted into the records; Kit, the cut list and the shelf know it now."
    return call.answer(opened, note=note, look=Look(tab=DEBRIEF))


# ---- the loaded ride


@router.post("/shakedown")
def set_shakedown(call: Changed) -> Response:
    """Say how far the loaded bike was ridden."""
    form = bind(ShakedownForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"shakedown": form}, look=Look(tab=SHAKEDOWN))
    given = form.value
    try:
        opened = shakedown_service.set_shakedown(
            call.workspace,
            call.plan_id,
            call.variant_id,
            revision=call.revision,
            day=date.fromisoformat(given.day) if given.day else None,
            km=given.km,
            rough_km=given.rough_km,
        )
    except InvalidInput as wrong:
        return call.refuse(forms={"shakedown": form.with_error("rough_km", str(wrong))}, look=Look(tab=SHAKEDOWN))
    return call.answer(opened, look=Look(tab=SHAKEDOWN))


@router.post("/found")
def add_finding(call: Changed) -> Response:
    """Write down what a loaded ride showed."""
    form = bind(FoundForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"found": form}, look=Look(tab=SHAKEDOWN))
    given = form.value
    opened = shakedown_service.add_finding(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        finding=Shaken(trouble=given.trouble, about=given.about, words=given.words),
    )
    return call.answer(opened, look=Look(tab=SHAKEDOWN))


@router.post("/found/{number}")
def mend_finding(call: Changed, number: int) -> Response:
    """Choose what is done about a finding, tick it off, or take it out."""
    remedy, _, to = call.text("remedy").partition(":")
    mended = shakedown_service.Mended(
        number=number,
        remedy=remedy,
        to=to,
        done=call.text("done") == "yes",
        drop=call.text("drop") == "yes",
    )
    opened, words = shakedown_service.mend_finding(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, mended=mended
    )
    return call.answer(opened, note=words, look=Look(tab=SHAKEDOWN))
