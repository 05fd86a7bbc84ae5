"""How long tables, clearances, the front view and the cut list take, and how they grow.

Run: .venv/bin/python benchmarks/rig_kit.py
Seconds are of this machine on this day; what counts are the ratios between sizes, measured in one run.
"""

import time
from collections.abc import Callable
from dataclasses import replace

from stonechat.core.plan.cutlist import cut_list
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.rig.clearance import clearances
from stonechat.core.rig.fitting import fit_rig
from stonechat.demo.corvane import demo_plan
from stonechat.formats.kit_table import guess_mapping, read_kit
from stonechat.formats.table_file import read_grid, write_xlsx

HEADER = ["Gear", "Section", "Weight [g]", "Volume", "Qty", "Notes"]


def best(run: Callable[[], object], times: int = 5) -> float:
    """Return the least of several timings. [s]"""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        run()
        found.append(time.perf_counter() - start)
    return min(found)


def table(count: int) -> list[list[str]]:
    """Return rows as a rider's spreadsheet has them."""
    return [
        [f"thing {n}", "clothing", f"{10 + n % 700},5", f"0,{n % 9 + 1} l", str(n % 3 + 1), ""] for n in range(count)
    ]


def read(data: bytes) -> object:
    """Read a table as the page does."""
    grid = read_grid(data)
    return read_kit(grid, guess_mapping(grid))


def main() -> None:
    """Measure and print."""
    for count in (500, 1_000, 2_000, 4_000):
        rows = table(count)
        text = "\n".join(";".join(row) for row in [HEADER, *rows]).encode()
        sheet = write_xlsx("kit", HEADER, rows)
        print(
            f"{count:>6} rows: CSV {best(lambda d=text: read(d)):.2f} s, XLSX {best(lambda d=sheet: read(d), 3):.2f} s"
        )
    plan = demo_plan()
    variant = plan.variants[0]
    print(
        f"drag and volume as drawn, {len(variant.carriers)} carriers: "
        f"{1e3 * best(lambda: fit_rig(variant.bike, variant.carriers, 'hoods')):.1f} ms"
    )

    def clear() -> None:
        clearances.cache_clear()
        clearances(variant.bike, variant.carriers)

    print(f"clearances: {1e3 * best(clear):.1f} ms")
    ridden = evaluate(plan, "a").ridden
    print(f"cut list of {len(ridden.kit.items)} things: {1e3 * best(lambda: cut_list(ridden, variant)):.0f} ms")
    whole = best(lambda: evaluate(plan, "a"))
    loose = best(lambda: evaluate(replace(plan, items=()), "a"))
    print(f"evaluating the demo plan: {1e3 * whole:.0f} ms with its things, {1e3 * loose:.0f} ms without any")


if __name__ == "__main__":
    main()
