"""What the command line tells of supply and of the film."""

import json
from dataclasses import replace

import pytest

from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan
from stonechat.services.supplying import film_report, supply_report


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
