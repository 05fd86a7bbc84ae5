"""FIT: courses and rides written by another library, read back; and every way in which a file can be wrong."""

import numpy as np
import pytest
from fit_tool.fit_file_builder import FitFileBuilder
from fit_tool.profile.messages.course_message import CourseMessage
from fit_tool.profile.messages.course_point_message import CoursePointMessage
from fit_tool.profile.messages.file_id_message import FileIdMessage
from fit_tool.profile.messages.record_message import RecordMessage
from fit_tool.profile.profile_type import CoursePoint, FileType, Manufacturer, Sport

from stonechat.core.line.profile import Cleaning, make_profile
from stonechat.errors import StonechatError, TooLarge
from stonechat.formats.course_file import FileLimits, candidate_stops
from stonechat.formats.detect import read_course
from stonechat.formats.fit import is_fit, read_fit
from tests.formats.test_other_courses import POINTS


def fit(points: list[tuple[float, float, float]] = POINTS, *, name: str = "North line", heights: bool = True,
        place: bool = True, course: bool = True) -> bytes:  # fmt: skip
    """Return a FIT course, or a ride."""
    builder = FitFileBuilder(auto_define=True, min_string_size=50)
    head = FileIdMessage()
    head.type = FileType.COURSE if course else FileType.ACTIVITY
    head.manufacturer = Manufacturer.DEVELOPMENT.value
    head.product, head.serial_number, head.time_created = 0, 1, 1_800_000_000_000
    builder.add(head)
    if course:
        title = CourseMessage()
        title.course_name, title.sport = name, Sport.CYCLING
        builder.add(title)
    for k, (lat, lon, height) in enumerate(points):
        record = RecordMessage()
        record.timestamp = 1_800_000_000_000 + 1_000 * k
        record.position_lat, record.position_long = lat, lon
        if heights:
            record.altitude = height
        builder.add(record)
    if place:
        tap = CoursePointMessage()
        tap.timestamp, tap.course_point_name, tap.type = 1_800_000_000_000, "Old tap", CoursePoint.WATER
        tap.position_lat, tap.position_long = 45.018, 7.0
        builder.add(tap)
    return bytes(builder.build().to_bytes())


@pytest.fixture(scope="module")
def written() -> bytes:
    return fit()


@pytest.mark.parametrize("is_course", [True, False], ids=["course", "ride"])
def test_points_and_places_are_those_that_were_written(is_course: bool) -> None:
    file = read_course(fit(course=is_course), FileLimits())
    assert file.lines[0].kind == ("course" if is_course else "activity")
    assert file.name == ("North line" if is_course else "Imported course")
    lats, lons, heights = (np.array([p[k] for p in POINTS]) for k in range(3))
    assert np.allclose(file.track.latitudes, lats, atol=1e-6) and np.allclose(file.track.longitudes, lons, atol=1e-6)
    assert np.allclose(file.track.heights, heights, atol=0.11)  # the format keeps fifths of a metre
    stops, _ = candidate_stops(file.waypoints, make_profile(track=file.track, cleaning=Cleaning()))
    assert [(stop.name, stop.offers, stop.kind) for stop in stops] == [("Old tap", frozenset({"water"}), "tap")]


def test_a_course_without_heights_leaves_the_choice(written: bytes) -> None:
    assert is_fit(written) and not is_fit(b"<gpx/>")
    bare = read_fit(fit(heights=False))
    assert bare.needs_choice and not bare.lines[0].has_heights


def damaged(data: bytes) -> dict[str, bytes]:
    middle = len(data) // 2
    noise = np.random.default_rng(5).integers(0, 256, 400, dtype=np.uint8).tobytes()
    return {
        "cut in the middle": data[:middle],
        "cut in the header": data[:13],
        "header alone": data[:14],
        "wrong checksum": data[:-2] + b"\x00\x01",
        "noise in the middle": data[:middle] + noise + data[middle + 400 :],
        "noise behind the header": data[:14] + noise,
        "no positions": fit([], place=False),
        "off the globe": fit([(lat * 2.2, lon, h) for lat, lon, h in POINTS]),
        "out of order": fit([POINTS[k] for k in np.random.default_rng(2).permutation(120)]),
        "one point": fit(POINTS[:1]),
        "size that is not there": data[:4] + (10**9).to_bytes(4, "little") + data[8:],
    }


@pytest.mark.parametrize("kind", sorted(damaged(b"0" * 900)))
def test_a_damaged_file_is_refused_with_a_sentence(written: bytes, kind: str) -> None:
    with pytest.raises(StonechatError) as caught:
        _ = read_fit(damaged(written)[kind]).track
    assert caught.value.message.endswith((".", "?")) and "Traceback" not in caught.value.message


def test_too_many_points_are_refused(written: bytes) -> None:
    with pytest.raises(TooLarge, match="100 is the most"):
        read_fit(written, FileLimits(points=100))
