"""What mends a finding of the loaded ride: every way by name, and the plan with it done."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from stonechat.core.diary.shakedown import ASKS, REMEDIES, Shaken
from stonechat.core.kit.containers import units_to_pack
from stonechat.core.kit.item import HOME, Item
from stonechat.core.load.problem import why_not
from stonechat.core.plan.evaluate import with_places
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.catalogue import places_for, uses_at
from stonechat.core.rig.fitting import fit_rig
from stonechat.core.rig.places import PLACES
from stonechat.errors import InvalidInput

_STRAP = 0.025  # kg of one more strap with its buckle (estimate)
_STEADIER = 0.5  # 1, what a strap adds to how still a carrier sits, on the scale from 1 to 3 (estimate)
_BY_HAND = {  # words where nothing that is possible can be named
    "place": "another place, found by hand", "thing": "another thing, brought into the kit first",
}  # fmt: skip
_MOST_CHOICES = 12  # things at home that are offered in place of one


@dataclass(frozen=True, kw_only=True)
class Choice:
    """One way to mend a finding."""

    remedy: str  # key of REMEDIES
    to: str = ""  # carrier, place on the bike or thing that it names
    words: str

    @property
    def key(self) -> str:
        """What a form sends."""
        return f"{self.remedy}:{self.to}"


def choices_for(plan: Plan, variant: Variant, one: Shaken) -> tuple[Choice, ...]:
    """Return what can be done about a finding.

    Parameters
    ----------
    plan : Plan
        For the kit.
    variant : Variant
        For rig and load.
    one : Shaken
        The finding.

    Returns
    -------
    choices : tuple of Choice
        What its trouble asks for first; places and things that are possible by name.
    """
    found: list[Choice] = []
    for remedy in dict.fromkeys((*ASKS[one.trouble], *REMEDIES)):
        if remedy == "order" and not _is_in_bag(variant, one.about):
            continue
        named = _named(plan, variant, one, remedy)
        found += [Choice(remedy=remedy, to=to, words=f"{REMEDIES[remedy]}: {words}") for to, words in named]
        if not named:
            found.append(Choice(remedy=remedy, words=_BY_HAND.get(remedy, REMEDIES[remedy])))
    return tuple(found)


def _named(plan: Plan, variant: Variant, one: Shaken, remedy: str) -> list[tuple[str, str]]:
    """Return the places and things that a remedy may mean, by id and name."""
    item, carrier = _item(plan, one.about), _carrier(variant, one.about)
    if remedy == "place" and carrier is not None:
        return [(place, PLACES[place]) for place in places_for(carrier) if place != carrier.place]
    if remedy == "place" and item is not None:
        bags = [bag for bag in variant.bags if bag.id != variant.places.get(item.id)]
        return [(bag.id, bag.name) for bag in bags if _goes_into(plan, item, bag)]
    if remedy == "thing" and carrier is not None:
        off = [c for c in variant.carriers if not c.mounted and carrier.place in places_for(c)]
        return [(other.id, other.name) for other in off]
    if remedy == "thing" and item is not None:
        return [(other.id, other.name) for other in _in_its_place(plan, variant, item)][:_MOST_CHOICES]
    return []


def _in_its_place(plan: Plan, variant: Variant, item: Item) -> list[Item]:
    """Return things at home that do a job of this one, those of its kind first."""
    home = [other for other in plan.items if variant.places.get(other.id) == HOME and other.id != item.id]
    same = [other for other in home if (item.kind and other.kind == item.kind) or other.roles & item.roles]
    return sorted(same, key=lambda other: (other.kind != item.kind, other.name.lower()))


def _goes_into(plan: Plan, item: Item, bag: Carrier) -> bool:
    whole = next((unit for unit in units_to_pack(plan.items) if unit.id == item.id), None)
    refusal = why_not(whole, bag) if whole is not None else None
    return whole is not None and bag.mounted and (refusal is None or not refusal.is_hard)


def _item(plan: Plan, about: str) -> Item | None:
    return next((item for item in plan.items if item.id == about), None)


def _carrier(variant: Variant, about: str) -> Carrier | None:
    return next((carrier for carrier in variant.carriers if carrier.id == about), None)


def _is_in_bag(variant: Variant, about: str) -> bool:
    return any(carrier.id == variant.places.get(about) for carrier in variant.bags)


_Doing = Callable[[Plan, Variant, str, str], tuple[Variant, str]]


def mended(plan: Plan, variant: Variant, one: Shaken) -> tuple[Variant, str]:
    """Return a variant in which a finding is mended as it says.

    Parameters
    ----------
    plan : Plan
        For the kit.
    variant : Variant
        The variant that was ridden.
    one : Shaken
        The finding, with its remedy and what that means.

    Returns
    -------
    changed : Variant
        The same variant where the remedy is work on the bike that no figure of the plan knows.
    words : str
        What was changed, as a sentence; empty where nothing was.

    Raises
    ------
    InvalidInput
        If the remedy names what is not possible.
    """
    doing = _DOING.get(one.remedy)
    if doing is None or not one.about or (one.remedy in ("place", "thing") and not one.to):
        return variant, ""
    possible = {(choice.remedy, choice.to) for choice in choices_for(plan, variant, one)}
    if (one.remedy, one.to) not in possible:
        raise InvalidInput("That is not possible: the rig or the kit has changed. Choose again.", subject="remedy")
    return doing(plan, variant, one.about, one.to)


def _to_the_mouth(plan: Plan, variant: Variant, about: str, _to: str) -> tuple[Variant, str]:
    bag = variant.places[about]
    inside = [item.id for item in plan.items if variant.places.get(item.id) == bag and not item.container]
    listed = [*variant.orders.get(bag, ()), *inside]
    order = tuple(dict.fromkeys((about, *(key for key in listed if key in inside))))
    return (
        replace(variant, orders={**variant.orders, bag: order}),
        f"{name_of(plan, variant, about)} is at the mouth of {name_of(plan, variant, bag)} now.",
    )


def _elsewhere(plan: Plan, variant: Variant, about: str, to: str) -> tuple[Variant, str]:
    name = name_of(plan, variant, about)
    carrier = _carrier(variant, about)
    if carrier is None:
        moved = replace(with_places(variant, {about: to}), pins=variant.pins - {about})
        return moved, f"{name} rides in {name_of(plan, variant, to)} now."
    hung = replace(carrier, place=to, uses=uses_at(carrier, to), shift=0.0)
    return _with_carrier(variant, hung), f"{name} hangs {PLACES[to]} now."


def _another(plan: Plan, variant: Variant, about: str, to: str) -> tuple[Variant, str]:
    words = f"{name_of(plan, variant, to)} goes along in place of {name_of(plan, variant, about)}."
    carrier, other = _carrier(variant, about), _carrier(variant, to)
    if carrier is None or other is None:
        places = {key: place for key, place in variant.places.items() if key != to}
        place = places.get(about)
        swapped = {**places, about: HOME, **({to: place} if place else {})}
        return replace(variant, places=swapped, pins=variant.pins - {about, to}), words
    mounted = replace(other, mounted=True, place=carrier.place, side=carrier.side, uses=uses_at(other, carrier.place))
    off = _with_carrier(_with_carrier(variant, replace(carrier, mounted=False)), mounted)
    inside = {key: to for key, place in variant.places.items() if place == about and _goes_into(
        plan, next(item for item in plan.items if item.id == key), mounted)}  # fmt: skip
    left = [key for key, place in variant.places.items() if place == about and key not in inside]
    moved = replace(off, places={key: place for key, place in {**off.places, **inside}.items() if key not in left})
    return moved, words + (f" {len(left)} things do not go into it and lie on the floor." if left else "")


def _strapped(plan: Plan, variant: Variant, about: str, _to: str) -> tuple[Variant, str]:
    carrier = _carrier(variant, about)
    if carrier is None:
        return variant, ""
    by = carrier.steadied_by or "straps"
    steadied = replace(
        carrier,
        mass=carrier.mass + _STRAP,
        steadiness=min(3.0, carrier.steadiness + _STEADIER),
        steadied_by=by if "one more" in by else f"{by} and one more strap"[:80],
    )
    words = f"{carrier.name} is held by one more strap: {1e3 * _STRAP:.0f} g are reckoned for it; weigh it."
    return _with_carrier(variant, steadied), words


def _with_carrier(variant: Variant, changed: Carrier) -> Variant:
    return _fitted(replace(variant, carriers=tuple(changed if c.id == changed.id else c for c in variant.carriers)))


_DOING: dict[str, _Doing] = {
    "order": _to_the_mouth, "place": _elsewhere, "thing": _another, "strap": _strapped,
}  # fmt: skip


def _fitted(variant: Variant) -> Variant:
    return replace(variant, carriers=fit_rig(variant.bike, variant.carriers, variant.rider.position))


def name_of(plan: Plan, variant: Variant, about: str) -> str:
    """Return what a finding is about, by name.

    Parameters
    ----------
    plan : Plan
        For the kit.
    variant : Variant
        For the rig.
    about : str
        Id of a thing or a carrier; empty: neither.

    Returns
    -------
    name : str
        The id itself where what it was is gone.
    """
    names = {carrier.id: carrier.name for carrier in variant.carriers} | {item.id: item.name for item in plan.items}
    return names.get(about, about or "the bike or the body")
