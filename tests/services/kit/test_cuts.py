"""The cut list is reckoned once for a plan as it stands, and anew when the plan is another."""

from dataclasses import replace

from stonechat.core.kit.item import HOME
from stonechat.core.plan.cutlist import cut_list
from stonechat.core.plan.evaluate import with_places
from stonechat.core.plan.plan import Plan
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, change_plan, undo
from stonechat.services.kit.cuts import cuts_of
from stonechat.services.workspace import Workspace


def test_it_is_that_of_the_plan_as_it_stands(workspace: Workspace, opened: OpenPlan) -> None:
    first = cuts_of(opened, "a")
    assert first == cut_list(evaluated(opened, "a").ridden, opened.plan.variant("a"))
    assert cuts_of(replace(opened), "a") is first
    gone = first.cuts[0].item.id

    def leave(plan: Plan) -> Plan:
        return plan.with_variant(with_places(plan.variant("a"), {gone: HOME}))

    then = change_plan(workspace, opened.id, revision=opened.revision, label="left", change=leave)
    assert gone not in {cut.item.id for cut in cuts_of(then, "a").cuts}
    assert cuts_of(undo(workspace, then.id, revision=then.revision), "a") is first
