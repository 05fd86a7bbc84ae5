"""Figures that names and cells tell: energy, battery, light, warmth."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.kit.facts import FACTS, facts_in, figure_of
from stonechat.core.kit.item import CATEGORIES


@pytest.mark.parametrize(
    ("name", "sleep", "facts"),
    [
        ("Power bank 10 Ah", False, {"mah": 10_000.0}),
        ("bank 21,000 mAh, 75 Wh", False, {"mah": 21_000.0, "wh": 75.0}),
        ("Front light 1200 lm, 4 h", False, {"lumens": 1200.0, "run_h": 4.0}),
        ("quilt comfort 3 °C", True, {"comfort": 3.0}),
        ("sleeping bag −7 °C", True, {"rated": -7.0}),  # which of its temperatures that is nobody said
        ("bag limit -5 °C", True, {"limit": -5.0}),
        ("bag comfort 2 limit -4", True, {"comfort": 2.0, "limit": -4.0}),
        ("down jacket 90 g fill 800 fp", False, {"fill_g": 90.0, "loft": 800.0}),
        ("wind shirt 0.2 clo", False, {"clo": 0.2}),
        ("Inflatable mat R 4.5", True, {"r_value": 4.5}),
        ("mat R4", True, {"r_value": 4.0}),
        ("merino shirt dries in 5 h", False, {"dries_h": 5.0}),
        ("fleece, 70 % when wet", False, {"wet_keeps": 70.0}),
        ("bar 240 kcal", False, {"kcal": 240.0}),
        ("gloves 3 °C", False, {}),  # degrees of gloves say nothing that is asked here
        ("tube 700c", False, {}),
        ("bank 900,000 mAh", False, {}),
    ],
)
def test_a_name_tells_its_figures(name: str, sleep: bool, facts: dict[str, float]) -> None:
    assert dict(facts_in(name, of_sleep=sleep)) == facts


@given(st.integers(0, 999_999), st.sampled_from([",", ""]))
def test_thousands_apart_are_read_as_they_are_meant(value: int, mark: str) -> None:
    assert figure_of(f"{value:,}".replace(",", mark)) == value


@given(st.text(max_size=40))
def test_anything_typed_is_read_and_figures_stay_in_their_range(name: str) -> None:
    for key, value in facts_in(name, of_sleep=True):
        assert FACTS[key].low <= value <= FACTS[key].high


def test_each_figure_is_of_categories_that_there_are() -> None:
    assert all(fact.of <= set(CATEGORIES) and "other" in fact.of for fact in FACTS.values())
