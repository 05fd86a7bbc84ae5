"""Changes a rider makes by hand, each one step of the history."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from uuid import UUID

from stonechat.core.checks.registry import all_checks
from stonechat.core.kit.containers import holder_of, refuse_loops, units_to_pack
from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import JOBS
from stonechat.core.load.problem import why_not
from stonechat.core.plan.evaluate import with_places
from stonechat.core.plan.plan import HOME, START, Plan, Variant, Wishes
from stonechat.core.rhythm.rhythm import Rhythm
from stonechat.core.rhythm.rider import Rider
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.fitting import fit_rig
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.kit_csv import item_id
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.routing import stop_named
from stonechat.services.shelf import mark_of
from stonechat.services.workspace import Workspace

RhythmChange = Callable[[Rhythm], Rhythm]


def fitted(variant: Variant) -> Variant:
    """Return a variant whose frame bags and drag follow its drawing, where they are not set by hand."""
    return replace(variant, carriers=fit_rig(variant.bike, variant.carriers, variant.rider.position))


def change_variant(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    label: str,
    change: Callable[[Variant], Variant],
) -> OpenPlan:
    """Change one variant of a plan."""
    return change_plan(
        workspace,
        plan_id,
        revision=revision,
        label=label,
        change=lambda plan: plan.with_variant(change(plan.variant(variant_id))),
    )


def item_named(plan: Plan, wanted: str) -> Item:
    """Return a thing by its id."""
    for item in plan.items:
        if item.id == wanted:
            return item
    raise NotFound(f"There is no thing “{wanted[:60]}” in this kit.", subject=wanted)


def carrier_named(variant: Variant, wanted: str) -> Carrier:
    """Return a carrier by its id."""
    for carrier in variant.carriers:
        if carrier.id == wanted:
            return carrier
    raise NotFound(f"There is no carrier “{wanted[:60]}” on this rig.", subject=wanted)


def place_name(variant: Variant, place: str) -> str:
    """Return what a place is called: a carrier, home, or the floor."""
    if place == HOME:
        return "home"
    return carrier_named(variant, place).name if place else "the floor"


def refuse_impossible(plan: Plan, item: Item, carrier: Carrier) -> None:
    """Refuse a thing in a carrier that it cannot go into at all, or that is inside another thing."""
    holder = holder_of(item, {entry.id: entry for entry in plan.items})
    if holder is not None:
        raise InvalidInput(
            f"{item.name} is inside {holder.name}. Move {holder.name}, or take it out there in Kit.", subject=item.id
        )
    whole = next(unit for unit in units_to_pack(plan.items) if unit.id == item.id)
    refusal = why_not(whole, carrier)
    if not carrier.mounted:
        raise InvalidInput(f"{carrier.name} is not mounted. Mount it in Rig first.", subject=carrier.id)
    if refusal is not None and refusal.is_hard:
        raise InvalidInput(
            f"{item.name} does not go into {carrier.name}: {refusal.words}. Choose another place.", subject=item.id
        )


def _with_mounted(variant: Variant, mounted: Mapping[str, bool]) -> Variant:
    return replace(variant, carriers=tuple(replace(c, mounted=mounted.get(c.id, c.mounted)) for c in variant.carriers))


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
    variant = _with_mounted(opened.plan.variant(variant_id), mounted or {})
    names = [item_named(opened.plan, key).name for key in places]
    for key, place in places.items():
        if place not in (HOME, ""):
            refuse_impossible(opened.plan, item_named(opened.plan, key), carrier_named(variant, place))
    targets = [place_name(variant, place) for place in places.values()]
    if not label and len(places) == 1:
        label = f"{names[0]} to {targets[0]}"

    def change(current: Variant) -> Variant:
        moved = _with_mounted(with_places(current, places), mounted or {})
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


def set_wishes(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    free: Sequence[str],
    decide_maybe: bool,
    sets_together: bool,
    keep_free_in: str,
    keep_free: float,
) -> OpenPlan:
    """Set what the rider leaves to the packing."""

    def change(variant: Variant) -> Variant:
        for key in (*free, *([keep_free_in] if keep_free_in else [])):
            carrier_named(variant, key)
        kept = Wishes(
            free_carriers=frozenset(free),
            decide_maybe=decide_maybe,
            sets_together=sets_together,
            keep_free_in=keep_free_in,
            keep_free=keep_free,
        )
        return replace(variant, wishes=kept)

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
    raised: str = "",
    lowered: str = "",
) -> OpenPlan:
    """Set the order inside a bag from its mouth inwards, one thing moved up or down in it; empty: the best again."""
    opened = open_plan(workspace, plan_id)
    name = carrier_named(opened.plan.variant(variant_id), carrier_id).name
    listed = [item_named(opened.plan, key).id for key in dict.fromkeys(items)]
    moved = raised or lowered
    if moved in listed:
        k = listed.index(moved)
        to = max(0, min(len(listed) - 1, k + (-1 if raised else 1)))
        listed.insert(to, listed.pop(k))

    def change(variant: Variant) -> Variant:
        others = {key: order for key, order in variant.orders.items() if key != carrier_id}
        return replace(variant, orders={**others, carrier_id: tuple(listed)} if listed else others)

    label = f"ordered {name}" if listed else f"best order in {name}"
    return change_variant(workspace, plan_id, variant_id, revision=revision, label=label, change=change)


def set_rider(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, rider: Rider) -> OpenPlan:
    """Set the rider of a variant."""
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="set the rider",
        change=lambda variant: fitted(replace(variant, rider=rider, assumed=variant.assumed - {"rider"})),
    )


def set_rhythm(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    label: str,
    change: RhythmChange,
    says: frozenset[str] = frozenset(),
) -> OpenPlan:
    """Change how a variant sleeps and dawdles; `says` names what is not taken for granted any more."""
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label=label,
        change=lambda v: replace(v, rhythm=change(v.rhythm), assumed=v.assumed - says),
    )


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


def take_from_shelf(workspace: Workspace, opened: OpenPlan, *, revision: int, item: Item) -> OpenPlan:
    """Take a thing of the shelf into the kit of this plan."""

    def change(plan: Plan) -> Plan:
        if mark_of(item) in {mark_of(entry) for entry in plan.items}:
            raise InvalidInput(f"{item.name} is in this kit already.", subject=item.id)
        own = replace(item, id=item_id(item.name, {entry.id for entry in plan.items}))
        return replace(plan, items=(*plan.items, own))

    return change_plan(workspace, opened.id, revision=revision, label=f"took {item.name} into the kit", change=change)


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


def tick_task(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, task: str) -> OpenPlan:
    """Tick a task of the countdown, or untick it."""
    key = task[:60]
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="ticked the countdown",
        change=lambda v: replace(v, ticked=v.ticked - {key} if key in v.ticked else v.ticked | {key}),
    )


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


def drop_item(workspace: Workspace, opened: OpenPlan, *, revision: int, item: str) -> OpenPlan:
    """Take a thing out of the kit of this plan."""
    name = item_named(opened.plan, item).name

    def change(plan: Plan) -> Plan:
        variants = tuple(
            replace(
                v,
                places={k: p for k, p in v.places.items() if k != item},
                pins=v.pins - {item},
                joins={k: s for k, s in v.joins.items() if k != item},
                posts={k: s for k, s in v.posts.items() if k != item},
            )
            for v in plan.variants
        )
        left = tuple(replace(i, container="") if i.container == item else i for i in plan.items if i.id != item)
        return replace(plan, items=left, variants=variants)

    return change_plan(workspace, opened.id, revision=revision, label=f"took {name} out of the kit", change=change)


def set_supply(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    stop_id: str,
    water: float | None,
    food: float | None,
) -> OpenPlan:
    """Set litres and kcal to leave a stop with (`start` for the start); None goes back to what the model needs."""

    def with_value(current: Mapping[str, float], value: float | None) -> Mapping[str, float]:
        kept = {key: amount for key, amount in current.items() if key != stop_id}
        return kept if value is None else {**kept, stop_id: value}

    def change(plan: Plan) -> Plan:
        if stop_id != START:
            stop_named(plan, stop_id)
        variant = plan.variant(variant_id)
        supply = replace(
            variant.supply,
            water_by_stop=with_value(variant.supply.water_by_stop, water),
            food_by_stop=with_value(variant.supply.food_by_stop, food),
        )
        return plan.with_variant(replace(variant, supply=supply))

    return change_plan(workspace, plan_id, revision=revision, label="set what to leave with", change=change)
