"""Kit: things, what they do, and the countdown."""

from collections.abc import Collection, Mapping
from dataclasses import replace
from uuid import UUID

from stonechat.core.kit.containers import refuse_loops
from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import JOBS
from stonechat.core.plan.plan import Plan, Variant
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.kit_csv import item_id
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.kit.shelf import mark_of
from stonechat.services.line import stop_named
from stonechat.services.variant import change_variant, item_named, without
from stonechat.services.workspace import Workspace


def set_item(workspace: Workspace, plan_id: UUID, *, revision: int, item: Item) -> OpenPlan:
    """Change a thing of the kit, or add it where its id is empty."""

    def change(plan: Plan) -> Plan:
        if not item.id:
            new = replace(item, id=item_id(item.name, {entry.id for entry in plan.items}))
            items = (*plan.items, new)
        else:
            item_named(plan, item.id)
            items = tuple(item if entry.id == item.id else entry for entry in plan.items)
        refuse_loops(items)
        return replace(plan, items=items)

    label = f"changed {item.name}" if item.id else f"added {item.name}"
    return change_plan(workspace, plan_id, revision=revision, label=label, change=change)


def drop_item(workspace: Workspace, opened: OpenPlan, *, revision: int, item: str) -> OpenPlan:
    """Take a thing out of the kit of this plan."""
    name = item_named(opened.plan, item).name
    return change_plan(
        workspace,
        opened.id,
        revision=revision,
        label=f"took {name} out of the kit",
        change=lambda plan: without_items(plan, {item}),
    )


def without_items(plan: Plan, gone: Collection[str]) -> Plan:
    """Return a plan without some things; what was in them is in nothing then."""
    variants = tuple(
        replace(
            v,
            places=without(v.places, gone),
            pins=v.pins - set(gone),
            joins=without(v.joins, gone),
            posts=without(v.posts, gone),
        )
        for v in plan.variants
    )
    left = tuple(replace(i, container="") if i.container in gone else i for i in plan.items if i.id not in gone)
    return replace(plan, items=left, variants=variants)


def set_way(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, item: str, joins: str, posts: str
) -> OpenPlan:
    """Let a thing join from a stop's drop box, or be posted home from a stop; empty: aboard all the way."""
    name = item_named(opened.plan, item).name
    marks: dict[str, float | None] = {"": None}
    for stop in (joins, posts):
        if stop:
            marks[stop] = stop_named(opened.plan, stop).distance
    start, end = marks[joins], marks[posts]
    if start is not None and end is not None and end <= start:
        raise InvalidInput(f"{name} would be posted home before it joins. Choose a later stop.", subject="posts")

    def with_stop(current: Mapping[str, str], stop: str) -> Mapping[str, str]:
        kept = {key: value for key, value in current.items() if key != item}
        return {**kept, item: stop} if stop else kept

    return change_variant(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label=f"set the way of {name}",
        change=lambda v: replace(v, joins=with_stop(v.joins, joins), posts=with_stop(v.posts, posts)),
    )


def take_from_shelf(workspace: Workspace, opened: OpenPlan, *, revision: int, item: Item) -> OpenPlan:
    """Take a thing of the shelf into the kit of this plan."""

    def change(plan: Plan) -> Plan:
        if mark_of(item) in {mark_of(entry) for entry in plan.items}:
            raise InvalidInput(f"{item.name} is in this kit already.", subject=item.id)
        own = replace(item, id=item_id(item.name, {entry.id for entry in plan.items}))
        return replace(plan, items=(*plan.items, own))

    return change_plan(workspace, opened.id, revision=revision, label=f"took {item.name} into the kit", change=change)


def tick_task(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, task: str) -> OpenPlan:
    """Tick a task of the countdown, or untick it."""
    key = task[:60]
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="ticked the countdown",
        change=lambda v: _ticked(v, key),
    )


def _ticked(variant: Variant, key: str) -> Variant:
    """Return a variant with a task ticked or not; one that a loaded ride asked for is ticked at its finding."""
    kind, _, number = key.partition("found-")
    if kind or not number.isdigit():
        return replace(variant, ticked=variant.ticked - {key} if key in variant.ticked else variant.ticked | {key})
    findings = tuple(
        replace(one, done=not one.done) if k == int(number) else one for k, one in enumerate(variant.shakedown.findings)
    )
    return replace(variant, shakedown=replace(variant.shakedown, findings=findings))


def drop_job(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, job: str) -> OpenPlan:
    """Do without a job, or want it again."""
    if job not in JOBS:
        raise NotFound(f"There is no job “{job[:30]}”.", subject=job)
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label=f"does without: {JOBS[job].name}",
        change=lambda v: replace(v, jobs_off=v.jobs_off - {job} if job in v.jobs_off else v.jobs_off | {job}),
    )
