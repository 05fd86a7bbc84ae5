"""Tables of the line: what goes out comes in equal; every bad cell is named by row and column."""

from dataclasses import replace
from datetime import date, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.line.profile import Profile
from stonechat.core.line.stops import KINDS, OFFERS, Stop
from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.plan import Plan
from stonechat.errors import StonechatError, TooLarge
from stonechat.formats import line_csv


@pytest.fixture(scope="module")
def profile(demo_evaluation: Evaluation) -> Profile:
    return demo_evaluation.ridden.way.profile


def test_the_demos_stops_go_out_and_come_in(demo: Plan, profile: Profile) -> None:
    came = line_csv.read_stops(line_csv.write_stops(demo.line.stops), profile)
    assert came == demo.line.stops


@given(
    st.sets(st.sampled_from(sorted(OFFERS))), st.sampled_from(sorted(KINDS)), st.integers(0, 100), st.booleans(),
    st.one_of(st.none(), st.integers(0, 2_000)), st.sampled_from(["", "=1+1", "-x", "a, b; c"]),
)  # fmt: skip
def test_any_stop_goes_out_and_comes_in(
    profile: Profile, offers: set[str], kind: str, sure: int, used: bool, dwell: int | None, note: str
) -> None:
    stop = Stop(
        id="inn", name="Inn", distance=5_500.0, offers=frozenset(offers), kind=kind, confidence=sure / 100, used=used,
        dwell=None if dwell is None else dwell * 60.0, note=note, cutoff=datetime(2027, 9, 26, 18, 30),
        hours=(((25_200.0, 43_200.0), (50_400.0, 72_000.0)),) * 6 + ((),), detour=250.0,
    )  # fmt: skip
    assert line_csv.read_stops(line_csv.write_stops((stop,)), profile) == (stop,)


def test_a_stop_by_its_place_lies_where_the_course_passes_it(profile: Profile) -> None:
    k = 4_321
    lat, lon = float(profile.latitudes[k]), float(profile.longitudes[k])
    row = f"name;lat;lon;offers\nTap;{lat:.6f};{lon:.6f};water, shop food\n".replace(".", ",")
    (stop,) = line_csv.read_stops(row.encode(), profile)
    assert stop.distance == pytest.approx(float(profile.distances[k]), abs=51.0) and stop.offers == {"water", "shop"}
    assert stop.kind == "shop" and stop.detour == 0.0 and stop.used and stop.dwell is None


BAD_STOPS = {
    "no name": ("name,km\n,5", "Row 2: the name is missing"),
    "no place": ("name\nTap", "Row 2, column lat"),
    "past the finish": ("name,km\nTap,5000", r"Row 2, column km: Tap at 5000\.0 km is not on the course"),
    "far off": ("name,lat,lon\nTap,60,10", "Row 2: Tap lies .* km off the course; 5 km is the most"),
    "25 o'clock": ("name,km,hours\nTap,5,25:00-26:00", "Row 2, column hours: .*25:00.* is no time of day"),
    "overlap": ("name,km,hours\nTap,5,Mo 08:00-12:00;\nInn,9,Mo 08:00-12:00 11:00", "Row 3, column hours"),
    "no offer": ("name,km,offers\nTap,5,sauna", "Row 2, column offers: .*sauna"),
    "no kind": ("name,km,kind\nTap,5,castle", "Row 2, column kind: .*castle"),
    "detour": ("name,km,detour_km\nTap,5,80", "Row 2, column detour_km: 80 is outside 0 to 40 km"),
    "sure": ("name,km,confidence_pct\nTap,5,140", "Row 2, column confidence_pct"),
    "cut-off": ("name,km,cutoff\nTap,5,tomorrow", "Row 2, column cutoff: .*tomorrow.* is no local time"),
    "used": ("name,km,used\nTap,5,perhaps", "Row 2, column used: write yes or no"),
    "column": ("name,km,colour\nTap,5,red", "column “colour” is not known"),
    "empty": ("", "The table is (empty|not text)"),
    "binary": ("\x00\x01", "The table is (empty|not text)"),
}


@pytest.mark.parametrize("kind", sorted(BAD_STOPS))
def test_a_bad_table_of_stops_is_refused_where_it_is_bad(profile: Profile, kind: str) -> None:
    text, sentence = BAD_STOPS[kind]
    with pytest.raises(StonechatError, match=sentence):
        line_csv.read_stops(text.encode(), profile)


def test_surfaces_go_out_and_come_in(demo: Plan, profile: Profile) -> None:
    assert line_csv.read_surfaces(line_csv.write_surfaces(demo.line.spans), profile.length) == demo.line.spans


BAD_SURFACES = {
    "past the finish": ("from_km,to_km,surface\n1100,1200,track", "1200 km is past the finish at 1140"),
    "backwards": ("from_km,to_km,surface\n9,3,track", "Row 2: the stretch ends before it begins"),
    "lava": ("from_km,to_km,surface\n1,3,lava", "Row 2, column surface: “lava” is not one of"),
    "no number": ("from_km,to_km,surface\nx,3,track", "Row 2, column from_km: “x” is not a number"),
    "a column short": ("from_km,surface\n1,track", "the column “to_km” is missing"),
}


@pytest.mark.parametrize("kind", sorted(BAD_SURFACES))
def test_a_bad_table_of_surfaces_is_refused_where_it_is_bad(profile: Profile, kind: str) -> None:
    text, sentence = BAD_SURFACES[kind]
    with pytest.raises(StonechatError, match=sentence):
        line_csv.read_surfaces(text.encode(), profile.length)


def test_heights_are_rows_of_metres_in_order() -> None:
    assert line_csv.read_heights(b"km,height_m\n0,100\n1.5,250\n").tolist() == [[0.0, 100.0], [1500.0, 250.0]]
    for text, sentence in (
        ("km,height_m\n0,100", "at least two rows"),
        ("km,height_m\n0,1\n5,2\n4,3", "Row 4: its km is not greater"),
        ("km,height_m\n0,1\n5,12000", "Row 3, column height_m: 12000 is outside"),
    ):
        with pytest.raises(StonechatError, match=sentence):
            line_csv.read_heights(text.encode())


def test_weather_goes_out_and_comes_in_from_the_first_day_on(demo: Plan) -> None:
    days = tuple(replace(day, humidity=0.6, rain=2.5) for day in demo.line.weather.days)
    first = date(2027, 9, 24)
    written = line_csv.write_weather(days, first)
    again = line_csv.read_weather(written, first)
    assert [replace(d, wind_speed=round(d.wind_speed, 6)) for d in again] == [
        replace(d, wind_speed=round(d.wind_speed, 6)) for d in days
    ]
    assert len(line_csv.read_weather(written, date(2027, 9, 26))) == len(days) - 2  # days before the start are left out
    undated = "low_c,high_c\n1,9\n2,11\n"
    assert [day.temp_low for day in line_csv.read_weather(undated.encode(), first)] == [1.0, 2.0]


BAD_WEATHER = {
    "no first day": ("date,low_c,high_c\n2027-09-25,1,9", "no row for 24 September 2027, the first day"),
    "a hole": ("date,low_c,high_c\n2027-09-24,1,9\n2027-09-26,1,9", "no row for 25 September 2027"),
    "twice": ("date,low_c,high_c\n2027-09-24,1,9\n2027-09-24,1,9", "stands in the table twice"),
    "no day": ("date,low_c,high_c\n2027-02-30,1,9", "Row 2, column date: .* is no day"),
    "a storm": ("low_c,high_c,wind_kmh\n1,9,200", "Row 2, column wind_kmh: 200 is outside 0 to 126 km/h"),
    "upside down": ("low_c,high_c\n9,1", "Row 2: the low, 9 °C, is above the high"),
    "hot": ("low_c,high_c\n9,95", "Row 2, column high_c"),
}


@pytest.mark.parametrize("kind", sorted(BAD_WEATHER))
def test_a_bad_table_of_weather_is_refused_where_it_is_bad(kind: str) -> None:
    text, sentence = BAD_WEATHER[kind]
    with pytest.raises(StonechatError, match=sentence):
        line_csv.read_weather(text.encode(), date(2027, 9, 24))


def test_a_table_that_is_too_long_is_refused(profile: Profile) -> None:
    with pytest.raises(TooLarge, match="more than 1,000 rows"):
        line_csv.read_stops(b"name,km\n" + b"Tap,5\n" * 1_001, profile)


def test_profile_and_timetable_say_what_the_ride_says(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    lines = line_csv.write_profile(ridden.way.profile).decode().splitlines()
    assert len(lines) == ridden.way.profile.lengths.size + 1
    km, height, *_ = lines[1_001].split(",")
    assert float(km) == pytest.approx(float(ridden.way.profile.distances[1_000]) / 1000.0, abs=0.06)
    assert float(height) == pytest.approx(float(ridden.way.profile.heights[1_000]), abs=0.06)
    table = [line.split(",") for line in line_csv.write_timetable(ridden).decode().splitlines()]
    assert [row[0] for row in table[1:]] == [visit.name for visit in ridden.timetable.visits]
    assert [row[2] for row in table[1:]] == [visit.arrives.isoformat() for visit in ridden.timetable.visits]
    climbed = float(lines[-1].split(",")[4])
    assert climbed == pytest.approx(ridden.way.profile.ascent, abs=30.0) and np.isfinite(climbed)
