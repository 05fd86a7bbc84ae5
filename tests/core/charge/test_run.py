"""Batteries by the clock: energy is kept, and simple cases end where arithmetic says."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.charge.run import HIGH, INTO, LOW, OUT_OF, Batteries, Steps, cold_share, run_batteries


def steps(count: int, *, outside: float = 0.0, temp: float = 25.0) -> Steps:
    each = np.full(count, 60.0)
    return Steps(
        begins=np.arange(count) * 60.0,
        lengths=each,
        distances=np.arange(count) * 300.0,
        speeds=np.full(count, 5.0),
        dark=np.ones(count, dtype=bool),
        temps=np.full(count, temp),
        outside=np.full(count, outside),
        resting=np.zeros(count, dtype=bool),
    )


def batteries(*capacities: float, devices: int, full: float = 1.0) -> Batteries:
    held = np.array(capacities)
    return Batteries(capacities=held, levels=held * full, takes=np.full(held.size, 10.0), devices=devices)


@given(seed=st.integers(0, 10_000), devices=st.integers(1, 4), banks=st.integers(0, 3))
@settings(max_examples=60, deadline=None)
def test_energy_is_neither_made_nor_lost(seed: int, devices: int, banks: int) -> None:
    rng = np.random.default_rng(seed)
    count = 400
    held = rng.uniform(1.0, 40.0, devices + banks)
    some = Batteries(
        capacities=held, levels=held * rng.random(held.size), takes=rng.uniform(1.0, 18.0, held.size), devices=devices
    )
    here = steps(count)._replace(
        resting=rng.random(count) < 0.2,
        temps=rng.uniform(-25.0, 30.0, count),
        outside=np.where(rng.random(count) < 0.2, rng.uniform(0, 20, count), 0.0),
    )
    loads = rng.uniform(0.0, 4.0, (count, devices))
    found = run_batteries(here, loads, some)
    before, after = some.levels.sum(), found.levels[-1].sum()
    assert before + found.taken - found.used - found.lost == pytest.approx(after, abs=1e-9)
    assert (found.levels >= -1e-9).all() and (found.levels <= held + 1e-9).all()
    asked = loads.sum() / 60.0
    assert found.used + found.unmet.sum() == pytest.approx(asked, abs=1e-9)
    assert found.taken + found.spilled == pytest.approx(here.outside.sum() / 60.0, abs=1e-9)


def test_a_lamp_alone_burns_for_its_energy_over_its_draw() -> None:
    found = run_batteries(steps(600), np.full((600, 1), 3.0), batteries(12.0, devices=1))
    assert found.first_flat[0] * 60.0 == pytest.approx(12.0 / 3.0 * 3600.0, abs=60.0)
    assert found.used == pytest.approx(12.0) and found.unmet[0] == pytest.approx(600 / 60 * 3.0 - 12.0)


def test_a_bank_lengthens_that_by_what_comes_through() -> None:
    found = run_batteries(steps(3_000), np.full((3_000, 1), 3.0), batteries(12.0, 37.0, devices=1))
    assert found.used == pytest.approx(12.0 + 37.0 * INTO * OUT_OF, rel=1e-6)


def test_a_device_is_put_on_the_bank_below_the_one_and_taken_off_at_the_other() -> None:
    found = run_batteries(steps(400), np.full((400, 1), 3.0), batteries(12.0, 37.0, devices=1))
    share = found.levels[:, 0] / 12.0
    lowest, after = int(np.argmin(share[:300])), share[int(np.argmin(share[:300])) :]
    assert share[lowest] == pytest.approx(LOW, abs=0.02) and after.max() == pytest.approx(HIGH, abs=0.02)


def test_wherever_one_rests_everything_is_put_on_the_bank() -> None:
    here = steps(120)._replace(resting=np.arange(120) >= 60)
    found = run_batteries(here, np.zeros((120, 1)), batteries(10.0, 37.0, devices=1, full=0.6))
    assert found.levels[59, 0] == pytest.approx(6.0) and found.levels[-1, 0] == pytest.approx(10.0 * HIGH, abs=0.2)


def test_cold_holds_energy_back_and_warmth_gives_it_again() -> None:
    cold = run_batteries(steps(600, temp=-10.0), np.full((600, 1), 3.0), batteries(12.0, devices=1))
    assert cold.used == pytest.approx(12.0 * 0.72) and cold.levels[-1, 0] == pytest.approx(12.0 * 0.28)
    thawed = steps(600)._replace(temps=np.where(np.arange(600) < 300, -10.0, 25.0))
    assert run_batteries(thawed, np.full((600, 1), 3.0), batteries(12.0, devices=1)).used == pytest.approx(12.0)
    assert cold_share(np.array([-40.0, -20.0, 40.0])) == pytest.approx([0.55, 0.55, 1.0])


def test_what_comes_from_outside_goes_to_devices_first() -> None:
    found = run_batteries(steps(60, outside=6.0), np.zeros((60, 1)), batteries(10.0, 37.0, devices=1, full=0.5))
    assert found.levels[-1, 0] == pytest.approx(10.0, abs=0.5) and found.taken == pytest.approx(6.0)
    assert found.levels[-1].sum() == pytest.approx(23.5 + 6.0 * INTO)
