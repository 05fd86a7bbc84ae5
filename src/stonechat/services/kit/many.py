"""Many things at once: one field, place or pin set for all that are chosen, in one step that one undo takes back."""

from collections.abc import Callable, Collection
from dataclasses import replace
from typing import Any

from stonechat.core.kit.containers import refuse_loops
from stonechat.core.kit.item import CATEGORIES, HOME, NEEDS, Carried, Item
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.rig.carrier import ACCESS_NAMES, ACCESS_RANK
from stonechat.core.rig.spots import SPOTS
from stonechat.errors import InvalidInput
from stonechat.formats.documents.kit import with_kind
from stonechat.formats.kit_fields import KNOWN
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.kit.things import without_items
from stonechat.services.load.moving import carry_items, move_items
from stonechat.services.variant import item_named, place_name
from stonechat.services.workspace import Workspace

MOST = 5_000
Setter = Callable[[Item], Item]
_YES_NO = {"yes": True, "no": False}
ACTIONS = {
    "kind": "what they are",
    "goes": "how they go along",
    "place": "place",
    "pin": "pinned",
    "category": "section",
    "need": "need",
    "access": "needed",
    "keep_dry": "must stay dry",
    "fragile": "fragile",
    "weighed": "weighed",
    "shared": "carried for both",
    "group": "set",
    "drop": "take them out of the kit",
}


def change_many(
    workspace: Workspace,
    opened: OpenPlan,
    variant_id: str,
    *,
    revision: int,
    items: Collection[str],
    what: str,
    to: str,
) -> OpenPlan:
    """Set one thing of all chosen; refused whole where it cannot be for one of them."""
    if what not in ACTIONS:
        raise InvalidInput("Choose what to set: " + ", ".join(ACTIONS.values()) + ".", subject="what")
    chosen = ticked_items(opened, items)
    match what:
        case "goes":
            how = {"packed": Carried.PACKED, "worn": Carried.WORN}.get(to, Carried.FIXED)
            ids = [item.id for item in chosen]
            return carry_items(workspace, opened, revision=revision, items=ids, how=how, spot=to)
        case "place":
            return _put(workspace, opened, variant_id, revision, chosen, to)
        case "pin":
            return _pin(workspace, opened, variant_id, revision, chosen, to)
        case "drop":
            return _drop(workspace, opened, revision, chosen)
    return change_each(
        workspace, opened, revision=revision, chosen=chosen, what=ACTIONS[what], setter=_setter(what, to)
    )


def ticked_items(opened: OpenPlan, items: Collection[str]) -> list[Item]:
    """Return the things that are ticked; refused where none is, or too many are."""
    if not items:
        raise InvalidInput("No thing is ticked. Tick those that are meant.", subject="item")
    if len(items) > MOST:
        raise InvalidInput(f"At most {MOST:,} things at once.", subject="item")
    return [item_named(opened.plan, item) for item in dict.fromkeys(items)]


def change_each(
    workspace: Workspace, opened: OpenPlan, *, revision: int, chosen: list[Item], what: str, setter: Setter
) -> OpenPlan:
    """Change each of the chosen things, in one step; nothing changes where the setter refuses one of them."""
    ids = {item.id for item in chosen}

    def change(plan: Plan) -> Plan:
        items = tuple(setter(item) if item.id in ids else item for item in plan.items)
        refuse_loops(items)
        return replace(plan, items=items)

    label = f"set {what} of {_counted(chosen)}"
    return change_plan(workspace, opened.id, revision=revision, label=label[:80], change=change)


def _drop(workspace: Workspace, opened: OpenPlan, revision: int, chosen: list[Item]) -> OpenPlan:
    ids = [item.id for item in chosen]
    label = f"took {_counted(chosen)} out of the kit"
    return change_plan(
        workspace, opened.id, revision=revision, label=label, change=lambda plan: without_items(plan, ids)
    )


def _counted(items: list[Item]) -> str:
    return items[0].name if len(items) == 1 else f"{len(items)} things"


def _setter(what: str, to: str) -> Setter:
    """Return how one thing changes; refused where the value is none of its list."""
    plain = to.strip().lower()
    known = {
        "kind": KNOWN["kind_of_thing"],
        "category": dict.fromkeys(CATEGORIES),
        "need": dict.fromkeys(NEEDS),
        "access": dict.fromkeys(ACCESS_RANK),
        "keep_dry": _YES_NO,
        "fragile": _YES_NO,
        "weighed": _YES_NO,
        "shared": _YES_NO,
    }.get(what)
    if known is not None and plain not in known:
        raise InvalidInput(f"“{to[:40]}” is not one of the choices for {ACTIONS[what]}. Choose one.", subject="to")
    if what == "kind":
        kind = KNOWN["kind_of_thing"][plain]
        return lambda item: with_kind(item, kind)
    if what == "group":
        return lambda item: replace(item, group=to.strip()[:60])
    value: Any = _YES_NO[plain] if known is _YES_NO else plain
    return lambda item: replace(item, **{what: value})


def _put(
    workspace: Workspace, opened: OpenPlan, variant_id: str, revision: int, chosen: list[Item], to: str
) -> OpenPlan:
    outside = [item.name for item in chosen if not item.packed and to not in (HOME, "")]
    if outside:
        raise InvalidInput(
            f"{', '.join(outside[:4])} {'goes' if len(outside) == 1 else 'go'} along worn or fixed and wants no bag. "
            "Say first that it is packed.",
            subject="to",
        )
    name = place_name(opened.plan.variant(variant_id), to) if to else "no place"
    places = {item.id: to for item in chosen if not item.container}
    label = f"{_counted(chosen)} to {name}"[:80]
    return move_items(workspace, opened, variant_id, revision=revision, places=places, label=label)


def _pin(
    workspace: Workspace, opened: OpenPlan, variant_id: str, revision: int, chosen: list[Item], to: str
) -> OpenPlan:
    ids = frozenset(item.id for item in chosen if item.packed)

    def change(plan: Plan) -> Plan:
        def one(variant: Variant) -> Variant:
            if variant.id != variant_id:
                return variant
            return replace(variant, pins=variant.pins | ids if to == "yes" else variant.pins - ids)

        return replace(plan, variants=tuple(map(one, plan.variants)))

    label = f"{'pinned' if to == 'yes' else 'let go'} {_counted(chosen)}"
    return change_plan(workspace, opened.id, revision=revision, label=label, change=change)


def choices(variant: Variant) -> dict[str, tuple[tuple[str, str], ...]]:
    """Return what each action may be set to: key and name."""
    yes_no = (("yes", "yes"), ("no", "no"))
    return {
        "place": (
            *((c.id, c.name) for c in variant.bags),
            (HOME, "left at home"),
            ("", "no place"),
        ),
        "goes": (("packed", "in a bag"), ("worn", "worn"), *((key, spot.name) for key, spot in SPOTS.items())),
        "category": tuple((key, name) for key, (name, _) in CATEGORIES.items()),
        "need": tuple(NEEDS.items()),
        "access": tuple(ACCESS_NAMES.items()),
        "keep_dry": yes_no,
        "fragile": yes_no,
        "weighed": yes_no,
        "shared": yes_no,
    }
