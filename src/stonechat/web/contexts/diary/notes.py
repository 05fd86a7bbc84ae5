"""Notes of the way, beside the plan."""

from collections import Counter
from dataclasses import dataclass

from stonechat.core.diary.notes import KINDS, Told, beside_plan
from stonechat.core.plan.sky import clock_after
from stonechat.render.filters import clock, distance_km, duration
from stonechat.services.replay import replay_of, trail_known
from stonechat.text import listed
from stonechat.web.contexts.window import Window, window
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm
from stonechat.web.forms.diary import NoteForm

_ON_TIME = 90.0  # s within which one is on plan
_ANOTHER_DAY = 10.0 * 86_400.0  # s from which it was no part of this race


@dataclass(frozen=True, kw_only=True)
class NoteRow:
    """One note."""

    km: str
    kind: str
    words: str
    when: str
    planned: str
    late: str
    is_late: bool
    drop_address: str


@dataclass(frozen=True, kw_only=True)
class Codes:
    """Codes of a pack as far as they are read."""

    words: str = ""
    seen: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class NotesView:
    """Notes, and the ways in which they come."""

    tally: str
    rows: Window[NoteRow]
    is_empty: bool
    form: BoundForm[NoteForm]
    note_address: str
    bring_address: str
    codes: Codes
    codes_address: str
    look_address: str
    pack_address: str


def notes_view(desk: Desk) -> NotesView:
    """Return the notes and the forms that bring them."""
    ridden, notes = desk.evaluation.ridden, desk.variant.diary
    count = ridden.ride.clocks.size
    told = beside_plan(
        notes,
        start=ridden.way.start,
        distances=ridden.way.profile.distances[:count],
        clocks=ridden.ride.clocks,
    )
    rows = tuple(_row(desk, one) for one in told)
    last = next((one for one in reversed(told) if one.late is not None), None)
    tally = Counter(note.kind for note in notes)
    return NotesView(
        tally=f"At {distance_km(last.note.distance)} {_late(last)}. " + _tally(tally) if last else _tally(tally),
        rows=window(desk, rows, 0),
        is_empty=not notes,
        form=desk.form("note", NoteForm, {"kind": "note", **_here(desk)}),
        note_address=desk.do("diary-note"),
        bring_address=desk.do("diary-bring"),
        codes=desk.carry.get("codes") or Codes(),
        codes_address=desk.do("diary-codes"),
        look_address=desk.do("diary-look"),
        pack_address=desk.at("cards", tab="pack"),
    )


def _here(desk: Desk) -> dict[str, str]:
    """Return where one is, by a replay that runs or by the stop that is chosen on the tape."""
    ridden, trail = desk.evaluation.ridden, trail_known(desk.opened, desk.variant_id)
    if replay_of(desk.opened.id, desk.variant_id) is not None and not trail.is_empty:
        now = clock_after(ridden, trail.elapsed[-1])
        return {"km": f"{trail.distances[-1] / 1e3:.1f}", "at": now.strftime("%Y-%m-%d %H:%M")}
    return {"km": f"{ridden.timetable.legs[desk.leg].start / 1e3:.1f}"} if desk.leg else {}


def _tally(tally: Counter[str]) -> str:
    parts = [f"{KINDS[kind]} {count}" for kind, count in tally.most_common()]
    return f"{listed(parts, 10)}." if parts else ""


def _late(told: Told) -> str:
    if told.late is None:
        return ""
    if abs(told.late) < _ON_TIME:
        return "on plan"
    if abs(told.late) > _ANOTHER_DAY:
        return "another day than the race's: is its clock right?"
    return f"{duration(abs(told.late))} {'late' if told.late > 0.0 else 'early'}"


def _row(desk: Desk, told: Told) -> NoteRow:
    ridden, note = desk.evaluation.ridden, told.note
    when = "" if note.at is None else clock(note.at.astimezone(ridden.way.start.tzinfo))
    return NoteRow(
        km=distance_km(note.distance),
        kind=KINDS[note.kind],
        words=note.text,
        when=when,
        planned=clock(clock_after(ridden, told.planned)),
        late=_late(told),
        is_late=told.late is not None and _ON_TIME < told.late < _ANOTHER_DAY,
        drop_address=desk.do("diary-note", str(desk.variant.diary.index(note)), "drop"),
    )
