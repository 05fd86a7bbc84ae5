"""What may fail on a ridden race, and what things are worth by that."""

import json
from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.charge.report import Charge
from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import ENDING
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import door_of, is_open
from stonechat.core.line.surface import SURFACES
from stonechat.core.mend.failures import FAILURES
from stonechat.core.mend.odds import aboard_of, outcomes
from stonechat.core.mend.report import Mend, Places, Swap, Wearing
from stonechat.core.mend.rule import MendRule, Told, failures_of
from stonechat.core.mend.wear import worn_through
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.mend_places import tyre_set, uses_expected
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
    assert where["glasses"].sum() == pytest.approx(FAILURES["glasses"].rate * km)
    usual = FAILURES["knee"].rate * ridden.ride.clocks[-1] / 86_400.0  # more where it is cold
    assert usual < where["knee"].sum() < FAILURES["knee"].cold * usual
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
        found = outcomes(worth.expected, worth.told, aboard_of(listed), worth.helps)  # type: ignore[arg-type]
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


def ridden_with(demo: Plan, rule: MendRule) -> Ridden:
    return evaluate(demo.with_variant(replace(demo.variants[0], mending=rule)), "a").ridden


def test_cold_heat_and_mud_change_rates(demo: Plan, ridden: Ridden) -> None:
    where, told = where_of(ridden), failures_of(MendRule())
    cold = ridden.ride.temps < 2.0
    assert cold.any() and told["phone"].cold == 2.0
    km = ridden.way.profile.lengths / 1e6
    wet = where["phone"] / (told["phone"].rate * km)
    assert wet[cold].min() >= 2.0 - 1e-9 and wet[~cold & (ridden.ride.temps < 28.0)].min() == pytest.approx(1.0)


def test_a_heavier_bike_hits_harder(demo: Plan, ridden: Ridden) -> None:
    heavier = replace(demo.variants[0], rider=replace(demo.variants[0].rider, mass=demo.variants[0].rider.mass + 20.0))
    other = where_of(evaluate(demo.with_variant(heavier), "a").ridden)
    before = where_of(ridden)
    mass = float(np.mean([leg.mass for leg in ridden.film]))
    assert other["hanger"].sum() / before["hanger"].sum() == pytest.approx((mass + 20.0) / mass, rel=0.02)


def test_worn_pads_fail_as_often_as_wear_says_and_a_told_rate_is_final(demo: Plan, ridden: Ridden) -> None:
    old = ridden_with(demo, MendRule(ages={"front_pads": 0.2}, pads="organic"))
    line = next(line for line in old.report(Wearing).lines if line.key == "front_pads")
    more = where_of(old)["pads"].sum() - where_of(ridden)["pads"].sum()
    assert more == pytest.approx(worn_through(line.before, line.used), abs=0.01)
    told = ridden_with(demo, MendRule(ages={"front_pads": 0.2}, told={"pads": Told(rate=0.01)}))
    assert where_of(told)["pads"].sum() < 0.05


def test_a_worn_part_finds_its_spare_aboard_in_a_box_or_in_a_shop(demo: Plan) -> None:
    rule = MendRule(ages={"rear_tyre": 2_900.0})

    def swap(plan: Plan) -> Swap:
        wearing = evaluate(plan, "a").ridden.report(Wearing)
        found = next(s for line, s in zip(wearing.lines, wearing.swaps, strict=True) if line.key == "rear_tyre")
        assert found is not None
        return found

    worn = demo.with_variant(replace(demo.variants[0], mending=rule))
    assert not swap(worn).aboard and swap(worn).needless
    tyre = Item(id="tyre", name="spare tyre", kind="tyre_spare", mass=0.4, volume=0.001)
    carried = replace(worn, items=(*worn.items, tyre))
    assert [item.id for item in swap(carried).aboard] == ["tyre"]
    boxed = carried.with_variant(replace(carried.variants[0], joins={"tyre": "kemmer"}))
    assert [stop.id for _, stop in swap(boxed).boxed] == ["kemmer"] and not swap(boxed).aboard


def test_uses_add_up_by_hand_and_first_answers_deep_down_are_told(demo: Plan, ridden: Ridden) -> None:
    uses = uses_expected(ridden)
    lines = {line.failure.key: line for line in ridden.report(Mend).lines}
    by_hand = sum(
        given
        for line in lines.values()
        for answer, given in zip(line.failure.answers, line.outcome.tried, strict=True)
        if any("pump" in one for one in answer.needs)
    )
    assert uses["mini-pump"] == pytest.approx(by_hand)
    assert set(tyre_set(ridden)) == {"half frame bag", "tool bottle"}
    deep = replace(demo.variants[0], places={**demo.variants[0].places, "mini-pump": "seat"})
    state = {f.code: f for f in evaluate(demo.with_variant(deep), "a").findings}["first-answers"]
    assert state.state == "tight" and "Mini pump" in state.sentence


def test_own_failures_and_limits_reach_checks_and_command_line(demo: Plan) -> None:
    own = replace(FAILURES["zip"], key="own-zip", name="zip of the jacket", rate=200.0, ground="even", answers=())
    plan = demo.with_variant(replace(demo.variants[0], mending=MendRule(own=(own,))))
    found = {f.code: f for f in evaluate(plan, "a").findings}
    assert found["repair"].state == "broken" and found["repair"].sentence.startswith("Zip of the jacket")
    assert "own-zip" in {entry["failure"] for entry in mend_report(plan, "a")["failures"]}
    strict = demo.with_variant(replace(demo.variants[0], mending=MendRule(accepted=0.001)))
    assert {f.code: f for f in evaluate(strict, "a").findings}["repair"].state != "fine"


def test_the_body_is_judged_by_what_it_asks_for(demo: Plan) -> None:
    bare = replace(
        demo, items=tuple(i for i in demo.items if i.kind not in ("saddle_cream", "skin_cream", "first_aid_kit"))
    )
    found = {f.code: f for f in evaluate(bare, "a").findings}["troubles"]
    assert found.state == "tight" and "saddle sores" in found.sentence
    assert {f.code: f for f in evaluate(demo, "a").findings}["troubles"].state == "fine"


def test_a_part_that_no_shop_has_is_told_where_nothing_mends_it_for_good(demo: Plan) -> None:
    gone = replace(demo, items=tuple(i for i in demo.items if i.kind != "hanger"))
    found = {f.code: f for f in evaluate(gone, "a").findings}["own-parts"]
    assert found.state == "tight" and "Bent hanger" in found.sentence
    assert {f.code: f for f in evaluate(demo, "a").findings}["own-parts"].state == "fine"


def test_the_three_tests_are_what_they_ask(ridden: Ridden) -> None:
    rows = {one.item.id: one for one in things_worth(ridden)}
    pump, hanger = rows["mini-pump"].tests, rows["derailleur-hanger"].tests
    assert pump.ends and not pump.replaced and not hanger.bought and hanger.replaced  # bent back, or one gear
    assert "no shop in time" in hanger.words


def test_of_two_tubes_one_is_too_many_and_neither_is_waste(demo: Plan) -> None:
    tube = next(item for item in demo.items if item.id == "inner-tube")
    more = replace(tube, id="light-tube", name="light inner tube", quantity=3)
    places = {**demo.variants[0].places, "light-tube": "tool"}
    plan = replace(demo, items=(*demo.items, more)).with_variant(replace(demo.variants[0], places=places))
    rows = {one.item.id: one.verdict for one in things_worth(evaluate(plan, "a").ridden)}
    assert rows["inner-tube"] == rows["light-tube"] == "one too many of its sort"


def test_the_swap_is_at_four_fifths_of_a_life_by_hand(demo: Plan) -> None:
    rule = MendRule(ages={"rear_tyre": 2_000.0})
    ridden = ridden_with(demo, rule)
    wearing = ridden.report(Wearing)
    line, swap = next(p for p in zip(wearing.lines, wearing.swaps, strict=True) if p[0].key == "rear_tyre")
    rough = np.array([surface.is_rough for surface in SURFACES])[ridden.way.profile.surfaces]
    km = ridden.way.profile.lengths / 1e3
    used = float((km * np.where(rough, 2.0, 1.0)).sum())
    assert swap is not None
    assert swap.at == pytest.approx((0.8 * 3_500.0 - 2_000.0) * km.sum() / used)
    assert line.km == pytest.approx((3_500.0 - 2_000.0) * km.sum() / used)
    shops = [stop for stop in ridden.way.stops if "bike_shop" in stop.offers and stop.distance <= 1e3 * swap.at]
    assert swap.shop == (shops[-1] if shops else None)


def test_an_old_tyre_is_punctured_more_often(demo: Plan, ridden: Ridden) -> None:
    def factor(km: float) -> float:
        old = ridden_with(demo, MendRule(ages={"rear_tyre": km, "front_tyre": 2.0 * km}))
        return float(where_of(old)["thorn_plugged"].sum() / where_of(ridden)["thorn_plugged"].sum())

    lines = {line.key: line for line in ridden.report(Wearing).lines}
    used = (lines["rear_tyre"].used + lines["front_tyre"].used) / 2.0
    assert factor(0.0) == pytest.approx(0.5 + used / 2.0)  # new ones half as often as usual ones, half worn
    assert factor(1_750.0) - factor(0.0) == pytest.approx(0.5)


def test_seconds_to_get_at_a_thing_by_hand(demo: Plan, ridden: Ridden) -> None:
    place = next(one for one in ridden.report(Places).things if one.item.id == "mini-pump")
    entry = next(entry for entry in ridden.placed if any(part.id == "mini-pump" for part in entry.parts))
    beside = sum(1 for other in ridden.placed if other.carrier.id == entry.carrier.id) - 1
    halt = 0.7 * (25.0 + 10.0)  # off the bike and going again, less what is shared
    by_hand = halt + 6.0 + entry.carrier.open_time + 5.0 + 0.7 * beside + (6.0 if entry.lined else 0.0)
    assert place.seconds == pytest.approx(by_hand) and place.above == beside


def test_the_gear_battery_is_that_of_charge(ridden: Ridden) -> None:
    line = next(line for line in ridden.report(Wearing).lines if line.key == "gear_battery")
    (gears,) = [one.thing for one in ridden.report(Charge).lines if one.thing.role == "shifting"]
    assert line.used == pytest.approx(gears.riding * ridden.ride.times.sum() / 3600.0 / gears.capacity)
