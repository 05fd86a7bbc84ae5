"""The list of plans, and the variants of one: named, copied, deleted, brought back."""

from dataclasses import replace
from uuid import UUID

from stonechat.core.plan.plan import Plan, Variant
from stonechat.db import plans
from stonechat.db.plans import DAYS_KEPT as DAYS_KEPT
from stonechat.db.plans import PlanHead as PlanHead
from stonechat.errors import InvalidInput
from stonechat.formats.kit_csv import item_id
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.workspace import Workspace

MOST_VARIANTS = 24  # as many as the plan document holds
_LONGEST_NAME = 80


def list_plans(workspace: Workspace) -> tuple[plans.PlanHead, ...]:
    """Return all plans."""
    with workspace.store.transaction() as session:
        return plans.list_plans(session)


def deleted_plans(workspace: Workspace) -> tuple[plans.PlanHead, ...]:
    """Return the plans that were deleted and can still be brought back."""
    with workspace.store.transaction() as session:
        return plans.deleted_plans(session)


def _named(name: str, what: str) -> str:
    plain = " ".join(name.split())
    if not plain:
        raise InvalidInput(f"The {what} has no name. Give it one.", subject="name")
    if len(plain) > _LONGEST_NAME:
        raise InvalidInput(f"The name is longer than {_LONGEST_NAME} letters. Shorten it.", subject="name")
    return plain


def _other_name(name: str, taken: set[str]) -> str:
    """Return the name of a copy: the first of its kind that is not taken."""
    stem = name[: _LONGEST_NAME - 12]
    number = 1
    while True:
        candidate = f"{stem}, copy" if number == 1 else f"{stem}, copy {number}"
        if candidate not in taken:
            return candidate
        number += 1


def rename_plan(workspace: Workspace, plan_id: UUID, *, revision: int, name: str) -> OpenPlan:
    """Give a plan another name; a step that can be undone."""
    new = _named(name, "plan")
    return change_plan(
        workspace,
        plan_id,
        revision=revision,
        label=f"renamed the plan {new}",
        change=lambda plan: replace(plan, name=new),
    )


def duplicate_plan(workspace: Workspace, plan_id: UUID) -> UUID:
    """Make a copy of a plan as it stands, without its history."""
    with workspace.store.transaction() as session:
        stored = plans.read_plan(session, plan_id)
        name = _other_name(stored.head.name, {head.name for head in plans.list_plans(session)})
        return plans.add_plan(
            session,
            name=name,
            course_hash=stored.head.course_hash,
            body={**stored.body, "name": name},
            label=f"copied {stored.head.name}",
        )


def delete_plan(workspace: Workspace, plan_id: UUID) -> plans.PlanHead:
    """Take a plan off the list; it can be brought back for a month."""
    with workspace.store.transaction() as session:
        return plans.delete_plan(session, plan_id)


def restore_plan(workspace: Workspace, plan_id: UUID) -> plans.PlanHead:
    """Bring a deleted plan back."""
    with workspace.store.transaction() as session:
        return plans.restore_plan(session, plan_id)


def _refuse_name_taken(plan: Plan, name: str, variant_id: str = "") -> None:
    if any(variant.name == name and variant.id != variant_id for variant in plan.variants):
        raise InvalidInput(f"There is a variant {name} already. Choose another name.", subject="name")


def add_variant(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, name: str, empty: bool
) -> tuple[OpenPlan, str]:
    """Add a variant: a copy of one, or one with the same rider and bike whose load lies on the floor."""
    source = opened.plan.variant(variant_id)
    new_id = item_id(name or source.name, {variant.id for variant in opened.plan.variants} | {"do"})
    title = (
        _named(name, "variant")
        if name.strip()
        else _other_name(source.name, {variant.name for variant in opened.plan.variants})
    )

    def change(plan: Plan) -> Plan:
        if len(plan.variants) >= MOST_VARIANTS:
            raise InvalidInput(f"A plan has at most {MOST_VARIANTS} variants. Delete one first.", subject="name")
        _refuse_name_taken(plan, title)
        made = replace(plan.variant(variant_id), id=new_id, name=title)
        return replace(plan, variants=(*plan.variants, _emptied(made) if empty else made))

    label = f"added variant {title}" if empty else f"copied variant {source.name} as {title}"
    return change_plan(workspace, opened.id, revision=revision, label=label, change=change), new_id


def _emptied(variant: Variant) -> Variant:
    """Return a variant with nothing packed and nothing set by hand for the load."""
    return replace(variant, places={}, pins=frozenset(), joins={}, posts={}, orders={}, ticked=frozenset())


def rename_variant(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, name: str) -> OpenPlan:
    """Give a variant another name."""
    old, new = opened.plan.variant(variant_id).name, _named(name, "variant")

    def change(plan: Plan) -> Plan:
        _refuse_name_taken(plan, new, variant_id)
        return plan.with_variant(replace(plan.variant(variant_id), name=new))

    return change_plan(workspace, opened.id, revision=revision, label=f"renamed {old} {new}", change=change)


def delete_variant(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int) -> OpenPlan:
    """Delete a variant; the last one stays."""
    name = opened.plan.variant(variant_id).name
    if len(opened.plan.variants) == 1:
        raise InvalidInput(f"{name} is the only variant of this plan. Delete the plan, or add a variant first.")

    def change(plan: Plan) -> Plan:
        return replace(plan, variants=tuple(v for v in plan.variants if v.id != variant_id))

    return change_plan(workspace, opened.id, revision=revision, label=f"deleted variant {name}", change=change)
