"""What changed between two plans of one rider, and why."""

from dataclasses import replace

from stonechat.core.diary.debrief import BagVerdict, Debrief, Verdict
from stonechat.core.diary.rides import Ride, Told
from stonechat.core.kit.item import HOME, Item
from stonechat.core.plan.between import Difference, Side, differences
from stonechat.core.plan.plan import Plan
from stonechat.demo.past import past_plan


def found(before: Plan, now: Plan) -> dict[tuple[str, str], Difference]:
    sides = (Side(plan=plan, variant=plan.variants[0]) for plan in (before, now))
    return {(one.kind, one.about): one for one in differences(*sides)}


def test_a_plan_is_no_different_from_itself(demo: Plan) -> None:
    assert found(demo, demo) == {}


def test_each_difference_is_told_with_what_the_earlier_race_says(demo: Plan) -> None:
    debrief = Debrief(
        things={"rag": Verdict(use="no"), "long-gloves": Verdict(use="some", fate="lost"), "pump": Verdict(use="no")},
        bags={"seat": BagVerdict(state="full", day=2)},
        wished=("a second pair of dry socks",),
    )
    before = demo.with_variant(replace(demo.variants[0], debrief=debrief, rides=(a_ride(152.0),)))
    variant = demo.variants[0]
    socks = Item(id="dry-socks", name="dry socks", mass=0.06, volume=2e-4)
    now = replace(demo, items=(*(i for i in demo.items if i.id != "long-gloves"), socks))
    now = now.with_variant(
        replace(
            variant,
            places={**variant.places, "rag": HOME, "dry-socks": "seat", "mini-pump": "seat"},
            carriers=tuple(replace(c, capacity=0.016) if c.id == "seat" else c for c in variant.carriers),
            rider=replace(variant.rider, power=152.0, mass=70.0),
        )
    )
    told = found(before, now)
    assert told["thing", "dry socks"].why == "missing last time" and told["thing", "dry socks"].now == "60 g"
    assert told["thing", "rag"].why == "not used last time" and told["thing", "rag"].now == ""
    assert told["thing", "long gloves"].why == "lost last time"
    assert told["place", "mini pump"].now == "seat pack"
    assert told["bag", "seat pack"].why == "full on day 2" and told["bag", "seat pack"].now == "16.0 l"
    assert told["rider", "sustained power"].why == "as rides tell it"
    assert told["rider", "mass"].why == "" and told["rider", "mass"].now == "70 kg"
    assert len(told) == 7


def a_ride(power: float) -> Ride:
    made = past_plan().variants[0].rides[0]
    return replace(made, figures={"power": Told(value=power, low=power - 5.0, high=power + 5.0)})
