"""Two riders: what one carries for both, and handing a thing over from one plan to the other."""

from dataclasses import dataclass, replace
from uuid import UUID

from stonechat.core.kit.item import Item
from stonechat.core.plan.plan import Plan
from stonechat.db.plans import PlanHead
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.kit_table import item_id
from stonechat.services.history import OpenPlan, change_plan, change_two, open_plan
from stonechat.services.kit.things import without_items
from stonechat.services.plans import list_plans
from stonechat.services.variant import item_named
from stonechat.services.workspace import Workspace


@dataclass(frozen=True, kw_only=True)
class Pair:
    """The partner of a plan, and what each carries for both."""

    partner: PlanHead | None
    mine: tuple[Item, ...]  # that both rely on
    theirs: tuple[Item, ...]
    others: tuple[PlanHead, ...]  # plans that may be the partner's


def pair_of(workspace: Workspace, opened: OpenPlan) -> Pair:
    """Return the partner of a plan; one whose plan is gone is none."""
    heads = [head for head in list_plans(workspace) if head.id != opened.id]
    return Pair(
        partner=next((head for head in heads if str(head.id) == opened.plan.partner), None),
        mine=tuple(item for item in opened.plan.items if item.shared),
        theirs=opened.plan.relied,
        others=tuple(heads),
    )


def ride_with(workspace: Workspace, opened: OpenPlan, *, revision: int, partner: str) -> OpenPlan:
    """Name the plan of the one who rides along; empty for nobody."""
    heads = {str(head.id): head for head in pair_of(workspace, opened).others}
    if partner and partner not in heads:
        raise NotFound("There is no such plan to ride with. Choose one from the list.", subject="partner")
    label = f"rides with {heads[partner].name}" if partner else "rides alone"
    return change_plan(
        workspace,
        opened.id,
        revision=revision,
        label=label,
        change=lambda plan: replace(plan, partner=partner),
    )


def hand_over(workspace: Workspace, opened: OpenPlan, *, revision: int, item: str) -> OpenPlan:
    """Move a thing into the partner's kit: out of this one and into that one in one step of both."""
    thing = item_named(opened.plan, item)
    if thing.container or any(other.container == thing.id for other in opened.plan.items):
        raise InvalidInput(f"{thing.name} holds things or is inside another. Take it out first.", subject=item)
    partner = pair_of(workspace, opened).partner
    if partner is None:
        raise InvalidInput("Say first whose plan you ride with.", subject="partner")
    their_revision = open_plan(workspace, partner.id).revision

    def change(mine: Plan, theirs: Plan) -> tuple[Plan, Plan]:
        new = replace(item_named(mine, item), id=item_id(thing.name, {entry.id for entry in theirs.items}))
        return without_items(mine, {item}), replace(theirs, items=(*theirs.items, new))

    return change_two(
        workspace,
        (opened.id, revision, f"handed {thing.name} to {partner.name}"),
        (UUID(opened.plan.partner), their_revision, f"was handed {thing.name} by {opened.plan.name}"),
        change,
    )
