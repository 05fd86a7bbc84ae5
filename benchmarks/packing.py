"""How near rules of thumb come to the proven packing, and how long the proof takes, over seeded kits.

Run: .venv/bin/python benchmarks/packing.py
Kits are drawn from the demo's things; carriers are the demo's. Seconds are of this machine on this day; what counts
are the gaps and the minutes lost.
"""

import statistics
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.strategies import random_problem

from stonechat.core.load.greedy import pack_greedily
from stonechat.core.load.judge import judge
from stonechat.core.load.moves import move_options
from stonechat.core.load.solve import Progress, solve_packing

INSTANCES = 12


def main() -> None:
    """Measure and print."""
    seconds, near, lost, gaps = [], [], [], []
    for seed in range(INSTANCES):
        problem = random_problem(seed, 50 + 3 * seed)
        start = time.perf_counter()
        reached: list[float] = []

        def watch(progress: Progress, start: float = start, reached: list[float] = reached) -> None:
            if progress.gap <= 0.01 and not reached:
                reached.append(time.perf_counter() - start)

        result = solve_packing(problem, time_limit=30.0, on_progress=watch)
        seconds.append(time.perf_counter() - start)
        near.append(reached[0] if reached else seconds[-1])
        gaps.append(result.gap)
        greedy = pack_greedily(problem)
        verdict = judge(problem, greedy)
        if not verdict.broken:
            lost.append(verdict.minutes - result.minutes)
        print(
            f"seed {seed:2}  {len(problem.items)} things x {len(problem.carriers)} carriers  {result.status:8} "
            f"{result.minutes:7.1f} min  gap {100 * result.gap:5.3f} %  {seconds[-1]:6.2f} s  "
            f"rule of thumb {f'+{lost[-1]:.1f} min' if not verdict.broken else 'breaks a rule'}"
        )
    print(f"to 1 %: median {statistics.median(near):.2f} s; to the end: median {statistics.median(seconds):.2f} s, "
          f"most {max(seconds):.2f} s; largest gap {100 * max(gaps):.3f} %")  # fmt: skip
    if lost:
        print(f"most-reached-first loses {statistics.median(lost):.1f} min in the median, {max(lost):.1f} at most")
    problem = random_problem(0, 80)
    places = pack_greedily(problem)
    start = time.perf_counter()
    for item in problem.items:
        move_options(problem, places, item.id)
    took = time.perf_counter() - start
    print(f"costs of every move, {len(problem.items)} x {len(problem.carriers)}: {1000 * took:.0f} ms")


if __name__ == "__main__":
    main()
