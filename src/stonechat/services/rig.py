"""Changes to the bike and its carriers, each one step of the history; capacity and drag follow the drawing."""

from dataclasses import replace
from uuid import UUID

from stonechat.core.kit.item import HOME
from stonechat.core.plan.plan import Variant
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import SIDES, Carrier
from stonechat.core.rig.catalogue import KINDS, places_for, uses_at
from stonechat.core.rig.geometry import shift_range
from stonechat.core.rig.places import PLACES
from stonechat.core.rig.stock import lifted_where_needed
from stonechat.errors import InvalidInput
from stonechat.formats.kit_csv import item_id
from stonechat.services.history import OpenPlan
from stonechat.services.variant import carrier_named, change_variant, fitted, place_name
from stonechat.services.workspace import Workspace

MOST_CARRIERS = 60


def set_bike(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, bike: Bike, label: str = "measured the bike"
) -> OpenPlan:
    """Set the measures of the bike."""
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label=label,
        change=lambda variant: fitted(replace(variant, bike=bike, assumed=variant.assumed - {"bike"})),
    )


def _taken(variant: Variant) -> set[str]:
    return {entry.id for entry in variant.carriers} | {HOME}


def set_carrier(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, carrier: Carrier) -> OpenPlan:
    """Change a carrier, or add it where its id is empty."""

    def change(variant: Variant) -> Variant:
        if carrier.id:
            carriers = tuple(carrier if entry.id == carrier.id else entry for entry in variant.carriers)
            return fitted(replace(variant, carriers=carriers))
        return _with_more(variant, (replace(carrier, id=item_id(carrier.name, _taken(variant))),))

    return change_variant(
        workspace, plan_id, variant_id, revision=revision, label=f"changed {carrier.name}", change=change
    )


def _with_more(variant: Variant, more: tuple[Carrier, ...]) -> Variant:
    if len(variant.carriers) + len(more) > MOST_CARRIERS:
        raise InvalidInput(
            f"A rig has at most {MOST_CARRIERS} carriers. Remove one that is not mounted first.", subject="kind"
        )
    return fitted(replace(variant, carriers=(*variant.carriers, *more)))


def add_kind(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, kind: str) -> OpenPlan:
    """Hang what the catalogue describes on the bike: one carrier, or a pair."""
    if kind not in KINDS:
        raise InvalidInput(f"“{kind[:30]}” is not in the catalogue. Choose one from the list.", subject="kind")

    label = f"mounted {KINDS[kind].name}"
    return change_variant(
        workspace, plan_id, variant_id, revision=revision, label=label, change=lambda variant: hung_kind(variant, kind)
    )


def hung_kind(variant: Variant, kind: str) -> Variant:
    """Return a variant with what the catalogue describes hung on its bike."""
    taken = _taken(variant)
    hung = (replace(part, id=item_id(part.name, taken), kind=kind) for part in KINDS[kind].parts)
    return _with_more(variant, tuple(lifted_where_needed(variant.bike, part) for part in hung))


def put_carrier(
    workspace: Workspace,
    opened: OpenPlan,
    variant_id: str,
    *,
    revision: int,
    carrier_id: str,
    place: str,
    side: str,
    shift: float,
) -> OpenPlan:
    """Hang a carrier at another of its places, or shift it along its place; a shift too far is as far as it goes."""
    carrier = carrier_named(opened.plan.variant(variant_id), carrier_id)
    if place not in places_for(carrier) or side not in SIDES:
        names = ", ".join(PLACES[entry] for entry in places_for(carrier))
        raise InvalidInput(f"{carrier.name} does not hang there. It may hang: {names}.", subject="place")

    def change(variant: Variant) -> Variant:
        moved = replace(carrier, place=place, side=side, uses=uses_at(carrier, place))
        least, most = shift_range(variant.bike, moved)
        moved = replace(moved, shift=round(min(max(shift, least), most) * 1e3) / 1e3)
        return fitted(replace(variant, carriers=tuple(moved if c.id == carrier_id else c for c in variant.carriers)))

    label = f"hung {carrier.name} {PLACES[place]}" if place != carrier.place else f"shifted {carrier.name}"
    return change_variant(workspace, opened.id, variant_id, revision=revision, label=label, change=change)


def mount_carrier(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, carrier_id: str
) -> OpenPlan:
    """Mount a carrier, or take it off; what was in it lies on the floor then."""
    variant = opened.plan.variant(variant_id)
    name = place_name(variant, carrier_id)
    mounted = carrier_named(variant, carrier_id).mounted

    def change(current: Variant) -> Variant:
        carriers = tuple(
            replace(entry, mounted=not entry.mounted) if entry.id == carrier_id else entry for entry in current.carriers
        )
        emptied = current.places if not mounted else _emptied(current, carrier_id)
        return fitted(replace(current, carriers=carriers, places=emptied))

    label = f"{'took off' if mounted else 'mounted'} {name}"
    return change_variant(workspace, opened.id, variant_id, revision=revision, label=label, change=change)


def _emptied(variant: Variant, carrier_id: str) -> dict[str, str]:
    return {key: place for key, place in variant.places.items() if place != carrier_id}


def drop_carrier(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, carrier_id: str
) -> OpenPlan:
    """Take a carrier out of the rig for good; what was in it lies on the floor then."""
    name = carrier_named(opened.plan.variant(variant_id), carrier_id).name

    def change(variant: Variant) -> Variant:
        kept = tuple(carrier for carrier in variant.carriers if carrier.id != carrier_id)
        return fitted(replace(variant, carriers=kept, places=_emptied(variant, carrier_id)))

    return change_variant(
        workspace, opened.id, variant_id, revision=revision, label=f"removed {name} from the rig", change=change
    )


_SEVERAL = {"mount": "mounted", "off": "took off", "copy": "copied", "remove": "removed"}


def change_carriers(
    workspace: Workspace,
    opened: OpenPlan,
    variant_id: str,
    *,
    revision: int,
    carrier_ids: tuple[str, ...],
    how: str,
) -> OpenPlan:
    """Mount, take off, copy or remove several carriers in one step; what was in those lies on the floor then."""
    if how not in _SEVERAL:
        raise InvalidInput("Choose what to do with the carriers: mount, take off, copy or remove.", subject="how")
    if not carrier_ids:
        raise InvalidInput("No carrier is ticked. Tick those that are meant.", subject="carrier")
    names = [carrier_named(opened.plan.variant(variant_id), key).name for key in carrier_ids]
    chosen = frozenset(carrier_ids)

    def change(variant: Variant) -> Variant:
        if how == "copy":
            taken = _taken(variant)
            found = [entry for entry in variant.carriers if entry.id in chosen]
            return _with_more(variant, tuple(replace(c, id=item_id(c.name, taken), mounted=False) for c in found))
        if how == "mount":
            carriers = tuple(replace(c, mounted=True) if c.id in chosen else c for c in variant.carriers)
            return fitted(replace(variant, carriers=carriers))
        places = {key: place for key, place in variant.places.items() if place not in chosen}
        carriers = tuple(
            replace(c, mounted=False) if c.id in chosen else c
            for c in variant.carriers
            if how == "off" or c.id not in chosen
        )
        return fitted(replace(variant, carriers=carriers, places=places))

    label = f"{_SEVERAL[how]} {names[0] if len(names) == 1 else f'{len(names)} carriers'}"
    return change_variant(workspace, opened.id, variant_id, revision=revision, label=label, change=change)
