"""Time of the room Mend beside that of the whole evaluation.

Run: .venv/bin/python benchmarks/mend.py
"""

import statistics
import time
from collections.abc import Callable

from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.mend_places import answer_places
from stonechat.core.plan.mending import helps_at, mend_of
from stonechat.core.plan.wearing import wearing_of
from stonechat.demo.corvane import demo_plan
from stonechat.services.mending import additions, next_of_a_kind, things_worth

_TURNS = 9


def median(run: Callable[[], object]) -> float:
    """Return the median time of a few turns. [ms]"""
    run()
    times = []
    for _ in range(_TURNS):
        since = time.perf_counter()
        run()
        times.append(time.perf_counter() - since)
    return 1e3 * statistics.median(times)


def main() -> None:
    """Print medians."""
    plan = demo_plan()
    ridden = evaluate(plan, "a").ridden
    whole = median(lambda: evaluate(plan, "a"))
    failures = median(lambda: mend_of(ridden))
    spares = median(lambda: (things_worth(ridden), additions(ridden), next_of_a_kind(ridden)))
    rest = median(lambda: (wearing_of(ridden), answer_places(ridden)))
    at = ridden.way.profile.length / 2.0
    told = [line.failure for line in ridden.report(type(mend_of(ridden))).lines]
    here = median(lambda: [helps_at(ridden, failure, at) for failure in told])
    print(f"evaluation {whole:.0f} ms; of it failures {failures:.0f}, wear and places {rest:.0f}")
    print(f"spares {spares:.0f} ms; if it breaks here {here:.0f} ms")


if __name__ == "__main__":
    main()
