"""What the services of all rooms share: one variant changed, things and carriers by name."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace
from typing import TypeVar
from uuid import UUID

from stonechat.core.kit.containers import holder_of, units_to_pack
from stonechat.core.kit.item import HOME, Item
from stonechat.core.load.problem import why_not
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.fitting import fit_rig
from stonechat.core.rig.spots import SPOTS
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.workspace import Workspace

T = TypeVar("T")


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


def with_mounted(variant: Variant, mounted: Mapping[str, bool]) -> Variant:
    return replace(variant, carriers=tuple(replace(c, mounted=mounted.get(c.id, c.mounted)) for c in variant.carriers))


def refuse_impossible(plan: Plan, item: Item, carrier: Carrier) -> None:
    """Refuse a thing in a carrier that it cannot go into at all, or that is inside another thing."""
    holder = holder_of(item, {entry.id: entry for entry in plan.items})
    if holder is not None:
        raise InvalidInput(
            f"{item.name} is inside {holder.name}. Move {holder.name}, or take it out there in Kit.", subject=item.id
        )
    if not item.packed:
        where = "worn" if item.worn else SPOTS[item.fixed].name
        raise InvalidInput(
            f"{item.name} is {where} and wants no bag. Say in Kit that it is packed first.", subject=item.id
        )
    whole = next(unit for unit in units_to_pack(plan.items) if unit.id == item.id)
    refusal = why_not(whole, carrier)
    if not carrier.mounted:
        raise InvalidInput(f"{carrier.name} is not mounted. Mount it in Rig first.", subject=carrier.id)
    if refusal is not None and refusal.is_hard:
        raise InvalidInput(
            f"{item.name} does not go into {carrier.name}: {refusal.words}. Choose another place.", subject=item.id
        )


def without(values: Mapping[str, T], gone: Collection[str]) -> dict[str, T]:
    """Return a mapping without some keys."""
    return {key: value for key, value in values.items() if key not in gone}
