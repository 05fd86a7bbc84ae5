"""Stops and their hours, gaps between them, weather and sun."""

from datetime import date
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.line.gaps import gaps, longest_gap
from stonechat.core.line.race_rules import RaceRules, forbidden_things, missing_things
from stonechat.core.line.stops import (
    ALWAYS,
    DAY,
    KINDS,
    OFFERS,
    Stop,
    door_of,
    is_open,
    joined_stops,
    main_door,
    next_opening,
    open_offers,
)
from stonechat.core.line.sun import daylight, sky_of_day
from stonechat.core.line.surface import TYRES, GroundFigures, surfaces_for
from stonechat.core.line.weather import hourly_temperature, temperature_at_height
from stonechat.core.line.zones import zone_name

HOUR = 3600.0
WEEK = (((7 * HOUR, 12 * HOUR), (14 * HOUR, 19 * HOUR)),) * 5 + (((8 * HOUR, 13 * HOUR),), ())
SHOP = Stop(
    id="shop",
    name="Shop",
    distance=10_000.0,
    offers=frozenset({"shop"}),
    hours=WEEK,
)
BAR = (((18 * HOUR, 26 * HOUR),),) + ((),) * 6


@pytest.mark.parametrize(
    ("weekday", "hour", "open_", "wait"),
    [
        (0, 6.0, False, 1.0),
        (0, 7.0, True, 0.0),
        (0, 12.0, False, 2.0),
        (0, 18.99, True, 0.0),
        (0, 19.0, False, 12.0),
        (5, 13.0, False, 42.0),  # Saturday 13:00 to Monday 07:00
        (6, 9.0, False, 22.0),
    ],
)
def test_a_shop_is_open_within_its_hours(weekday: int, hour: float, open_: bool, wait: float) -> None:
    assert is_open(WEEK, weekday, hour * HOUR) is open_
    assert next_opening(WEEK, weekday, hour * HOUR) == pytest.approx(wait * HOUR)


def test_hours_past_midnight_belong_to_the_day_before() -> None:
    assert is_open(BAR, 1, 1 * HOUR)
    assert not is_open(BAR, 1, 2 * HOUR)
    assert not is_open(BAR, 0, 1 * HOUR)


def test_a_stop_that_never_opens_is_waited_for_without_end() -> None:
    assert next_opening(((),) * 7, 0, 0.0) == float("inf")


@given(st.integers(0, 6), st.floats(0, DAY - 1))
def test_after_the_wait_a_stop_is_open(weekday: int, time_of_day: float) -> None:
    wait = next_opening(WEEK, weekday, time_of_day)
    later = time_of_day + wait
    assert is_open(WEEK, (weekday + int(later // DAY)) % 7, round(later % DAY, 6))


@given(st.lists(st.tuples(st.floats(1, 99_999), st.booleans(), st.booleans()), max_size=12))
def test_gaps_cover_the_course_and_begin_and_end_at_used_places(places: list[tuple[float, bool, bool]]) -> None:
    stops = tuple(
        Stop(id=str(k), name=str(k), distance=at, offers=frozenset({"water"} if wet else {"bed"}), used=used)
        for k, (at, wet, used) in enumerate(sorted(places))
    )
    found = gaps(stops, frozenset({"water"}), 100_000.0)
    assert sum(gap.length for gap in found) == pytest.approx(100_000.0)
    marks = sorted(s.distance for s in stops if s.used and "water" in s.offers)
    assert [gap.end for gap in found] == pytest.approx([*marks, 100_000.0])
    assert longest_gap(stops, frozenset({"water"}), 100_000.0).length == max(gap.length for gap in found)


# [Parton1981] with a 1.86, b 2.20, c -0.17: low 8, high 24, rise 5.5, set 20.5, worked by hand at these hours
@pytest.mark.parametrize(
    ("hour", "expected"),
    [(5.33, 8.0), (10.0, 19.2947), (14.0, 23.8929), (20.5, 16.9782), (23.0, 12.2972), (0.0, 11.1028)],
)
def test_temperature_through_a_day(hour: float, expected: float) -> None:
    found = hourly_temperature(hour, 5.5, 20.5, 8.0, 24.0, 8.0, 16.9782)
    assert found == pytest.approx(expected, abs=2e-3)


@given(st.floats(0, 23.99), st.floats(-10, 15), st.floats(1, 20))
def test_temperature_stays_between_low_and_high(hour: float, low: float, swing: float) -> None:
    high = low + swing
    at_sunset = hourly_temperature(18.0, 6.0, 18.0, low, high, low, low)
    assert low - 1e-6 <= hourly_temperature(hour, 6.0, 18.0, low, high, low, at_sunset) <= high + 1e-6


def test_it_is_six_and_a_half_degrees_colder_a_kilometre_up() -> None:
    assert temperature_at_height(24.0, 2000.0, 500.0) == pytest.approx(24.0 - 1.5 * 6.5)


def test_day_and_night_are_even_at_the_equinox_on_the_equator() -> None:
    rise, down = daylight(latitude=0.0, longitude=0.0, day=date(2027, 3, 20), zone=ZoneInfo("UTC"))
    # refraction and the sun's own size lengthen the day by about seven minutes
    assert down - rise == pytest.approx(12 * HOUR + 7 * 60, abs=120)


@pytest.mark.parametrize(("day", "expected"), [(date(2027, 6, 21), DAY), (date(2027, 12, 21), 0.0)])
def test_the_polar_day_and_night_have_no_sunrise(day: date, expected: float) -> None:
    rise, down = daylight(latitude=75.0, longitude=20.0, day=day, zone=ZoneInfo("UTC"))
    assert down - rise == expected


# days of eclipses: the moon is full at a lunar and new at a solar one
@pytest.mark.parametrize(
    ("day", "lit"),
    [(date(2000, 1, 21), 1.0), (date(2022, 11, 8), 1.0), (date(2017, 8, 21), 0.0), (date(2024, 4, 8), 0.0)],
)
def test_the_moon_is_full_and_new_on_days_of_eclipses(day: date, lit: float) -> None:
    sky = sky_of_day(latitude=45.0, longitude=7.0, day=day, zone=ZoneInfo("UTC"))
    assert sky.moonlight == pytest.approx(lit, abs=0.03)
    assert sky.phase == ("full" if lit else "new")
    if lit and sky.moonset and sky.sunrise:  # a full moon sets about when the sun rises
        assert abs((sky.moonset - sky.sunrise).total_seconds()) < 1.2 * HOUR


def test_twilight_frames_the_day_and_there_may_be_none() -> None:
    sky = sky_of_day(latitude=45.0, longitude=7.0, day=date(2027, 3, 20), zone=ZoneInfo("UTC"))
    assert sky.dawn and sky.sunrise and sky.sunset and sky.dusk
    # at the equinox the sun sinks 15° an hour times the cosine of the latitude: 6° take about 28 to 34 minutes
    for light, edge in ((sky.dawn, sky.sunrise), (sky.sunset, sky.dusk)):
        assert 26 * 60 < (edge - light).total_seconds() < 36 * 60
    white = sky_of_day(latitude=66.0, longitude=25.0, day=date(2027, 6, 21), zone=ZoneInfo("UTC"))
    assert white.dusk is None


def test_a_zone_is_that_of_the_place() -> None:
    assert zone_name(44.6, -28.4) == "Etc/GMT+2"
    # on the open sea zones are 15 degrees wide
    assert {zone_name(0.0, -30.0 - k) for k in (0.0, 7.4)} == {"Etc/GMT+2"}
    assert zone_name(0.0, -38.0) == "Etc/GMT+3"


@pytest.mark.parametrize(("words", "carried", "missing"), [
    (("rear light",), ["Light, rear"], ()),
    (("rear light",), ["rear bag", "front light"], ("rear light",)),
    (("whistle", "helmet"), ["helmet light"], ("whistle",)),
    ((), [], ()),
])  # fmt: skip
def test_compulsory_things_are_found_by_all_their_words(
    words: tuple[str, ...], carried: list[str], missing: tuple[str, ...]
) -> None:
    assert missing_things(RaceRules(compulsory=words), carried) == missing


@pytest.mark.parametrize("tyre", sorted(TYRES))
@pytest.mark.parametrize("boldness", ["cautious", "normal", "bold"])
def test_surfaces_get_worse_down_the_list_whatever_the_tyre(tyre: str, boldness: str) -> None:
    surfaces = surfaces_for(tyre, boldness)
    rolling = [s.rolling for s in surfaces[:6]]
    caps = [s.descent_cap for s in surfaces]
    assert rolling == sorted(rolling) and caps == sorted(caps, reverse=True)
    assert all(s.rolling_low < s.rolling < s.rolling_high for s in surfaces)
    known = (GroundFigures(tyre=tyre, surface="track", rolling=0.5, cap=3.0),)
    track = next(s for s in surfaces_for(tyre, boldness, known) if s.key == "track")
    assert (track.rolling, track.descent_cap) == (0.5, 3.0)
    other = (GroundFigures(tyre="none", surface="track", rolling=0.5),)
    assert surfaces_for(tyre, boldness, other) == surfaces


def place(kind: str, offers: str, **more: object) -> Stop:
    return Stop(id="p", name="Place", distance=500.0, kind=kind, offers=frozenset(offers.split()), **more)  # type: ignore[arg-type]


def test_a_shut_shop_does_not_shut_the_tap_and_a_shut_cafe_does() -> None:
    town = place("town", "water shop meal toilet", hours=WEEK)
    assert open_offers(town, 0, 3 * HOUR) == {"water", "toilet"}
    assert open_offers(town, 0, 8 * HOUR) == {"water", "shop", "meal", "toilet"}
    assert open_offers(place("cafe", "water meal toilet", hours=WEEK), 0, 3 * HOUR) == frozenset()
    # unless its tap has a door of its own
    tap = place("cafe", "water meal", hours=WEEK, hours_by={"water": ALWAYS})
    assert open_offers(tap, 0, 3 * HOUR) == {"water"}


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_what_nobody_has_said_is_not_known_and_never_always_open_where_somebody_must_serve(kind: str) -> None:
    stop = place(kind, " ".join(sorted(KINDS[kind].offers)))
    served = KINDS[kind].offers & {"meal", "shop", "socket", "bike_shop", "pharmacy"}
    for offer in served:
        assert not door_of(stop, offer).is_known and door_of(stop, offer).hours != ALWAYS
    if served or KINDS[kind].indoors:
        assert not main_door(stop).is_known
        assert open_offers(stop, 0, 3 * HOUR) & served == frozenset()
    assert set(KINDS[kind].offers) <= set(OFFERS)
    # shops, cafés, beds and towns give water
    if {"shop", "meal", "bed"} & KINDS[kind].offers and kind != "shelter":
        assert "water" in KINDS[kind].offers


def test_neighbours_in_a_file_are_one_stop_with_several_doors() -> None:
    fountain = Stop(id="f", name="Fountain", distance=1_000.0, kind="tap", offers=frozenset({"water"}))
    shop = Stop(id="s", name="Shop", distance=1_090.0, kind="shop", offers=frozenset({"shop", "water"}), hours=WEEK)
    late = (((20 * HOUR, 24 * HOUR),),) * 7
    kiosk = Stop(id="k", name="Kiosk", distance=1_120.0, kind="convenience", offers=frozenset({"shop"}), hours=late)
    far = Stop(id="x", name="Spring", distance=1_300.0, kind="spring", offers=frozenset({"doubtful_water"}))
    ferry = Stop(id="y", name="Ferry", distance=1_310.0, kind="ferry")
    joined = joined_stops((fountain, shop, kiosk, far, ferry))
    assert [stop.name for stop in joined] == ["Fountain, Shop, Kiosk", "Spring", "Ferry"]
    assert open_offers(joined[0], 0, 3 * HOUR) == {"water"}
    for hour in (8.0, 21.0):  # food from the shop by day, from the kiosk at night
        assert open_offers(joined[0], 0, hour * HOUR) == {"water", "shop"}
    assert open_offers(joined[0], 0, 13 * HOUR) == {"water"}


def test_what_the_rules_forbid_is_found_by_words_and_beginnings_of_words() -> None:
    rules = RaceRules(forbidden=("navigation unit", "earphone"))
    names = ["Bike navigation unit", "Earphones", "phone", "unit price list"]
    assert forbidden_things(rules, names) == ("Bike navigation unit", "Earphones")
