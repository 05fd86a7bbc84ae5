"""TCX and GeoJSON courses: the same course as in GPX, and every way in which a file can be wrong."""

import json

import numpy as np
import pytest

from stonechat.core.line.profile import Cleaning, make_profile
from stonechat.errors import StonechatError, TooLarge
from stonechat.formats.course_file import CourseFile, FileLimits, candidate_stops
from stonechat.formats.detect import is_plan, read_course
from stonechat.formats.geojson import read_geojson, write_geojson
from stonechat.formats.gpx import read_gpx
from stonechat.formats.tcx import read_tcx
from tests.formats.test_gpx import BOMB, course

POINTS = [(round(45 + k * 0.00045, 6), 7.0, round(300 + 30 * float(np.sin(k / 9)), 1)) for k in range(120)]


def tcx(points: list[tuple[float, float, float]] = POINTS, *, places: str = "", heights: bool = True) -> bytes:
    """Return a TCX course."""
    way = "".join(
        f"<Trackpoint><Position><LatitudeDegrees>{lat:.6f}</LatitudeDegrees><LongitudeDegrees>{lon}</LongitudeDegrees>"
        f"</Position>{f'<AltitudeMeters>{height}</AltitudeMeters>' if heights else ''}</Trackpoint>"
        for lat, lon, height in points
    )
    return (
        '<?xml version="1.0"?><TrainingCenterDatabase xmlns="urn:tcx">'
        f"<Courses><Course><Name>North line</Name><Track>{way}</Track>{places}</Course></Courses>"
        "</TrainingCenterDatabase>"
    ).encode()


def geojson(points: list[tuple[float, float, float]] = POINTS, **more: object) -> bytes:
    """Return a GeoJSON feature collection with one line, and with `more` in place of its parts."""
    line = {"type": "LineString", "coordinates": [[lon, lat, height] for lat, lon, height in points]}
    feature = {"type": "Feature", "properties": {"name": "North line"}, "geometry": line}
    tap = {
        "type": "Feature",
        "properties": {"name": "Tap", "note": "water"},
        "geometry": {"type": "Point", "coordinates": [7.0, 45.018]},
    }
    return json.dumps({"type": "FeatureCollection", "features": [feature, tap], **more}).encode()


PLACE = (
    "<CoursePoint><Name>Tap</Name><Position><LatitudeDegrees>45.018</LatitudeDegrees>"
    "<LongitudeDegrees>7.0</LongitudeDegrees></Position><PointType>Water</PointType></CoursePoint>"
)


@pytest.mark.parametrize("data", [tcx(places=PLACE), geojson()], ids=["tcx", "geojson"])
def test_the_course_is_that_of_the_same_points_in_gpx(data: bytes) -> None:
    ours, theirs = read_course(data, FileLimits()), read_gpx(course())
    assert ours.name == "North line"
    assert np.allclose(ours.track.latitudes, theirs.track.latitudes, atol=1e-9)
    assert np.allclose(ours.track.heights, theirs.track.heights)
    stops, _ = candidate_stops(ours.waypoints, make_profile(track=ours.track, cleaning=Cleaning()))
    assert [(stop.name, stop.offers) for stop in stops] == [("Tap", frozenset({"water"}))]


def test_parts_of_a_line_are_joined_and_a_bare_geometry_counts() -> None:
    whole = json.loads(geojson())["features"][0]["geometry"]["coordinates"]
    parts = {"type": "MultiLineString", "coordinates": [whole[:50], whole[50:]]}
    assert read_geojson(json.dumps(parts).encode()).track.heights.size == 120


def test_geojson_that_is_written_is_read_again() -> None:
    read = read_geojson(geojson())
    stops, _ = candidate_stops(read.waypoints, make_profile(track=read.track, cleaning=Cleaning()))
    again: CourseFile = read_geojson(write_geojson("Back", read.track, ((stops[0], 45.018, 7.0),)))
    assert np.allclose(again.track.latitudes, read.track.latitudes, atol=1e-6) and again.name == "Back"
    assert [(place.name, place.latitude) for place in again.waypoints] == [("Tap", 45.018)]


def test_a_plan_is_told_from_a_course() -> None:
    assert not is_plan(geojson()) and not is_plan(course())
    assert is_plan(b'{"format": "stonechat-plan"}') and is_plan(b"{}")


SHUFFLED = [POINTS[k] for k in np.random.default_rng(2).permutation(120)]
BAD_TCX = {
    "empty": (b"", "is empty"),
    "cut off": (tcx()[:900], "not readable as XML"),
    "bomb": (BOMB.replace(b"gpx", b"TrainingCenterDatabase"), "entities of its own"),
    "no course": (b"<TrainingCenterDatabase/>", "no course with positions"),
    "other xml": (b"<html/>", "XML but not TCX"),
    "no heights": (tcx(heights=False), "no elevation"),
    "one point": (tcx(POINTS[:1]), "only one place"),
    "no number": (tcx().replace(b"45.000450", b"north", 1), "Point 2: .*north.* is no latitude"),
    "out of order": (tcx(SHUFFLED), "out of order"),
    "off the globe": (tcx().replace(b"45.000450", b"145.0", 1), "off the globe"),
}
BAD_GEOJSON = {
    "empty": (b" ", "is empty"),
    "cut off": (geojson()[:500], "not readable as JSON: line 1"),
    "no geojson": (b'{"coordinates": []}', "it has no type"),
    "a list": (b"[1, 2]", "it has no type"),
    "no line": (geojson(features=[]), "holds no line"),
    "features are no list": (geojson(features=7), "holds no line"),
    "no position": (geojson().replace(b"[7.0, 45.00045,", b'[7.0, "x",'), "Point 2: .* is no position"),
    "no heights": (b'{"type":"LineString","coordinates":[[7,45],[7,45.01]]}', "no elevation"),
    "one point": (geojson(POINTS[:1]), "only one place"),
    "out of order": (geojson(SHUFFLED), "out of order"),
    "infinite": (geojson().replace(b"[7.0, 45.00045,", b"[7.0, 1e999,"), "off the globe"),
}


@pytest.mark.parametrize("name", sorted(BAD_TCX))
def test_a_damaged_tcx_file_is_refused_with_what_and_where(name: str) -> None:
    data, sentence = BAD_TCX[name]
    with pytest.raises(StonechatError, match=sentence):
        _ = read_tcx(data).track


@pytest.mark.parametrize("name", sorted(BAD_GEOJSON))
def test_a_damaged_geojson_file_is_refused_with_what_and_where(name: str) -> None:
    data, sentence = BAD_GEOJSON[name]
    with pytest.raises(StonechatError, match=sentence):
        _ = read_geojson(data).track


@pytest.mark.parametrize("data", [tcx(), geojson()], ids=["tcx", "geojson"])
def test_too_many_points_and_too_many_bytes_are_refused(data: bytes) -> None:
    with pytest.raises(TooLarge, match="120 points; 100 is the most"):
        read_course(data, FileLimits(points=100))
    with pytest.raises(TooLarge, match="MB is the most"):
        read_course(data, FileLimits(bytes=1_000))
