"""What the Rhythm room shows."""

import math
from dataclasses import dataclass, replace
from datetime import timedelta

from stonechat.core.ledger.timetable import Visit
from stonechat.core.line.stops import ALWAYS, DAY, OFFERS, Door, Stop, main_door, wait_words
from stonechat.core.night.report import Warmth, margin_words
from stonechat.core.plan.nights import Proposal, Rest, proposals_for, rests_of
from stonechat.core.plan.sky import clock_after, wall_seconds
from stonechat.core.plan.whatif import WhatIf, what_ifs
from stonechat.core.rhythm.rhythm import usual_night
from stonechat.formats.documents.part import clock_text
from stonechat.render.drawings.time_distance import TimeDistance, time_distance
from stonechat.render.filters import clock, distance_km, time_of_day
from stonechat.render.measures import in_other_units
from stonechat.services.memory import rides_tell
from stonechat.services.odds import RACES, Odds, odds_run, odds_told
from stonechat.services.work import RunState
from stonechat.web.contexts.last_time import LastTime, last_times
from stonechat.web.contexts.window import Window, window
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm, FieldView, start_values
from stonechat.web.forms.rhythm import FIRST, RHYTHM_FIRST, NightForm, RhythmForm, RiderForm, rhythm_form, rhythm_values

NIGHT = "night"  # the tab of a night that is open by its number


@dataclass(frozen=True, kw_only=True)
class TimetableRow:
    """Passing a stop."""

    visit: Visit
    id: str
    offers: str
    open_words: str
    margin_words: str
    climbed: float  # m on the leg to it
    distance: float  # m of the leg to it
    moving: float  # s on the leg to it
    rest: float  # s rested on the leg to it
    energy: float  # kcal on the leg to it
    is_late: bool
    is_tired: bool  # so long awake that it carries the caution


@dataclass(frozen=True, kw_only=True)
class ProposalRow:
    """A better place nearby, and the button that takes it."""

    words: str
    address: str
    values: dict[str, str]


@dataclass(frozen=True, kw_only=True)
class NightRow:
    """A night of the race."""

    number: int  # counted from 1
    name: str  # weekday of its evening
    words: str = "ridden through"
    where: str = ""
    low: float = math.nan  # °C, NaN where nothing is slept
    warm: str = ""  # how warm it is in what is slept in
    is_cold: bool = False
    awake: float = math.nan  # s
    is_own: bool  # set by hand
    stop_id: str = ""  # where it is slept at a chosen stop
    proposals: tuple[ProposalRow, ...] = ()
    form: BoundForm[NightForm] | None  # open for editing
    address: str
    edit_address: str
    reset_address: str


@dataclass(frozen=True, kw_only=True)
class RhythmView:
    """The Rhythm room."""

    last: tuple[LastTime, ...]
    rides_address: str  # empty: no ride tells anything
    rider: BoundForm[RiderForm]
    rider_address: str
    rider_first: int
    rider_open: bool
    form: BoundForm[RhythmForm]
    form_address: str
    form_fields: tuple[FieldView, ...]
    stay_fields: tuple[FieldView, ...]  # by kind of stop, of the kinds that are on the line
    form_open: bool
    leave_address: str
    leaving: tuple[tuple[str, str], ...]  # stop and time of those left by the clock
    rooms_address: str
    rooms: tuple[tuple[str, str, bool], ...]  # id, name, whether its bed may be taken; none where it does not matter
    picture: TimeDistance
    nights_address: str
    stays_address: str
    preview_address: str
    rows: Window[TimetableRow]
    nights: tuple[NightRow, ...]
    sleep_address: str
    sleep_stops: tuple[tuple[str, str], ...]  # id, name with its kilometre
    what_ifs: tuple[WhatIf, ...]
    odds: "OddsView"
    timetable_address: str
    leaves: str
    finish: float  # s
    spread: float  # s
    moving: float  # s
    resting: float  # min
    pushing: float  # min
    work: float  # J
    energy: float  # kcal
    focus: str
    close_address: str


def _with_km(stop: Stop) -> str:
    return f"{stop.name}, {distance_km(stop.distance)}"


def _leaving(desk: Desk) -> tuple[tuple[str, str], ...]:
    """Return the stops that are left at a time of their own."""
    times = desk.variant.rhythm.leave_at
    stops = desk.evaluation.ridden.way.stops
    return tuple((stop.name, in_other_units(clock_text(times[stop.id]))) for stop in stops if stop.id in times)


def _rooms(desk: Desk) -> tuple[tuple[str, str, bool], ...]:
    """Return the stops with beds, and whether a room is taken there; none where nights are not in rooms."""
    rhythm = desk.variant.rhythm
    stops = desk.evaluation.ridden.way.stops if rhythm.school == "rooms" else ()
    return tuple((stop.id, _with_km(stop), stop.id not in rhythm.no_rooms) for stop in stops if "bed" in stop.offers)


def rhythm_view(desk: Desk) -> RhythmView:
    """Return what the Rhythm room shows."""
    ridden, variant = desk.evaluation.ridden, desk.variant
    rests = rests_of(ridden)
    rider = desk.form("rider", RiderForm, RiderForm.values(variant.rider))
    timetable = window(desk, tuple(_row(desk, k) for k in range(len(ridden.timetable.visits))), desk.leg)
    kinds = {f"stay_{stop.kind}" for stop in ridden.way.stops}
    form = desk.form("rhythm", rhythm_form(), rhythm_values(variant.rhythm))
    return RhythmView(
        last=last_times(desk),
        rides_address=desk.at("diary", tab="rides") if rides_tell(desk.workspace, desk.opened) else "",
        rider=rider,
        rider_address=desk.do("rider"),
        rider_first=FIRST,
        rider_open=any(entry.error for entry in rider.fields[FIRST:]),
        form=form,
        form_address=desk.do("rhythm"),
        form_fields=form.fields[:RHYTHM_FIRST],
        stay_fields=tuple(entry for entry in form.fields[RHYTHM_FIRST:] if entry.name in kinds or entry.value),
        form_open=any(entry.error for entry in form.fields[RHYTHM_FIRST:]),
        leave_address=desk.do("leave"),
        leaving=_leaving(desk),
        rooms_address=desk.do("rooms"),
        rooms=_rooms(desk),
        picture=time_distance(ridden, rests),
        nights_address=desk.do("nights"),
        stays_address=desk.do("stays"),
        preview_address=desk.do("preview"),
        rows=timetable,
        nights=_nights(desk, rests),
        sleep_address=desk.do("sleep"),
        sleep_stops=tuple((stop.id, _with_km(stop)) for row in timetable.rows if (stop := row.visit.stop)),
        what_ifs=what_ifs(desk.opened.plan, desk.variant_id, ridden),
        odds=odds_view(desk),
        timetable_address=desk.do("tables", "timetable.csv"),
        leaves=f"{ridden.way.start:%A %d %B %Y}, {time_of_day(ridden.way.start)}",
        finish=ridden.ledger.finish,
        spread=ridden.ledger.spread,
        moving=ridden.ledger.moving,
        resting=ridden.ledger.minutes("nights"),
        pushing=ridden.ledger.pushing,
        work=sum(leg.work for leg in ridden.timetable.legs),
        energy=sum(leg.energy for leg in ridden.timetable.legs),
        focus=desk.look.open,
        close_address=desk.at(),
    )


TIRED = 17 * 3600.0  # s awake from which a row carries the caution


def _row(desk: Desk, k: int) -> TimetableRow:
    ridden = desk.evaluation.ridden
    visit, leg = ridden.timetable.visits[k], ridden.timetable.legs[k]
    offers = visit.stop.offers if visit.stop else frozenset()
    hours = None if visit.margin is None else visit.margin / 3600.0
    return TimetableRow(
        visit=visit,
        id=visit.stop.id if visit.stop else "finish",
        offers=", ".join(OFFERS[key] for key in OFFERS if key in offers),
        open_words=_open_words(visit),
        margin_words="" if hours is None else f"{hours:.1f} h left" if hours >= 0 else f"{-hours:.1f} h late",
        climbed=leg.ascent,
        distance=leg.end - leg.start,
        moving=leg.moving,
        rest=leg.rest,
        energy=leg.energy,
        is_late=hours is not None and hours < 0.0,
        is_tired=visit.awake >= TIRED,
    )


def _open_words(visit: Visit) -> str:
    if visit.stop is None:
        return ""
    if visit.passed:
        return "ridden past"
    if main_door(visit.stop) == Door(ALWAYS, True):
        return "always open"
    if not visit.is_known:
        return "hours not known; usually open then" if visit.is_open else "hours not known; usually shut then"
    if visit.waited > 0.0:
        return f"open after {visit.waited / 60:.0f} min wait"
    if visit.is_open:
        return "open"
    still = [OFFERS[offer] for offer in OFFERS if offer in visit.gives]
    return f"shut, {wait_words(visit.wait)}" + (f"; {', '.join(still)} all the same" if still else "")


def _nights(desk: Desk, rests: tuple[Rest, ...]) -> tuple[NightRow, ...]:
    """Return every night that the race spans, slept or ridden through."""
    ridden = desk.evaluation.ridden
    last = int((ridden.timetable.clock.start_of_day + ridden.ledger.finish - 0.5 * DAY) // DAY)
    found = []
    for k in range(max(0, last + 1)):
        here = [rest for rest in rests if rest.index == k]
        found += [_night(desk, k, rest, is_first=j == 0) for j, rest in enumerate(here or [None])]
    return tuple(found)


def _night(desk: Desk, k: int, rest: Rest | None, *, is_first: bool) -> NightRow:
    ridden, rhythm = desk.evaluation.ridden, desk.variant.rhythm
    evening = ridden.way.start.replace(tzinfo=None) + timedelta(days=k)
    row = NightRow(
        number=k + 1,
        name=f"{evening:%A}",
        is_own=k in rhythm.nights,
        form=_night_form(desk, k, rest) if is_first else None,
        address=desk.do("nights", str(k)),
        edit_address=desk.at(tab=NIGHT, open=k),
        reset_address=desk.do("nights", str(k), "reset"),
    )
    return row if rest is None else _slept(desk, k, rest, row)


def _slept(desk: Desk, k: int, rest: Rest, row: NightRow) -> NightRow:
    """Return the row of a night with its rest."""
    stop = rest.stop
    chosen = stop is not None and stop.id in desk.variant.rhythm.sleep_at
    warmth = next(w for w in desk.evaluation.ridden.report(Warmth).rests if w.distance == rest.distance)
    where = f"km {rest.distance / 1000:.0f}, {rest.height:.0f} m"
    return replace(
        row,
        words=f"{_clock(desk, rest.begins)} to {_clock(desk, rest.ends)}, {rest.length / 3600:.1f} h",
        where=f"{where}, {stop.name if stop else 'by the way'}",
        low=rest.low,
        warm=margin_words(warmth),
        is_cold=not warmth.in_bed and warmth.margin < 0.0,
        awake=rest.awake,
        is_own=row.is_own or chosen,
        stop_id=stop.id if chosen and stop else "",
        proposals=tuple(_proposal(desk, k, rest, p) for p in proposals_for(desk.evaluation.ridden, rest)),
    )


def _clock(desk: Desk, elapsed: float) -> str:
    seconds = round(wall_seconds(desk.evaluation.ridden, elapsed) / 60.0) * 60.0 % DAY
    return f"{int(seconds // 3600):02d}:{int(seconds % 3600 // 60):02d}"


def _night_form(desk: Desk, k: int, rest: Rest | None) -> BoundForm[NightForm] | None:
    if desk.look.tab != NIGHT or desk.look.open != str(k):
        return None
    if "night" in desk.forms:
        return desk.forms["night"]
    rhythm = desk.variant.rhythm
    night = rhythm.nights.get(k) or usual_night(rhythm, k)
    begins, ends = 22 * 3600.0, 29 * 3600.0
    if rest is not None:
        begins, ends = (wall_seconds(desk.evaluation.ridden, moment) for moment in (rest.begins, rest.ends))
    sleep = 4 * 3600.0 if rest is None else max(3_600.0, rest.length - rhythm.camp_time)
    return start_values(NightForm, NightForm.values(night, start=begins, end=ends, sleep=sleep))


def _proposal(desk: Desk, k: int, rest: Rest, proposal: Proposal) -> ProposalRow:
    shift = f"{abs(proposal.shift) / 3600:.1f} h {'later' if proposal.shift > 0 else 'earlier'}"
    name = proposal.stop.name if proposal.stop else f"km {proposal.distance / 1000:.0f}"
    words = f"{name}: {proposal.reason}, {shift}, {proposal.height:.0f} m, low {proposal.low:.0f} °C"
    sleep = max(3_600.0, rest.length - desk.variant.rhythm.camp_time)
    if proposal.stop is not None:
        values = {"stop": proposal.stop.id, "sleep_h": f"{sleep / 3600:.2f}"}
        return ProposalRow(words=words, address=desk.do("nights", str(k), "at"), values=values)
    values = {
        "kind": "for",
        "start": _clock(desk, rest.begins + proposal.shift),
        "end": _clock(desk, rest.ends + proposal.shift),
        "sleep_h": f"{sleep / 3600:.2f}",
    }
    return ProposalRow(words=words, address=desk.do("nights", str(k)), values=values)


@dataclass(frozen=True, kw_only=True)
class OddsView:
    """The spread of many races, or where they stand."""

    address: str
    watch_address: str
    races: int
    is_riding: bool
    waits_for_worker: bool
    failed: str  # why there are none
    odds: Odds | None
    clocks: tuple[str, ...]  # of the finishes, by the clock


def odds_view(desk: Desk) -> OddsView:
    """Return the spread of many races by the clock, where they were ridden."""
    run = odds_run(desk.workspace, desk.opened, desk.variant_id)
    odds = odds_told(run) if run is not None else None
    reasons = (run.result or {}).get("reasons", ()) if run is not None and run.state == RunState.FAILED else ()
    return OddsView(
        address=desk.do("odds"),
        watch_address=desk.do("odds", leg=desk.leg),
        races=RACES,
        is_riding=run is not None and run.is_active,
        waits_for_worker=run is not None and run.waits_for_worker,
        failed=" ".join(reasons),
        odds=odds,
        clocks=tuple(clock(clock_after(desk.evaluation.ridden, after)) for after in odds.finishes) if odds else (),
    )
