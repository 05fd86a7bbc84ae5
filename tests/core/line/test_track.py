"""A recorded course: distances, errors, order, turning and cutting."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.line.track import Track, distances_of, make_track, reversed_track, step_lengths, trimmed_track
from stonechat.errors import InvalidInput

METRES_PER_DEGREE = 111_132.954  # at 45° north along a meridian of WGS84, series of the ellipsoid


def straight(heights: np.ndarray, spacing: float = 20.0) -> Track:
    """Return a course due north from 45° with heights at an even spacing in metres."""
    lats = 45.0 + np.arange(heights.size) * spacing / METRES_PER_DEGREE
    return make_track(lats, np.full(heights.size, 7.0), heights)


def test_a_degree_of_latitude_and_of_longitude_have_their_published_lengths() -> None:
    # WGS84: a degree of longitude on the equator is 2 pi a / 360; a degree of latitude at the equator 110,574.4 m
    along, up = np.array([0.0, 1.0]), np.array([0.0, 0.0])
    assert step_lengths(up, along)[0] == pytest.approx(2 * np.pi * 6_378_137.0 / 360, rel=1e-9)
    assert step_lengths(along, up)[0] == pytest.approx(110_574.4, abs=0.1)


@pytest.mark.parametrize(
    ("lats", "lons", "heights", "sentence"),
    [
        ([45.0], [7.0], [300.0], "only one place"),
        ([45.0, 45.0], [7.0, 7.0], [300.0, 310.0], "only one place"),
        ([45.0, 97.0], [7.0, 7.0], [300.0, 300.0], "Point 2 .* off the globe"),
        ([45.0, 45.01], [7.0, 7.0], [300.0, float("nan")], "Point 2 .* no height"),
        ([45.0, 45.01], [7.0, 7.0], [300.0, 12_000.0], "12000 m"),
        ([45.0, 46.0], [7.0, 7.0], [300.0, 300.0], "jumps 111"),
    ],
)
def test_what_is_no_course_is_refused_with_its_place(
    lats: list[float], lons: list[float], heights: list[float], sentence: str
) -> None:
    with pytest.raises(InvalidInput, match=sentence):
        make_track(np.array(lats), np.array(lons), np.array(heights))


def test_points_out_of_order_are_refused() -> None:
    order = np.random.default_rng(1).permutation(200)
    lats = 45.0 + order * 50.0 / METRES_PER_DEGREE
    with pytest.raises(InvalidInput, match="out of order"):
        make_track(lats, np.full(200, 7.0), np.full(200, 300.0))


def test_a_point_that_jumps_off_and_back_is_left_out() -> None:
    track = straight(np.full(301, 300.0))
    lats, lons = track.latitudes.copy(), track.longitudes.copy()
    lons[150] += 0.02  # 1.6 km to the side
    mended = make_track(lats, lons, np.full(301, 300.0))
    assert mended.heights.size == 300
    assert distances_of(mended)[-1] == pytest.approx(6_000.0, rel=1e-3)
    # a hairpin goes out and comes back by many points, and stays
    out = 45.0 + np.concatenate((np.arange(50), np.arange(50)[::-1])) * 0.0002
    side = 7.0 + np.concatenate((np.zeros(50), np.full(50, 0.0004)))
    assert make_track(out, side, np.full(100, 300.0)).heights.size == 100


@given(st.floats(0, 4_000), st.floats(200, 6_000))
def test_a_trimmed_course_is_as_long_as_asked_and_joins_up(start: float, length: float) -> None:
    track = straight(300.0 + 50.0 * np.sin(np.arange(501) / 30.0))
    whole = distances_of(track)
    end = min(start + length, float(whole[-1]))
    part = trimmed_track(track, start, end)
    assert distances_of(part)[-1] == pytest.approx(end - start, abs=0.01)
    assert part.heights[0] == pytest.approx(np.interp(start, whole, track.heights))
    turned = reversed_track(reversed_track(part))
    assert np.array_equal(turned.heights, part.heights)
