"""Notes of a pack read: what is right is kept, what is wrong is named."""

import json
from typing import Any

import pytest

from stonechat.errors import StonechatError
from stonechat.formats.notes_json import MOST_BYTES, NoteDocument, read_notes


def file(*notes: Any, **more: Any) -> bytes:
    return json.dumps({"format": "stonechat-notes", "version": 1, "notes": list(notes), **more}).encode()


RIGHT = {"kind": "lost", "text": "pump", "km": 12.5, "at": "2027-09-24T10:00:00.123Z"}


def test_a_note_comes_back_as_it_was_written() -> None:
    (note,), out = read_notes(file(RIGHT), length=100_000.0)
    assert (note.kind, note.text, note.distance, out) == ("lost", "pump", 12_500.0, ())
    assert note.at is not None and note.at.isoformat() == "2027-09-24T10:00:00+00:00"
    assert NoteDocument.of(note).core() == note


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({**RIGHT, "km": 400.0}, "400 km is not on this course"),
        ({**RIGHT, "km": -1.0}, "-1 km is not on this course"),
        ({**RIGHT, "km": "12"}, "names no km"),
        ({**RIGHT, "km": True}, "names no km"),
        ({"kind": "lost"}, "names no km"),
        ("lost", "it is no note"),
    ],
)
def test_what_is_wrong_is_named_and_the_rest_is_kept(wrong: object, says: str) -> None:
    notes, out = read_notes(file(RIGHT, wrong), length=100_000.0)
    assert len(notes) == 1 and len(out) == 1 and out[0].startswith("note 2: ") and says in out[0]


def test_a_kind_or_clock_that_is_none_is_let_go() -> None:
    (note,), _ = read_notes(file({"kind": ["x"], "km": 1.0, "at": "yesterday", "text": 5}), length=9_000.0)
    assert (note.kind, note.at, note.text) == ("note", None, "5")
    (note,), _ = read_notes(file({"km": 1.0, "at": "2027-09-24T10:00:00", "text": "x" * 900}), length=9_000.0)
    assert note.at is None and len(note.text) == 500  # a clock without its zone is no clock


@pytest.mark.parametrize(
    "data",
    [b"", b"{", b"[]", b'"x"', b'{"format":"stonechat-plan"}', b'{"format":"stonechat-notes","notes":5}', b"\xff\xfe",
     b"[" * 100_000, b" " * (MOST_BYTES + 1)],
)  # fmt: skip
def test_what_is_no_file_of_notes_is_refused_with_a_sentence(data: bytes) -> None:
    with pytest.raises(StonechatError) as refused:
        read_notes(data, length=1_000.0)
    assert refused.value.message.endswith(".")
