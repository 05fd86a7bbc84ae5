"""What may fail on a ridden race, and what things are worth by that."""

import json
from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.kit.jobs import ENDING
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import door_of, is_open
from stonechat.core.mend.failures import FAILURES
from stonechat.core.mend.odds import aboard_of, outcomes
from stonechat.core.mend.report import Mend
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.mending import helps_at, mend_worth_of, where_of
from stonechat.core.plan.plan import Plan
from stonechat.services.mending import additions, mend_report, mend_sentences, next_of_a_kind, things_worth


@pytest.fixture(scope="module")
def ridden(demo_evaluation: Evaluation) -> Ridden:
    return demo_evaluation.ridden


def test_punctures_are_those_of_the_plan_and_what_a_bike_has_not_cannot_fail(demo: Plan, ridden: Ridden) -> None:
    where = where_of(ridden)
    dry = where["thorn_plugged"].sum() / FAILURES["thorn_plugged"].rate
    assert dry == pytest.approx(ridden.way.punctures, rel=1e-6)  # a thorn does not mind rain
    assert "thorn" not in where and "dropper" not in where and "gear_cable" not in where
    bike = replace(demo.variants[0].bike, tubeless=False, electronic=False, dropper_travel=0.1)
    other = where_of(evaluate(demo.with_variant(replace(demo.variants[0], bike=bike)), "a").ridden)
    assert {"thorn", "pinch", "dropper", "gear_cable"} <= set(other) and "thorn_plugged" not in other


def test_rates_go_by_distance_and_ground(ridden: Ridden) -> None:
    where = where_of(ridden)
    km = ridden.way.profile.length / 1e6
    assert where["pedal"].sum() == pytest.approx(FAILURES["pedal"].rate * km, rel=0.25)  # more in the wet
    assert where["knee"].sum() == pytest.approx(FAILURES["knee"].rate * ridden.ride.clocks[-1] / 86_400.0)
    assert where["lamp"][~ridden.ride.dark].sum() == 0.0 < where["lamp"].sum()


def test_help_is_reached_at_an_open_door_and_costs_way_and_wait(ridden: Ridden) -> None:
    shop = next(stop for stop in ridden.way.stops if "bike_shop" in stop.offers)
    at = shop.distance - 10_000.0
    (first, *_) = helps_at(ridden, FAILURES["chain"], at)
    assert first.stop.id == shop.id and first.way == pytest.approx(10.0 / 4.0 * 60.0)
    places, clocks = ridden.way.profile.distances, ridden.ride.clocks
    now, there = np.interp([at, shop.distance], places[: clocks.size], clocks[: places.size])
    assert first.minutes == pytest.approx(first.way + first.wait + 60.0 - min(there - now, 60.0 * first.way) / 60.0)
    local = ridden.timetable.clock.start_of_day + now + 60.0 * (first.way + first.wait) + 1.0
    hours = door_of(shop, "bike_shop").hours
    assert is_open(hours, (ridden.way.start.weekday() + int(local // 86_400.0)) % 7, local % 86_400.0)
    assert helps_at(ridden, FAILURES["hanger"], at) == ()  # no shop has it


def test_a_thing_is_worth_what_the_whole_loses_without_it(ridden: Ridden) -> None:
    """By all failures at once, without the parts into which the worth is split."""
    worth, items = mend_worth_of(ridden), ridden.kit.items

    def whole(listed: object) -> tuple[float, float]:
        found = outcomes(worth.expected, FAILURES, aboard_of(listed), worth.helps)  # type: ignore[arg-type]
        safe = float(np.prod([1.0 - outcome.ending for outcome in found.values()]))
        return sum(outcome.minutes for outcome in found.values()), 1.0 - safe

    having = whole(items)
    assert worth.loss(items).minutes == pytest.approx(having[0]) and worth.loss(items).ending == pytest.approx(
        having[1]
    )
    for key in ("mini-pump", "plug-kit", "derailleur-hanger", "spare-bolts"):
        item = next(entry for entry in items if entry.id == key)
        lacking = whole([entry for entry in items if entry.id != key])
        found = worth.worth(item, items)
        assert found.minutes - ENDING * found.ending == pytest.approx(lacking[0] - having[0], abs=1e-6)
        assert found.ending == pytest.approx((lacking[1] - having[1]) / (1.0 - having[1]), rel=0.15)
    assert worth.words(items[0], items)


def test_pump_before_tube_before_levers(ridden: Ridden) -> None:
    rows = {one.item.id: one for one in things_worth(ridden)}
    assert rows["mini-pump"].lost.minutes > rows["inner-tube"].lost.minutes > rows["tyre-levers"].lost.minutes > 0.0
    assert rows["mini-pump"].verdict == "insurance"
    assert rows["phone"].verdict == ""  # it does more than find the way when the unit fails
    assert not {"power-bank-10-ah", "wall-charger-two-ports"} & set(rows)
    per_gram = [one.per_gram for one in things_worth(ridden)]
    assert per_gram == sorted(per_gram, reverse=True)
    more = {item.id: gain for item, gain, _ in next_of_a_kind(ridden)}
    assert 0.0 <= more["inner-tube"] < 0.2 * rows["inner-tube"].lost.minutes  # the second is worth far less


def test_what_is_left_at_home_is_what_to_add_first(demo: Plan) -> None:
    bare = replace(demo, items=tuple(item for item in demo.items if item.kind not in ("pump", "quick_link")))
    found = [one.kind for one in additions(evaluate(bare, "a").ridden)]
    assert "pump" in found[:3] and "quick_link" in found
    assert "pump" not in [one.kind for one in additions(evaluate(demo, "a").ridden)]


def test_the_check_is_broken_without_a_pump_and_counts_tubes(demo: Plan) -> None:
    def states(*kinds: str) -> dict[str, str]:
        plan = replace(demo, items=tuple(item for item in demo.items if item.kind not in kinds))
        return {finding.code: finding.state for finding in evaluate(plan, "a").findings}

    assert states()["repair"] == "fine" and states()["tyres-last"] == "fine"
    without = states("pump", "pump_electric", "co2")
    assert without["repair"] == "broken"
    assert states("tube", "plug_kit")["tyres-last"] == "tight"


@pytest.mark.parametrize("variant_id", ["a", "b", "c"])
def test_the_command_line_tells_every_failure(demo: Plan, variant_id: str) -> None:
    report = mend_report(demo, variant_id)
    assert json.loads(json.dumps(report))["variant"] == variant_id
    assert len(report["failures"]) >= 45 and all(entry["expected"] >= 0.0 for entry in report["failures"])
    assert report["minutes"] == pytest.approx(sum(entry["minutes"] for entry in report["failures"]))
    assert {"chain", "rear tyre"} <= {entry["part"] for entry in report["wear"]}
    sentences = mend_sentences(report)
    assert "on average" in sentences[0] and len(sentences) > 10


def test_an_empty_kit_loses_more(demo: Plan) -> None:
    none = evaluate(replace(demo, items=()), "a").ridden.report(Mend)
    full = evaluate(demo, "a").ridden.report(Mend)
    assert none.minutes > full.minutes and none.ending > full.ending
