"""Load by hand: what rides where, what is pinned, in what order, and what is left to the packing."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from uuid import UUID

from stonechat.core.plan.evaluate import with_places
from stonechat.core.plan.features import all_checks
from stonechat.core.plan.plan import HOME, Plan, Variant, Wishes
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.variant import (
    carrier_named,
    change_variant,
    fitted,
    item_named,
    place_name,
    refuse_impossible,
    with_mounted,
)
from stonechat.services.workspace import Workspace


def move_items(
    workspace: Workspace,
    opened: OpenPlan,
    variant_id: str,
    *,
    revision: int,
    places: Mapping[str, str],
    label: str = "",
    mounted: Mapping[str, bool] | None = None,
    unpin: frozenset[str] = frozenset(),
) -> OpenPlan:
    """Move things to carriers (by id), to `home`, or to no place (empty); refused where a thing cannot go in.

    A place that only breaks a check is the rider's to choose: the check says so. Carriers may be mounted or taken off
    and things let go in the same step.
    """
    variant = with_mounted(opened.plan.variant(variant_id), mounted or {})
    names = [item_named(opened.plan, key).name for key in places]
    for key, place in places.items():
        if place not in (HOME, ""):
            refuse_impossible(opened.plan, item_named(opened.plan, key), carrier_named(variant, place))
    targets = [place_name(variant, place) for place in places.values()]
    if not label and len(places) == 1:
        label = f"{names[0]} to {targets[0]}"

    def change(current: Variant) -> Variant:
        moved = with_mounted(with_places(current, places), mounted or {})
        moved = replace(moved, places={k: p for k, p in moved.places.items() if p}, pins=moved.pins - unpin)
        return fitted(moved) if mounted else moved

    return change_variant(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label=label or f"moved {len(places)} things",
        change=change,
    )


def pin_item(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, item: str) -> OpenPlan:
    """Pin a thing where it is, or let it go again."""
    name = item_named(opened.plan, item).name
    pinned = item in opened.plan.variant(variant_id).pins
    return change_variant(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label=f"{'let go' if pinned else 'pinned'} {name}",
        change=lambda v: replace(v, pins=v.pins - {item} if pinned else v.pins | {item}),
    )


def wear_item(workspace: Workspace, opened: OpenPlan, *, revision: int, item: str) -> OpenPlan:
    """Put a thing on, or take it off; in every variant, as what is worn is the rider's mass and takes no room."""
    thing = item_named(opened.plan, item)
    if thing.holds or thing.container:
        raise InvalidInput(f"{thing.name} holds things or is inside another. Take it out in Kit first.", subject=item)

    def change(plan: Plan) -> Plan:
        changed = tuple(replace(entry, worn=not thing.worn) if entry.id == item else entry for entry in plan.items)
        return replace(plan, items=changed, variants=tuple(_on_body(v, item, on=not thing.worn) for v in plan.variants))

    label = f"{'took off' if thing.worn else 'put on'} {thing.name}"
    return change_plan(workspace, opened.id, revision=revision, label=label, change=change)


def _on_body(variant: Variant, item: str, *, on: bool) -> Variant:
    """Return a variant with a thing on the body, or on the floor; what is left at home stays there."""
    if variant.places.get(item) == HOME:
        return variant
    kept = {key: place for key, place in variant.places.items() if key != item}
    body = next((c.id for c in variant.carriers if c.mounted and c.place == "body"), "")
    return replace(variant, places={**kept, item: body} if on and body else kept, pins=variant.pins - {item})


def _packed_in(variant: Variant, carrier_id: str) -> frozenset[str]:
    return frozenset(key for key, place in variant.places.items() if place == carrier_id)


def empty_carrier(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, carrier_id: str
) -> OpenPlan:
    """Put everything of a carrier on the floor; what is pinned there stays."""
    name = carrier_named(opened.plan.variant(variant_id), carrier_id).name

    def change(variant: Variant) -> Variant:
        out = _packed_in(variant, carrier_id) - variant.pins
        return replace(variant, places={key: place for key, place in variant.places.items() if key not in out})

    return change_variant(workspace, opened.id, variant_id, revision=revision, label=f"emptied {name}", change=change)


def pin_carrier(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, carrier_id: str) -> OpenPlan:
    """Pin everything in a carrier where it is; where all of it is pinned, let it all go."""
    variant = opened.plan.variant(variant_id)
    name, held = carrier_named(variant, carrier_id).name, _packed_in(variant, carrier_id)
    if not held:
        raise InvalidInput(f"{name} is empty. Put something in it, then pin it.", subject=carrier_id)
    all_pinned = held <= variant.pins
    return change_variant(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label=f"{'let go' if all_pinned else 'pinned'} all in {name}",
        change=lambda v: replace(v, pins=v.pins - held if all_pinned else v.pins | held),
    )


def swap_items(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, items: Sequence[str]
) -> OpenPlan:
    """Let two things change places; refused where either does not go into the other's."""
    opened = open_plan(workspace, plan_id)
    if len(set(items)) != 2:
        raise InvalidInput("Two things change places. Choose two, then swap them.", subject="item")
    one, other = (item_named(opened.plan, key) for key in items)
    variant = opened.plan.variant(variant_id)
    places = {one.id: variant.places.get(other.id, ""), other.id: variant.places.get(one.id, "")}
    if places[one.id] == places[other.id]:
        raise InvalidInput(f"{one.name} and {other.name} ride in the same place already.", subject=one.id)
    label = f"swapped {one.name} and {other.name}"
    return move_items(workspace, opened, variant_id, revision=revision, places=places, label=label[:80])


def set_wishes(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, wishes: Wishes) -> OpenPlan:
    """Set what the rider leaves to the packing."""

    def change(variant: Variant) -> Variant:
        for key in (*sorted(wishes.free_carriers), *([wishes.keep_free_in] if wishes.keep_free_in else [])):
            carrier_named(variant, key)
        return replace(variant, wishes=wishes)

    return change_variant(
        workspace, plan_id, variant_id, revision=revision, label="set what the packing may decide", change=change
    )


def set_order(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    carrier_id: str,
    items: Sequence[str],
    step: tuple[str, int] | None = None,
) -> OpenPlan:
    """Set the order inside a bag from its mouth inwards, one thing moved up or down in it; empty: the best again."""
    opened = open_plan(workspace, plan_id)
    name = carrier_named(opened.plan.variant(variant_id), carrier_id).name
    listed = [item_named(opened.plan, key).id for key in dict.fromkeys(items)]
    if step is not None and step[0] in listed:  # one thing goes so many places further in
        k = listed.index(step[0])
        listed.insert(max(0, min(len(listed) - 1, k + step[1])), listed.pop(k))

    def change(variant: Variant) -> Variant:
        others = {key: order for key, order in variant.orders.items() if key != carrier_id}
        return replace(variant, orders={**others, carrier_id: tuple(listed)} if listed else others)

    label = f"ordered {name}" if listed else f"best order in {name}"
    return change_variant(workspace, plan_id, variant_id, revision=revision, label=label, change=change)


def switch_check(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, code: str) -> OpenPlan:
    """Do without a check in this variant, or want it again."""
    titles = {check.code: check.title for check in all_checks()}
    if code not in titles:
        raise NotFound(f"There is no check “{code[:30]}”.", subject=code)
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label=f"switched the check {titles[code]}",
        change=lambda v: replace(
            v, checks_off=v.checks_off - {code} if code in v.checks_off else v.checks_off | {code}
        ),
    )
