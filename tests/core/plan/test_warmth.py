"""Warmth of every rest of a ride."""

import json
from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.kit.item import HOME
from stonechat.core.night.ladder import Ladder
from stonechat.core.night.report import Warmth, margin_words
from stonechat.core.plan.evaluate import Evaluation, evaluate, with_places
from stonechat.core.plan.nights import rests_of
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.warmth import _stays_wet, damp_at_night
from stonechat.services.night import night_report


def test_every_rest_has_its_margin_and_the_check_names_the_coldest(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    warmth, rests = ridden.report(Warmth), rests_of(ridden)
    assert [rest.distance for rest in warmth.rests] == [rest.distance for rest in rests] and len(rests) >= 4
    for rest, at in zip(warmth.rests, rests, strict=True):
        assert rest.low == at.low and rest.comfort > rest.limit and rest.ground >= rest.low - 1e-9
        assert rest.margin == pytest.approx(rest.low - rest.limit)
        assert (rest.hours < float("inf")) is (rest.margin < 0.0)
    worst = min(warmth.outside, key=lambda rest: rest.margin)
    finding = next(entry for entry in demo_evaluation.findings if entry.code == "asleep")
    assert finding.margin == worst.margin and f"km {worst.distance / 1000.0:.0f}" in finding.sentence


@pytest.mark.parametrize(
    ("hours", "rain", "dries", "wet"),
    [
        ([1.0], [False], 3.0, False),
        ([0.5], [True], 3.0, True),
        ([2.0, 1.0], [True, False], 3.0, True),  # a third has dried, most is still wet
        ([2.0, 2.0], [True, False], 3.0, False),
        ([2.0, 2.0], [True, False], 8.0, True),
        ([2.0, 4.0, 0.1], [True, False, True], 3.0, False),  # a shower of six minutes
    ],
)
def test_what_was_rained_on_dries_while_it_is_worn(
    hours: list[float], rain: list[bool], dries: float, *, wet: bool
) -> None:
    assert _stays_wet(np.array(hours), np.array(rain), dries) is wet


def test_what_is_worn_only_after_a_rest_is_dry_for_it(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    ladder, rests = ridden.report(Ladder), rests_of(ridden)
    early, late = rests[0], rests[-1]
    assert damp_at_night(ladder, early, ()) <= damp_at_night(ladder, late, ())
    before_the_start = replace(early, begins=0.0)
    assert damp_at_night(ladder, before_the_start, ()) == frozenset()
    # a night indoors dries all that was wet before it
    bed = replace(early, begins=late.begins - 9 * 3600.0, ends=late.begins)
    assert damp_at_night(ladder, late, [bed]) == frozenset() != damp_at_night(ladder, late, ())


def test_without_the_bag_it_is_far_too_cold_and_no_figure_is_given(demo: Plan) -> None:
    bags = {item.id: HOME for item in demo.items if item.category == "sleep"}
    cold = evaluate(demo.with_variant(with_places(demo.variants[0], bags)), "a")
    worst = min(cold.ridden.report(Warmth).outside, key=lambda rest: rest.margin)
    assert worst.is_danger and margin_words(worst) == "far too cold for what is slept in"
    finding = next(entry for entry in cold.findings if entry.code == "asleep")
    assert finding.state.value == "broken" and "sleep lower or in a bed" in finding.sentence
    plan = demo.with_variant(with_places(demo.variants[0], bags))
    told = night_report(plan, "a")["rests"]
    assert any(entry.get("danger") and entry["margin_k"] is None for entry in told)


def test_a_bed_asks_for_no_bag(demo: Plan) -> None:
    variant = demo.variants[0]
    inn = next(stop for stop in demo.line.stops if "bed" in stop.offers and stop.kind not in ("shelter",))
    rhythm = replace(variant.rhythm, school="places", sleep_at={inn.id: 6 * 3600.0})
    ridden = evaluate(demo.with_variant(replace(variant, rhythm=rhythm)), "a").ridden
    (rest,) = ridden.report(Warmth).rests
    assert rest.in_bed and margin_words(rest) == "in a bed" and ridden.report(Warmth).outside == ()
    assert not any(
        entry.code == "asleep" for entry in evaluate(demo.with_variant(replace(variant, rhythm=rhythm)), "a").findings
    )


@pytest.mark.parametrize(("kind", "is_bed"), [("hotel", True), ("hut", True), ("campsite", False), ("shelter", False)])
def test_at_a_campsite_one_sleeps_in_what_one_carries(demo: Plan, kind: str, is_bed: bool) -> None:
    variant = demo.variants[0]
    inn = next(stop for stop in demo.line.stops if "bed" in stop.offers)
    stops = tuple(replace(stop, kind=kind) if stop is inn else stop for stop in demo.line.stops)
    rhythm = replace(variant.rhythm, school="places", sleep_at={inn.id: 6 * 3600.0})
    plan = replace(demo, line=replace(demo.line, stops=stops)).with_variant(replace(variant, rhythm=rhythm))
    (rest,) = evaluate(plan, "a").ridden.report(Warmth).rests
    assert rest.in_bed is is_bed and (margin_words(rest) == "in a bed") is is_bed


@pytest.mark.parametrize("variant_id", ["a", "b", "c"])
def test_the_command_line_tells_every_rest(demo: Plan, variant_id: str) -> None:
    report = night_report(demo, variant_id)
    json.dumps(report, allow_nan=False)
    for entry in report["rests"]:
        assert entry["words"] and (entry["in_bed"] or entry["slept_in"])
