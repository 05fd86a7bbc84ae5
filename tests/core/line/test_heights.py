"""Noise of heights: found, taken away, and the ride over what is left held against a ride over the true ground."""

from collections.abc import Callable

import numpy as np
import pytest

from stonechat.core.line.heights import ascent_by_threshold, height_noise, smoothed, without_noise, without_spikes
from stonechat.core.line.profile import Cleaning, Profile, make_profile
from stonechat.core.line.track import make_track
from stonechat.core.rhythm.inputs import Conditions, Course, Legs, Pace, RiderNumbers
from stonechat.core.rhythm.times import segment_times
from tests.core.line.test_track import straight
from tests.oracles.dynamics import dynamic_times

LENGTH, SPACING = 40_000.0, 10.0
POWER, MASS, DRAG, DENSITY, ROLLING, CAP = 135.0, 92.0, 0.36, 1.2, 0.0055, 15.3
RIDER = RiderNumbers(72.0, Legs(145.0, fade_time=1e9), Pace(1.5, 5.0, 1.15))
Ground = tuple[Callable[[np.ndarray], np.ndarray], Callable[[np.ndarray], np.ndarray]]  # height and grade at a distance


def waves(*parts: tuple[float, float, float]) -> Ground:
    """Return ground of sines: wavelength, steepest grade, phase of each."""

    def height(at: np.ndarray) -> np.ndarray:
        return 300.0 + sum(s * w / (2 * np.pi) * np.sin(2 * np.pi * at / w + p) for w, s, p in parts)

    def grade(at: np.ndarray) -> np.ndarray:
        return np.asarray(sum(s * np.cos(2 * np.pi * at / w + p) for w, s, p in parts))

    return height, grade


_RANDOM = np.random.default_rng(7)
_LENGTHS = np.exp(_RANDOM.uniform(np.log(150.0), np.log(800.0), 24))
GROUNDS = {
    "rollers of 150 m": waves((150.0, 0.04, 0.0)),
    "rollers of 300 m": waves((300.0, 0.04, 0.3)),
    "rollers of 500 m": waves((500.0, 0.04, 0.1)),
    "rollers of 800 m": waves((800.0, 0.04, 0.2)),
    "undulations": waves(*((float(w), 0.024 / np.sqrt(12), float(_RANDOM.uniform(0, 6.28))) for w in _LENGTHS)),
    "hills": waves((9_000.0, 0.06, 0.0), (2_100.0, 0.02, 1.0)),
}
ROLLING_GROUND = [name for name in GROUNDS if name != "hills"]


def noise_of(kind: str, at: np.ndarray) -> np.ndarray:
    random = np.random.default_rng(3)
    if kind == "drifting":  # as of a barometer: it remembers over about 2 km
        drift, steps = np.zeros(at.size), random.normal(0.0, 0.15, at.size)
        for k in range(1, at.size):
            drift[k] = 0.995 * drift[k - 1] + steps[k]
        return drift
    return random.normal(0.0, {"none": 0.0, "rounded": 0.0, "1 m": 1.0, "2 m": 2.0}[kind], at.size)


def recorded(name: str, kind: str) -> Profile:
    at = np.arange(0.0, LENGTH + 1.0, SPACING)
    heights = GROUNDS[name][0](at) + noise_of(kind, at)
    return make_profile(track=straight(heights.round() if kind == "rounded" else heights, SPACING), cleaning=Cleaning())


def paced(grades: np.ndarray) -> np.ndarray:
    return POWER * np.clip(np.where(grades >= 0.0, 1.0 + 1.5 * grades, 1.0 + 5.0 * grades), 0.0, 1.15)


def ridden(profile: Profile) -> float:
    """Return the moving time over a profile, under the same conditions everywhere. [s]"""
    one = np.ones(profile.lengths.size)
    course = Course(
        profile.lengths, profile.grades, 0 * one, ROLLING * one, 0 * one, CAP * one, 0.22 * one, one, 0 * one, 0 * one
    )
    held = Conditions(
        paced(profile.grades), 500 * one, ROLLING * one, DENSITY * one, CAP * one, 0 * one, 0 * one,
        np.zeros(one.size, dtype=bool),
    )  # fmt: skip
    return float(segment_times(course, held, RIDER, MASS * one, DRAG * one)[0].sum())


def true_time(name: str) -> float:
    """Return the time over the ground itself, integrated at 1 m from the forces. [s]"""
    grade = GROUNDS[name][1]
    figures = {
        "cap": CAP,
        "rolling": ROLLING,
        "drag": DRAG,
        "density": DENSITY,
        "mass": MASS,
        "head": 0.0,
        "cross": 0.0,
    }

    def at(what: str, marks: np.ndarray) -> np.ndarray:
        if what in figures:
            return np.full(marks.size, figures[what])
        return grade(marks) if what == "grade" else paced(grade(marks))

    return float(dynamic_times(LENGTH, at).sum())


@pytest.mark.parametrize("kind", ["none", "1 m", "2 m", "drifting", "rounded"])
@pytest.mark.parametrize("name", list(GROUNDS))
def test_the_ride_is_that_over_the_true_ground_within_a_percent(name: str, kind: str) -> None:
    assert ridden(recorded(name, kind)) == pytest.approx(true_time(name), rel=0.01)


def climbed(ground: Ground, length: float) -> float:
    return float(np.diff(ground[0](np.arange(0.0, length, 1.0))).clip(min=0.0).sum())


@pytest.mark.parametrize("kind", ["none", "1 m", "drifting"])
@pytest.mark.parametrize("name", list(GROUNDS))
def test_small_honest_climbs_are_counted(name: str, kind: str) -> None:
    assert recorded(name, kind).ascent == pytest.approx(climbed(GROUNDS[name], LENGTH), rel=0.05)


# at 2 m, 40 km of one draw are too few for the smallest hills: what is theirs and what is the noise's differs by draw
@pytest.mark.parametrize("spread", [0.0, 0.3])  # of the points, of their distance: as recorded by the clock
@pytest.mark.parametrize("name", list(GROUNDS))
def test_small_honest_climbs_are_counted_under_much_noise(name: str, spread: float) -> None:
    length, random = 240_000.0, np.random.default_rng(2)
    at = np.arange(0.0, length + 1.0, SPACING)
    at[1:-1] += random.uniform(-spread, spread, at.size - 2) * SPACING
    along = straight(np.zeros(round(length / 1_000.0) + 1), 1_000.0)
    latitudes = np.interp(at, np.linspace(0.0, length, along.latitudes.size), along.latitudes)
    heights = GROUNDS[name][0](at) + random.normal(0.0, 2.0, at.size)
    track = make_track(latitudes, np.full(at.size, along.longitudes[0]), heights)
    assert make_profile(track=track, cleaning=Cleaning()).ascent == pytest.approx(
        climbed(GROUNDS[name], length), rel=0.05
    )


# on a base that never changes, whole metres make one and the same error at every roller; no road has such a base
@pytest.mark.parametrize("gentle", [0.01, 0.06])
@pytest.mark.parametrize("name", list(GROUNDS))
def test_small_honest_climbs_are_counted_in_whole_metres(name: str, gentle: float) -> None:
    base = waves((9_000.0, gentle, 0.0))
    ground: Ground = (lambda at: GROUNDS[name][0](at) + base[0](at), base[1])
    at = np.arange(0.0, LENGTH + 1.0, SPACING)
    profile = make_profile(track=straight(ground[0](at).round(), SPACING), cleaning=Cleaning())
    assert profile.ascent == pytest.approx(climbed(ground, LENGTH), rel=0.05)


@pytest.mark.parametrize("spread", [0.0, 0.4])
def test_the_noise_is_found_whatever_the_points_are_like(spread: float) -> None:
    random = np.random.default_rng(8)
    for spacing in (4.0, 10.0, 27.0, 60.0):
        at = np.arange(0.0, 90_000.0, spacing)
        at[1:] += random.uniform(-spread, spread, at.size - 1) * spacing
        noisy = GROUNDS["hills"][0](at) + random.normal(0.0, 1.5, at.size)
        assert height_noise(at, noisy) == pytest.approx(1.5, rel=0.08)


@pytest.mark.parametrize("noise", [0.2, 1.0, 3.0])
def test_the_noise_is_found_on_hilly_ground(noise: float) -> None:
    at = np.arange(0.0, 60_000.0, 20.0)
    ground = GROUNDS["hills"][0](at)
    measured = height_noise(at, ground + np.random.default_rng(5).normal(0.0, noise, at.size))
    assert measured == pytest.approx(noise, rel=0.06)
    assert height_noise(at, ground) < 0.01 and height_noise(at[:5], ground[:5]) is None
    assert height_noise(at[::6], ground[::6]) is None


def test_noise_on_flat_ground_is_no_climbing() -> None:
    at = np.arange(0.0, 60_000.0, 20.0)
    left = without_noise(300.0 + np.random.default_rng(5).normal(0.0, 1.0, at.size), 20.0, 1.0, at)
    assert ascent_by_threshold(left, 1.0)[-1] < 60.0  # a metre a kilometre; unsmoothed it would be thousands
    assert (left[0], left[-1]) == (pytest.approx(300.0, abs=4.0), pytest.approx(300.0, abs=4.0))


def test_quiet_heights_stay_as_they_are_and_so_does_what_is_not_to_be_smoothed() -> None:
    at = np.arange(0.0, 5_000.0, 20.0)
    heights = GROUNDS["hills"][0](at)
    assert without_noise(heights, 20.0, 0.01, at) is heights and smoothed(heights, 20.0, 0.0) is heights
    assert np.array_equal(without_spikes(heights), heights)


def test_a_gaussian_takes_from_a_sine_what_its_transform_says() -> None:
    at = np.arange(0.0, 40_000.0, 20.0)
    wave = np.sin(2 * np.pi * at / 1_000.0)
    expected = np.exp(-0.5 * (2 * np.pi * 60.0 / 1_000.0) ** 2)
    left = np.abs(smoothed(wave, 20.0, 60.0)[200:-200]).max()
    assert left == pytest.approx(expected, rel=3e-3)  # its kernel is cut and sampled
