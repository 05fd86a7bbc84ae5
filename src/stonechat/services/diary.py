"""The diary: notes written here, or brought in from the pack."""

from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

import numpy as np

from stonechat.core.diary.notes import MOST_NOTES, Note, merged
from stonechat.core.plan.played import halting_clock
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.notes_code import Joined, join_codes, read_codes
from stonechat.formats.notes_json import read_notes
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.replay import trail_known
from stonechat.services.variant import change_variant
from stonechat.services.workspace import Workspace
from stonechat.text import listed


@dataclass(frozen=True, kw_only=True)
class Brought:
    """Notes that came in, and what should be said of them."""

    opened: OpenPlan
    note: str


@dataclass(frozen=True, kw_only=True)
class Said:
    """A note as it is written here: by place, by clock, or both."""

    kind: str  # key of KINDS
    text: str
    at: datetime | None  # with its zone
    distance: float | None  # m


def add_note(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, said: Said) -> OpenPlan:
    """Write a note; with a clock alone it is where the tracker or the race's file has the rider then, else the plan."""
    length = evaluated(opened, variant_id).ridden.way.profile.length
    distance = said.distance
    if distance is None:
        distance = _place_at(opened, variant_id, said.at)
    if not 0.0 <= distance <= length:
        raise InvalidInput(f"{distance / 1e3:g} km is not on this course of {length / 1e3:.0f} km.", subject="km")
    note = Note(kind=said.kind, text=said.text, at=said.at, distance=distance)
    return _changed(workspace, opened, variant_id, revision, f"noted {note.kind}", (note,))


def _place_at(opened: OpenPlan, variant_id: str, at: datetime | None) -> float:
    """Return where the rider was at a moment. [m]"""
    if at is None:
        raise InvalidInput("Say at which km it was, or when.", subject="km")
    ridden = evaluated(opened, variant_id).ridden
    elapsed = (at - ridden.way.start).total_seconds()
    trail = trail_known(opened, variant_id)
    moments, places = halting_clock(ridden, ridden.ride)
    if not trail.is_empty and trail.elapsed[0] <= elapsed <= trail.elapsed[-1]:
        return float(np.interp(elapsed, trail.elapsed, trail.distances))
    if not 0.0 <= elapsed <= float(moments[-1]):
        raise InvalidInput("Then the race was not going on, by tracker and plan: say the km too.", subject="km")
    return float(np.interp(elapsed, moments, places))


def bring_notes(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, data: bytes) -> Brought:
    """Bring in what a pack gave out; what is here already comes in once."""
    notes, out = read_notes(data, length=evaluated(opened, variant_id).ridden.way.profile.length)
    before = opened.plan.variant(variant_id).diary
    fresh = len(merged(before, notes)) - len(before)
    told = f"Notes that came in: {fresh}" + (f", here already: {len(notes) - fresh}" if fresh < len(notes) else "")
    if out:
        told += f". Left out: {'; '.join(out[:5])}{' …' if len(out) > 5 else ''}"
    if not fresh:
        return Brought(opened=opened, note=f"{told}.")
    changed = _changed(workspace, opened, variant_id, revision, "brought in notes of the pack", notes)
    return Brought(opened=changed, note=f"{told}.")


def look_at_codes(picture: bytes, seen: str) -> Joined:
    """Return what the codes on a picture, which may be empty, come to with those seen before, a line each."""
    return join_codes((*seen.split("\n"), *(read_codes(picture) if picture else ())))


def bring_codes(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, joined: Joined
) -> Brought | None:
    """Bring in notes that came as codes; `None` while some are not seen yet."""
    if joined.data is None:
        return None
    return bring_notes(workspace, opened, variant_id, revision=revision, data=joined.data)


def codes_words(joined: Joined) -> str:
    """Return what codes are still to be shown."""
    if not joined.count:
        return "No code of a pack is on that picture. Go nearer, and let no light mirror in the screen."
    if not joined.missing:
        return "All codes are read."
    seen = joined.count - len(joined.missing)
    return f"{seen} of {joined.count} codes are read; still missing: {listed([str(k) for k in joined.missing], 8)}."


def _changed(
    workspace: Workspace, opened: OpenPlan, variant_id: str, revision: int, label: str, notes: tuple[Note, ...]
) -> OpenPlan:
    if len(merged(opened.plan.variant(variant_id).diary, notes)) > MOST_NOTES:
        raise InvalidInput(f"A diary holds {MOST_NOTES} notes. Take some out first.")
    return change_variant(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label=label,
        change=lambda variant: replace(variant, diary=merged(variant.diary, notes)),
    )


def drop_note(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, number: int) -> OpenPlan:
    """Take a note out, by its place in the diary."""

    def without(notes: tuple[Note, ...]) -> tuple[Note, ...]:
        if not 0 <= number < len(notes):
            raise NotFound("That note is gone already.", subject=str(number))
        return (*notes[:number], *notes[number + 1 :])

    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="took a note out",
        change=lambda variant: replace(variant, diary=without(variant.diary)),
    )
