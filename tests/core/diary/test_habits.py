"""A rider's ways: bands by textbook formulas, clocks across midnight, words of notes."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from stonechat.core.diary.habits import clock_told, cold_told, hours_in, level_in, mean_told, sweat_told


@given(st.lists(st.floats(1.0, 100.0), min_size=60, max_size=120))
def test_with_many_occasions_the_band_is_students_own(values: list[float]) -> None:
    told = mean_told(values, float(np.std(values, ddof=1)) + 1e-3)
    low, high = stats.t.interval(0.95, len(values) - 1, np.mean(values), stats.sem(values) + 1e-9)
    assert told.value == pytest.approx(np.mean(values))
    assert told.band == pytest.approx(0.5 * (high - low), rel=0.05, abs=5e-3)


def test_bands_hold_what_is_true_as_often_as_they_say() -> None:
    rng, held = np.random.default_rng(5), 0
    for _ in range(2_000):
        spread = 10.0 * np.sqrt(2.0 / rng.chisquare(2.0))  # as the prior says spreads are
        told = mean_told(rng.normal(40.0, spread, 4).tolist(), 10.0)
        held += abs(told.value - 40.0) <= told.band
    assert 0.93 <= held / 2_000 <= 0.97


@given(st.floats(0.0, 23.99), st.floats(0.0, 2.0))
def test_clocks_on_both_sides_of_midnight_mean_what_lies_between(middle: float, apart: float) -> None:
    told = clock_told([(middle - apart) % 24.0, (middle + apart) % 24.0], 0.5)
    assert min((told.value - middle) % 24.0, (middle - told.value) % 24.0) < 1e-6


@given(st.floats(0.3, 2.5))
def test_the_sweat_that_was_drunk_is_found_again(scale: float) -> None:
    losses, hours = np.array([0.3, 0.4, 0.7, 1.1]), np.array([6.0, 5.0, 4.0, 2.0])
    drunk = float((np.minimum(scale * losses + 0.04, 0.8) * hours).sum())
    told = sweat_told(drunk, losses=losses, hours=hours, besides=0.04, most=0.8, band=0.5)
    assert told is not None and told.value == pytest.approx(scale, rel=1e-3) and told.band > 0.0


def test_what_no_sweat_explains_is_not_explained() -> None:
    losses, hours = np.full(3, 0.5), np.full(3, 5.0)
    assert sweat_told(0.1, losses=losses, hours=hours, besides=0.04, most=0.8, band=0.5) is None
    assert sweat_told(60.0, losses=losses, hours=hours, besides=0.04, most=0.8, band=0.5) is None


def test_warmth_is_drawn_towards_most_riders_and_the_surer_the_more_notes_there_are() -> None:
    one, many = cold_told([6.0]), cold_told([6.0] * 12)
    assert 0.0 < one.value < many.value < 6.0 and many.band < one.band
    # normal mean with known variance, by numerical integration of prior times likelihood
    at = np.linspace(-30.0, 30.0, 60_001)
    weights = stats.norm.pdf(at, 0.0, 2.0) * stats.norm.pdf(6.0, at, 3.0)
    assert one.value == pytest.approx(float((at * weights).sum() / weights.sum()), abs=1e-6)


@pytest.mark.parametrize(("text", "hours"), [
    ("4.5 h in a barn", 4.5), ("4,5 h", 4.5), ("3 h 20", 10.0 / 3.0), ("45 min", 0.75), ("two hours", 0.0),
    ("room, 6 hours", 6.0), ("at km 12", 0.0), ("4:30 h on a bench", 4.5), ("3 hrs", 3.0), ("20 mins", 1.0 / 3.0),
    ("from 23:30 to 4:00, 4 h 15", 4.25),
])  # fmt: skip
def test_hours_in_words(text: str, hours: float) -> None:
    assert hours_in(text) == pytest.approx(hours)


@pytest.mark.parametrize(("text", "level"), [
    ("lamp 35%", 0.35), ("bank at 20 %", 0.2), ("phone 7 per cent", 0.07), ("140 % sure", None), ("full", None),
])  # fmt: skip
def test_levels_in_words(text: str, level: float | None) -> None:
    assert level_in(text) == level
