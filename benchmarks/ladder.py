"""Time of the clothing ladder beside that of the whole evaluation, over the demo's variants.

Run: .venv/bin/python benchmarks/ladder.py
"""

import statistics
import time

from stonechat.core.plan.dressing import dressing_of
from stonechat.core.plan.evaluate import evaluate
from stonechat.demo.corvane import demo_plan

_TURNS = 7


def main() -> None:
    """Print medians in ms, and the share of the evaluation that the ladder takes."""
    plan = demo_plan()
    total = 0.0
    for variant in plan.variants:
        ridden = evaluate(plan, variant.id).ridden
        whole, ladder = [], []
        for _ in range(_TURNS):
            since = time.perf_counter()
            evaluate(plan, variant.id)
            whole.append(time.perf_counter() - since)
            since = time.perf_counter()
            dressing_of(ridden)
            ladder.append(time.perf_counter() - since)
        one, all_ = statistics.median(ladder), statistics.median(whole)
        total += one
        print(f"{variant.id}: ladder {1e3 * one:.0f} ms, evaluation {1e3 * all_:.0f} ms, share {one / all_:.2f}")
    print(f"all variants: ladder {1e3 * total:.0f} ms")


if __name__ == "__main__":
    main()
