"""How long the lot programme takes, and how much slower the fixed point is when stops are chosen.

Run: .venv/bin/python benchmarks/supply.py
Seconds are of this machine on this day; what counts are the ratios.
"""

import statistics
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

import numpy as np

from stonechat.core.plan.evaluate import evaluate
from stonechat.core.supply.lots import Halt, LotPlan, Provision, Service, Trip, plan_lots
from stonechat.demo.corvane import demo_plan

DAY = 86_400.0  # s


def trip(stops: int, seed: int) -> Trip:
    """A road with taps, springs to be treated and shops with doors, one to six hours apart."""
    chance = np.random.default_rng(seed)
    rides = chance.uniform(1.0, 6.0, stops + 1) * 3600.0
    sold = chance.choice((3_000.0, 4_000.0, 4_750.0), stops + 1)  # kcal/kg of what is sold where each leg begins
    halts = []
    for _ in range(stops):
        doors = tuple((day * DAY + 3600.0, day * DAY + 46_800.0) for day in range(40))
        water = Service(time=240.0, rate=float(chance.choice([0.0, 0.0, 60.0]))) if chance.random() < 0.9 else None
        food = Service(time=600.0, spans=doors, patience=7200.0) if chance.random() < 0.6 else None
        halts.append(Halt(detour=float(chance.integers(0, 300)), water=water, food=food))
    return Trip(
        rides=rides,
        prices=chance.uniform(20.0, 80.0, stops + 1),
        halts=tuple(halts),
        water=Provision(needs=rides / 3600.0 * 0.45, capacity=8.0, reserve=0.3, density=1.0),
        food=Provision(needs=rides / 3600.0 * 260.0, capacity=16_000.0, reserve=300.0, density=sold),
    )


def seconds(run: Callable[[], object], times: int = 5) -> float:
    """Return the median time of a run."""
    took = []
    for _ in range(times):
        begun = time.perf_counter()
        run()
        took.append(time.perf_counter() - begun)
    return statistics.median(took)


def main() -> None:
    """Measure and print."""
    for stops in (15, 30, 60):
        trips = [trip(stops, seed) for seed in range(10)]
        solved = sum(isinstance(plan_lots(one), LotPlan) for one in trips)
        took = [seconds(lambda one=one: plan_lots(one), 3) for one in trips]  # type: ignore[misc]
        print(
            f"{stops} stops: {1000 * statistics.median(took):.0f} ms in the median, {1000 * max(took):.0f} ms at most, "
            f"{solved} of {len(trips)} have a plan"
        )
    plan = demo_plan()
    for variant in plan.variants:
        chosen = plan.with_variant(replace(variant, supply=replace(variant.supply, choose=True)))
        evaluate(plan, variant.id)
        every, free = (seconds(lambda p=p: evaluate(p, variant.id)) for p in (plan, chosen))  # type: ignore[misc]  # noqa: B023
        print(f"{variant.name}: every stop {every:.2f} s, stops chosen {free:.2f} s, {free / every:.2f} times as long")


if __name__ == "__main__":
    main()
