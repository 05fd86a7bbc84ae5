"""What the command line tells of a plan file; the same evaluation as the pages."""

import math
from dataclasses import replace
from typing import Any

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.ledger.timetable import Leg, Visit
from stonechat.core.load.judge import judge
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.solve import PackingResult, solve_packing
from stonechat.core.numerics.findings import State
from stonechat.core.plan.evaluate import Evaluation, evaluate, with_places
from stonechat.core.plan.nights import Rest, rests_of
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.sky import clock_after
from stonechat.services.load.packing import CALM_WITHIN
from stonechat.services.odds import odds_of


def _known(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None


def ride_report(plan: Plan, variant_id: str) -> dict[str, Any]:
    """Return finish, timetable, prices and minutes by cause."""
    ridden = evaluate(plan, variant_id).ridden
    return {
        "plan": plan.name,
        "variant": variant_id,
        "length_km": ridden.way.profile.length / 1000.0,
        "ascent_m": ridden.way.profile.ascent,
        "start": ridden.way.start.isoformat(),
        "finish": ridden.timetable.visits[-1].arrives.isoformat(),
        "finish_h": ridden.ledger.finish / 3600.0,
        "finish_spread_h": ridden.ledger.spread / 3600.0,
        "moving_h": ridden.ledger.moving / 3600.0,
        "pushing_min": ridden.ledger.pushing,
        "work_mj": sum(leg.work for leg in ridden.timetable.legs) / 1e6,
        "energy_kcal": sum(leg.energy for leg in ridden.timetable.legs),
        "settled": ridden.timetable.settled,
        "minutes_per_kg": ridden.ledger.prices.per_kg,
        "minutes_per_100cm2": ridden.ledger.prices.per_drag,
        "minutes_per_watt": ridden.ledger.minutes_per_watt,
        "minutes_per_0001_rolling": ridden.ledger.minutes_per_rolling,
        "minutes_by_cause": {cause.key: cause.minutes for cause in ridden.ledger.causes},
        "stops": [_stop_entry(visit) for visit in ridden.timetable.visits],
        "nights": [_night_entry(ridden, rest) for rest in rests_of(ridden)],
        "legs": [_leg_entry(ridden, leg) for leg in ridden.timetable.legs],
    }


def _stop_entry(visit: Visit) -> dict[str, Any]:
    return {
        "id": visit.stop.id if visit.stop else "finish",
        "name": visit.name,
        "distance_km": visit.distance / 1000.0,
        "arrival": visit.arrives.isoformat(),
        "departure": visit.leaves.isoformat(),
        "elapsed_h": visit.elapsed / 3600.0,
        "open": visit.is_open,
        "ridden_past": visit.passed,
        "waited_min": visit.waited / 60.0,
        "rested_h": visit.rested / 3600.0,
        "dark": visit.dark,
        "temperature_c": visit.temp,
        "awake_h": visit.awake / 3600.0,
        "margin_h": None if visit.margin is None else visit.margin / 3600.0,
    }


def _night_entry(ridden: Ridden, rest: Rest) -> dict[str, Any]:
    return {
        "night": rest.index + 1,
        "begins": clock_after(ridden, rest.begins).isoformat(),
        "ends": clock_after(ridden, rest.ends).isoformat(),
        "distance_km": rest.distance / 1000.0,
        "height_m": rest.height,
        "low_c": rest.low,
        "stop": rest.stop.name if rest.stop else None,
    }


def _leg_entry(ridden: Ridden, leg: Leg) -> dict[str, Any]:
    return {
        "from": leg.start_name,
        "to": leg.end_name,
        "distance_km": (leg.end - leg.start) / 1000.0,
        "ascent_m": leg.ascent,
        "moving_h": leg.moving / 3600.0,
        "rest_h": leg.rest / 3600.0,
        "energy_kcal": leg.energy,
        "minutes_per_kg": leg.minutes_per_kg,
        "minutes_per_100cm2": leg.minutes_per_drag,
        "water_need_l": float(ridden.provisions.water.needs[leg.index]),
        "water_leaving_l": float(ridden.provisions.water.leaving[leg.index]),
        "food_need_kcal": float(ridden.provisions.eaten.needs[leg.index]),
        "food_leaving_kcal": float(ridden.provisions.eaten.leaving[leg.index]),
        "mass_leaving_kg": ridden.film[leg.index].mass,
    }


def odds_report(plan: Plan, variant_id: str, races: int) -> dict[str, Any]:
    """Return the spread of many races, and the odds of doors and cut-offs."""
    odds = odds_of(plan, variant_id, evaluate(plan, variant_id).ridden, races)
    early, middle, late = (finish / 3600.0 for finish in odds.finishes)
    return {
        "plan": plan.name,
        "variant": variant_id,
        "races": odds.races,
        "finish_h": {"p5": early, "p50": middle, "p95": late},
        "within_time_limit": odds.in_time,
        "stops": [{"name": s.name, "open": s.is_open, "before_cut_off": s.in_time} for s in odds.stops],
    }


def check_report(plan: Plan, variant_id: str) -> dict[str, Any]:
    """Return every check with state and margin."""
    return {"plan": plan.name, "variant": variant_id, "checks": _checks(evaluate(plan, variant_id))}


def _checks(evaluation: Evaluation) -> list[dict[str, Any]]:
    return [
        {
            "code": finding.code,
            "state": finding.state,
            "title": finding.title,
            "sentence": finding.sentence,
            "margin": _known(finding.margin),
            "unit": finding.unit,
            "subject": finding.subject,
        }
        for finding in evaluation.findings
    ]


def _judged(problem: PackingProblem, result: PackingResult) -> dict[str, Any]:
    """Return what the judge says of a packing; the reasons where there is none."""
    if not result.places:
        return {"judged_min": None, "broken_rules": list(result.reasons)}
    verdict = judge(problem, result.places, mounted=result.mounted, food=result.food)
    return {"judged_min": verdict.minutes, "broken_rules": list(verdict.broken)}


def load_report(plan: Plan, variant_id: str, seconds: float) -> dict[str, Any]:
    """Return the best load found, with bound, gap, the ledger after it, and what it breaks."""
    variant = plan.variant(variant_id)
    before = evaluate(plan, variant_id)
    problem = packing_problem(plan, variant, before.ridden)
    result = solve_packing(problem, present=variant.places, tolerance=CALM_WITHIN, time_limit=seconds)
    packed = plan.with_variant(replace(with_places(variant, result.places), food_in=dict(result.food)))
    after = evaluate(packed, variant_id) if result.places else before
    return {
        "plan": plan.name,
        "variant": variant_id,
        "status": result.status,
        "assignment": dict(result.places),
        "objective_min": _known(result.minutes),
        "solver_min": _known(result.solver_minutes),
        "food_l": {key: put * 1e3 for key, put in result.food.items()},
        "given_up_for_fewer_moves_min": result.spared,
        "bound_min": _known(result.bound),
        "gap": _known(result.gap),
        "unkept_rules": [rule.words for rule in result.unkept],
        "ways_out": [list(way.words) for way in (result.conflict.ways if result.conflict else ())],
        **_judged(problem, result),
        "ledger": {cause.key: cause.minutes for cause in after.ridden.ledger.causes},
        "finish_h": after.ridden.ledger.finish / 3600.0,
        "broken_checks": [check for check in _checks(after) if check["state"] == State.BROKEN],
    }
