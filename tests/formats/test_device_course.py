"""Courses for devices, read back by other libraries: distances and times equal, names within the formats' limits."""

import io
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import fitdecode
import gpxpy
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree
from openpyxl import load_workbook

from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.plan import Plan
from stonechat.formats.device_course import (
    FIT_NAME,
    TCX_NAME,
    Cue,
    DeviceCourse,
    cut_bytes,
    cut_marks,
    write_calendar,
    write_fit_course,
    write_tcx_course,
)
from stonechat.formats.gpx import write_gpx
from stonechat.services.devices import all_tables, appointments, device_course, stop_words

START = datetime(2027, 9, 24, 7, 0, tzinfo=ZoneInfo("Europe/Vienna"))
NAMES = (
    "Ostrel",
    "مدينة الجبل",
    "山の小屋のとても長い名前",
    "👩🏽‍🚒 fire house 🚒🚒",
    "e\u0301" * 30,
    "\u202eevil",
    "\x01\x02",
)


def course(names: tuple[str, ...] = NAMES, count: int = 60) -> DeviceCourse:
    k = np.arange(count, dtype=float)
    cues = tuple(
        Cue(name=name, kind=("water", "food", "first_aid", "danger", "generic")[j % 5], words="leave with 2 l",
            distance=100.0 * j, elapsed=15.0 * j, latitude=46.0 + 0.001 * j, longitude=8.0)
        for j, name in enumerate(names)
    )  # fmt: skip
    return DeviceCourse(
        name="A title that is longer than any device shows" * 4, start=START, distances=100.0 * k,
        latitudes=46.0 + 0.001 * k, longitudes=8.0 + 0.0 * k, heights=500.0 + k, elapsed=15.0 * k, cues=cues,
    )  # fmt: skip


def frames(data: bytes, name: str) -> list[fitdecode.FitDataMessage]:
    with fitdecode.FitReader(io.BytesIO(data), check_crc=fitdecode.CrcCheck.RAISE) as reader:
        return [f for f in reader if isinstance(f, fitdecode.FitDataMessage) and f.name == name]


def test_a_fit_course_read_by_another_library_says_the_same() -> None:
    made = course()
    data = write_fit_course(made)
    records = frames(data, "record")
    assert [r.get_value("distance") for r in records] == pytest.approx(made.distances.tolist(), abs=0.01)
    times = [(r.get_value("timestamp") - START).total_seconds() for r in records]
    assert times == pytest.approx(made.elapsed.tolist(), abs=1.0)
    lats = [r.get_value("position_lat") * 180.0 / 2**31 for r in records]
    assert lats == pytest.approx(made.latitudes.tolist(), abs=1e-6)
    (lap,) = frames(data, "lap")
    assert lap.get_value("total_distance") == pytest.approx(5_900.0)
    assert lap.get_value("total_elapsed_time") == pytest.approx(59 * 15.0)
    points = frames(data, "course_point")
    assert [p.get_value("distance") for p in points] == pytest.approx([cue.distance for cue in made.cues])
    assert [p.get_value("type") for p in points[:5]] == ["water", "food", "first_aid", "danger", "generic"]
    assert points[0].get_value("name") == "Ostrel"
    assert all(1 <= len(p.get_value("name").encode()) <= FIT_NAME for p in points)
    assert frames(data, "file_id")[0].get_value("type") == "course"


def test_a_tcx_course_holds_to_its_schema_and_says_the_same() -> None:
    made = course()
    root = etree.fromstring(write_tcx_course(made))

    def at(path: str) -> list[str]:
        return [node.text or "" for node in root.findall(path)]

    assert [float(d) for d in at(".//{*}Trackpoint/{*}DistanceMeters")] == pytest.approx(made.distances.tolist())
    stamps = [datetime.fromisoformat(t.replace("Z", "+00:00")) for t in at(".//{*}Trackpoint/{*}Time")]
    assert [(t - START).total_seconds() for t in stamps] == pytest.approx(made.elapsed.tolist(), abs=1.0)
    assert len(at(".//{*}CoursePoint/{*}Name")) == len(NAMES)
    assert all(1 <= len(name) <= TCX_NAME for name in at(".//{*}CoursePoint/{*}Name"))
    assert at(".//{*}CoursePoint/{*}PointType")[:5] == ["Water", "Food", "First Aid", "Danger", "Generic"]
    assert 1 <= len(at(".//{*}Course/{*}Name")[0]) <= 15


@given(name=st.text(max_size=60))
@settings(max_examples=200, deadline=None)
def test_any_name_is_cut_to_what_a_device_takes(name: str) -> None:
    for cut, most in ((cut_bytes(name, FIT_NAME), FIT_NAME), (cut_marks(name, TCX_NAME), 4 * TCX_NAME)):
        assert 1 <= len(cut.encode()) <= most
        assert cut.encode().decode() == cut and cut.strip() == cut and "\u202e" not in cut


def test_the_demo_goes_to_devices_as_it_is_ridden(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    made = device_course(demo, ridden)
    every = frames(write_fit_course(made), "course_point")
    assert [p.get_value("distance") for p in every] == sorted(p.get_value("distance") for p in every)
    points = [point for point in every if point.get_value("type") != "danger"]
    assert len(points) == len(ridden.timetable.visits) - 1
    for point, visit in zip(points, ridden.timetable.visits, strict=False):
        assert point.get_value("distance") == pytest.approx(visit.distance, abs=0.01)
        assert abs((point.get_value("timestamp") - visit.arrives).total_seconds()) <= 1.0
    musts = [k for k in range(1, len(ridden.timetable.legs)) if ridden.provisions.must[k]]
    assert musts and all(points[k - 1].get_value("name").startswith("! ") for k in musts)
    places = {stop.id: stop_words(ridden, k) for k, stop in enumerate(ridden.way.stops, start=1)}
    file = gpxpy.parse(write_gpx(demo.name, demo.line.track, ((ridden.way.stops[0], 46.0, 8.0),), places).decode())
    words = file.waypoints[0].description or ""
    assert "leave with" in words and "Fri 10:03" in words


def test_a_device_warns_before_hands_are_too_cold_to_brake(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    made = device_course(demo, ridden)
    (warned,) = [cue for cue in made.cues if cue.kind == "danger"]
    (check,) = [one for one in demo_evaluation.findings if one.code == "hands"]
    assert check.sentence.startswith(f"Km {warned.distance / 1e3:.0f}, a descent")  # the check names the worst of them
    assert "hands 4 K too cold" in warned.words and len(warned.name) <= TCX_NAME
    (point,) = [p for p in frames(write_fit_course(made), "course_point") if p.get_value("type") == "danger"]
    assert point.get_value("name") == "Cold hands"
    reached = np.interp(warned.distance, ridden.way.profile.distances, ridden.ride.clocks)
    assert (point.get_value("timestamp") - ridden.way.start).total_seconds() == pytest.approx(reached, abs=2.0)
    bare = evaluate(replace(demo, items=()), "a").ridden
    assert all(cue.kind != "danger" for cue in device_course(demo, bare).cues)


def test_a_pharmacy_that_gives_nothing_else_is_first_aid(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    first = ridden.timetable.visits[0]
    assert first.stop is not None
    for offers, kind in (({"pharmacy"}, "first_aid"), ({"pharmacy", "shop"}, "food"), ({"toilet"}, "generic")):
        visit = replace(first, stop=replace(first.stop, offers=frozenset(offers)))
        visits = (visit, *ridden.timetable.visits[1:])
        made = device_course(demo, replace(ridden, timetable=replace(ridden.timetable, visits=visits)))
        assert next(cue.kind for cue in made.cues if cue.kind != "danger") == kind


def test_the_calendar_has_every_stop_at_its_time(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    entries = appointments(demo, demo.variants[0], ridden)
    text = write_calendar(demo.name, entries, START).decode()
    lines = text.replace("\r\n ", "").split("\r\n")
    begins = [line.removeprefix("DTSTART:") for line in lines if line.startswith("DTSTART:")]
    want = {f"{visit.arrives.astimezone(UTC):%Y%m%dT%H%M%SZ}" for visit in ridden.timetable.visits}
    assert want <= set(begins) and lines[0] == "BEGIN:VCALENDAR" and text.count("BEGIN:VEVENT") == len(entries)
    rests = [entry for entry in entries if entry.title.startswith("Rest at")]
    slept = sum((entry.ends - entry.begins for entry in rests), timedelta())
    assert slept.total_seconds() == pytest.approx(float(ridden.ride.rests.sum()), abs=60.0)


def test_every_table_is_a_sheet_with_figures(demo: Plan, demo_evaluation: Evaluation) -> None:
    book = load_workbook(io.BytesIO(all_tables(demo, demo_evaluation.ridden)))
    assert {"timetable", "stops", "kit", "profile", "surfaces", "weather"} <= set(book.sheetnames)
    rows = list(book["timetable"].values)
    length = demo_evaluation.ridden.way.profile.length / 1e3
    assert rows[0][:2] == ("stop", "km") and rows[-1][1] == pytest.approx(length, abs=0.1)
    assert len(rows) == len(demo_evaluation.ridden.timetable.visits) + 1
