"""What the command line tells of nights."""

import math
from typing import Any

from stonechat.core.night.report import RestWarmth, Warmth, margin_words
from stonechat.core.night.sleep import BAND
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan


def night_report(plan: Plan, variant_id: str) -> dict[str, Any]:
    """Return how warm every rest is."""
    ridden = evaluate(plan, variant_id).ridden
    rests = ridden.report(Warmth).rests
    return {
        "plan": plan.name,
        "variant": variant_id,
        "band_k": BAND,
        "rests": [_entry(rest) for rest in rests],
    }


def _entry(rest: RestWarmth) -> dict[str, Any]:
    told: dict[str, Any] = {
        "night": rest.night + 1,
        "km": rest.distance / 1000.0,
        "height_m": rest.height,
        "length_h": rest.length / 3600.0,
        "in_bed": rest.in_bed,
        "low_c": rest.low,
        "words": margin_words(rest),
    }
    if rest.in_bed:
        return told
    safe = not rest.is_danger
    return told | {
        "ground_c": rest.ground,
        "wind_m_s": rest.wind,
        "slept_in": list(rest.bedding.things),
        "usual_figures_for": list(rest.bedding.unsaid),
        "comfort_c": rest.comfort if safe else None,
        "limit_c": rest.limit if safe else None,
        "margin_k": rest.margin if safe else None,
        "hours_until_cold": rest.hours if safe and math.isfinite(rest.hours) else None,
        "danger": rest.is_danger,
    }
