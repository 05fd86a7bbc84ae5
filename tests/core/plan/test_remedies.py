"""What mends a finding: the plan is changed as the words say, and nothing else of it is."""

from dataclasses import replace

import pytest

from stonechat.core.diary.shakedown import Shakedown, Shaken
from stonechat.core.kit.item import HOME
from stonechat.core.kit.jobs import Demands
from stonechat.core.plan.countdown import countdown
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.remedies import choices_for, mended
from stonechat.errors import InvalidInput


@pytest.fixture
def ridden(demo: Plan) -> Variant:
    return demo.variants[0]


def packed(plan: Plan, variant: Variant) -> str:
    """Return a packed thing that has company in its bag."""
    bags = {carrier.id for carrier in variant.bags}
    places = [place for place in variant.places.values() if place in bags]
    return next(
        item.id for item in plan.items
        if item.packed and not item.container and places.count(variant.places.get(item.id, "")) > 2
    )  # fmt: skip


def test_a_thing_goes_to_the_mouth_of_its_bag(demo: Plan, ridden: Variant) -> None:
    thing = packed(demo, ridden)
    changed, words = mended(demo, ridden, Shaken(trouble="hard", about=thing, remedy="order"))
    order = changed.orders[ridden.places[thing]]
    inside = {item.id for item in demo.items if ridden.places.get(item.id) == ridden.places[thing]}
    assert order[0] == thing and set(order) <= inside and len(set(order)) == len(order) > 2
    assert "mouth" in words and changed.places == ridden.places


def test_every_other_place_that_is_offered_can_be_taken_and_breaks_nothing_hard(demo: Plan, ridden: Variant) -> None:
    thing = packed(demo, ridden)
    offered = [c for c in choices_for(demo, ridden, Shaken(trouble="hard", about=thing)) if c.remedy == "place"]
    assert offered and all(choice.to for choice in offered)
    assert ridden.places[thing] not in {choice.to for choice in offered}
    for choice in offered:
        changed, _ = mended(demo, ridden, Shaken(trouble="hard", about=thing, remedy="place", to=choice.to))
        assert changed.places == {**ridden.places, thing: choice.to}
    with pytest.raises(InvalidInput, match="not possible"):
        mended(demo, ridden, Shaken(trouble="hard", about=thing, remedy="place", to="no-such-bag"))


def test_another_thing_from_home_takes_its_place(demo: Plan, ridden: Variant) -> None:
    thing = next(item for item in demo.items if item.kind == "rain_jacket" and ridden.places.get(item.id) != HOME)
    spare = replace(thing, id="other-jacket", name="thicker rain jacket", mass=0.4)
    plan = replace(demo, items=(*demo.items, spare))
    variant = replace(ridden, places={**ridden.places, spare.id: HOME})
    cold = Shaken(trouble="cold", about=thing.id)
    first = choices_for(plan, variant, cold)[0]
    assert (first.remedy, first.to) == ("thing", spare.id)
    changed, words = mended(plan, variant, replace(cold, remedy="thing", to=spare.id))
    assert changed.places[thing.id] == HOME and changed.places.get(spare.id) == ridden.places.get(thing.id)
    assert "thicker rain jacket" in words


def test_a_strap_weighs_and_steadies_and_counts_no_further_than_rigid(demo: Plan, ridden: Variant) -> None:
    bag = ridden.bags[-1]
    changed = ridden
    for _ in range(8):
        changed, _ = mended(demo, changed, Shaken(trouble="sways", about=bag.id, remedy="strap"))
    now = next(c for c in changed.carriers if c.id == bag.id)
    assert now.mass == pytest.approx(bag.mass + 8 * 0.025) and now.steadiness == 3.0
    plan = demo.with_variant(changed)
    before, after = evaluate(demo, ridden.id).ridden, evaluate(plan, ridden.id).ridden
    assert after.timetable.visits[-1].arrives > before.timetable.visits[-1].arrives


def test_a_bag_hangs_elsewhere_and_another_takes_its_place(demo: Plan, ridden: Variant) -> None:
    for carrier in ridden.bags:
        for choice in choices_for(demo, ridden, Shaken(trouble="sways", about=carrier.id)):
            if choice.to:
                one = Shaken(trouble="sways", about=carrier.id, remedy=choice.remedy, to=choice.to)
                changed, words = mended(demo, ridden, one)
                assert carrier.name in words and changed.carriers != ridden.carriers
    bag = ridden.bags[0]
    other = replace(bag, id="slim", name="slimmer bag", mounted=False, capacity=bag.capacity / 50.0)
    variant = replace(ridden, carriers=(*ridden.carriers, other))
    changed, words = mended(demo, variant, Shaken(trouble="wears", about=bag.id, remedy="thing", to="slim"))
    hung = {c.id: c.mounted for c in changed.carriers}
    assert hung["slim"] and not hung[bag.id] and bag.id not in changed.places.values()
    assert {c.id for c in changed.carriers} == {c.id for c in variant.carriers}


def test_work_on_the_bike_waits_in_the_countdown_and_goes_when_it_is_done(demo: Plan, ridden: Variant) -> None:
    bag = ridden.bags[0]
    rubs = Shaken(trouble="rubs", about=bag.id, remedy="tape", words="on the head tube")
    demands = evaluate(demo, ridden.id).ridden.report(Demands)

    def titles(one: Shaken) -> list[str]:
        variant = replace(ridden, shakedown=Shakedown(findings=(one,)))
        return [task.title for task in countdown(demo, variant, demands) if task.key.startswith("found-")]

    assert len(titles(rubs)) == 1 and bag.name.lower() in titles(rubs)[0].lower()
    assert titles(replace(rubs, done=True)) == [] == titles(replace(rubs, remedy="place"))
    assert mended(demo, ridden, rubs) == (ridden, "")
    assert mended(demo, ridden, Shaken(trouble="numb", remedy="bars")) == (ridden, "")
