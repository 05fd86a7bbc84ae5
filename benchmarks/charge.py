"""Time of the batteries beside that of the whole evaluation, and of the ride with a hub beside that without.

Run: .venv/bin/python benchmarks/charge.py
"""

import statistics
import time
from collections.abc import Callable
from dataclasses import replace

from stonechat.core.charge.run import run_batteries
from stonechat.core.kit.item import Item
from stonechat.core.ledger.ridden import part_of
from stonechat.core.plan.charging import Powered, power
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.film import ride_scenario
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.power_prices import power_ways
from stonechat.core.plan.power_ways import charging_of
from stonechat.demo.corvane import demo_plan

_TURNS, _DEVICES = 7, 20


def median(run: Callable[[], object]) -> float:
    """Return the median time of a few turns. [ms]"""
    run()
    times = []
    for _ in range(_TURNS):
        since = time.perf_counter()
        run()
        times.append(time.perf_counter() - since)
    return 1e3 * statistics.median(times)


def with_hub(plan: Plan) -> Plan:
    """Return the demo with a hub that charges."""
    charger = Item(id="hub", name="dynamo charger", kind="dynamo_charger", mass=0.07, volume=0.0001)
    variant = plan.variants[0]
    changed = replace(variant, bike=replace(variant.bike, dynamo=True), places={**variant.places, "hub": "seat"})
    return replace(plan, items=(*plan.items, charger)).with_variant(changed)


def main() -> None:
    """Print medians."""
    plan, hub = demo_plan(), with_hub(demo_plan())
    ridden = evaluate(plan, "a").ridden
    powered = part_of(ridden.settled, Powered)
    whole = median(lambda: evaluate(plan, "a"))
    print(
        f"evaluation {whole:.0f} ms, of it batteries {median(lambda: power(powered.scenario, ridden.ride).charge):.0f}"
    )
    lamps = tuple(
        Item(id=f"l{k}", name=f"rear light {k}", kind="rear_light", mass=0.05, volume=0.0001) for k in range(_DEVICES)
    )
    many = power(replace(powered.scenario, items=(*powered.scenario.items, *lamps)), ridden.ride)
    charge = many.charge
    hours = charge.steps.lengths.sum() / 3600.0
    kernel = median(lambda: run_batteries(charge.steps, charge.loads, charge.setup))
    print(f"{len(charge.lines)} batteries over {hours:.0f} h in {charge.steps.lengths.size} steps: {kernel:.0f} ms")
    masses, drags = (part.copy() for part in (many.added.masses, many.added.drags))
    masses, drags = masses + 95.0, drags + 0.4
    braked = replace(
        powered.scenario,
        course=powered.scenario.course._replace(brakes=evaluate(hub, "a").ridden.settled[Powered].added.brakes),
    )
    plain = median(lambda: ride_scenario(powered.scenario, masses, drags, 0.0))
    print(
        f"ride {plain:.1f} ms, with a hub {median(lambda: ride_scenario(braked, masses, drags, 0.0)) / plain:.2f} of it"
    )
    print(f"evaluation with a hub {median(lambda: evaluate(hub, 'a')) / whole:.2f} of that without")
    then = evaluate(hub, "a").ridden
    print(f"cheapest rule and bound {median(lambda: (charging_of(then).best, charging_of(then).bound)):.0f} ms")
    print(f"prices {median(lambda: power_ways(then)):.0f} ms")


if __name__ == "__main__":
    main()
