"""Sleep schools as nights."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.rhythm.rhythm import NIGHT_KINDS, SCHOOLS, Night, Rhythm, night_arrays, usual_night

HOUR, DAY = 3600.0, 86_400.0
hours = st.integers(0, 95).map(lambda quarter: quarter * 900.0)
nights = st.builds(
    Night, kind=st.sampled_from(sorted(NIGHT_KINDS)), start=hours.map(lambda s: s + 0.5 * DAY),
    end=hours.map(lambda s: s + 1.5 * DAY), sleep=st.integers(1, 12).map(lambda h: h * HOUR),
)  # fmt: skip
rhythms = st.builds(
    Rhythm, school=st.sampled_from(sorted(SCHOOLS)), rise=hours, halt=hours, sleep_from=hours,
    sleep_for=st.integers(0, 10).map(lambda h: h * HOUR), first_night=st.booleans(),
    nights=st.dictionaries(st.integers(0, 6), nights, max_size=4), camp_time=st.sampled_from([0.0, 1_800.0]),
)  # fmt: skip


@given(rhythms, hours)
def test_nights_are_in_order_begin_after_the_start_and_last(rhythm: Rhythm, start: float) -> None:
    begins, ends, lengths = night_arrays(rhythm, start, 10)
    assert begins.size == ends.size == lengths.size <= 10
    assert (np.diff(begins) >= 0.0).all() and (begins >= start).all()
    by_clock = lengths == 0.0
    assert (ends[by_clock] > begins[by_clock]).all()
    assert (lengths[~by_clock] > rhythm.camp_time).all()


@given(rhythms)
def test_a_night_set_by_hand_is_that_night_and_no_other(rhythm: Rhythm) -> None:
    plain = replace(rhythm, nights={})
    chosen = Night(kind="for", start=21 * HOUR, sleep=2 * HOUR)
    usual, _, _ = night_arrays(plain, 0.0, 8)
    begins, _, lengths = night_arrays(replace(plain, nights={3: chosen}), 0.0, 8)
    assert 3 * DAY + 21 * HOUR in begins
    assert lengths[begins.tolist().index(3 * DAY + 21 * HOUR)] == 2 * HOUR + rhythm.camp_time
    own = usual_night(plain, 3)
    gone = set() if own.kind == "through" else {3 * DAY + own.start}
    assert set(usual) - gone == set(begins) - {3 * DAY + 21 * HOUR}


@pytest.mark.parametrize(
    ("rhythm", "first", "second"),
    [
        (Rhythm(rise=5 * HOUR, halt=22 * HOUR), (22, 29), (46, 53)),
        (Rhythm(rise=4 * HOUR, halt=1 * HOUR), (25, 28), (49, 52)),
        (Rhythm(rise=4 * HOUR, halt=1 * HOUR, first_night=True), (49, 52), (73, 76)),
        (Rhythm(school="hours", sleep_from=23 * HOUR, sleep_for=4 * HOUR, camp_time=0.0), (23, 27), (47, 51)),
        (Rhythm(school="hours", sleep_from=2 * HOUR, sleep_for=3 * HOUR, camp_time=0.0), (26, 29), (50, 53)),
    ],
)
def test_schools_are_the_nights_that_a_rider_would_say(
    rhythm: Rhythm, first: tuple[float, float], second: tuple[float, float]
) -> None:
    begins, ends, lengths = night_arrays(rhythm, 7 * HOUR, 5)
    until = np.where(lengths > 0.0, begins + lengths, ends)
    found = [(float(a) / HOUR, float(b) / HOUR) for a, b in zip(begins, until, strict=True)]
    assert found[:2] == [first, second]


@pytest.mark.parametrize("school", ["through", "places"])
def test_two_schools_have_no_nights_of_their_own(school: str) -> None:
    assert night_arrays(Rhythm(school=school), 0.0, 9)[0].size == 0
    assert night_arrays(Rhythm(rise=3 * HOUR, halt=3 * HOUR), 0.0, 9)[0].size == 0
