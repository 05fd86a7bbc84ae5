"""Cleaning a course: even segments, ascent, bends, surfaces."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.line.profile import Cleaning, ascent_by_threshold, distance_along, make_profile, surface_shares
from stonechat.core.line.surface import SURFACE_INDEX, SurfaceSpan
from stonechat.core.line.track import make_track
from stonechat.errors import InvalidInput
from tests.core.line.test_track import METRES_PER_DEGREE, straight


def test_a_straight_course_has_its_length_and_even_segments() -> None:
    profile = make_profile(track=straight(np.full(501, 300.0)), cleaning=Cleaning())
    assert profile.length == pytest.approx(10_000.0, rel=1e-4)
    assert np.allclose(profile.lengths[:-1], 100.0)
    assert profile.ascent == 0.0


def test_a_steady_climb_keeps_its_grade_and_ascent() -> None:
    profile = make_profile(track=straight(np.linspace(100.0, 600.0, 501)), cleaning=Cleaning())
    middle = profile.grades[5:-5]
    assert np.allclose(middle, 0.05, atol=2e-4)
    assert profile.ascent == pytest.approx(500.0, rel=0.005)


@pytest.mark.parametrize("noise", [0.5, 1.0, 2.0])
def test_ascent_of_a_noisy_course_is_within_two_percent_of_the_truth(noise: float) -> None:
    # rollers of 8 km and 3.1 km whose ascent is summed exactly from the smooth curve; white noise on top
    at = np.arange(0.0, 120_000.0, 15.0)
    truth = 400.0 + 160.0 * np.sin(2 * np.pi * at / 8_000.0) + 45.0 * np.sin(2 * np.pi * at / 3_100.0)
    exact = np.diff(truth).clip(min=0.0).sum()
    measured = truth + np.random.default_rng(4).normal(0.0, noise, at.size)
    profile = make_profile(track=straight(measured, 15.0), cleaning=Cleaning())
    assert profile.ascent == pytest.approx(exact, rel=0.02)


def test_headings_turn_with_the_course() -> None:
    # an east leg, then a north leg, of a kilometre each
    lons = np.concatenate((np.linspace(7.0, 7.0127, 50), np.full(50, 7.0127)))
    lats = np.concatenate((np.full(50, 45.0), 45.0 + np.linspace(0.0002, 0.009, 50)))
    headings = make_profile(track=make_track(lats, lons, np.full(100, 300.0)), cleaning=Cleaning()).headings
    assert headings[2] == pytest.approx(90.0, abs=0.1)
    assert min(headings[-2], 360.0 - headings[-2]) == pytest.approx(0.0, abs=0.1)


def test_a_single_spike_is_cut() -> None:
    heights = np.full(501, 300.0)
    heights[250] = 900.0
    profile = make_profile(track=straight(heights), cleaning=Cleaning())
    assert profile.heights.max() < 301.0


@given(st.lists(st.floats(0, 300), min_size=2, max_size=60))
def test_without_a_threshold_ascent_is_the_sum_of_rises(heights: list[float]) -> None:
    array = np.array(heights)
    assert ascent_by_threshold(array, 0.0)[-1] == pytest.approx(np.diff(array).clip(min=0.0).sum())


@given(st.lists(st.floats(0, 300), min_size=2, max_size=60), st.floats(0, 30))
def test_a_threshold_never_finds_more_climbing_and_never_less_than_the_net_rise(
    heights: list[float], threshold: float
) -> None:
    array = np.array(heights)
    climbed = ascent_by_threshold(array, threshold)
    assert climbed[-1] <= np.diff(array).clip(min=0.0).sum() + 1e-9
    net = array[-1] - array[0]
    assert climbed[-1] >= (net if net >= threshold else 0.0) - 1e-9
    assert (np.diff(climbed) >= 0.0).all()


def test_ups_and_downs_under_the_threshold_do_not_count() -> None:
    saw = np.tile([0.0, 4.0], 50)
    assert ascent_by_threshold(saw, 5.0)[-1] == 0.0
    assert ascent_by_threshold(saw, 3.0)[-1] == pytest.approx(200.0)


def test_surface_spans_cover_the_default_and_one_another() -> None:
    spans = (
        SurfaceSpan(start=1_000.0, end=5_000.0, surface="smooth_gravel"),
        SurfaceSpan(start=4_000.0, end=5_000.0, surface="track"),
    )
    profile = make_profile(track=straight(np.full(501, 300.0)), cleaning=Cleaning(), spans=spans)
    shares = surface_shares(profile)
    assert shares == pytest.approx({"tarmac": 0.6, "smooth_gravel": 0.3, "track": 0.1}, abs=0.002)
    assert profile.surfaces[45] == SURFACE_INDEX["track"]


def test_a_place_is_found_where_the_course_passes_it() -> None:
    profile = make_profile(track=straight(np.full(501, 300.0)), cleaning=Cleaning())
    distance, offset = distance_along(profile, 45.0 + 4_000.0 / METRES_PER_DEGREE, 7.0)
    assert distance == pytest.approx(4_000.0, abs=60.0)
    assert offset < 60.0


def test_a_course_shorter_than_a_segment_is_refused() -> None:
    with pytest.raises(InvalidInput, match="at least 100 m"):
        make_profile(track=straight(np.full(4, 300.0)), cleaning=Cleaning())


def hills(rises: tuple[float, ...], between: float = 2_000.0, spacing: float = 10.0) -> tuple[np.ndarray, float]:
    """Return heights of hills that are climbed and fallen in half cosines, and the climbing counted by hand."""
    count = round(between / spacing)
    up = 0.5 - 0.5 * np.cos(np.linspace(0.0, np.pi, count))
    parts = [np.concatenate((rise * up, rise * up[::-1])) for rise in rises]
    return 300.0 + np.concatenate(parts), sum(rises)


@pytest.mark.parametrize("noise", ["white, dense", "drifting", "white and spikes", "whole metres"])
def test_ascent_on_hills_counted_by_hand_is_within_two_percent(noise: str) -> None:
    heights, climbed = hills((420.0, 180.0, 95.0, 260.0, 60.0, 310.0, 140.0))
    random = np.random.default_rng(8)
    measured = heights.copy()
    if noise == "white, dense":
        measured += random.normal(0.0, 1.5, heights.size)
    elif noise == "drifting":  # as of a barometer: it remembers over about 2 km
        drift = np.zeros(heights.size)
        for k in range(1, heights.size):
            drift[k] = 0.995 * drift[k - 1] + random.normal(0.0, 0.15)
        measured += drift
    elif noise == "white and spikes":
        measured += random.normal(0.0, 0.7, heights.size)
        measured[random.integers(0, heights.size, 12)] += 80.0
    else:
        measured = measured.round()
    profile = make_profile(track=straight(measured, 10.0), cleaning=Cleaning())
    assert profile.ascent == pytest.approx(climbed, rel=0.02)


def test_a_bend_has_the_radius_of_its_circle_and_a_straight_has_none() -> None:
    radius = 80.0
    turn = np.linspace(0.0, 2.0 * np.pi, 300)[:-1]
    lats = 45.0 + radius * np.sin(turn) / METRES_PER_DEGREE
    lons = 7.0 + radius * np.cos(turn) / (METRES_PER_DEGREE * np.cos(np.radians(45.0)))
    profile = make_profile(track=make_track(lats, lons, np.full(299, 300.0)), cleaning=Cleaning())
    # chords of 60 m see a circle of 80 m about as it is; the ends of the line see less of it
    assert np.median(profile.bends) == pytest.approx(radius, rel=0.1)
    assert make_profile(track=straight(np.full(501, 300.0)), cleaning=Cleaning()).bends.min() == 2_000.0
    # far east, where a degree is no longer than elsewhere, a straight is straight too
    lats = 45.0 + np.arange(300) * 0.0002
    far = make_track(lats, np.full(300, 151.0) + np.arange(300) * 0.0001, np.full(300, 300.0))
    assert make_profile(track=far, cleaning=Cleaning()).bends.min() > 1_500.0
