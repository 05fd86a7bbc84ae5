"""The debrief: what became of things and bags, counted into their records, and the rider's words."""

from collections.abc import Sequence
from dataclasses import replace
from uuid import UUID

from stonechat.core.diary.debrief import BAG_STATES, FATES, USES, BagVerdict, Verdict, counted
from stonechat.core.kit.item import HOME, Item
from stonechat.core.plan.plan import Plan, Variant
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.variant import change_variant
from stonechat.services.workspace import Workspace

_MOST_WISHES = 60
_LONGEST = 400  # characters of one wish


def say_of_things(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, said: Sequence[tuple[str, str, str]]
) -> OpenPlan:
    """Say what became of things, as one step: each a thing, `use` or `fate`, and a key of USES or FATES."""
    if any(value not in {"use": USES, "fate": FATES}.get(what, ()) for _, what, value in said):
        raise InvalidInput("Choose from the list what became of it.", subject="said")

    def change(plan: Plan) -> Plan:
        debrief, known = plan.variant(variant_id).debrief, {item.id for item in plan.items}
        things = dict(debrief.things)
        for thing, what, value in said:
            if thing not in known:
                raise NotFound("That thing is not in this kit any more.", subject=thing)
            if thing in debrief.counted:
                raise InvalidInput("Its record holds this race already. Undo that first, or change the record in Kit.")
            was = things.pop(thing, Verdict())
            verdict = replace(was, use=value) if what == "use" else replace(was, fate=value)
            if verdict != Verdict():
                things[thing] = verdict
        return plan.with_variant(replace(plan.variant(variant_id), debrief=replace(debrief, things=things)))

    words = "said what became of a thing" if len(said) == 1 else f"said what became of {len(said)} things"
    return change_plan(workspace, plan_id, revision=revision, label=words, change=change)


def say_of_bag(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, carrier_id: str, verdict: BagVerdict
) -> OpenPlan:
    """Say how full a bag was."""
    if verdict.state not in BAG_STATES:
        raise InvalidInput("Choose from the list how full it was.", subject="state")

    def change(variant: Variant) -> Variant:
        if all(carrier.id != carrier_id for carrier in variant.carriers):
            raise NotFound("That bag is not on this rig any more.", subject=carrier_id)
        bags = {**variant.debrief.bags, carrier_id: verdict}
        if verdict == BagVerdict():
            del bags[carrier_id]
        return replace(variant, debrief=replace(variant.debrief, bags=bags))

    return change_variant(
        workspace, plan_id, variant_id, revision=revision, label="said how full a bag was", change=change
    )


def say_words(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, worked: str, change: str, wished: str
) -> OpenPlan:
    """Say what worked, what to change, and what was missing: a line each."""
    wishes = tuple(line.strip()[:_LONGEST] for line in wished.splitlines() if line.strip())[:_MOST_WISHES]
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="wrote the debrief",
        change=lambda variant: replace(
            variant, debrief=replace(variant.debrief, worked=worked[:2_000], change=change[:2_000], wished=wishes)
        ),
    )


def count_in(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int) -> OpenPlan:
    """Count the race into the records of all things that were spoken of, each once; the shelf keeps them."""

    def change(plan: Plan) -> Plan:
        variant = plan.variant(variant_id)
        items, done = counted(plan.items, variant.debrief)
        if done == variant.debrief.counted:
            raise InvalidInput("No thing was spoken of that is not counted already.")
        changed = replace(variant, debrief=replace(variant.debrief, counted=done))
        return replace(plan.with_variant(changed), items=items)

    return change_plan(workspace, plan_id, revision=revision, label="counted the race into records", change=change)


def things_to_say(plan: Plan, variant: Variant) -> tuple[Item, ...]:
    """Return the things that went along, in the order in which they were packed."""
    order = {carrier.id: k for k, carrier in enumerate(variant.carriers)}
    along = [item for item in plan.items if variant.places.get(item.id) != HOME]
    return tuple(sorted(along, key=lambda item: (order.get(variant.places.get(item.id, ""), 99), item.name.lower())))
