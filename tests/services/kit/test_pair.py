"""Riding in two: both rely on what one carries, and a thing is handed over in one step of both plans."""

from dataclasses import replace
from uuid import UUID, uuid4

import pytest

from stonechat.errors import Clash, InvalidInput, NotFound
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, change_plan, change_two, open_plan, undo
from stonechat.services.kit.many import change_many
from stonechat.services.kit.pair import hand_over, pair_of, ride_with
from stonechat.services.plans import delete_plan, duplicate_plan
from stonechat.services.workspace import Workspace


@pytest.fixture
def other(workspace: Workspace, opened: OpenPlan) -> OpenPlan:
    """A partner's plan, without a pump."""
    copied = open_plan(workspace, duplicate_plan(workspace, opened.id))
    return change_plan(
        workspace,
        copied.id,
        revision=copied.revision,
        label="no pump",
        change=lambda plan: replace(
            plan, items=tuple(i for i in plan.items if i.id not in ("mini-pump", "tyre-boots"))
        ),
    )


def share(workspace: Workspace, opened: OpenPlan, item: str, to: str = "yes") -> OpenPlan:
    return change_many(workspace, opened, "a", revision=opened.revision, items=(item,), what="shared", to=to)


def repair(opened: OpenPlan) -> str:
    return next(finding.state for finding in evaluated(opened, "a").findings if finding.code == "repair")


def test_what_a_partner_carries_for_both_is_done_in_both_plans(
    workspace: Workspace, opened: OpenPlan, other: OpenPlan
) -> None:
    assert repair(other) == "broken"
    shared = share(workspace, opened, "mini-pump")
    paired = ride_with(workspace, other, revision=other.revision, partner=str(opened.id))
    assert repair(paired) == "fine"
    (relied,) = paired.plan.relied
    assert relied.name == "mini pump" and relied.id not in {item.id for item in paired.plan.items}
    # the figures of the ride are the rider's own
    assert evaluated(paired, "a").ridden.ledger.finish == evaluated(other, "a").ridden.ledger.finish
    # taken back there, it is missing here: nothing of it was copied
    share(workspace, shared, "mini-pump", "no")
    assert repair(open_plan(workspace, other.id)) == "broken"


def test_a_thing_is_handed_over_in_one_step_of_both(workspace: Workspace, opened: OpenPlan, other: OpenPlan) -> None:
    mine = ride_with(workspace, opened, revision=opened.revision, partner=str(other.id))
    after = hand_over(workspace, mine, revision=mine.revision, item="mini-pump")
    theirs = open_plan(workspace, other.id)
    assert "mini-pump" not in {i.id for i in after.plan.items} and "mini-pump" in {i.id for i in theirs.plan.items}
    assert theirs.undo_label == "was handed mini pump by The Corvane Round"
    assert "mini-pump" in {i.id for i in undo(workspace, opened.id, revision=after.revision).plan.items}


def test_a_stale_page_of_either_changes_neither(workspace: Workspace, opened: OpenPlan, other: OpenPlan) -> None:
    with pytest.raises(Clash):
        change_two(
            workspace,
            (opened.id, opened.revision, "a"),
            (other.id, other.revision - 1, "b"),
            lambda mine, theirs: (replace(mine, items=()), replace(theirs, items=())),
        )
    assert open_plan(workspace, opened.id).plan == opened.plan
    assert open_plan(workspace, other.id).plan == other.plan


def test_a_partner_who_is_gone_is_nobody(workspace: Workspace, opened: OpenPlan, other: OpenPlan) -> None:
    share(workspace, opened, "mini-pump")
    paired = ride_with(workspace, other, revision=other.revision, partner=str(opened.id))
    assert paired.plan.relied
    delete_plan(workspace, opened.id)
    alone = open_plan(workspace, other.id)
    assert alone.plan.relied == () and pair_of(workspace, alone).partner is None
    with pytest.raises(InvalidInput, match="whose plan"):
        hand_over(workspace, alone, revision=alone.revision, item="spoon")


def test_what_cannot_be_is_refused(workspace: Workspace, opened: OpenPlan, other: OpenPlan) -> None:
    for partner in (str(uuid4()), str(opened.id), "nonsense"):
        with pytest.raises(NotFound, match="no such plan"):
            ride_with(workspace, opened, revision=opened.revision, partner=partner)
    mine = ride_with(workspace, opened, revision=opened.revision, partner=str(other.id))
    with pytest.raises(InvalidInput, match="holds things"):
        hand_over(workspace, mine, revision=mine.revision, item="wash-pouch")
    assert UUID(mine.plan.partner) == other.id
    assert ride_with(workspace, mine, revision=mine.revision, partner="").plan.partner == ""
