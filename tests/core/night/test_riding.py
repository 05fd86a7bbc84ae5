"""Riding in the cold, against an independent library's ISO 11079."""

import csv
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.night.riding import LOW, NEUTRAL, Going, bearable, needed, storage
from stonechat.core.night.sleep import CLO, DEBT

TABLE = Path(__file__).parents[2] / "oracles" / "required_insulation.csv"


@pytest.fixture(scope="module")
def table() -> dict[str, np.ndarray]:
    with TABLE.open() as file:
        rows = list(csv.DictReader(file))
    return {key: np.array([float(row[key] or "nan") for row in rows]) for key in rows[0]}


@pytest.fixture(scope="module")
def going(table: dict[str, np.ndarray]) -> Going:
    humid = np.full(table["temp_c"].shape, 0.85)
    return Going(table["temp_c"], table["speed_ms"], table["heat"], table["work"], humid)


@pytest.mark.parametrize(("strain", "column"), [(LOW, "icl_min"), (NEUTRAL, "icl_neutral")])
def test_needed_insulation_is_that_of_the_library(
    table: dict[str, np.ndarray], going: Going, strain: str, column: str
) -> None:
    told = table[column]
    mine = needed(going, table["permeability"], strain) / CLO
    wearable = (told > 0.02) & (told < 9.0)
    assert wearable.sum() > 100
    np.testing.assert_allclose(mine[wearable], told[wearable], atol=2e-3)
    assert (mine[told <= 0.0] < 0.02).all()


@pytest.mark.parametrize(("strain", "column"), [(LOW, "hours_min"), (NEUTRAL, "hours_neutral")])
def test_how_long_too_little_is_bearable_is_that_of_the_library(
    table: dict[str, np.ndarray], going: Going, strain: str, column: str
) -> None:
    stored = storage(going, table["clo"] * CLO, table["permeability"], strain)
    told = np.isfinite(table[column])
    assert told.sum() > 50
    np.testing.assert_allclose(-DEBT / stored[told], table[column][told], rtol=0.02)
    assert (stored[~told] > -DEBT / 8.0 * 1.02).all()


def test_needed_for_a_while_is_what_is_bearable_for_that_while(going: Going) -> None:
    windproof = np.full(going.temps.shape, 5.0)
    some = needed(going, windproof, LOW, 0.5)
    kept = (some > 0.05) & (some < 9.0 * CLO)
    np.testing.assert_allclose(bearable(going, some, windproof)[kept], 0.5, rtol=1e-3)
    assert (some <= needed(going, windproof) + 1e-9).all()


@given(
    temp=st.floats(-30, 25), speed=st.floats(0.5, 18), heat=st.floats(70, 400), clo=st.floats(0.1, 4),
    colder=st.floats(0.5, 10),
)  # fmt: skip
def test_colder_air_and_less_clothing_never_warm(
    temp: float, speed: float, heat: float, clo: float, colder: float
) -> None:
    def at(air: float, much: float) -> float:
        one = Going(*(np.array([value]) for value in (air, speed, heat, 0.2 * heat, 0.85)))
        return float(storage(one, np.array([much * CLO]), np.array([20.0]))[0])

    assert at(temp - colder, clo) < at(temp, clo)
    if temp < 20.0:
        assert at(temp, clo + 0.5) > at(temp, clo) - 1e-6
