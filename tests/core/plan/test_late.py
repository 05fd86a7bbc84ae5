"""Arrivals of one who is late: against the whole plan ridden with that delay."""

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.late import DELAYS, LateTable
from stonechat.core.plan.plan import Plan

MINUTES = 60.0


@pytest.fixture(scope="module")
def table(demo_late: LateTable) -> LateTable:
    return demo_late


def elapsed(ridden: Ridden) -> np.ndarray:
    return np.array([visit.elapsed for visit in ridden.timetable.visits])


def test_on_time_it_is_the_plan(table: LateTable, demo_evaluation: Evaluation) -> None:
    now = int(np.flatnonzero(DELAYS == 0.0)[0])
    for k in range(table.nodes.size):
        assert np.abs(table.arrivals[k, now] - elapsed(demo_evaluation.ridden)).max() < 1.0


def with_delay(demo: Plan, ridden: Ridden, node: int, hours: float) -> tuple[Ridden, float]:
    """Return the plan ridden with a delay by the planner, and the delay that came of it. [s]"""
    variant = demo.variants[0]
    if node == 0:
        later = replace(variant.rhythm, start=variant.rhythm.start + timedelta(hours=hours))
        return evaluate(demo.with_variant(replace(variant, rhythm=later)), "a").ridden, 3600.0 * hours
    stop = ridden.way.stops[node - 1]
    stays = {**variant.rhythm.stays, stop.id: stop.dwell + 3600.0 * hours}
    late = evaluate(demo.with_variant(replace(variant, rhythm=replace(variant.rhythm, stays=stays))), "a").ridden
    return late, float(late.ride.departures[node - 1] - ridden.ride.departures[node - 1])


def test_the_next_day_is_within_two_minutes_of_the_planner(
    demo: Plan, demo_evaluation: Evaluation, table: LateTable
) -> None:
    """Farther on, food and water that weigh otherwise add up to some minutes."""
    ridden = demo_evaluation.ridden
    near, far = [], []
    for node, hours in (
        (0, 1.3),
        (1, 0.75),
        (4, 0.75),
        (6, 2.0),
        (8, 0.75),
        (11, 0.75),
        (13, 2.0),
        (20, 2.0),
        (24, 2.0),
    ):
        late, delay = with_delay(demo, ridden, node, hours)
        rested = abs(late.ride.stop_rests - ridden.ride.stop_rests)[node - 1] if node else 0.0
        assert rested < 60.0  # else the planner sleeps in the delay, which is another race
        place = int(np.flatnonzero(table.nodes <= node)[-1])
        told = elapsed(late)[node:] + (delay if node == 0 else 0.0)
        apart = np.abs(table.arrivals_at(place, delay)[node:] - told) / MINUTES
        soon = told - told[0] <= 24.0 * 3600.0
        near += apart[soon].tolist()
        far += apart[~soon].tolist()
    assert np.mean(np.array(near) < 2.0) >= 0.95 and max(near) < 5.0
    assert np.mean(np.array(far) < 6.0) >= 0.95


def test_where_a_door_makes_a_jump_the_nearer_side_is_taken() -> None:
    arrivals = np.array([[[0.0], [600.0], [9_000.0], [9_600.0]]])
    made = LateTable(nodes=np.array([0]), delays=np.array([0.0, 600.0, 1_200.0, 1_800.0]), arrivals=arrivals)
    assert made.arrivals_at(0, 300.0)[0] == pytest.approx(300.0)
    assert made.arrivals_at(0, 700.0)[0] == pytest.approx(700.0)
    assert made.arrivals_at(0, 1_100.0)[0] == pytest.approx(8_900.0)
