"""How long first plans, gaps and proofs take at full size, and how far rules of thumb are from the proven packing.

Run: .venv/bin/python benchmarks/packing.py [instances]
Kits are drawn about the demo's things, with all rules of riding together; carriers are the demo's and two more.
Seconds are of this machine on this day; what counts are the gaps, the minutes lost and the ratios.
"""

import statistics
import sys
import time
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

import numpy as np

from stonechat.core.load.greedy import RULES, pack_greedily
from stonechat.core.load.judge import judge
from stonechat.core.load.moves import move_options
from stonechat.core.load.problem import PackingProblem, Prices, build_problem
from stonechat.core.load.solve import Progress, solve_packing
from stonechat.core.rig.bike import Bike
from tests.strategies import full_problem

LIMIT = 60.0  # s


def main() -> None:
    """Measure and print."""
    instances = int(sys.argv[1]) if len(sys.argv) > 1 else 20
    first, near, proof = [], [], []
    lost: dict[str, list[float]] = {rule.key: [] for rule in RULES}
    broke: dict[str, list[int]] = {rule.key: [] for rule in RULES}
    for seed in range(instances):
        problem = full_problem(seed)
        times = solve(problem, seed)
        if times is None:
            continue
        first.append(times[0])
        near.append(times[1])
        proof.append(times[2])
        for rule in RULES:
            verdict = judge(problem, pack_greedily(problem, rule))
            if not verdict.broken:
                lost[rule.key].append(verdict.minutes - times[3])
                broke[rule.key].append(len(verdict.unkept))
    for words, seconds in (("first plan", first), ("gap 1 %", near), ("gap 0.1 %", proof)):
        print(
            f"{words:11} median {statistics.median(seconds):6.2f} s, "
            f"p95 {np.percentile(seconds, 95):6.2f} s, most {max(seconds):6.2f} s"
        )
    for rule in RULES:
        kept = lost[rule.key]
        words = f"loses {statistics.median(kept):5.1f} min in the median, {max(kept):5.1f} at most, " if kept else ""
        words += f"and leaves {statistics.median(broke[rule.key]):.0f} other rules" if kept else ""
        print(f"{rule.key:10} keeps the hard rules in {len(kept)} of {len(proof)}; {words}")
    table()


def solve(problem: PackingProblem, seed: int) -> tuple[float, float, float, float] | None:
    """Return seconds to the first plan, to 1 % and to the end, and the minutes."""
    start = time.perf_counter()
    reached: list[tuple[float, float]] = []

    def watch(progress: Progress) -> None:
        reached.append((time.perf_counter() - start, progress.gap))

    result = solve_packing(problem, time_limit=LIMIT, on_progress=watch)
    took = time.perf_counter() - start
    size = f"seed {seed:2}  {len(problem.items)} things x {len(problem.carriers)} carriers, {len(problem.rules)} rules"
    if not result.places:
        print(f"{size}  {result.status} after {took:.2f} s: {' '.join(result.reasons)[:90]}")
        return None
    one = next((at for at, gap in reached if gap <= 0.01), took)
    print(
        f"{size}  {result.status:8} {result.minutes:7.1f} min, {len(result.unkept)} rules not kept, "
        f"gap {100 * result.gap:5.3f} %, first {reached[0][0] if reached else took:5.2f} s, "
        f"1 % {one:5.2f} s, end {took:6.2f} s",
        flush=True,
    )
    return (reached[0][0] if reached else took), one, took, result.minutes


def table() -> None:
    """Time the price of every move of 110 things over 18 carriers, from the things to the reasons."""
    small = full_problem(0)
    items = tuple(replace(small.items[k % len(small.items)], id=f"t{k}") for k in range(110))
    carriers = tuple(replace(small.carriers[k % len(small.carriers)], id=f"c{k}") for k in range(18))
    start = time.perf_counter()
    problem = build_problem(
        items=items, carriers=carriers, bike=Bike(), pins={}, provisions=small.provisions,
        prices=Prices(per_kg=25.0, per_drag=10.0, days=4.5),
    )  # fmt: skip
    built = time.perf_counter() - start
    places = pack_greedily(problem)
    start = time.perf_counter()
    for item in problem.items:
        move_options(problem, places, item.id)
    took = time.perf_counter() - start
    print(
        f"price of every move, {len(problem.items)} things over {len(problem.carriers)} carriers: "
        f"{1000 * built:.0f} ms the minutes, {1000 * took:.0f} ms what stands against each as things lie"
    )


if __name__ == "__main__":
    main()
