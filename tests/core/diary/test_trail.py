"""Trails: positions on a course that meets itself, halts, gaps; times read back against those they were made from."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.diary.trail import Trail, at_stops, causes, match_trail, reached_at, stands
from stonechat.core.line.profile import Cleaning, Profile, make_profile
from stonechat.core.line.track import make_track


@pytest.fixture(scope="module")
def out_and_back() -> Profile:
    """Sixty km out and sixty back on the same road: every place but the turn is passed twice."""
    out = np.linspace(46.0, 46.0 + 60_000.0 / 111_150.0, 1_200)
    lats = np.concatenate((out, out[::-1][1:]))
    heights = 300.0 + 50.0 * np.sin(np.arange(lats.size) / 40.0)
    return make_profile(track=make_track(lats, np.full(lats.size, 8.0), heights), cleaning=Cleaning())


def ridden(profile: Profile, halts: dict[float, float], seed: int = 1, every: float = 20.0) -> tuple[np.ndarray, ...]:
    """Ride at 6 m/s with halts; return clocks, true distances, and positions with noise."""
    clock, at = 0.0, 0.0
    clocks, places = [0.0], [0.0]
    left = sorted(halts.items())
    while at < profile.length:
        if left and at >= left[0][0]:
            clock += left.pop(0)[1]
            clocks.append(clock)
            places.append(at)
        at = min(at + 60.0, profile.length)
        clock += 10.0
        clocks.append(clock)
        places.append(at)
    times = np.arange(0.0, clock, every)
    true = np.interp(times, clocks, places)
    noise = np.random.default_rng(seed)
    lats = np.interp(true, profile.distances, profile.latitudes) + noise.normal(0, 8, times.size) / 111_200.0
    lons = np.interp(true, profile.distances, profile.longitudes) + noise.normal(0, 8, times.size) / 77_000.0
    return times, true, lats, lons


def test_a_road_ridden_twice_is_told_apart(out_and_back: Profile) -> None:
    times, true, lats, lons = ridden(out_and_back, {20_000.0: 1_800.0, 70_000.0: 20_000.0})
    matched = match_trail(times, lats, lons, out_and_back)
    assert matched.off < 0.01
    back = np.interp(times, matched.trail.elapsed, matched.trail.distances)
    assert np.abs(back - true).max() < 900.0 and np.median(np.abs(back - true)) < 80.0
    halts = stands(matched.trail)
    assert [round(halt.length, -2) for halt in halts] == [1_800.0, 20_000.0]
    assert [halt.distance for halt in halts] == pytest.approx([20_000.0, 70_000.0], abs=200.0)


def test_silences_and_detours_do_not_lose_the_way(out_and_back: Profile) -> None:
    times, true, lats, lons = ridden(out_and_back, {}, every=300.0)
    keep = np.ones(times.size, dtype=bool)
    keep[20:26] = False  # half an hour of silence
    lons = lons.copy()
    lons[40:44] += 0.05  # four kilometres off
    matched = match_trail(times[keep], lats[keep], lons[keep], out_and_back)
    assert 0.0 < matched.off < 0.1
    back = np.interp(times, matched.trail.elapsed, matched.trail.distances)
    assert np.abs(back - true)[keep].max() < 400.0
    assert match_trail(times, lats + 1.0, lons, out_and_back).off == 1.0


@settings(max_examples=40, deadline=None)
@given(steps=st.lists(st.tuples(st.floats(1.0, 5_000.0), st.floats(0.0, 3_000.0)), min_size=2, max_size=60))
def test_places_are_reached_when_they_were(steps: list[tuple[float, float]]) -> None:
    elapsed = np.cumsum([time for time, _ in steps])
    distances = np.cumsum([way for _, way in steps])
    trail = Trail(elapsed=tuple(elapsed.tolist()), distances=tuple(distances.tolist()))
    reached = reached_at(trail, distances)
    first = [elapsed[np.flatnonzero(distances == at)[0]] for at in distances]
    assert reached == pytest.approx(first)
    assert np.isnan(reached_at(trail, np.array([distances[-1] + 1.0]))).all()


def test_time_is_parted_by_cause_and_nothing_is_lost(out_and_back: Profile) -> None:
    times, _, lats, lons = ridden(out_and_back, {20_000.0: 1_800.0, 70_000.0: 20_000.0})
    trail = match_trail(times, lats, lons, out_and_back).trail
    clocks = out_and_back.distances / 5.0
    found = causes(trail, out_and_back.distances, clocks)
    assert sum(was for _, was in found.values()) == pytest.approx(trail.elapsed[-1], abs=1)
    assert found["nights"] == pytest.approx((0.0, 20_000.0), abs=120.0)
    assert found["stops"] == pytest.approx((0.0, 1_800.0), abs=120.0)
    assert found["moving"][1] == pytest.approx(out_and_back.length / 6.0, rel=0.02)
    (inn, turn) = at_stops(trail, [70_000.0, 60_000.0], [14_000.0, 12_000.0], [600.0, 0.0])
    assert inn.stayed == pytest.approx(20_000.0, abs=120.0) and turn.stayed < 60.0
    assert inn.reached == pytest.approx(70_000.0 / 6.0 + 1_800.0, abs=120.0)
