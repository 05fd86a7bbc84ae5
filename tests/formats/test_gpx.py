"""GPX: read beside another library, and every way in which a file can be wrong."""

import re
from collections.abc import Sequence

import gpxpy
import gpxpy.gpx
import numpy as np
import pytest

from stonechat.core.line.profile import Cleaning, make_profile
from stonechat.core.line.track import distances_of
from stonechat.errors import InvalidInput, StonechatError, TooLarge, UnreadableFile
from stonechat.formats.course_file import (
    CourseChoice,
    FileLimits,
    candidate_stops,
    chosen_track,
    unbroken_parts,
)
from stonechat.formats.gpx import read_gpx, write_gpx

HEAD = '<?xml version="1.0"?><gpx version="1.1" creator="t" xmlns="http://www.topografix.com/GPX/1/1">'


def course(points: int = 120, *, waypoints: str = "", order: list[int] | None = None, ele: bool = True) -> bytes:
    """Return a GPX course northward with a point every 50 m."""
    lines = []
    for k in order or range(points):
        height = f"<ele>{300 + 30 * np.sin(k / 9):.1f}</ele>" if ele else ""
        lines.append(f'<trkpt lat="{45 + k * 0.00045:.6f}" lon="7.0">{height}</trkpt>')
    return f"{HEAD}{waypoints}<trk><name>North line</name><trkseg>{''.join(lines)}</trkseg></trk></gpx>".encode()


def stamped(data: bytes, seconds: Sequence[int]) -> bytes:
    """The same course with a time in each point."""
    parts = data.split(b"</ele>")
    times = [f"</ele><time>2027-01-01T00:{s // 60:02d}:{s % 60:02d}Z</time>".encode() for s in seconds]
    return parts[0] + b"".join(time + part for time, part in zip(times, parts[1:], strict=True))


@pytest.mark.parametrize(
    "seconds", [[7] * 120, [0, *range(119)], [*range(119, -1, -1)], [9, 1, *range(2, 120)]],
    ids=["all alike", "one twice", "backwards", "one odd"],
)  # fmt: skip
def test_silly_times_say_nothing_of_the_course(seconds: list[int]) -> None:
    assert np.array_equal(read_gpx(stamped(course(), seconds)).track.heights, read_gpx(course()).track.heights)
    broken = stamped(course(), seconds).replace(b"2027-01-01T", b"0000-99-99T")
    assert read_gpx(broken).track.heights.size == 120


def test_elements_of_other_namespaces_do_not_take_the_place_of_ours() -> None:
    foreign = (
        '<wpt lat="45.0090" lon="7.0010" xmlns:x="http://elsewhere.example/x"><x:name>42</x:name>'
        "<name>Old fountain</name>"
        "<x:sym>zzz</x:sym><extensions><x:name>43</x:name></extensions></wpt>"
    )
    data = course(waypoints=foreign).replace(
        b"<trkpt", b'<extensions><x xmlns="http://e.example"/></extensions><trkpt', 1
    )
    read = read_gpx(data)
    assert read.waypoints[0].name == "Old fountain"
    assert read.track.heights.size == 120
    prefixed = re.sub(rb"<(/?)(\w)", rb"<\1g:\2", course().partition(b"?>")[2]).replace(b"xmlns=", b"xmlns:g=")
    assert np.array_equal(read_gpx(prefixed).track.heights, read_gpx(course()).track.heights)


def test_the_longest_line_is_the_longest_by_distance() -> None:
    far = "".join(f'<trkpt lat="{46 + k:.6f}" lon="7.0"><ele>5</ele></trkpt>' for k in range(3))
    data = course().replace(b"</gpx>", f"<trk><name>Far</name><trkseg>{far}</trkseg></trk></gpx>".encode())
    read = read_gpx(data)
    assert read.lines[read.longest].name == "Far"


def test_waypoints_of_one_name_stay_apart() -> None:
    places = "".join(f'<wpt lat="{45.004 + k * 0.009:.6f}" lon="7.0"><name>Water</name></wpt>' for k in range(5))
    read = read_gpx(course(waypoints=places))
    stops, _ = candidate_stops(read.waypoints, make_profile(track=read.track, cleaning=Cleaning()))
    assert [stop.name for stop in stops] == ["Water"] * 5
    assert len({stop.id for stop in stops}) == 5


def test_points_are_those_that_another_library_reads() -> None:
    data = course()
    theirs = [p for t in gpxpy.parse(data.decode()).tracks for s in t.segments for p in s.points]
    ours = read_gpx(data)
    assert ours.name == "North line"
    assert ours.track.latitudes == pytest.approx([p.latitude for p in theirs])
    assert ours.track.heights == pytest.approx([p.elevation for p in theirs])


def test_the_older_version_of_the_format_is_read_too() -> None:
    old = course().replace(b"GPX/1/1", b"GPX/1/0").replace(b'version="1.1"', b'version="1.0"')
    assert np.array_equal(read_gpx(old).track.heights, read_gpx(course()).track.heights)
    assert read_gpx(old).lines[0].kind == "track"


def test_waypoints_near_the_course_become_stops_with_what_their_words_say() -> None:
    places = (
        '<wpt lat="45.0090" lon="7.0010"><name>Old fountain</name></wpt>'
        '<wpt lat="45.0180" lon="7.0000"><name>Ash lodge</name><desc>hotel and restaurant</desc></wpt>'
        '<wpt lat="45.0200" lon="7.0000"><name>Nice view</name></wpt>'
        '<wpt lat="46.0000" lon="7.0000"><name>Far shop</name></wpt>'
    )
    read = read_gpx(course(waypoints=places))
    stops, far = candidate_stops(read.waypoints, make_profile(track=read.track, cleaning=Cleaning()))
    assert [(s.name, set(s.offers), s.used) for s in stops] == [
        ("Old fountain", {"water"}, True),
        ("Ash lodge", {"meal", "bed", "water", "socket", "toilet"}, True),
        ("Nice view", set(), False),
    ]
    assert far == ("Far shop",)
    assert stops[0].distance == pytest.approx(1_000.0, abs=60)


def test_what_is_written_is_read_again_by_us_and_by_another_library() -> None:
    place = '<wpt lat="45.009" lon="7"><name>A &lt;tap&gt;</name></wpt>'
    read = read_gpx(course(waypoints=place))
    stops, _ = candidate_stops(read.waypoints, make_profile(track=read.track, cleaning=Cleaning()))
    data = write_gpx("Back & forth", read.track, ((stops[0], 45.009, 7.0),))
    again = read_gpx(data)
    assert np.allclose(again.track.latitudes, read.track.latitudes, atol=1e-6)
    assert again.waypoints[0].name == "A <tap>"
    assert gpxpy.parse(data.decode()).tracks[0].name == "Back & forth"


def test_a_few_missing_heights_are_filled_in_between_their_neighbours() -> None:
    holes = course().replace(b"<ele>303.3</ele>", b"", 1)
    track = read_gpx(holes).track
    assert track.heights[1] == pytest.approx((track.heights[0] + track.heights[2]) / 2)


def test_several_segments_are_parts_and_a_gap_can_be_crossed_or_left() -> None:
    first, second = course(60).decode(), course(100).decode().replace('lat="45.', 'lat="45.1')
    points = [re.search("<trkseg>.*</trkseg>", text)[0] for text in (first, second)]  # type: ignore[index]
    file = read_gpx(f"{HEAD}<trk>{''.join(points)}</trk></gpx>".encode())
    assert [len(part) for part in file.lines[0].parts] == [60, 100] and file.needs_choice
    assert file.track.heights.size == 160
    kept = chosen_track(file, CourseChoice(gaps="longest"))
    assert kept.heights.size == 100
    for wrong, sentence in (
        (CourseChoice(gaps="jump"), "say join or longest"),
        (CourseChoice(line=7), "one of the lines"),
    ):
        with pytest.raises(InvalidInput, match=sentence):
            chosen_track(file, wrong)
    turned = chosen_track(file, CourseChoice(gaps="longest", reverse=True))
    assert turned.latitudes.tolist() == kept.latitudes[::-1].tolist()


def test_a_line_without_points_for_a_while_is_broken_there() -> None:
    line = read_gpx(course(order=[*range(40), *range(80, 120)])).lines[0]
    assert [len(part) for part in unbroken_parts(line)] == [40, 40]
    assert [len(part) for part in unbroken_parts(read_gpx(course()).lines[0])] == [120]


@pytest.mark.parametrize(("start", "end", "length"), [(500.0, 2_500.0, 2_000.0), (0.0, 1_234.0, 1_234.0)])
def test_a_course_is_cut_where_the_rider_says(start: float, end: float, length: float) -> None:
    track = chosen_track(read_gpx(course()), CourseChoice(start=start, end=end))
    assert distances_of(track)[-1] == pytest.approx(length, abs=0.01)


def test_without_heights_a_table_or_one_height_serves() -> None:
    bare = read_gpx(course(ele=False))
    assert bare.needs_choice and not bare.lines[0].has_heights
    assert set(chosen_track(bare, CourseChoice(flat=120.0)).heights) == {120.0}
    table = np.array([[0.0, 100.0], [6_000.0, 700.0]])
    heights = chosen_track(bare, CourseChoice(heights=table)).heights
    at = distances_of(read_gpx(course()).track)
    assert heights == pytest.approx(100.0 + at / 10.0)
    with pytest.raises(UnreadableFile, match=r"ends at 3\.0 km"):
        chosen_track(bare, CourseChoice(heights=table * 0.5))


def test_the_longest_of_several_tracks_is_taken_and_routes_count_too() -> None:
    two = course().decode().replace("<trk>", '<trk><trkseg><trkpt lat="1" lon="1"/></trkseg></trk><trk>', 1)
    assert read_gpx(two.encode()).track.heights.size == 120
    route = course().decode().replace("trkseg>", "x>").replace("trkpt", "rtept").replace("trk>", "rte>")
    assert read_gpx(route.replace("<x>", "").replace("</x>", "").encode()).track.heights.size == 120


BOMB = b'<?xml version="1.0"?><!DOCTYPE gpx [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">]><gpx>&b;</gpx>'
DAMAGED = {
    "empty": (b"", "is empty"),
    "blank": (b"  \n ", "is empty"),
    "not xml": (b"\x00\x01\x02 nothing", "not readable as XML"),
    "cut off": (course()[:2_000], "not readable as XML"),
    "other xml": (b"<?xml version='1.0'?><html></html>", "XML but not GPX"),
    "bomb": (BOMB, "entities of its own"),
    "no track": (f"{HEAD}<wpt lat='45' lon='7'/></gpx>".encode(), "no track and no route"),
    "no heights": (course(ele=False), "no elevation"),
    "one point": (course(1), "only one place"),
    "out of order": (course(order=list(np.random.default_rng(2).permutation(120))), "out of order"),
    "heights missing": (re.sub(rb"<ele>3[12]\d\.\d</ele>", b"", course()), "Point .* no height"),
    "no number": (course().replace(b'lat="45.000450"', b'lat="north"'), "Point 2: .*north.* is no lat"),
    "not a number": (course().replace(b'lat="45.000450"', b'lat="nan"'), "Point 2 .* off the globe"),
    "off the globe": (course().replace(b'lat="45.000450"', b'lat="145.0"'), "off the globe"),
    "halves swapped": (
        stamped(course(order=[*range(60, 120), *range(60)]), [*range(60, 120), *range(60)]),
        "out of order: point 61 is stamped 2027-01-01T00:00:00",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", sorted(DAMAGED))
def test_a_damaged_file_is_refused_with_what_and_where(name: str) -> None:
    data, sentence = DAMAGED[name]
    with pytest.raises(StonechatError, match=sentence):
        _ = read_gpx(data).track


def test_too_many_points_and_too_many_bytes_are_refused() -> None:
    with pytest.raises(TooLarge, match="200 points; 100 is the most"):
        read_gpx(course(200), FileLimits(points=100))
    with pytest.raises(TooLarge, match="MB is the most"):
        read_gpx(course(), FileLimits(bytes=1_000))


def test_an_entity_is_never_expanded_wherever_it_hides() -> None:
    late = course().replace(b"<trk>", b"<!-- " + b"x" * 5_000 + b" --><trk>").replace(b"North line", b"&lol;")
    with pytest.raises(UnreadableFile):
        read_gpx(late)
