"""Weigh-in: claims beside measures, several at once, bags against their sum, wheels against the model."""

import re
from dataclasses import replace

import pytest

from stonechat.core.kit.item import Item
from stonechat.core.load.wheels import WheelLoad
from stonechat.errors import InvalidInput
from stonechat.outside.scale import Reading, SimulatedScale
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, undo
from stonechat.services.kit import shelf, weighing
from stonechat.services.variant import item_named
from stonechat.services.workspace import Workspace


def unweighed(opened: OpenPlan) -> Item:
    return next(item for item in opened.plan.items if not item.weighed and item.quantity == 1)


def test_a_weighed_mass_stands_beside_the_claim_and_can_be_undone(workspace: Workspace, opened: OpenPlan) -> None:
    item = unweighed(opened)
    after = weighing.weigh_item(
        workspace, opened, revision=opened.revision, item_id=item.id, mass=item.mass + 0.013, count=1
    )
    now = item_named(after.plan, item.id)
    assert now.weighed and now.claimed == item.mass and now.mass == pytest.approx(item.mass + 0.013)
    again = weighing.weigh_item(workspace, after, revision=after.revision, item_id=item.id, mass=0.2, count=1)
    assert item_named(again.plan, item.id).claimed == item.mass  # the claim stays the claim
    back = undo(workspace, opened.id, revision=again.revision)
    assert item_named(back.plan, item.id) == now


def test_several_of_a_kind_are_weighed_at_once(workspace: Workspace, opened: OpenPlan) -> None:
    after = weighing.weigh_item(
        workspace, opened, revision=opened.revision, item_id="spare-spokes", mass=0.0255, count=3
    )
    assert item_named(after.plan, "spare-spokes").mass == pytest.approx(0.0085)


def test_what_is_used_up_is_weighed_as_it_is(workspace: Workspace, opened: OpenPlan) -> None:
    cream = item_named(opened.plan, "saddle-cream")
    assert cream.left == 0.8
    after = weighing.weigh_item(workspace, opened, revision=opened.revision, item_id=cream.id, mass=0.050, count=1)
    now = item_named(after.plan, cream.id)
    assert now.total_mass == pytest.approx(0.050) and now.mass == pytest.approx(0.050 + cream.content * 0.2)


@pytest.mark.parametrize(
    ("mass", "count", "sentence"), [(0.0, 1, "is outside"), (90.0, 1, "right thing"), (0.1, 0, "0")]
)
def test_a_mass_or_count_that_cannot_be_is_refused(
    workspace: Workspace, opened: OpenPlan, mass: float, count: int, sentence: str
) -> None:
    with pytest.raises(InvalidInput, match=sentence):
        weighing.weigh_item(workspace, opened, revision=opened.revision, item_id="spoon", mass=mass, count=count)


def test_nothing_is_taken_from_a_scale_that_is_not_stable(opened: OpenPlan) -> None:
    scale = weighing.choose_scale(opened.id, "kitchen", "draught")
    weighing.put_on(opened, "spoon", 1)
    with pytest.raises(InvalidInput, match="Nothing was taken"):
        weighing.stable_mass(opened.id, "spoon")
    with pytest.raises(InvalidInput, match="not on the scale yet"):
        weighing.stable_mass(opened.id, "rag")
    assert "or type the mass" in weighing.words_for(Reading(state="settling", mass=0.1, since=12.0), scale)
    assert "Plug it in again" in weighing.words_for(Reading(state="silent", mass=0.0, since=2.0), scale)
    assert "up to 5 kg" in weighing.words_for(Reading(state="overload", mass=0.0, since=2.0), scale)


def test_another_scale_forgets_the_load_and_an_unknown_one_is_refused(opened: OpenPlan) -> None:
    first = weighing.choose_scale(opened.id, "kitchen", "none")
    assert weighing.choose_scale(opened.id, "kitchen", "cable") is first
    assert weighing.choose_scale(opened.id, "hanging", "none") is not first
    with pytest.raises(InvalidInput, match="no such scale"):
        weighing.choose_scale(opened.id, "bathroom", "none")


def test_the_simulated_truth_is_the_same_every_time_and_near_the_claim(opened: OpenPlan) -> None:
    for item in opened.plan.items:
        truth = weighing.simulated_truth(item)
        assert truth == weighing.simulated_truth(item) and truth == pytest.approx(item.mass_now, rel=0.25)
        assert not item.weighed or truth == item.mass_now


def test_a_bag_agrees_with_its_sum_until_something_is_missing(opened: OpenPlan) -> None:
    inside = weighing.bag_items(opened.plan, opened.plan.variants[0], "tool")
    carrier = next(c for c in opened.plan.variants[0].carriers if c.id == "tool")
    summed = carrier.mass + sum(item.total_mass for item in inside)
    agrees = weighing.compare_bag(opened, "a", "tool", summed + 0.004)
    assert agrees.summed == pytest.approx(summed) and agrees.sentence.startswith("It agrees")
    assert "g more than the sum" in weighing.compare_bag(opened, "a", "tool", summed + 0.3).sentence
    assert "Something is missing" in weighing.compare_bag(opened, "a", "tool", summed - 0.3).sentence


def test_wheels_weighed_as_the_model_stands_agree_with_it(opened: OpenPlan) -> None:
    evaluation, variant = evaluated(opened, "a"), opened.plan.variants[0]
    for what in ("bare", "loaded", "ridden"):
        mass, share, _ = weighing.model_of_wheels(opened.plan, variant, evaluation, what)
        load = WheelLoad(what=what, front=mass * share, rear=mass * (1.0 - share))
        assert weighing.judge_wheels(opened.plan, variant, evaluation, load).agrees, what
    # without the rider the load is what is left of both wheels' loads
    ridden, loaded = (weighing.model_of_wheels(opened.plan, variant, evaluation, w) for w in ("ridden", "loaded"))
    worn = sum(item.total_mass for item in evaluation.ridden.kit.items if item.worn)
    assert ridden[0] - loaded[0] == pytest.approx(variant.rider.mass + worn)


def test_a_bare_weighing_corrects_the_bike(workspace: Workspace, opened: OpenPlan) -> None:
    with pytest.raises(InvalidInput, match="not weighed yet"):
        weighing.correct_bike(workspace, opened, "a", revision=opened.revision)
    after = weighing.add_wheel_load(
        workspace, opened.id, "a", revision=opened.revision, what="bare", front=5.2, rear=5.6
    )
    fixed = weighing.correct_bike(workspace, after, "a", revision=after.revision)
    bike = fixed.plan.variants[0].bike
    assert bike.mass == pytest.approx(10.8) and bike.front_share == pytest.approx(5.2 / 10.8, abs=0.001)
    with pytest.raises(InvalidInput, match="Say what was weighed"):
        weighing.add_wheel_load(workspace, opened.id, "a", revision=fixed.revision, what="half", front=1.0, rear=1.0)


def test_what_is_weighed_in_a_plan_is_weighed_on_the_shelf(workspace: Workspace, opened: OpenPlan) -> None:
    item = unweighed(opened)
    before = {entry.id: entry for entry in shelf.shelf_items(workspace, demo=True)}
    assert not before[item.id].weighed and len(before) == len(opened.plan.items)
    weighing.weigh_item(workspace, opened, revision=opened.revision, item_id=item.id, mass=0.111, count=1)
    assert shelf.shelf_item(workspace, item.id, demo=True).mass == pytest.approx(0.111)


def test_each_plan_has_a_scale_of_its_own(opened: OpenPlan) -> None:
    assert isinstance(weighing.scale_of(opened.id), SimulatedScale)
    assert weighing.scale_of(opened.id) is weighing.scale_of(opened.id)
    assert re.match("kitchen|hanging|floor", weighing.scale_of(opened.id).name)
    other = replace(opened, id=type(opened.id)(int=7))
    assert weighing.scale_of(other.id) is not weighing.scale_of(opened.id)
