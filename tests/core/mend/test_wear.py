"""Wear: braking by the energy of a slope, lives that add up by condition."""

import numpy as np
import pytest

from stonechat.core.mend.wear import CHAIN_KM, GRAVITY, ROLLING, Ground, braked_energy, lube_times, wear_of


def ground(
    km: float = 1_000.0, *, grade: float = 0.0, speed: float = 8.0, wet: bool = False, rough: bool = False
) -> Ground:
    count = int(km)
    one = np.ones(count)
    return Ground(
        lengths=1000.0 * one, grades=grade * one, speeds=speed * one, wet=np.full(count, wet),
        rough=np.full(count, rough), muddy=np.full(count, rough), mass=95.0, drag=0.4, days=4.0, hot=False,
    )  # fmt: skip


def test_what_is_braked_is_what_falls_less_air_and_rolling() -> None:
    steep = ground(10.0, grade=-0.10, speed=9.0)
    falls = 95.0 * GRAVITY * 0.10 * 10_000.0
    taken = (95.0 * GRAVITY * ROLLING + 0.5 * 1.15 * 0.4 * 81.0) * 10_000.0
    assert braked_energy(steep).sum() == pytest.approx(falls - taken)
    assert braked_energy(ground(10.0, grade=0.05)).sum() == 0.0
    assert braked_energy(ground(10.0, grade=-0.01, speed=9.0)).sum() == 0.0


def test_lives_add_up_by_condition() -> None:
    share = {line.name: line.used for line in wear_of(ground(900.0))}
    assert share["chain"] == pytest.approx(900.0 / CHAIN_KM["dry"])
    wet = {line.name: line.used for line in wear_of(ground(900.0, wet=True))}
    mud = {line.name: line.used for line in wear_of(ground(900.0, wet=True, rough=True))}
    assert wet["chain"] == pytest.approx(900.0 / CHAIN_KM["wet"]) and mud["chain"] == pytest.approx(900.0 / 700.0)
    assert mud["rear tyre"] == pytest.approx(2.0 * share["rear tyre"]) and mud["chain"] > 1.0
    line = next(line for line in wear_of(ground(900.0)) if line.name == "chain")
    assert line.lasts and line.km == pytest.approx(CHAIN_KM["dry"])


def test_a_wet_race_wants_more_lubricant_and_a_short_one_none() -> None:
    assert lube_times(ground(100.0)) == {"wax": 0.0, "oil": 0.0}
    assert lube_times(ground(1_200.0, wet=True))["wax"] == pytest.approx(1_200.0 / 60.0 - 1.0)
