"""Sleep schools as nights."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.line.clocks import even_clock, exists, since_midnight
from stonechat.core.rhythm.rhythm import NIGHT_KINDS, SLEEP_SCHOOLS, Night, Rhythm, night_arrays, usual_night

HOUR, DAY = 3600.0, 86_400.0
hours = st.integers(0, 95).map(lambda quarter: quarter * 900.0)
nights = st.builds(
    Night, kind=st.sampled_from(sorted(NIGHT_KINDS)), start=hours.map(lambda s: s + 0.5 * DAY),
    end=hours.map(lambda s: s + 1.5 * DAY), sleep=st.integers(1, 12).map(lambda h: h * HOUR),
)  # fmt: skip
rhythms = st.builds(
    Rhythm, school=st.sampled_from(sorted(SLEEP_SCHOOLS)), rise=hours, halt=hours, sleep_from=hours,
    sleep_for=st.integers(0, 10).map(lambda h: h * HOUR), first_night=st.booleans(),
    nights=st.dictionaries(st.integers(0, 6), nights, max_size=4), camp_time=st.sampled_from([0.0, 1_800.0]),
)  # fmt: skip


def nights_of(rhythm: Rhythm, start: float, count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return the nights of a start so long after a midnight of UTC."""
    even = datetime(2027, 9, 24, tzinfo=UTC) + timedelta(seconds=start)
    return night_arrays(replace(rhythm, start=even.replace(tzinfo=None)), even, count)


@given(rhythms, hours)
def test_nights_are_in_order_begin_after_the_start_and_last(rhythm: Rhythm, start: float) -> None:
    begins, ends, lengths = nights_of(rhythm, start, 10)
    assert begins.size == ends.size == lengths.size <= 10
    assert (np.diff(begins) >= 0.0).all() and (begins >= start).all()
    by_clock = lengths == 0.0
    assert (ends[by_clock] > begins[by_clock]).all()
    assert (lengths[~by_clock] > rhythm.camp_time).all()


@given(rhythms)
def test_a_night_set_by_hand_is_that_night_and_no_other(rhythm: Rhythm) -> None:
    plain = replace(rhythm, nights={})
    chosen = Night(kind="for", start=21 * HOUR, sleep=2 * HOUR)
    usual, _, _ = nights_of(plain, 0.0, 8)
    begins, _, lengths = nights_of(replace(plain, nights={3: chosen}), 0.0, 8)
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
    begins, ends, lengths = nights_of(rhythm, 7 * HOUR, 5)
    until = np.where(lengths > 0.0, begins + lengths, ends)
    found = [(float(a) / HOUR, float(b) / HOUR) for a, b in zip(begins, until, strict=True)]
    assert found[:2] == [first, second]


@pytest.mark.parametrize("school", ["through", "places", "rooms", "distance"])
def test_some_schools_have_no_nights_of_their_own(school: str) -> None:
    assert nights_of(Rhythm(school=school), 0.0, 9)[0].size == 0
    assert nights_of(Rhythm(rise=3 * HOUR, halt=3 * HOUR), 0.0, 9)[0].size == 0


def test_a_night_keeps_its_hours_by_the_clock_when_summer_time_ends_or_begins() -> None:
    # Central Europe: clocks go forward on 28 March 2027 at 02:00 and back on 31 October 2027 at 03:00
    berlin = ZoneInfo("Europe/Berlin")
    for day, length in ((datetime(2027, 3, 27, 8), 6.0), (datetime(2027, 10, 30, 8), 8.0)):
        even = even_clock(day.replace(tzinfo=berlin))
        rhythm = Rhythm(start=day, zone="Europe/Berlin", rise=5 * HOUR, halt=22 * HOUR)
        begins, ends, _ = night_arrays(rhythm, even, 3)
        assert (ends - begins).tolist() == [length * HOUR, 7 * HOUR, 7 * HOUR]
        for k in range(3):
            local = even.replace(hour=0) + timedelta(seconds=float(ends[k]))
            assert local.astimezone(berlin).strftime("%H:%M") == "05:00"


@given(st.integers(0, 40), st.integers(0, 95))
def test_the_clock_on_the_wall_is_found_again(day: int, quarter: int) -> None:
    # the oracle goes the other way: from the even clock to what the wall shows
    zone, start = ZoneInfo("America/New_York"), datetime(2027, 3, 1, 6, tzinfo=ZoneInfo("America/New_York"))
    even = even_clock(start)
    moment = since_midnight(even, day, quarter * 900.0, zone)
    shown = (even.replace(hour=0) + timedelta(seconds=moment)).astimezone(zone).replace(tzinfo=None)
    wanted = datetime(2027, 3, 1) + timedelta(days=day, minutes=15 * quarter)
    assert shown == wanted or not exists(wanted, zone)
