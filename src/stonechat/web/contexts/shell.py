"""What stands around every room: the bar, the tape, the ledger."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from stonechat.core.diary.trail import at_stops
from stonechat.core.ledger.ledger import Ledger
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.ledger.timetable import Leg, Visit
from stonechat.core.line.stops import OFFERS, wait_words
from stonechat.core.numerics.findings import Finding, State
from stonechat.core.plan.sky import clock_after
from stonechat.core.supply.carry import Levels
from stonechat.render.filters import clock, minutes_signed
from stonechat.render.notes import dress_note, stop_note
from stonechat.services.evaluation import LastChange, last_change
from stonechat.services.load.packing import packing_run
from stonechat.services.replay import trail_known
from stonechat.services.work import Run, RunState
from stonechat.web.addresses import manual_address, room_address
from stonechat.web.desk import Desk, Room

_SHORT_OFFERS = {**OFFERS, "doubtful_water": "doubtful water", "meal": "meal", "shop": "shop"}
_LONG_TAPE, _SHOWN_BEFORE, _SHOWN_AFTER = 80, 10, 30  # legs from which a tape is long, and those shown in full
_DARK = 0.5  # share of a leg in the dark from which its ground is dark


@dataclass(frozen=True, kw_only=True)
class Gauge:
    """A thin bar of carried against needed, each in percent of the fullest."""

    carried: float
    needed: float
    text: str
    is_short: bool
    words: str


@dataclass(frozen=True, kw_only=True)
class Knot:
    """A place on the tape with the leg after it."""

    name: str
    distance: float
    when: str
    offers: str
    shut: str  # "" where open
    clocks: str  # by how much the clocks are set on the way here, "" where they are not
    must: str  # why it cannot be missed
    note: str  # what is done there, where stops are chosen
    passed: bool
    leg: Leg | None
    address: str
    is_current: bool
    is_dark: bool
    is_far: bool  # of a long tape: its name alone
    water: Gauge | None
    food: Gauge | None


@dataclass(frozen=True, kw_only=True)
class CauseBar:
    """A line of the ledger; `share` is in percent of the longest bar."""

    key: str
    name: str
    minutes: float
    share: float


@dataclass(frozen=True, kw_only=True)
class CheckLine:
    """A check with the way to where it is mended."""

    finding: Finding
    address: str
    link: str


@dataclass(frozen=True, kw_only=True)
class LedgerView:
    """The ledger."""

    finish: str
    total: float  # s
    moving: float  # s
    spread: float  # s
    pushing: float  # min
    carried: float  # min
    bars: tuple[CauseBar, ...]
    riding: float  # min
    nights: float  # min
    change: LastChange | None
    open_checks: tuple[CheckLine, ...]
    elsewhere: tuple[CheckLine, ...]  # tight, and mended in another room
    fine_checks: tuple[CheckLine, ...]
    settled: bool


@dataclass(frozen=True, kw_only=True)
class RoomLink:
    """A room's word in the bar."""

    key: str
    name: str
    letter: str
    address: str
    is_here: bool


@dataclass(frozen=True, kw_only=True)
class VariantLink:
    """A variant's tab."""

    name: str
    address: str
    is_here: bool


@dataclass(frozen=True, kw_only=True)
class Job:
    """What is under way, or has ended unseen."""

    words: str  # "" where there is nothing to tell
    is_active: bool
    address: str
    link: str


@dataclass(frozen=True, kw_only=True)
class Shell:
    """All that stands around a room."""

    plan_name: str
    revision: int
    leg: int
    room: str
    template: str
    rooms: tuple[RoomLink, ...]
    variants: tuple[VariantLink, ...]
    knots: tuple[Knot, ...]
    ledger: LedgerView
    undo_label: str | None
    redo_label: str | None
    undo_address: str
    redo_address: str
    find_address: str
    here: str
    note: str
    job: "Job"
    variant_name: str
    variant_addresses: Mapping[str, str]  # of renaming, adding and deleting
    manual_address: str


def shell_of(desk: Desk, rooms: tuple[Room, ...]) -> Shell:
    """Return what stands around the room of a desk."""
    return Shell(
        plan_name=desk.opened.plan.name,
        revision=desk.opened.revision,
        leg=desk.leg,
        room=desk.room,
        template=f"{desk.room}/_stage.html",
        rooms=tuple(
            RoomLink(
                key=room.key,
                name=room.name,
                letter=room.letter,
                address=desk.at(room.key),
                is_here=room.key == desk.room,
            )
            for room in rooms
        ),
        variants=tuple(
            VariantLink(
                name=variant.name,
                address=room_address(desk.opened.id, variant.id, desk.room, leg=desk.leg),
                is_here=variant.id == desk.variant_id,
            )
            for variant in desk.opened.plan.variants
        ),
        knots=_knots(desk),
        ledger=_ledger(desk, rooms),
        undo_label=desk.opened.undo_label,
        redo_label=desk.opened.redo_label,
        undo_address=desk.do("undo"),
        redo_address=desk.do("redo"),
        find_address=desk.do("find"),
        here=desk.at(),
        note=desk.note,
        job=_job(desk),
        variant_name=desk.variant.name,
        variant_addresses={name: desk.do("variant", name) for name in ("rename", "add", "delete")},
        manual_address=manual_address(desk.room),
    )


def _job_words(run: Run, room: str) -> str:
    if run.waits_for_worker:
        return "packing waits for a worker"
    if run.is_active:
        gap = run.progress.get("gap")
        return "packing …" if gap is None else f"packing, at most {100 * gap:.1f} % to gain"
    if run.seen or room == "load":
        return ""
    return "packed: look" if run.state == RunState.DONE else "packing failed: look"


def _job(desk: Desk) -> Job:
    """Say what is under way for this variant, with a figure that means something; what ended is told until seen."""
    run = packing_run(desk.workspace, desk.opened.id, desk.variant_id)
    return Job(
        words="" if run is None else _job_words(run, desk.room),
        is_active=run is not None and run.is_active,
        address=desk.do("job", leg=desk.leg, room=desk.room),
        link=desk.at("load", tab="pack"),
    )


def _note(desk: Desk, k: int) -> str:
    """Return what is done at a place of the tape: what to have on, where clothes are looked at."""
    ridden = desk.evaluation.ridden
    if desk.room == "diary":
        return _was_there(desk, k)
    if desk.room == "night":
        return dress_note(ridden, k) if ridden.kit.items else ""
    return "" if ridden.provisions.asked is None else stop_note(ridden, k)


def _was_there(desk: Desk, k: int) -> str:
    """Return when one was there in truth, where the race is known."""
    trail, ridden = trail_known(desk.opened, desk.variant_id), desk.evaluation.ridden
    if trail.is_empty or k == 0:
        return ""
    visit = ridden.timetable.visits[k - 1]
    (was,) = at_stops(trail, [visit.distance], [visit.elapsed], [0.0])
    if math.isnan(was.reached):
        return ""
    return f"was there {clock(clock_after(ridden, was.reached))}, {minutes_signed((was.reached - was.planned) / 60.0)}"


def _finish_knot(last: Visit) -> Knot:
    return Knot(
        name="Finish",
        distance=last.distance,
        when=clock(last.arrives),
        offers="",
        shut="",
        clocks=_clocks(last),
        must="",
        note="",
        passed=False,
        leg=None,
        address="",
        is_current=False,
        is_dark=last.dark,
        is_far=False,
        water=None,
        food=None,
    )


def _knots(desk: Desk) -> tuple[Knot, ...]:
    ridden = desk.evaluation.ridden
    must = ridden.provisions.must
    fullest = (float(ridden.provisions.water.leaving.max()), float(ridden.provisions.eaten.leaving.max()))
    knots = []
    for k, leg in enumerate(ridden.timetable.legs):
        visit = ridden.timetable.visits[k - 1] if k else None
        knots.append(
            Knot(
                name=leg.start_name,
                distance=leg.start,
                when=clock(leg.leaves if visit is None else visit.arrives),
                offers="" if visit and visit.passed else _offers(visit),
                shut=_shut(visit),
                clocks=_clocks(visit),
                must=_must(ridden, k) if must[k] else "",
                note=_note(desk, k),
                passed=bool(visit and visit.passed),
                leg=leg,
                address=desk.at(leg=k),
                is_current=k == desk.leg,
                is_dark=leg.dark > _DARK,
                is_far=len(ridden.timetable.legs) > _LONG_TAPE and not -_SHOWN_BEFORE <= k - desk.leg <= _SHOWN_AFTER,
                water=_gauge(ridden.provisions.water, k, fullest[0], "l of water", 1),
                food=_gauge(ridden.provisions.eaten, k, fullest[1], "kcal", 0),
            )
        )
    knots.append(_finish_knot(ridden.timetable.visits[-1]))
    return tuple(knots)


def _offers(visit: Visit | None) -> str:
    if visit is None or visit.stop is None:
        return ""
    return ", ".join(_SHORT_OFFERS[key] for key in OFFERS if key in visit.stop.offers)


def _shut(visit: Visit | None) -> str:
    if visit is None or not visit.is_shut:
        return ""
    if not visit.is_known:
        return "maybe shut"
    return "shut" if visit.wait == float("inf") else f"shut, {wait_words(visit.wait)}"


def _clocks(visit: Visit | None) -> str:
    if visit is None or not visit.clock_step:
        return ""
    return f"clocks {visit.clock_step / 3600:+.3g} h".replace("-", "−")


def _must(ridden: Ridden, leg: int) -> str:
    """Say how far it is to the next water after a stop that cannot be missed."""
    after = next(
        (k for k in range(leg + 1, len(ridden.timetable.legs)) if ridden.provisions.waters[k]),
        len(ridden.timetable.legs),
    )
    legs = ridden.timetable.legs[leg:after]
    hours = sum(entry.elapsed for entry in legs) / 3600.0
    return f"not to be missed: dry for {(legs[-1].end - legs[0].start) / 1000:.0f} km, {hours:.1f} h"


def _gauge(levels: Levels, leg: int, fullest: float, unit: str, digits: int) -> Gauge:
    carried, needed = float(levels.leaving[leg]), float(levels.needs[leg])
    scale = 100.0 / max(fullest, 1e-9)
    return Gauge(
        carried=min(100.0, carried * scale),
        needed=min(100.0, needed * scale),
        text=f"{carried:,.{digits}f}".replace(",", "\u202f") + (" l" if digits else " kcal"),
        is_short=needed > carried + 1e-6,
        words=f"{carried:.{digits}f} {unit} carried, {needed:.{digits}f} needed on this leg",
    )


def _bars(ledger: Ledger) -> tuple[CauseBar, ...]:
    """Return the causes that a packing or a stop can change, as bars of one scale."""
    shown = [cause for cause in ledger.causes if cause.key in ("load", "wind", "reach", "stops")]
    small = ("eating", "body", "mishap", "waits")
    shown += [cause for cause in ledger.causes if cause.key in small and cause.minutes >= 0.5]
    longest = max(abs(cause.minutes) for cause in shown) or 1.0
    return tuple(
        CauseBar(key=cause.key, name=cause.name, minutes=cause.minutes, share=100.0 * max(0.0, cause.minutes) / longest)
        for cause in shown
    )


def _ledger(desk: Desk, rooms: tuple[Room, ...]) -> LedgerView:
    evaluation = desk.evaluation
    ridden = evaluation.ridden
    ledger = ridden.ledger
    by_key = {room.key: room for room in rooms}
    lines = [_check_line(desk, finding, by_key[finding.room]) for finding in evaluation.findings]
    return LedgerView(
        finish=clock(ridden.timetable.visits[-1].arrives),
        total=ledger.finish,
        moving=ledger.moving,
        spread=ledger.spread,
        pushing=ledger.pushing,
        carried=ledger.carried,
        bars=_bars(ledger),
        riding=ledger.minutes("riding"),
        nights=ledger.minutes("nights"),
        change=last_change(desk.workspace, desk.opened, desk.variant_id),
        # what is broken is told everywhere, what is tight in the room where it is mended
        open_checks=tuple(line for line in lines if _is_told(line.finding, desk.room)),
        elsewhere=tuple(line for line in lines if line.finding.state == State.TIGHT and line.finding.room != desk.room),
        fine_checks=tuple(line for line in lines if line.finding.state == State.FINE),
        settled=ridden.timetable.settled,
    )


def _is_told(finding: Finding, room: str) -> bool:
    return finding.state == State.BROKEN or (finding.state == State.TIGHT and finding.room == room)


def _check_line(desk: Desk, finding: Finding, room: Room) -> CheckLine:
    if room.legs and finding.subject.isdigit():
        address = desk.at(room.key, leg=int(finding.subject))
    else:
        address = desk.at(room.key, open=finding.subject if room.opens else None)
    return CheckLine(finding=finding, address=address, link=f"Go to {room.name}")
