"""Opening hours as typed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.errors import InvalidInput
from stonechat.formats.hours import hours_text, parse_hours

HOUR = 3600.0


def test_weekdays_breaks_and_closed_days() -> None:
    hours = parse_hours("Mo-Fr 07:00-12:00,14:00-20:00; Sa 8:00-13:00; Su shut")
    assert hours is not None
    assert hours[0] == hours[4] == ((7 * HOUR, 12 * HOUR), (14 * HOUR, 20 * HOUR))
    assert hours[5] == ((8 * HOUR, 13 * HOUR),)
    assert hours[6] == ()


def test_no_words_mean_always_and_no_weekday_means_every_day() -> None:
    assert parse_hours(" ") is None
    assert parse_hours("00:00-24:00") == (((0.0, 24 * HOUR),),) * 7


def test_a_week_may_turn_over_sunday_and_a_night_over_midnight() -> None:
    hours = parse_hours("Sa-Mo 18:00-02:00")
    assert hours is not None
    assert [bool(day) for day in hours] == [True, False, False, False, False, True, True]
    assert hours[0] == ((18 * HOUR, 26 * HOUR),)


@given(st.lists(st.lists(st.tuples(st.integers(0, 11), st.integers(12, 24)), max_size=1), min_size=7, max_size=7))
def test_hours_written_are_read_again(days: list[list[tuple[int, int]]]) -> None:
    hours = tuple(tuple((a * HOUR, b * HOUR) for a, b in day) for day in days)
    assert parse_hours(hours_text(hours)) == hours


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("25:00-26:00", "“25:00” is no time of day"),
        ("Mo 07:00-09:00,08:00-10:00", "On Mo two opening times overlap"),
        ("Xy 07:00-09:00", "“Xy” is no weekday"),
        ("Mo seven to eight", "is no opening time"),
        ("07:00-07:00", "opens and shuts at once"),
    ],
)
def test_a_slip_is_named(text: str, sentence: str) -> None:
    with pytest.raises(InvalidInput, match=sentence):
        parse_hours(text)
