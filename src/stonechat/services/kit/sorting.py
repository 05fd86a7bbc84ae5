"""Where the things of a table go: the bags it names are found on the bike, or made."""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.bags import BagWord, bag_of, carrier_for
from stonechat.core.kit.lexicon.kinds import KINDS as THINGS
from stonechat.core.load.problem import why_not
from stonechat.core.plan.plan import Variant
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.catalogue import KINDS
from stonechat.services.rig import hung_kind
from stonechat.services.variant import fitted

MAKE = "make"  # chosen for a bag that is to be made


@dataclass(frozen=True, kw_only=True)
class NamedBag:
    """A bag that a table names."""

    words: str
    things: int  # that it holds
    choice: str  # a carrier of the rig, MAKE, or empty for no place
    makes: str  # key of the catalogue's kind that may be made; empty: not known what it is
    make_name: str


def named_bags(places: Mapping[str, str], variant: Variant, chosen: Mapping[str, str]) -> tuple[NamedBag, ...]:
    """Return the bags that a table names, each with the carrier that was chosen or that it most likely is."""
    found = []
    for words, things in Counter(places.values()).items():
        carrier, bag = carrier_for(words, variant.carriers), bag_of(words)
        makes = bag.make if isinstance(bag, BagWord) else ""
        found.append(
            NamedBag(
                words=words,
                things=things,
                choice=chosen.get(words, carrier.id if carrier else MAKE if makes else ""),
                makes=makes,
                make_name=KINDS[makes].name if makes else "",
            )
        )
    return tuple(found)


@dataclass(frozen=True, kw_only=True)
class ListedBag:
    """A bag that stands in a table among the things: its mass belongs to a carrier."""

    item: Item
    carrier: str  # whose mass it becomes; empty where one is made
    make_name: str  # what is made; empty where none is known, and it comes in as a thing


def listed_bags(bags: Iterable[Item], variant: Variant) -> tuple[ListedBag, ...]:
    """Return what becomes of each bag of a table."""
    found = []
    for item in bags:
        carrier, bag = _carrier_of(item, variant), bag_of(item.name)
        makes = bag.make if isinstance(bag, BagWord) else ""
        found.append(
            ListedBag(
                item=item,
                carrier=carrier.name if carrier else "",
                make_name=KINDS[makes].name if makes and not carrier else "",
            )
        )
    return tuple(found)


def _carrier_of(item: Item, variant: Variant) -> Carrier | None:
    return carrier_for(item.name, variant.carriers) or carrier_for(THINGS[item.kind].title, variant.carriers)


def with_bags(variant: Variant, bags: Iterable[Item]) -> tuple[Variant, tuple[Item, ...]]:
    """Return a variant whose carriers have the masses of the bags of a table, and the bags that are no carrier."""
    left = []
    for item in bags:
        carrier, bag = _carrier_of(item, variant), bag_of(item.name)
        if carrier is None and isinstance(bag, BagWord):
            variant = hung_kind(variant, bag.make)
            carrier = _carrier_of(item, variant)
        if carrier is None:
            left.append(item)
        else:
            variant = _with_mass(variant, carrier, item)
    return fitted(variant), tuple(left)


def _with_mass(variant: Variant, carrier: Carrier, bag: Item) -> Variant:
    """Return a variant whose carrier has the mass of a bag; of several bags each of its kind has."""
    same = [c for c in variant.carriers if c.kind == carrier.kind and c.place == carrier.place and c.mounted]
    chosen = {c.id for c in (same if bag.quantity > 1 else [carrier])}
    carriers = tuple(replace(c, mass=bag.mass) if c.id in chosen else c for c in variant.carriers)
    return replace(variant, carriers=carriers)


def sorted_into(
    variant: Variant,
    items: Iterable[Item],
    places: Mapping[str, str],
    chosen: Mapping[str, str],
    *,
    hung: frozenset[str] = frozenset(),
) -> tuple[Variant, tuple[str, ...]]:
    """Return a variant with things in the bags that a table names, and the names of those that do not go in.

    `chosen` is by the table's words: a carrier, `MAKE`, or empty for no place; others are found by their words, or
    made. `hung` are carriers that the same table has brought already: those need not be made again.
    """
    variant, targets = _with_targets(variant, named_bags(places, variant, chosen), hung)
    by_id = {carrier.id: carrier for carrier in variant.carriers if carrier.mounted}
    put, refused = dict(variant.places), []
    for item in items:
        carrier = by_id.get(targets.get(places.get(item.id, ""), ""))
        if carrier is None or not item.packed or item.container:
            continue
        refusal = why_not(item, carrier)
        if refusal is not None and refusal.is_hard:
            refused.append(f"{item.name} ({carrier.name}: {refusal.words})")
        else:
            put[item.id] = carrier.id
    return fitted(replace(variant, places=put)), tuple(refused)


def _with_targets(variant: Variant, bags: Iterable[NamedBag], hung: frozenset[str]) -> tuple[Variant, dict[str, str]]:
    """Return a variant with the bags that are to be made, and by the table's words which carrier each is."""
    targets: dict[str, str] = {}
    for named in bags:
        targets[named.words], bag = named.choice, bag_of(named.words)
        if named.choice != MAKE or not isinstance(bag, BagWord):
            continue
        found = carrier_for(named.words, (c for c in variant.carriers if c.id in hung))
        if found is None:
            before = {carrier.id for carrier in variant.carriers}
            variant = hung_kind(variant, bag.make)
            found = max((c for c in variant.carriers if c.id not in before), key=lambda carrier: carrier.capacity)
        targets[named.words] = found.id
    return variant, targets
