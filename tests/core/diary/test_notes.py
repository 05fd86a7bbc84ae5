"""Notes beside the plan, and brought in twice."""

from datetime import UTC, datetime, timedelta

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.diary.notes import KINDS, Note, beside_plan, merged

START = datetime(2027, 9, 24, 7, tzinfo=UTC)
NOTES = st.builds(
    Note,
    kind=st.sampled_from(sorted(KINDS)),
    text=st.text(max_size=8),
    distance=st.floats(0.0, 1000.0),
    at=st.none() | st.integers(0, 10_000).map(lambda s: START + timedelta(seconds=s)),
)


@given(notes=st.lists(NOTES, max_size=12))
def test_notes_stand_by_distance_and_late_by_hand(notes: list[Note]) -> None:
    told = beside_plan(notes, start=START, distances=np.array([0.0, 1000.0]), clocks=np.array([0.0, 5000.0]))
    assert [one.note.distance for one in told] == sorted(note.distance for note in notes)
    for one in told:
        assert abs(one.planned - 5.0 * one.note.distance) < 1e-6
        if one.note.at is None:
            assert one.late is None
        else:
            assert abs(one.late - ((one.note.at - START).total_seconds() - 5.0 * one.note.distance)) < 1e-6


@given(known=st.lists(NOTES, max_size=6), more=st.lists(NOTES, max_size=6))
def test_what_is_brought_in_twice_stands_once(known: list[Note], more: list[Note]) -> None:
    once = merged(known, more)
    assert merged(once, more) == once == merged(once, known)
    assert set(once) == {*known, *more} and len(once) == len(set(once))
