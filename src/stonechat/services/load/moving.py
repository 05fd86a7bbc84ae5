"""Load by hand: what rides where, what is pinned, in what order, and what is left to the packing."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from uuid import UUID

from stonechat.core.kit.item import HOME, Carried, Item
from stonechat.core.plan.evaluate import with_places
from stonechat.core.plan.features import all_checks
from stonechat.core.plan.plan import Elsewhere, Plan, Variant, Wishes
from stonechat.core.rig.spots import SPOTS
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.line import stop_named
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
    food: Mapping[str, float] | None = None,
) -> OpenPlan:
    """Move things to carriers (by id), to `home`, or to no place (empty); refused where a thing cannot go in.

    A place that only breaks a check is the rider's to choose: the check says so. Carriers may be mounted or taken off
    and things let go in the same step. `food` is how much of it goes into each carrier first. [m³]
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
        moved = replace(
            moved,
            places={k: p for k, p in moved.places.items() if p},
            pins=moved.pins - unpin,
            food_in=moved.food_in if food is None else dict(food),
        )
        return fitted(moved) if mounted else moved

    return change_variant(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label=label or f"moved {len(places)} things",
        change=change,
    )


def move_from(
    workspace: Workspace,
    opened: OpenPlan,
    variant_id: str,
    *,
    revision: int,
    items: Sequence[str],
    place: str,
    since: str,
) -> OpenPlan:
    """Let things ride in another carrier from a stop on; back in their usual one they are as before."""
    stop, variant = stop_named(opened.plan, since), opened.plan.variant(variant_id)
    if place in (HOME, ""):
        raise InvalidInput(
            f"From {stop.name} on a thing can ride in another bag. To be rid of it there, say in the Kit that it is "
            "posted home from that stop."
        )
    carrier = carrier_named(variant, place)
    for key in items:
        item = item_named(opened.plan, key)
        if item.container or not variant.places.get(key) or variant.places[key] == HOME:
            raise InvalidInput(
                f"{item.name} has no bag of its own to leave at {stop.name}. Give it one for the race first."
            )
        refuse_impossible(opened.plan, item, carrier)

    def change(current: Variant) -> Variant:
        kept = {key: there for key, there in current.repacks.items() if key not in items}
        moved = {key: (Elsewhere(to=place, since=since),) for key in items if current.places.get(key) != place}
        return replace(current, repacks={**kept, **moved})

    what = item_named(opened.plan, items[0]).name if len(items) == 1 else f"{len(items)} things"
    label = f"{what} to {carrier.name} from {stop.name} on"
    return change_variant(workspace, opened.id, variant_id, revision=revision, label=label, change=change)


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
    """Put a thing on, or take it off."""
    how = Carried.PACKED if item_named(opened.plan, item).worn else Carried.WORN
    return carry_items(workspace, opened, revision=revision, items=(item,), how=how)


def carry_items(
    workspace: Workspace, opened: OpenPlan, *, revision: int, items: Collection[str], how: Carried, spot: str = ""
) -> OpenPlan:
    """Say how things go along: packed, worn, or fixed in a spot; in every variant.

    What is worn or fixed wants no place: it loses the one it has, and what is left at home stays there.
    """
    things = tuple(item_named(opened.plan, item) for item in items)
    for thing in things:
        if how is not Carried.PACKED and (thing.holds or thing.container):
            raise InvalidInput(
                f"{thing.name} holds things or is inside another. Take it out in Kit first.", subject=thing.id
            )
    if how is Carried.FIXED and spot not in SPOTS:
        raise InvalidInput(f"“{spot[:40]}” is no spot. Choose one of {', '.join(SPOTS)}.", subject="spot")
    chosen = {thing.id for thing in things}

    def one(item: Item) -> Item:
        if item.id not in chosen:
            return item
        return replace(item, worn=how is Carried.WORN, fixed=spot if how is Carried.FIXED else "", stowed=False)

    def change(plan: Plan) -> Plan:
        variants = plan.variants if how is Carried.PACKED else tuple(_off_bags(v, chosen) for v in plan.variants)
        return replace(plan, items=tuple(map(one, plan.items)), variants=variants)

    names = things[0].name if len(things) == 1 else f"{len(things)} things"
    did = {Carried.PACKED: "took off", Carried.WORN: "put on", Carried.FIXED: "fixed"}[how]
    return change_plan(workspace, opened.id, revision=revision, label=f"{did} {names}", change=change)


def _off_bags(variant: Variant, items: Collection[str]) -> Variant:
    """Return a variant in which things are in no bag; what is left at home stays there."""
    kept = {key: place for key, place in variant.places.items() if key not in items or place == HOME}
    return replace(variant, places=kept, pins=variant.pins - set(items))


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


def let_food_go(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int) -> OpenPlan:
    """Let food go where there is room again, not where a packing put it."""
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="let food go where there is room",
        change=lambda variant: replace(variant, food_in={}),
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
