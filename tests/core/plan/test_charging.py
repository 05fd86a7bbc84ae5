"""Batteries over a ridden race."""

from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.charge.dynamo import hub_drag
from stonechat.core.charge.lights import Lights
from stonechat.core.charge.nights import nights_of
from stonechat.core.charge.report import Charge
from stonechat.core.charge.rule import ChargingRule
from stonechat.core.charge.sockets import Sockets
from stonechat.core.kit.item import Item
from stonechat.core.line.surface import SURFACES
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.plan import Plan
from stonechat.services.charging import charge_report, charge_sentences, hub_minutes


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
    at = np.unique(charge.steps.distances[charge.steps.wall > 0.0])
    visits = [v for v in evaluate(demo, "a").ridden.timetable.visits if v.stop and "socket" in v.gives]
    sockets = [visit.distance for visit in visits]
    assert len(at) == len(sockets) and np.abs(at - np.array(sorted(sockets))).max() < 500.0
    stays = [(visit.leaves - visit.arrives).total_seconds() for visit in visits]
    assert charge.wall == pytest.approx(18.0 * sum(stays) / 3600.0, rel=0.02)
    bare = replace(demo, items=tuple(item for item in demo.items if item.kind != "wall_charger"))
    none, _ = batteries(bare)
    assert none.wall == 0.0 and none.run.taken.sum() == 0.0


def test_a_socket_behind_a_shut_door_gives_nothing(demo: Plan) -> None:
    charge, _ = batteries(demo)
    first = next(stop for stop in demo.line.stops if stop.used and "socket" in stop.offers)
    shut = tuple(replace(s, hours=((),) * 7, hours_by={}) if s.id == first.id else s for s in demo.line.stops)
    less, _ = batteries(replace(demo, line=replace(demo.line, stops=shut)))
    assert 0.0 < less.wall < charge.wall
    assert np.abs(less.steps.distances[less.steps.wall > 0.0] - first.distance).min() > 1_000.0


def test_a_lamp_on_the_hub_alone_is_too_dim_for_slow_climbs(demo: Plan) -> None:
    lamp = replace(LAMP, id="front")
    bare = tuple(i for i in demo.items if i.kind not in ("front_light", "helmet_light", "light_set"))
    found = evaluate(with_hub(replace(demo, items=bare), lamp), "a").findings
    light = next(f for f in found if f.code == "light")
    assert light.state == "tight" and "too slow for the lamp on the hub" in light.sentence
    torch = Item(id="t", name="head torch", kind="head_torch", mass=0.08, volume=0.0, facts=(("wh", 20.0),), worn=True)
    lit = evaluate(with_hub(replace(demo, items=(*bare, torch)), lamp), "a").findings
    assert next(f for f in lit if f.code == "light").state == "fine"


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
    """By the segments of the ride, without the steps: bright where fast, low where slow or on foot, else between."""
    plenty, _ = batteries(told(demo, front_light=900.0, gps_unit=900.0, rear_light=900.0, phone=900.0, tracker=900.0))
    ridden = evaluate(demo, "a").ridden
    ride, speeds = ridden.ride, ridden.way.profile.lengths / ridden.ride.times
    rough = np.array([surface.is_rough for surface in SURFACES])[ridden.way.profile.surfaces]
    hours = ride.times / 3600.0 * ride.dark
    low = (speeds < 4.0) | (ride.walked > 0.5)
    high = ~low & ((~rough & (speeds >= 8.0)) | (rough & (speeds >= 5.0)))
    lights = 1.7 * hours[low].sum() + 7.0 * hours[high].sum() + 3.2 * hours[~low & ~high].sum() + 0.2 * hours.sum()
    riding = float(ride.times.sum()) / 3600.0
    others = 0.45 * riding + 0.1 * hours.sum() + 0.02 * riding + (0.2 + 0.08) * ridden.ledger.finish / 3600.0
    # reaching for things takes some more of the hours of riding
    assert plenty.run.used == pytest.approx(lights + others, rel=0.05) and plenty.run.used > lights + others
    assert plenty.dark.total == pytest.approx(plenty.beam.sum())


def test_more_in_the_bank_is_never_worse(demo: Plan) -> None:
    unmet = [sum(line.unmet for line in batteries(told(demo, power_bank=size))[0].lines) for size in (10, 40, 80, 160)]
    assert unmet == sorted(unmet, reverse=True)


CHARGER = Item(id="hub", name="dynamo charger", kind="dynamo_charger", mass=0.07, volume=0.0001)
LAMP = Item(id="lamp", name="dynamo light", kind="dynamo_light", mass=0.1, volume=0.0, fixed="fork")


def with_hub(plan: Plan, *more: Item, rule: ChargingRule | None = None) -> Plan:
    """Return the plan with a hub dynamo and what is on it."""
    variant = plan.variants[0]
    places = {**variant.places, **{item.id: "seat" for item in more}}
    bike = replace(variant.bike, dynamo=True)
    changed = replace(variant, bike=bike, places=places, charging=rule or variant.charging)
    return replace(plan, items=(*plan.items, *more)).with_variant(changed)


def test_a_hub_charges_where_a_charger_is_on_it_and_what_it_takes_is_in_the_ride(demo: Plan) -> None:
    without = evaluate(demo, "a").ridden
    idle = evaluate(with_hub(demo), "a").ridden
    found = evaluate(with_hub(demo, CHARGER), "a").ridden
    charge = found.report(Charge)
    assert charge.hub > 50.0 and idle.report(Charge).hub == 0.0 == without.report(Charge).hub
    assert without.ledger.finish < idle.ledger.finish < found.ledger.finish
    # what it takes at the wheel is the drag of the model for what it gave, segment by segment
    speeds = found.way.profile.lengths / found.ride.times
    energy = float((charge.hub_drag * found.ride.times).sum()) / 3600.0
    idling = float((hub_drag(speeds, np.zeros(speeds.size)) * found.ride.times).sum()) / 3600.0
    # (the hub turns while one reaches for things too, some hundredths of the time)
    assert energy == pytest.approx(idling + charge.hub / 0.60, rel=0.04)
    # and in moving minutes it is what a watt costs with legs as they are; longer on the way one tires more, and nights
    # that end by the clock take some of the finish back
    moving = float(found.ride.times.sum() - without.ride.times.sum()) / 60.0
    carried = found.ledger.prices.per_kg * CHARGER.mass
    assert hub_minutes(found) == pytest.approx(moving - carried, rel=0.2)
    assert found.timetable.settled


def test_a_lamp_on_the_hub_has_it_alone_at_night_unless_they_share(demo: Plan) -> None:
    alone, _ = batteries(with_hub(demo, CHARGER, LAMP))
    night = alone.steps.dark & (alone.steps.speeds > 0.0)
    assert alone.run.hub[night].max() == 0.0 < alone.run.hub[~night].max()
    shared, _ = batteries(with_hub(demo, CHARGER, LAMP, rule=ChargingRule(parallel=True)))
    assert 0.0 < shared.run.hub[night[: shared.run.hub.size]].max() < alone.run.hub.max()
    lights = evaluate(with_hub(demo, CHARGER, LAMP), "a").ridden.report(Lights)
    assert lights.by_hub and 0.0 < lights.dim < lights.dark.total and lights.front_wanted == pytest.approx(lights.dim)


@pytest.mark.parametrize("when", ["needed", "fast", "legs"])
def test_a_hub_that_charges_less_takes_less(demo: Plan, when: str) -> None:
    always = evaluate(with_hub(demo, CHARGER), "a").ridden
    rule = ChargingRule(hub_when=when, hub_below=0.3, hub_on=frozenset({"start day"}))
    less = evaluate(with_hub(demo, CHARGER, rule=rule), "a").ridden
    assert less.report(Charge).hub < always.report(Charge).hub and less.ledger.finish < always.ledger.finish
    if when == "legs":
        first = less.timetable.legs[0].end
        assert less.report(Charge).steps.distances[less.report(Charge).run.hub > 0.0].max() <= first


def test_a_second_lamp_in_a_bag_that_is_off_is_not_found_and_none_is_said(demo: Plan) -> None:
    def second(places: dict[str, str]) -> Finding:
        variant = demo.variants[0]
        found = evaluate(demo.with_variant(replace(variant, places={**variant.places, **places})), "a").findings
        return next(f for f in found if f.code == "second")

    assert second({}).state == "fine"
    buried = second({"helmet-light": "seat"})
    assert buried.state == "tight" and "not found in the dark" in buried.sentence and buried.subject == "helmet-light"
    assert second({"helmet-light": "home"}).title.endswith("none")


def test_what_no_lead_reaches_and_needs_it_is_broken(demo: Plan) -> None:
    small = told(demo, front_light=4.0, power_bank=40.0)
    items = tuple(
        replace(item, name="micro usb cable", quantity=1) if item.kind == "cable" else item for item in small.items
    )
    items = tuple(replace(item, name="front light USB-C") if item.kind == "front_light" else item for item in items)
    found = evaluate(replace(small, items=items), "a").findings
    leads = next(f for f in found if f.code == "leads")
    assert leads.state == "broken" and "front light USB-C" in leads.sentence
    none = tuple(item for item in small.items if item.kind != "cable")
    asked = next(f for f in evaluate(replace(small, items=none), "a").findings if f.code == "leads")
    assert asked.state == "tight" and "name those" in asked.sentence


def test_a_night_that_takes_more_than_is_aboard_at_dusk_is_broken(demo: Plan) -> None:
    plan = told(demo, front_light=4.0, power_bank=6.0, gps_unit=5.0, rear_light=3.0)
    found = evaluate(plan, "a")
    dusk = next(f for f in found.findings if f.code == "dusk")
    assert dusk.state == "broken" and dusk.margin is not None and dusk.margin < 0.0
    nights = nights_of(found.ridden.report(Charge))
    assert len(nights) == 5 and dusk.margin == min(night.spare for night in nights)
    assert all(night.wanted > 0.0 and night.stored >= 0.0 for night in nights)
    rich = evaluate(told(demo, front_light=80.0, power_bank=300.0, gps_unit=40.0, rear_light=20.0), "a")
    assert next(f for f in rich.findings if f.code == "dusk").state == "fine"


def test_a_halt_at_a_socket_tells_its_order_and_what_it_would_take(demo: Plan) -> None:
    ridden = evaluate(demo, "b").ridden
    halts = ridden.report(Sockets).halts
    assert len(halts) == len({halt.stop for halt in halts}) >= 4
    charge = ridden.report(Charge)
    assert sum(halt.taken for halt in halts) == pytest.approx(float(charge.run.taken[1]), rel=0.1)
    for halt in halts:
        on_wall = [one for one in halt.fillings if one.begins < halt.length]
        # what hangs on the wall at first is the emptiest of what is used, as many as there are outlets
        first = sorted((one for one in on_wall if one.begins == 0.0), key=lambda one: one.came)
        assert len(first) <= halt.ports
        for one in halt.fillings:
            assert one.left >= one.came - 0.2 and (one.after <= one.ends or not np.isfinite(one.ends))
        if not halt.unfilled:
            assert halt.all_full <= halt.length


def test_the_command_line_tells_the_same(demo: Plan) -> None:
    report = charge_report(demo, "a")
    charge, _ = batteries(demo)
    assert len(report["batteries"]) == len(charge.lines) and report["stored_wh"] == pytest.approx(charge.stored)
    sentences = charge_sentences(report)
    assert "ridden in the dark" in sentences[0] and any("power bank" in sentence for sentence in sentences)


def test_a_bank_of_next_to_nothing_is_asked_about(demo: Plan) -> None:
    charge, _ = batteries(told(demo, power_bank=0.74))
    assert [bank.name for bank in charge.doubted] == ["power bank 10 Ah"]
