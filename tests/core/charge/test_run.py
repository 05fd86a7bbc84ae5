"""Batteries by the clock: energy is kept, and simple cases end where arithmetic says."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.charge.run import (
    BANK,
    CELLS,
    HUB,
    IDLE,
    INTO,
    NEVER_ENOUGH,
    WALL,
    Batteries,
    Orders,
    Run,
    Setup,
    Steps,
    Wiring,
    cold_share,
    run_batteries,
)

LOW, HIGH, KEEPS = 0.30, 0.90, 0.85


def steps(count: int, *, wall: float = 0.0, hub: float = 0.0, temp: float = 25.0) -> Steps:
    each = np.full(count, 60.0)
    return Steps(
        begins=np.arange(count) * 60.0,
        lengths=each,
        distances=np.arange(count) * 300.0,
        speeds=np.full(count, 5.0),
        dark=np.ones(count, dtype=bool),
        temps=np.full(count, temp),
        hub=np.full(count, hub),
        wall=np.full(count, wall),
        sun=np.zeros(count),
        resting=np.zeros(count, dtype=bool),
    )


def batteries(*capacities: float, devices: int, full: float = 1.0, takes: float = 10.0) -> Batteries:
    held = np.array(capacities)
    is_bank = np.arange(held.size) >= devices
    return Batteries(
        capacities=held,
        levels=held * full,
        takes=np.full(held.size, takes),
        keeps=np.where(is_bank, KEEPS, 1.0),
        gives=np.where(is_bank, 12.0, 0.0),
        ports=np.where(is_bank, 2, 0).astype(np.int64),
        passes=np.zeros(held.size, dtype=bool),
        while_on=np.ones(held.size, dtype=bool),
        counts=np.ones(held.size, dtype=bool),
        cells=np.zeros(held.size, dtype=np.int64),
        cell_energy=np.zeros(held.size),
        devices=devices,
    )


def wiring(some: Batteries, leads: np.ndarray | None = None, wall_ports: int = 9) -> Wiring:
    fits = np.eye(some.capacities.size, dtype=bool) if leads is None else leads
    return Wiring(hub=fits, wall=fits, sun=fits, bank=fits, wall_ports=wall_ports)


def orders(some: Batteries, *, banks_first: bool = False, below: float = NEVER_ENOUGH) -> Orders:
    places = list(range(some.capacities.size))
    if banks_first:
        places = [*places[some.devices :], *places[: some.devices]]
    order = np.array(places, dtype=np.int64)
    return Orders(hub=order, wall=order, emptiest=False, low=LOW, high=HIGH, at_rest=True, hub_below=below)


def run(here: Steps, draws: np.ndarray | float, some: Batteries, **more: object) -> Run:
    loads = np.zeros((here.lengths.size, some.capacities.size))
    loads[:, : some.devices] = draws
    leads = more.pop("leads", None)
    ports = more.pop("wall_ports", 9)
    return run_batteries(here, loads, Setup(some, wiring(some, leads, ports), orders(some, **more)))  # type: ignore[arg-type]


def left_over(here: Steps, some: Batteries, found: Run) -> float:
    """Return by how much the energy does not close. [Wh]"""
    before = some.levels.sum() + found.taken.sum() + found.into[CELLS].sum()
    return float(before - found.used - found.lost - found.levels[-1].sum())


@given(seed=st.integers(0, 10_000), devices=st.integers(1, 4), banks=st.integers(0, 3))
@settings(max_examples=60, deadline=None)
def test_energy_is_neither_made_nor_lost(seed: int, devices: int, banks: int) -> None:
    rng = np.random.default_rng(seed)
    count, size = 400, devices + banks
    held = rng.uniform(1.0, 40.0, size)
    cells = np.where(np.arange(size) < devices, rng.integers(0, 3, size), 0)
    some = batteries(*held, devices=devices)._replace(
        levels=held * rng.random(size),
        takes=rng.uniform(1.0, 18.0, size),
        passes=rng.random(size) < 0.5,
        while_on=rng.random(size) < 0.7,
        cells=cells,
        cell_energy=np.where(cells > 0, held * rng.uniform(0.4, 1.0, size), 0.0),
    )
    here = steps(count)._replace(
        resting=rng.random(count) < 0.2,
        temps=rng.uniform(-25.0, 30.0, count),
        wall=np.where(rng.random(count) < 0.2, rng.uniform(0, 20, count), 0.0),
        hub=np.where(rng.random(count) < 0.5, rng.uniform(0, 6, count), 0.0),
        sun=np.where(rng.random(count) < 0.3, rng.uniform(0, 2, count), 0.0),
    )
    loads = rng.uniform(0.0, 4.0, (count, devices))
    leads = rng.random((size, 3)) < 0.6
    found = run(here, loads, some, leads=leads, wall_ports=int(rng.integers(0, 3)), below=float(rng.uniform(0.1, 2.0)))
    assert left_over(here, some, found) == pytest.approx(0.0, abs=1e-9)
    assert (found.levels >= -1e-9).all() and (found.levels <= held + 1e-9).all()
    assert found.used + found.unmet.sum() == pytest.approx(loads.sum() / 60.0, abs=1e-9)
    assert (found.hub <= here.hub + 1e-9).all() and found.taken[HUB] == pytest.approx(found.hub.sum() / 60.0)
    assert found.taken[WALL] <= here.wall.sum() / 60.0 + 1e-9
    assert found.into[HUB].sum() == pytest.approx(INTO * found.taken[HUB])
    assert found.into[BANK].sum() <= INTO * KEEPS * found.given.sum() + 1e-9


def test_a_lamp_alone_burns_for_its_energy_over_its_draw() -> None:
    found = run(steps(600), 3.0, batteries(12.0, devices=1))
    assert found.first_flat[0] * 60.0 == pytest.approx(12.0 / 3.0 * 3600.0, abs=60.0)
    assert found.used == pytest.approx(12.0) and found.unmet[0] == pytest.approx(600 / 60 * 3.0 - 12.0)


def test_a_bank_lengthens_that_by_what_comes_through() -> None:
    found = run(steps(3_000), 3.0, batteries(12.0, 37.0, devices=1))
    hours_with_charge = found.given[1] / 37.0
    assert hours_with_charge > 0.95  # the rest it lost by itself
    assert found.used == pytest.approx(12.0 + found.given[1] * INTO * KEEPS, rel=1e-6)


def test_a_device_is_put_on_the_bank_below_the_one_and_taken_off_at_the_other() -> None:
    found = run(steps(400), 3.0, batteries(12.0, 37.0, devices=1))
    share = found.levels[:, 0] / 12.0
    lowest = int(np.argmin(share[:300]))
    assert share[lowest] == pytest.approx(LOW, abs=0.02) and share[lowest:].max() == pytest.approx(HIGH, abs=0.02)


def test_wherever_one_rests_everything_is_put_on_the_bank() -> None:
    here = steps(120)._replace(resting=np.arange(120) >= 60)
    found = run(here, 0.0, batteries(10.0, 37.0, devices=1, full=0.6))
    assert found.levels[59, 0] == pytest.approx(6.0) and found.levels[-1, 0] == pytest.approx(10.0 * HIGH, abs=0.2)


def test_cold_holds_energy_back_and_warmth_gives_it_again() -> None:
    cold = run(steps(600, temp=-10.0), 3.0, batteries(12.0, devices=1))
    assert cold.used == pytest.approx(12.0 * 0.72) and cold.levels[-1, 0] == pytest.approx(12.0 * 0.28)
    thawed = steps(600)._replace(temps=np.where(np.arange(600) < 300, -10.0, 25.0))
    assert run(thawed, 3.0, batteries(12.0, devices=1)).used == pytest.approx(12.0)
    assert cold_share(np.array([-40.0, -20.0, 40.0])) == pytest.approx([0.55, 0.55, 1.0])


def test_what_comes_in_runs_a_device_whose_battery_is_too_cold() -> None:
    found = run(steps(120, temp=-20.0, wall=10.0), 3.0, batteries(12.0, devices=1, full=0.2))
    assert found.unmet[0] == 0.0 and found.levels[-1, 0] > 0.2 * 12.0


def test_a_socket_fills_devices_first_slower_in_the_last_fifth_and_as_many_as_it_has_outlets() -> None:
    some = batteries(10.0, 20.0, devices=1, full=0.5)
    found = run(steps(180, wall=18.0), 0.0, some, wall_ports=1)
    first = found.levels[:, 0] / 10.0
    assert (np.diff(found.levels[first[:-1].size // 6 :, 0]) >= -1e-12).all()
    # 0.5 to 0.8 at 10 W and 0.92: 3 Wh in 19.6 min; then ever slower, so that 0.99 takes some three times as long again
    assert float(np.interp(0.8, first, np.arange(1, 181))) == pytest.approx(3.0 / (10.0 * INTO) * 60.0, abs=1.0)
    tail = 0.2 * 10.0 / (10.0 * INTO) * 60.0 * np.log(0.2 / 0.01)  # min of an exponential approach
    assert float(np.interp(0.99, first, np.arange(1, 181))) == pytest.approx(19.6 + tail, abs=2.0)
    assert found.levels[60, 1] == pytest.approx(10.0 - IDLE * 61 / 60.0)  # one outlet: the bank waits
    both = run(steps(180, wall=18.0), 0.0, some, wall_ports=2)
    assert both.levels[60, 1] > 12.0


def test_a_lead_is_in_one_place_at_a_time() -> None:
    some = batteries(10.0, 10.0, devices=2, full=0.5)
    one = run(steps(20, wall=30.0), 0.0, some, leads=np.ones((2, 1), dtype=bool))
    two = run(steps(20, wall=30.0), 0.0, some, leads=np.ones((2, 2), dtype=bool))
    assert one.levels[-1, 1] == 5.0 and two.levels[-1, 1] > 7.0
    banked = batteries(10.0, 10.0, 40.0, devices=2)._replace(levels=np.array([2.0, 2.0, 40.0]))
    waits = run(steps(60), 0.0, banked, leads=np.ones((3, 1), dtype=bool))
    assert waits.waited[0] == 0.0 < waits.waited[1] and waits.levels[10, 1] == 2.0 < waits.levels[10, 0]
    none = run(steps(20, wall=30.0), 0.0, some, leads=np.zeros((2, 1), dtype=bool))
    assert none.taken[WALL] == 0.0


def test_a_hub_fills_the_bank_first_where_the_rule_says_so_and_only_below_a_share() -> None:
    some = batteries(10.0, 37.0, devices=1, full=0.5)
    devices = run(steps(30, hub=4.0), 0.0, some)
    banks = run(steps(30, hub=4.0), 0.0, some, banks_first=True)
    assert devices.into[HUB, 0] == pytest.approx(2.0 * INTO) and devices.into[HUB, 1] == 0.0
    assert banks.into[HUB, 1] == pytest.approx(2.0 * INTO) and banks.into[HUB, 0] == 0.0
    assert run(steps(30, hub=4.0), 0.0, some, below=0.4).taken[HUB] == 0.0
    needed = run(steps(600, hub=4.0), 0.0, some, below=0.6)
    assert needed.levels[-1].sum() / 47.0 == pytest.approx(0.6, abs=0.01)


def test_a_bank_that_passes_nothing_on_is_left_to_a_device_that_needs_it() -> None:
    some = batteries(10.0, 37.0, devices=1, full=0.1)._replace(levels=np.array([1.0, 30.0]))
    found = run(steps(30, hub=4.0), 1.0, some, banks_first=True)
    assert found.into[HUB, 0] > 0.0 and found.unmet[0] == 0.0
    passing = run(steps(30, hub=4.0), 1.0, some._replace(passes=np.ones(2, dtype=bool)), banks_first=True)
    assert passing.into[HUB, 1] > 0.0 and passing.into[BANK, 0] > 0.0


def test_cells_are_changed_when_they_are_empty_and_counted() -> None:
    some = batteries(4.0, devices=1)._replace(cells=np.array([2]), cell_energy=np.array([4.0]))
    found = run(steps(800), 1.0, some)
    assert (
        found.swaps[0] == 2 and found.used == pytest.approx(12.0) and found.first_flat[0] == pytest.approx(720, abs=1)
    )


def test_the_forty_eight_hours_of_the_model_end_where_a_loop_by_hand_does() -> None:
    """One battery under lights and a hub, against the plainest loop that can be written."""
    count = 48 * 60
    clock = (5.0 + np.arange(count) / 60.0) % 24.0
    riding = (clock >= 5.0) & (clock < 22.0)
    lights = riding & ((clock < 6.0) | (clock >= 20.0))
    speeds = np.where(riding, 6.1 + 3.0 * np.sin(np.arange(count) * 60.0 / 900.0), 0.0)
    hub = np.where(riding & ~lights, 6.8 * (speeds / 5.0) ** 2.4 / (1.0 + (speeds / 5.0) ** 2.4), 0.0)
    draw = 0.45 * riding + 0.12 + 3.2 * lights
    some = batteries(20.0, devices=1, full=0.8)
    here = steps(count)._replace(hub=hub)
    found = run(here, draw[:, None], some)
    level, unmet = 16.0, 0.0
    for power, load in zip(hub, draw, strict=True):
        some_in = min(power, 10.0 * min(1.0, max(0.02, (20.0 - level) / 4.0)), (20.0 - level) / (INTO / 60.0))
        level += INTO * some_in / 60.0
        given = min(load / 60.0, level)
        unmet += load / 60.0 - given
        level -= given
    assert found.levels[-1, 0] == pytest.approx(level, abs=1e-9) and found.unmet[0] == pytest.approx(unmet, abs=1e-9)
