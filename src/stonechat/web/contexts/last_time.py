"""What earlier races say where the next plan is made."""

from dataclasses import dataclass

from stonechat.core.diary.debrief import BAG_STATES
from stonechat.core.diary.notes import KINDS
from stonechat.core.line.stops import OFFERS
from stonechat.core.plan.never_used import NeverUsed, never_used
from stonechat.formats.hours import stop_hours_text
from stonechat.render.filters import distance_km, duration
from stonechat.services.known_stops import HOURS, NOTED, OFFERED, STAY, KnownStop, known_stops
from stonechat.services.memory import Memory, memories
from stonechat.text import listed
from stonechat.web.addresses import room_address
from stonechat.web.desk import Desk

_MOST = 2  # earlier races that are spoken of
_MOST_THINGS = 5  # never used, that are spoken of
_CLEAR = 20.0 * 60.0  # s by which time differs enough to be spoken of


@dataclass(frozen=True, kw_only=True)
class LastTime:
    """What one earlier race says."""

    title: str
    address: str
    lines: tuple[str, ...]


def last_times(desk: Desk) -> tuple[LastTime, ...]:
    """Return what the newest earlier races say."""
    found = []
    for memory in memories(desk.workspace, desk.opened):
        lines = (*_of_kit(memory), *_of_time(memory))
        if lines:
            address = room_address(memory.plan_id, memory.variant_id, "diary", tab="debrief")
            title = f"{memory.plan}, {memory.day}" if memory.day else memory.plan
            found.append(LastTime(title=title, address=address, lines=lines))
    return tuple(found[:_MOST])


@dataclass(frozen=True, kw_only=True)
class NeverUsedRow:
    """A thing that went along again and again for nothing."""

    name: str
    words: str
    address: str


def never_used_rows(desk: Desk) -> tuple[NeverUsedRow, ...]:
    """Return the dearest things that earlier races carried and never used."""
    return tuple(
        NeverUsedRow(name=one.item.name, words=_never_words(one), address=desk.at("kit", open=one.item.id))
        for one in never_used(desk.evaluation.ridden)[:_MOST_THINGS]
    )


def _never_words(one: NeverUsed) -> str:
    words = f"carried {one.item.record.carried} times, used 0; {one.minutes:.1f} min on this course"
    if one.may_end:
        words += "; its lack may end a ride, so it is insurance where nothing else does its work"
    if one.sold_at:
        far = f"; never more than {distance_km(1e3 * one.apart)} from one place that does to the next"
        return f"{words}; {one.sold_at} at {distance_km(1e3 * one.sold_km)} sells what does its work{far}"
    return f"{words}; no stop of this course is known to sell what does its work"


@dataclass(frozen=True, kw_only=True)
class KnownRow:
    """A stop that an earlier race knows."""

    name: str
    km: str
    plan: str
    plan_address: str
    lines: tuple[str, ...]
    take_address: str  # empty: it is known no otherwise there


def known_rows(desk: Desk) -> tuple[KnownRow, ...]:
    """Return the stops of this course that earlier races know more or otherwise of, or have notes of."""
    return tuple(
        KnownRow(
            name=one.stop.name,
            km=distance_km(one.stop.distance),
            plan=one.plan,
            plan_address=room_address(one.plan_id, one.variant_id, "line"),
            lines=(*_otherwise(one), *(f"{KINDS[note.kind]}: {note.text}" for note in one.notes if note.text)),
            take_address=desk.do("stops", one.stop.id, "known") if one.differs else "",
        )
        for one in known_stops(desk.workspace, desk.opened)
    )


def _otherwise(one: KnownStop) -> tuple[str, ...]:
    words = {
        HOURS: f"open {stop_hours_text(one.other)}",
        OFFERED: f"offers {listed([OFFERS[key] for key in OFFERS if key in one.other.offers], 8)}",
        STAY: f"stayed {duration(one.other.dwell or 0.0)}",
        NOTED: one.other.note,
    }
    return tuple(words[key] for key in one.differs)


def _of_kit(memory: Memory) -> tuple[str, ...]:
    lines = []
    if memory.wished:
        lines.append(f"Missing, or wished for: {listed(list(memory.wished), 6)}.")
    for name, verdict in memory.bags:
        day = f" on day {verdict.day}" if verdict.day else ""
        lines.append(f"{name}: {'full' if verdict.state == 'full' else BAG_STATES[verdict.state]}{day}.")
    if memory.change:
        lines.append(f"To change: {memory.change}")
    return tuple(lines)


def _of_time(memory: Memory) -> tuple[str, ...]:
    lines = []
    for key, more, less in (
        ("nights", "longer at night than planned", "less at night than planned"),
        ("stops", "longer at stops than planned", "less at stops than planned"),
        ("moving", "longer on the road than planned", "less on the road than planned"),
    ):
        planned, was = memory.time_by.get(key, (0.0, 0.0))
        if abs(was - planned) >= _CLEAR:
            lines.append(f"{duration(abs(was - planned))} {more if was > planned else less}.")
    return tuple(lines)
