"""Conversions: by definition, and exact there and back."""

from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat import units

PAIRS: list[tuple[Callable[[float], float], Callable[[float], float]]] = [
    (units.g_from_kg, units.kg_from_g),
    (units.l_from_m3, units.m3_from_l),
    (units.mm_from_m, units.m_from_mm),
    (units.cm2_from_m2, units.m2_from_cm2),
    (units.km_from_m, units.m_from_km),
    (units.min_from_s, units.s_from_min),
    (units.kmh_from_ms, units.ms_from_kmh),
]


@pytest.mark.parametrize(("there", "back"), PAIRS, ids=lambda f: f.__name__)
@given(shown=st.integers(0, 10_000_000).map(lambda n: n / 1000.0))
def test_what_a_person_reads_is_what_is_kept(
    there: Callable[[float], float], back: Callable[[float], float], shown: float
) -> None:
    assert there(back(shown)) == shown


@pytest.mark.parametrize(
    ("convert", "value", "expected"),
    [
        (units.g_from_kg, 0.212, 212.0),
        (units.l_from_m3, 0.0011, 1.1),
        (units.mm_from_m, 0.345, 345.0),
        (units.cm2_from_m2, 0.36, 3_600.0),
        (units.km_from_m, 62_000.0, 62.0),
        (units.min_from_s, 900.0, 15.0),
        (units.kmh_from_ms, 10.0, 36.0),
    ],
)
def test_units_by_definition(convert: Callable[[float], float], value: float, expected: float) -> None:
    assert convert(value) == pytest.approx(expected, rel=1e-15)
