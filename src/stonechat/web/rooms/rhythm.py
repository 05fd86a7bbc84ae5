"""Rhythm: rider, sleep, timetable."""

import re
from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import JSONResponse, Response

from stonechat.core.plan.limits import LIMITS, MOST_DAYS
from stonechat.core.rhythm.rhythm import Night, Rhythm, sleeping_at
from stonechat.errors import InvalidInput
from stonechat.formats.documents.part import clock_seconds
from stonechat.formats.numbers import parse_number
from stonechat.render.filters import clock, minutes_signed
from stonechat.services import rhythm as rhythm_service
from stonechat.services.evaluation import evaluated, summed_up_as
from stonechat.services.line import stop_named
from stonechat.services.odds import start_odds
from stonechat.web.call import Call, Change, changing, reading
from stonechat.web.contexts.rhythm import NIGHT, odds_view, rhythm_view
from stonechat.web.desk import Look, Room
from stonechat.web.forms.binding import bind, typed_time
from stonechat.web.forms.rhythm import NightForm, RiderForm, rhythm_form

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="rhythm", name="Rhythm", letter="h", build=rhythm_view, router=router, opens=True)
Here = Annotated[Call, Depends(reading("rhythm"))]
Changed = Annotated[Change, Depends(changing("rhythm"))]
CLOCK = re.compile(r"([01]?\d|2[0-3]):[0-5]\d")


@router.post("/rider")
def set_rider(call: Changed) -> Response:
    """Set the rider."""
    form = bind(RiderForm, call.fields)
    desk = call.desk(forms={"rider": form})
    if form.value is None:
        return call.show(desk, status=422)
    rider = form.value.to_core(desk.variant.rider)
    opened = rhythm_service.set_rider(
        call.workspace, call.plan_id, call.variant_id, revision=call.revision, rider=rider
    )
    return call.answer(opened)


@router.post("/rhythm")
def set_rhythm(call: Changed) -> Response:
    """Set start, sleep and stays."""
    form = bind(rhythm_form(), call.fields)
    if form.value is None:
        return call.refuse(forms={"rhythm": form})
    value = form.value
    opened = rhythm_service.set_rhythm(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        label="set start and sleep",
        change=value.to_core,
        says=frozenset({"start", "nights"}),
    )
    return call.answer(opened)


def _change(call: Change, label: str, change: rhythm_service.RhythmChange) -> Response:
    opened = rhythm_service.set_rhythm(
        call.workspace,
        call.plan_id,
        call.variant_id,
        revision=call.revision,
        label=label,
        change=change,
        says=frozenset({"nights"}),
    )
    return call.answer(opened)


def _known_night(night: int) -> int:
    if not 0 <= night < MOST_DAYS:
        raise InvalidInput("There is no such night. Load the page again.", subject="night")
    return night


def _with_night(rhythm: Rhythm, index: int, night: Night) -> Rhythm:
    return replace(rhythm, nights={**rhythm.nights, index: night})


@router.post("/nights/{night}")
def set_night(call: Changed, night: int) -> Response:
    """Set one night by hand."""
    index = _known_night(night)
    form = bind(NightForm, call.fields)
    if form.value is None:
        desk = call.desk(look=Look(tab=NIGHT, open=str(index)), forms={"night": form})
        return call.show(desk, status=422)
    chosen = form.value.to_core()
    label = f"night {index + 1} set by hand"
    return _change(call, label, lambda rhythm: _with_night(rhythm, index, chosen))


@router.post("/nights/{night}/reset")
def reset_night(call: Changed, night: int) -> Response:
    """Let a night follow the school again; a chosen stop for it is chosen no more."""
    index, stop = _known_night(night), call.text("stop")

    def change(rhythm: Rhythm) -> Rhythm:
        return replace(
            rhythm,
            nights={key: value for key, value in rhythm.nights.items() if key != index},
            sleep_at={key: value for key, value in rhythm.sleep_at.items() if key != stop},
        )

    return _change(call, f"night {index + 1} as usual", change)


@router.post("/nights/{night}/at")
def sleep_at(call: Changed, night: int) -> Response:
    """Sleep at a stop, in place of that night's rest."""
    index, hours = _known_night(night), _figure(call.text("sleep_h"), "h", "sleep", 1 / 3600)
    stop = stop_named(call.opened.plan, call.text("stop"))

    return _change(
        call, f"sleep at {stop.name}", lambda rhythm: sleeping_at(rhythm, index, stop.id, round(3600.0 * hours))
    )


@router.post("/sleep")
def sleep(call: Changed) -> Response:
    """Choose a stop to sleep at when it is reached, by day or night; no hours: sleep there no more."""
    hours = _figure(call.text("sleep_h") or "0", "h", "sleep", 1 / 3600)
    stop = stop_named(call.opened.plan, call.text("stop"))

    def change(rhythm: Rhythm) -> Rhythm:
        others = {key: value for key, value in rhythm.sleep_at.items() if key != stop.id}
        return replace(rhythm, sleep_at={**others, stop.id: round(3600.0 * hours)} if hours else others)

    label = f"sleep {hours:g} h at {stop.name}" if hours else f"no sleep at {stop.name}"
    return _change(call, label, change)


@router.post("/leave")
def leave_at(call: Changed) -> Response:
    """Set when a stop is left by the clock; an empty time leaves it as it comes."""
    stop = stop_named(call.opened.plan, call.text("stop"))
    text = typed_time(call.text("leave_at"))
    if text and not CLOCK.fullmatch(text):
        raise InvalidInput(f"“{text[:20]}” is no time of day. Write it as 08:30.", subject="leave_at")

    def change(rhythm: Rhythm) -> Rhythm:
        others = {key: value for key, value in rhythm.leave_at.items() if key != stop.id}
        return replace(rhythm, leave_at={**others, stop.id: clock_seconds(text)} if text else others)

    label = f"leave {stop.name} at {text}" if text else f"leave {stop.name} as it comes"
    return _change(call, label, change)


@router.post("/rooms")
def rooms(call: Changed) -> Response:
    """Choose the stops whose beds may be taken where there is a room each night."""
    stops = call.opened.plan.line.stops
    wanted = set(call.texts("bed"))
    without = frozenset(stop.id for stop in stops if "bed" in stop.offers and stop.id not in wanted)
    if wanted and not any(stop.id in wanted for stop in stops):
        raise InvalidInput("None of these stops is on the line. Load the page again.", subject="bed")
    return _change(call, "chose the rooms", lambda r: replace(r, no_rooms=without))


@router.post("/stays/{stop_id}")
def set_stay(call: Changed, stop_id: str) -> Response:
    """Set how long this variant stays at a stop; empty for the usual time."""
    stop = stop_named(call.opened.plan, stop_id)
    text = call.text("stay_min").strip()
    stay = None if not text else 60.0 * _figure(text, "min", "dwell", 1 / 60)

    def change(rhythm: Rhythm) -> Rhythm:
        stays = {key: value for key, value in rhythm.stays.items() if key != stop.id}
        return replace(rhythm, stays=stays if stay is None else {**stays, stop.id: round(stay)})

    words = "as usual" if stay is None else f"{stay / 60:.0f} min"
    return _change(call, f"stay at {stop.name} {words}", change)


def _figure(text: str, unit: str, limit: str, factor: float) -> float:
    value = parse_number(text, unit=unit)
    low, high = (bound * factor for bound in LIMITS[limit])
    if not low <= value <= high:
        raise InvalidInput(f"{value:g} {unit} is outside {low:g} to {high:g} {unit}. Check the figure.", subject=limit)
    return value


@router.get("/preview")
def preview(
    call: Here,
    night: int = -1,
    start: str = "",
    end: str = "",
    stop: str = "",
    stay_min: str = "",
) -> Response:
    """Say where the finish would be with another night or another stay, while it is dragged."""
    opened = call.opened
    variant = opened.plan.variant(call.variant_id)
    if stop:
        stay = round(60.0 * _figure(stay_min, "min", "dwell", 1 / 60))
        rhythm = replace(variant.rhythm, stays={**variant.rhythm.stays, stop_named(opened.plan, stop).id: stay})
    else:
        form = bind(NightForm, {"kind": "until", "start": start, "end": end, "sleep_h": "0"})
        if form.value is None:
            raise InvalidInput("The night needs two times of day.", subject="start")
        rhythm = _with_night(variant.rhythm, _known_night(night), form.value.to_core())
    ridden = summed_up_as(opened, replace(variant, rhythm=rhythm))
    before = evaluated(opened, call.variant_id).ridden.ledger.finish
    change = (ridden.ledger.finish - before) / 60.0
    return JSONResponse(
        {"finish": clock(ridden.timetable.visits[-1].arrives), "change": minutes_signed(change), "change_min": change},
        headers={"Cache-Control": "no-store"},
    )


@router.post("/odds")
def ride_races(call: Changed) -> Response:
    """Ride the race many times."""
    start_odds(call.workspace, call.plan_id, call.variant_id)
    return call.answer()


@router.get("/odds")
def watch_races(call: Here) -> Response:
    """Give the spread, or that it is being ridden; asked for again and again until it is there."""
    desk = call.desk()
    return call.part(desk, "rhythm/_odds.html", odds=odds_view(desk))
