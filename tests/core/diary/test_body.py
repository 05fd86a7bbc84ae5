"""Litres, kilocalories and punctures from notes, against sums by hand and a gamma posterior by counting."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.diary.body import body_rates, kcal_in, litres_in
from stonechat.core.diary.habits import hours_in
from stonechat.core.diary.notes import Note


@pytest.mark.parametrize(("text", "litres"), [
    ("0.7 l", 0.7), ("0,75 l at the tap", 0.75), ("750 ml", 0.75), ("2 litres and 500ml", 2.5), ("33 cl cola", 0.33),
    ("nothing", 0.0), ("5 left", 0.0), ("12 km", 0.0), ("1,250 ml", 1.25), ("1 250 ml", 1.25), ("0,750 l", 0.75),
    ("1,500 l", 1.5), ("2 x 0.5 l", 1.0), ("3 × 750 ml, half a cup", 2.25), ("1.2.3 l", 2.3),
])  # fmt: skip
def test_amounts_of_water_are_read_as_they_are_written(text: str, litres: float) -> None:
    assert litres_in(text) == pytest.approx(litres)


@pytest.mark.parametrize(("text", "kcal"), [
    ("450 kcal", 450.0), ("bread 1 250 kcal, cola 140 kcal", 1_390.0), ("1.250 kcal", 1_250.0), ("450 cal?", 0.0),
    ("1,250 kcal", 1_250.0), ("2 × 250 kcal", 500.0), ("2 x 1,250 kcal and 99.5 kcal", 2_599.5),
])  # fmt: skip
def test_amounts_of_food_are_read_as_they_are_written(text: str, kcal: float) -> None:
    assert kcal_in(text) == pytest.approx(kcal)


@given(text=st.text(st.sampled_from("0123456789.,  x×mlckalhr:"), max_size=40))
def test_whatever_figures_are_written_an_amount_is_one(text: str) -> None:
    for amount in (litres_in(text), kcal_in(text), hours_in(text)):
        assert np.isfinite(amount) and amount >= 0.0


def note(kind: str, text: str, km: float = 1.0) -> Note:
    return Note(kind=kind, text=text, distance=km * 1e3)


def test_rates_are_what_was_taken_over_the_hours_ridden() -> None:
    notes = [note("drunk", "1.5 l")] * 8 + [note("eaten", "500 kcal")] * 10 + [note("bought", "9000 kcal, 20 l")]
    found = body_rates(notes, hours=20.0, distance=3e5, punctures=1.0)
    assert found.water is not None and found.water.value == pytest.approx(0.6) and found.water.band > 0.2
    assert found.food is not None and found.food.value == pytest.approx(250.0)
    few = body_rates(notes[:3], hours=20.0, distance=3e5, punctures=1.0)
    short = body_rates(notes, hours=3.0, distance=3e5, punctures=1.0)
    assert few.water is None and few.food is None and short.water is None


@given(holes=st.integers(0, 12), km=st.floats(50.0, 3_000.0), usual=st.floats(0.2, 3.0))
def test_punctures_move_the_usual_rate_towards_what_was_seen(holes: int, km: float, usual: float) -> None:
    notes = [note("broken", "puncture, rear")] * holes + [note("broken", "strap")]
    found = body_rates(notes, hours=20.0, distance=km * 1e3, punctures=usual).punctures
    assert found is not None
    mean, low, high = found
    seen = holes / (km / 1e3)
    assert min(usual, seen) - 1e-9 <= mean <= max(usual, seen) + 1e-9 and low < mean < high


def test_the_band_of_punctures_is_that_of_the_posterior() -> None:
    notes = [note("broken", "puncture")] * 3
    found = body_rates(notes, hours=20.0, distance=1e6, punctures=1.0).punctures
    assert found is not None
    rates = np.linspace(1e-3, 15.0, 40_000)
    weight = rates ** (2.8 - 1.0) * np.exp(-2.8 * rates) * rates**3 * np.exp(-rates)  # prior times Poisson
    share = np.cumsum(weight) / weight.sum()
    assert found[1:] == pytest.approx(tuple(np.interp((0.025, 0.975), share, rates)), rel=2e-3)
