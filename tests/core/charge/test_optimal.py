"""The least that charging costs, against every way to switch there is on small cases."""

from itertools import product

import numpy as np
import pytest

from stonechat.core.charge.optimal import Blocks, best_charging
from stonechat.core.charge.run import INTO, Batteries
from tests.core.charge.test_run import KEEPS, batteries

STEP = 0.5  # Wh, the grid on which every way is tried


def blocks(rng: np.random.Generator, count: int, devices: int = 1, *, wall: bool = False) -> Blocks:
    return Blocks(
        hours=np.ones(count),
        loads=rng.integers(0, 5, (count, devices)) * STEP * INTO,
        hub=rng.integers(0, 5, count) * STEP,
        hub_price=np.round(rng.uniform(0.2, 2.0, count), 2),
        wall=np.where(rng.random(count) < 0.4, 4.0 * STEP, 0.0) if wall else np.zeros(count),
        bridged=np.zeros(devices),
        wait_price=1.0,
        wait_most=1.0 if wall else 0.0,
    )


def tried(race: Blocks, some: Batteries, lacking: float) -> float:
    """Return the least over every way to take whole steps of energy from the hub, block by block; one device."""
    best = np.inf
    choices = [np.arange(0.0, have + 1e-9, STEP) for have in race.hub]
    for taken in product(*choices):
        level, cost = float(some.levels[0]), 0.0
        for k, energy in enumerate(taken):
            fits = min(energy, some.takes[0] * race.hours[k])
            level += INTO * fits
            cost += race.hub_price[k] * fits
            need = race.loads[k, 0]
            lack = max(0.0, need - level)
            level = max(0.0, level - need)
            cost += lacking * lack
            if level > some.capacities[0] + 1e-9:
                cost = np.inf
        best = min(best, cost)
    return best


@pytest.mark.parametrize("seed", range(12))
def test_no_way_of_switching_is_cheaper_and_one_is_as_cheap(seed: int) -> None:
    rng = np.random.default_rng(seed)
    race = blocks(rng, 5)
    capacity = float(rng.integers(2, 9)) * STEP * INTO
    some = batteries(capacity, devices=1)._replace(levels=np.array([float(rng.integers(0, 3)) * STEP * INTO]))
    some = some._replace(levels=np.minimum(some.levels, some.capacities))
    # all figures lie on the grid, and a programme of one battery is a flow in a network: its best lies on it too
    assert best_charging(race, some, np.array([3.0])).minutes == pytest.approx(tried(race, some, 3.0), abs=1e-6)


def test_what_is_dear_is_left_and_what_is_cheap_is_taken() -> None:
    race = Blocks(
        hours=np.ones(3), loads=np.array([[0.0], [0.0], [4.0]]), hub=np.full(3, 5.0),
        hub_price=np.array([0.0, 1.0, 1.0]), wall=np.zeros(3), bridged=np.zeros(1),
    )  # fmt: skip
    found = best_charging(race, batteries(10.0, devices=1, full=0.0), np.array([20.0]))
    assert found.minutes == 0.0 and found.hub.tolist() == pytest.approx([4.0 / INTO, 0.0, 0.0])
    short = best_charging(race, batteries(10.0, devices=1, full=0.0), np.array([0.5]), may_charge=np.array([False] * 3))
    assert short.minutes == pytest.approx(0.5 * 4.0) and short.unmet.sum() == pytest.approx(4.0)


def test_one_waits_at_a_socket_as_long_as_it_pays() -> None:
    race = Blocks(
        hours=np.array([0.5, 1.0]), loads=np.array([[0.0], [6.0]]), hub=np.zeros(2), hub_price=np.zeros(2),
        wall=np.array([5.0, 0.0]), bridged=np.zeros(1), wait_most=4.0,
    )  # fmt: skip
    empty = batteries(10.0, devices=1, full=0.0)
    dear = best_charging(race, empty, np.array([20.0]))
    wanted = 6.0 / INTO / 5.0 - 0.5  # h
    assert dear.waits[0] == pytest.approx(wanted) and dear.minutes == pytest.approx(60.0 * wanted)
    cheap = best_charging(race, empty, np.array([1.0]))  # an hour gives 4.6 Wh, worth 4.6 min: not waited for
    assert cheap.waits[0] == 0.0 and cheap.minutes == pytest.approx(6.0 - 5.0 * 0.5 * INTO)


def test_a_bank_lends_what_comes_through() -> None:
    race = Blocks(
        hours=np.ones(2),
        loads=np.array([[4.0], [4.0]]),
        hub=np.zeros(2),
        hub_price=np.zeros(2),
        wall=np.zeros(2),
        bridged=np.zeros(1),
    )
    some = batteries(4.0, 5.0, devices=1)
    found = best_charging(race, some, np.array([1.0]))
    assert found.unmet.sum() == pytest.approx(4.0 - 5.0 * KEEPS * INTO) == found.minutes


def test_what_another_bridges_costs_nothing() -> None:
    race = Blocks(
        hours=np.ones(2), loads=np.array([[3.0], [3.0]]), hub=np.zeros(2), hub_price=np.zeros(2), wall=np.zeros(2),
        bridged=np.array([2.0]),
    )  # fmt: skip
    found = best_charging(race, batteries(1.0, devices=1), np.array([4.0]))
    assert found.minutes == pytest.approx(4.0 * (6.0 - 1.0 - 2.0)) and found.unmet.sum() == pytest.approx(5.0)
