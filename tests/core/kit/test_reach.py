"""Reaching, summed by hand."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.kit.reach import reach_seconds


@pytest.mark.parametrize(
    ("item", "carrier", "opening", "expected"),
    [
        ("riding", "riding", 0.0, 3 + 5),
        ("foot", "riding", 1.0, 0.7 * 22 + 4 + 1 + 5),
        ("off", "foot", 6.0, 0.7 * 35 + 6 + 6 + 5),
        ("camp", "off", 12.0, 10 + 12 + 5),  # no halt is charged where the day's riding is over
        ("last", "off", 12.0, 0.7 * 35 + 6 + 12 + 5),
        ("riding", "off", 12.0, 0.7 * 35 + 6 + 12 + 5),  # reached the harder way
    ],
)
def test_seconds_are_halt_handling_and_closure(item: str, carrier: str, opening: float, expected: float) -> None:
    assert reach_seconds(item, carrier, opening) == pytest.approx(expected)


@given(st.sampled_from(["riding", "foot", "off", "camp", "last"]), st.floats(0, 60))
def test_a_carrier_that_is_harder_to_reach_is_never_quicker(item: str, opening: float) -> None:
    seconds = [reach_seconds(item, carrier, opening) for carrier in ("riding", "foot", "off")]
    assert seconds == sorted(seconds)
