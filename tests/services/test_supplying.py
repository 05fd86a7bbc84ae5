"""What the command line tells of supply and of the film."""

import json
from dataclasses import replace

import pytest

from stonechat.core.kit.item import Reaches
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan
from stonechat.services.supplying import by_night, film_report, indoors, minutes_by_part, supply_report


@pytest.mark.parametrize("every_stop", [False, True])
def test_every_stop_is_told_with_litres_by_container(demo: Plan, every_stop: bool) -> None:
    report = supply_report(demo, "a", every_stop=every_stop)
    json.dumps(report)
    assert len(report["stops"]) == 27
    for entry in report["stops"]:
        assert sum(entry["water_by_container_l"].values()) == pytest.approx(entry["water_l"], abs=1e-6)
        assert entry["used"] or not (entry["fills_water"] or entry["buys_food"] or entry["minutes"])
    assert all(entry["used"] for entry in report["stops"]) is every_stop
    assert report["finish_h"] <= report["every_stop_finish_h"] + 1e-9
    assert (report["objective_min"] is None) is every_stop


def test_the_objective_is_the_finish_and_its_own_bound(demo: Plan) -> None:
    report = supply_report(demo, "b")
    assert report["objective_min"] == report["bound_min"] == pytest.approx(60.0 * report["finish_h"], abs=5.0)
    odds = report["odds_of_running_short"]
    assert 0.0 < odds["water"]["error"] < 0.02 and set(odds) == {"water", "food"}
    for way in report["ways_out"]:
        assert way["short_less"] > 0.0


def test_the_film_names_the_leg_that_decides_each_carrier(demo: Plan) -> None:
    report, ridden = film_report(demo, "a"), evaluate(demo, "a").ridden
    assert [leg["mass_kg"] for leg in report["legs"]] == pytest.approx([load.mass for load in ridden.film])
    for key, entry in report["deciding_legs"].items():
        fills = [leg["carriers"][key]["fill"] for leg in report["legs"]]
        assert entry["fill"] == max(fills) and fills.index(max(fills)) <= entry["leg"] + 1e-9


def test_what_is_bought_is_told_by_food(demo: Plan) -> None:
    report = supply_report(demo, "a")
    for entry in report["stops"]:
        assert sum(entry["bought_by_food_kcal"].values()) == pytest.approx(entry["bought_kcal"], rel=0.01, abs=1.0)
        assert entry["food_in_bags_kg"] * 9_000.0 >= entry["food_kcal"] and entry["food_in_bags_l"] > 0.0
    assert report["kit_food_kcal"] == 0.0


@pytest.mark.parametrize("choose", [False, True])
def test_the_minutes_of_a_stop_are_told_by_part_and_add_up(demo: Plan, choose: bool) -> None:
    variant = demo.variant("a")
    supply = replace(variant.supply, choose=choose, meals={"kemmer": 900.0})
    ridden = evaluate(demo.with_variant(replace(variant, supply=supply)), "a").ridden
    asked = ridden.provisions.asked
    for node, visit in enumerate(ridden.timetable.visits[:-1], start=1):
        passing = None if asked is None or asked.lots is None else asked.lots.passings[node]
        is_kemmer = visit.stop is not None and visit.stop.id == "kemmer"
        parts = minutes_by_part(ridden, node, passing, eats=is_kemmer)
        spent = (visit.leaves - visit.arrives).total_seconds() / 60.0
        assert sum(parts.values()) == pytest.approx(spent, abs=1.2) and all(minutes > 0.0 for minutes in parts.values())
        provisions = ridden.provisions
        assert ("fill" in parts) <= bool(provisions.water.refilled[node])
        assert ("buy" in parts) <= (provisions.food.taken[node] > 0.0)
        assert ("eat" in parts) is is_kemmer
    assert minutes_by_part(ridden, 0, None) == {}


def test_repacking_is_told_with_its_bound(demo: Plan) -> None:
    for variant in ("a", "b", "c"):
        report = film_report(demo, variant)
        gains = [move["gain_min"] - move["cost_min"] for move in report["repacks_that_would_pay"]]
        assert report["objective_min"] == pytest.approx(sum(gains))
        assert report["objective_min"] <= report["bound_min"] + 1e-9 and report["gap_min"] >= -1e-9


def test_behind_a_door_it_is_said_what_comes_in_and_what_stays(demo: Plan) -> None:
    variant = demo.variant("a")
    inn = next(stop for stop in demo.line.stops if "bed" in stop.offers and "meal" in stop.offers)
    rooms = replace(variant.rhythm, school="places", sleep_at={inn.id: 6 * 3600.0})
    ridden = evaluate(demo.with_variant(replace(variant, rhythm=rooms)), "a").ridden
    node = next(k for k, visit in enumerate(ridden.timetable.visits, start=1) if visit.stop and visit.stop.id == inn.id)
    words = indoors(ridden, node)
    assert words.startswith("Indoors: ") and "On the bike stay" in words
    coming, staying = words.split("On the bike stay")
    for state in ridden.film[node].carriers:
        if any(item.category == "sleep" for item in state.items):
            assert state.carrier.name in coming
        if state.carrier.takes == {"water"}:
            assert state.carrier.name not in coming + staying
    others = [k for k in range(len(ridden.film)) if k != node]
    assert not any(indoors(ridden, k) for k in others)


def test_what_is_reached_for_by_night_is_brought_to_hand_before_dark(demo: Plan) -> None:
    variant = demo.variant("b")
    lamp = replace(demo.items[0], id="lamp", name="spare head lamp", reaches=Reaches(night=3.0), access="riding")
    bag = next(carrier for carrier in variant.bags if carrier.access == "off")
    plan = replace(demo, items=(*demo.items, lamp))
    plan = plan.with_variant(replace(variant, places={**variant.places, "lamp": bag.id}))
    ridden = evaluate(plan, "b").ridden
    told = [by_night(ridden, k) for k in range(len(ridden.film))]
    dark = [leg.dark >= 0.35 for leg in ridden.timetable.legs]
    assert any(words.startswith("Before dark, to hand: ") and "spare head lamp" in words for words in told)
    for k, words in enumerate(told):
        assert bool(words) is (dark[k] != (k > 0 and dark[k - 1]))


def altered(demo: Plan, what: str) -> Plan:
    """The demo's variant A with something that cannot work."""
    variant, stops = demo.variant("a"), demo.line.stops
    if what == "no stops":
        return replace(demo, line=replace(demo.line, stops=()))
    if what == "shops that never open":
        shut = (replace(s, hours=((),) * 7, hours_by={}) if s.gives_food else s for s in stops)
        return replace(demo, line=replace(demo.line, stops=tuple(shut)))
    if what == "a wish for nothing":
        supply = replace(variant.supply, water_by_stop={"start": 0.0}, food_by_stop={"start": 0.0})
        return demo.with_variant(replace(variant, supply=supply))
    assert what == "no bottles"
    return demo.with_variant(replace(variant, carriers=tuple(c for c in variant.carriers if "water" not in c.takes)))


@pytest.mark.parametrize(
    ("what", "said"),
    [
        ("no stops", "No bottle mends that"),
        ("shops that never open", "Shut for too long when one comes by"),
        ("a wish for nothing", ""),
        ("no bottles", "0.0 l go in"),
    ],
)
def test_what_cannot_work_is_said_plainly_and_ridden_all_the_same(demo: Plan, what: str, said: str) -> None:
    report = supply_report(altered(demo, what), "a")
    assert report["finish_h"] > 90.0 and report["objective_min"] is not None
    assert any(said in words for words in report["short"])
    ways = [way["words"] for way in report["ways_out"]]
    assert len(set(ways)) == len(ways)
