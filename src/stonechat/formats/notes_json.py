"""Notes that a pack gives out, as JSON, and the document in which a plan keeps them."""

import json
import math
from datetime import UTC, datetime
from typing import Annotated, Any

from pydantic import AwareDatetime, Field

from stonechat.core.diary.notes import KINDS, MOST_NOTES, Note
from stonechat.errors import TooLarge, UnreadableFile
from stonechat.formats.documents.part import OneOf, Part, limit
from stonechat.text import clean_json

FORMAT = "stonechat-notes"
MOST_BYTES = 2_000_000
_LONGEST = 500  # characters of a note


class NoteDocument(Part):
    """A note as a plan keeps it."""

    kind: Annotated[str, OneOf(KINDS, "kind of note")]
    text: Annotated[str, Field(max_length=_LONGEST)] = ""
    at: AwareDatetime | None = None
    km: Annotated[float, limit("note_km")]

    @classmethod
    def of(cls, note: Note) -> "NoteDocument":
        """Return the document of a note."""
        return cls(kind=note.kind, text=note.text, at=note.at, km=note.distance / 1000.0)

    def core(self) -> Note:
        """Return the note."""
        return Note(kind=self.kind, text=self.text, at=self.at, distance=self.km * 1000.0)


def read_notes(data: bytes, *, length: float) -> tuple[tuple[Note, ...], tuple[str, ...]]:
    """Return the notes of a file that a pack gave out, and what of it was left out.

    `length` is that of the course in m: a note beyond it is of another race.
    """
    if len(data) > MOST_BYTES:
        raise TooLarge(f"The notes have {len(data) / 1e6:.0f} MB; {MOST_BYTES / 1e6:.0f} MB is the most.")
    try:
        raw = clean_json(json.loads(data))
    except (ValueError, RecursionError) as exc:
        raise UnreadableFile("The file is not readable as JSON. Give the notes out of the pack again.") from exc
    if not isinstance(raw, dict) or raw.get("format") != FORMAT or not isinstance(raw.get("notes"), list):
        raise UnreadableFile("The file holds no notes of a pack. Choose the one that “Give the notes out” made.")
    notes, out = [], []
    for number, entry in enumerate(raw["notes"][:MOST_NOTES], start=1):
        note = _note(entry, length)
        if isinstance(note, Note):
            notes.append(note)
        else:
            out.append(f"note {number}: {note}")
    if len(raw["notes"]) > MOST_NOTES:
        out.append(f"{len(raw['notes']) - MOST_NOTES} more than {MOST_NOTES}")
    return tuple(notes), tuple(out)


def _note(entry: Any, length: float) -> Note | str:
    if not isinstance(entry, dict):
        return "it is no note"
    km = entry.get("km")
    if isinstance(km, bool) or not isinstance(km, int | float) or not math.isfinite(km):
        return "it names no km"
    if not 0.0 <= km * 1000.0 <= length:
        return f"{km:g} km is not on this course"
    said = entry.get("kind")
    kind = said if isinstance(said, str) and said in KINDS else "note"
    return Note(kind=kind, text=str(entry.get("text", ""))[:_LONGEST], at=_clock(entry.get("at")), distance=km * 1000.0)


def _clock(value: Any) -> datetime | None:
    try:
        moment = datetime.fromisoformat(str(value).replace("Z", "+00:00"))
    except ValueError:
        return None
    return moment.astimezone(UTC).replace(microsecond=0) if moment.tzinfo and 1990 <= moment.year <= 2100 else None
