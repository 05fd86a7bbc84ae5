"""Batteries over a ridden race."""

from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.charge.report import Charge
from stonechat.core.kit.item import Item
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.plan import Plan
from stonechat.services.charging import charge_report, charge_sentences


def told(plan: Plan, **capacities: float) -> Plan:
    """Return the plan with Wh on the labels of kinds."""

    def one(item: Item) -> Item:
        return replace(item, facts=(("wh", capacities[item.kind]),)) if item.kind in capacities else item

    return replace(plan, items=tuple(one(item) for item in plan.items))


def batteries(plan: Plan, variant_id: str = "a") -> tuple[Charge, Finding]:
    found = evaluate(plan, variant_id)
    return found.ridden.report(Charge), next(f for f in found.findings if f.code == "flat")


def test_steps_are_the_race_from_start_to_finish(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    steps = ridden.report(Charge).steps
    assert steps.lengths.sum() == pytest.approx(ridden.ledger.finish, abs=1.0)
    np.testing.assert_allclose(steps.begins[1:], steps.begins[:-1] + steps.lengths[:-1], atol=1e-3)
    assert steps.lengths.max() <= 60.0 + 1e-6
    riding = steps.speeds > 0.0
    assert steps.lengths[riding].sum() >= ridden.ride.times.sum() - 1.0
    assert steps.lengths[riding & steps.dark].sum() / 3600.0 == pytest.approx(
        ridden.ride.times[ridden.ride.dark].sum() / 3600.0, rel=0.1
    )


def test_sockets_give_while_one_stays_and_only_with_a_charger(demo: Plan) -> None:
    charge, _ = batteries(demo)
    at = np.unique(charge.steps.distances[charge.steps.outside > 0.0])
    sockets = [stop.distance for stop in demo.line.stops if stop.used and "socket" in stop.offers]
    assert len(at) == len(sockets) and np.abs(at - np.array(sorted(sockets))).max() < 500.0
    visits = evaluate(demo, "a").ridden.timetable.visits
    stays = [(v.leaves - v.arrives).total_seconds() for v in visits if v.stop and "socket" in v.stop.offers]
    assert charge.wall == pytest.approx(18.0 * sum(stays) / 3600.0, rel=0.02)
    bare = replace(demo, items=tuple(item for item in demo.items if item.kind != "wall_charger"))
    none, _ = batteries(bare)
    assert none.wall == 0.0 and none.run.taken == 0.0


def test_a_light_that_its_label_says_is_too_small_is_broken_and_a_guess_is_a_question(demo: Plan) -> None:
    _, guess = batteries(demo)
    assert guess.state != "broken"
    charge, small = batteries(told(demo, front_light=4.0, power_bank=10.0))
    assert small.state == "broken" and small.margin is not None and small.margin < 0.0
    assert small.title.startswith("Flat: ") and "km" in small.sentence and small.room == "charge"
    assert "front light" in {line.thing.name for line in charge.flat}
    plenty, fine = batteries(told(demo, front_light=60.0, power_bank=300.0, gps_unit=20.0, rear_light=10.0))
    assert fine.state == "fine" and plenty.flat == () and plenty.spare > 100.0


def test_what_lights_and_navigation_draw_is_hours_times_watts(demo: Plan) -> None:
    plenty, _ = batteries(told(demo, front_light=900.0, gps_unit=900.0, rear_light=900.0, phone=900.0, tracker=900.0))
    ridden = evaluate(demo, "a").ridden
    ride, speeds = ridden.ride, ridden.way.profile.lengths / ridden.ride.times
    dark, riding = float(ride.times[ride.dark].sum()) / 3600.0, float(ride.times.sum()) / 3600.0
    slow = float(ride.times[ride.dark & (speeds < 4.0)].sum()) / 3600.0
    lights = 3.2 * (dark - slow) + 1.7 * slow + 0.2 * dark
    others = 0.45 * riding + 0.1 * dark + 0.02 * riding + (0.2 + 0.08) * ridden.ledger.finish / 3600.0
    assert 0.1 * dark < slow < 0.9 * dark
    # reaching for things takes some more of the hours of riding
    assert plenty.run.used == pytest.approx(lights + others, rel=0.05) and plenty.run.used > lights + others


def test_more_in_the_bank_is_never_worse(demo: Plan) -> None:
    unmet = [sum(line.unmet for line in batteries(told(demo, power_bank=size))[0].lines) for size in (10, 40, 80, 160)]
    assert unmet == sorted(unmet, reverse=True)


def test_a_hub_charges_by_day_where_a_charger_is_on_it(demo: Plan) -> None:
    charger = Item(id="hub", name="dynamo charger", kind="dynamo_charger", mass=0.07, volume=0.0001)
    variant = demo.variants[0]
    hub = replace(demo, items=(*demo.items, charger)).with_variant(
        replace(variant, bike=replace(variant.bike, dynamo=True), places={**variant.places, "hub": "seat"})
    )
    charge, _ = batteries(hub)
    assert charge.hub > 50.0 and batteries(demo)[0].hub == 0.0
    assert sum(line.unmet for line in charge.lines) < sum(line.unmet for line in batteries(demo)[0].lines) + 1e-9


def test_the_command_line_tells_the_same(demo: Plan) -> None:
    report = charge_report(demo, "a")
    charge, _ = batteries(demo)
    assert len(report["batteries"]) == len(charge.lines) and report["stored_wh"] == pytest.approx(charge.stored)
    sentences = charge_sentences(report)
    assert "ridden in the dark" in sentences[0] and any("power bank" in sentence for sentence in sentences)


def test_a_bank_of_next_to_nothing_is_asked_about(demo: Plan) -> None:
    charge, _ = batteries(told(demo, power_bank=0.74))
    assert [bank.name for bank in charge.doubted] == ["power bank 10 Ah"]
