"""Checks of warmth riding: in kelvin, within the model's band tight, far beyond it without a figure."""

from dataclasses import replace

import pytest

from stonechat.core.line.weather import DayWeather, Weather
from stonechat.core.night.garments import ZONES
from stonechat.core.night.ladder import Ladder
from stonechat.core.night.sleep import BAND
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan

CODES = ("riding", "hands", "feet", "ears")


def found(plan: Plan) -> dict[str, Finding]:
    return {f.code: f for f in evaluate(plan, "a").findings if f.code in CODES}


def in_weather(plan: Plan, low: float, high: float, rain: float = 0.0) -> Plan:
    weather = Weather(days=(DayWeather(temp_low=low, temp_high=high, rain=rain),), reference_height=500.0)
    return replace(plan, line=replace(plan.line, weather=weather))


@pytest.mark.parametrize("code", CODES)
def test_summer_is_fine_and_deep_frost_is_broken_without_a_false_figure(demo: Plan, code: str) -> None:
    warm = found(in_weather(demo, 28.0, 38.0))[code]
    assert warm.state == "fine" and warm.margin is not None and warm.margin >= BAND
    cold = found(in_weather(demo, -32.0, -20.0))[code]
    assert cold.state == "broken" and "far too cold" in cold.sentence and "K too cold" not in cold.sentence


def test_a_check_names_where_what_is_worn_and_what_would_help(demo: Plan, demo_evaluation: object) -> None:
    plan = in_weather(demo, -4.0, 6.0)
    hands = found(plan)["hands"]
    assert hands.state == "broken" and hands.room == "night" and hands.unit == "K"
    assert hands.sentence.startswith("Km ") and "in long gloves" in hands.sentence
    assert "What would help" in hands.sentence and "g)" in hands.sentence
    ladder = evaluate(plan, "a").ridden.report(Ladder)
    assert hands.margin == pytest.approx(min(ladder.zones["hands"].margin), abs=8.0)


def test_an_empty_kit_is_one_finding_not_four(demo: Plan) -> None:
    assert found(replace(demo, items=())) == {}


def test_who_runs_cold_has_less_to_spare(demo: Plan) -> None:
    plan = in_weather(demo, 6.0, 14.0)
    variant = plan.variants[0]
    cold = plan.with_variant(replace(variant, rider=replace(variant.rider, runs_cold=3.0)))
    mine, theirs = (evaluate(each, "a").ridden.report(Ladder).zones for each in (cold, plan))
    for zone in ZONES:  # in all that there is; what is chosen may be more then
        assert (mine[zone].margins.max(axis=0) <= theirs[zone].margins.max(axis=0) + 1e-6).all()
        assert mine[zone].margins.max(axis=0).min() < theirs[zone].margins.max(axis=0).min()
