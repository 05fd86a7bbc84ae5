"""What is kept of a plan's evaluation: the figures that a rider decides by."""

from typing import Any

from stonechat.core.load.judge import judge
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan
from stonechat.services.analysis import check_report, ride_report

_OF_A_STOP = ("id", "elapsed_h", "waited_min", "rested_h", "open", "temperature_c")
_OF_A_LEG = ("minutes_per_kg", "minutes_per_100cm2", "water_leaving_l", "food_leaving_kcal", "mass_leaving_kg")
_OF_ALL = (
    "length_km", "ascent_m", "finish_h", "finish_spread_h", "moving_h", "work_mj", "energy_kcal", "settled",
    "minutes_per_kg", "minutes_per_100cm2", "minutes_per_watt", "minutes_per_0001_rolling", "minutes_by_cause",
)  # fmt: skip


def figures_of(plan: Plan, variant_id: str) -> dict[str, Any]:
    """Return the figures of one variant."""
    ride, checks = ride_report(plan, variant_id), check_report(plan, variant_id)["checks"]
    variant = plan.variant(variant_id)
    problem = packing_problem(plan, variant, evaluate(plan, variant_id).ridden)
    verdict = judge(problem, variant.places)
    return {
        **{key: ride[key] for key in _OF_ALL},
        "stops": [{key: stop[key] for key in _OF_A_STOP} for stop in ride["stops"]],
        "legs": [{key: leg[key] for key in _OF_A_LEG} for leg in ride["legs"]],
        "checks": {f"{c['code']} {c['subject']}": [c["state"], c["margin"]] for c in checks},
        "load_min": verdict.minutes,
    }
