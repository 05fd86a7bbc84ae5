"""Pouches and dry bags that hold other things: what is inside goes where they go, and stays dry in a dry bag."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any

from stonechat.core.kit.item import HOME, Item, Reaches
from stonechat.core.rig.carrier import ACCESS_RANK, Carrier
from stonechat.errors import InvalidInput


def holder_of(item: Item, by_id: Mapping[str, Item]) -> Item | None:
    """Return the thing that holds another, if it is there and holds things; what is worn or fixed is in nothing.

    Parameters
    ----------
    item : Item
        The thing.
    by_id : mapping of str to Item
        All that go along.

    Returns
    -------
    holder : Item or None
        Its pouch or dry bag.

    Examples
    --------
    >>> holder_of(Item(id="a", name="a", mass=0.1, volume=0.0, container="gone"), {}) is None
    True
    """
    holder = by_id.get(item.container) if item.container and item.packed else None
    return holder if holder is not None and holder.holds else None


def resolved_places(items: tuple[Item, ...], places: Mapping[str, str]) -> dict[str, str]:
    """Return where each thing is, what is inside a pouch being where the pouch is; what is worn or fixed is in none.

    Parameters
    ----------
    items : tuple of Item
        All that go along.
    places : mapping of str to str
        Carrier of each thing as set.

    Returns
    -------
    places : dict of str to str
        Carrier of each thing.

    Examples
    --------
    >>> from stonechat.core.kit.item import Pouch
    >>> pouch = Item(id="p", name="pouch", mass=0.02, volume=0.0, pouch=Pouch())
    >>> brush = Item(id="b", name="brush", mass=0.02, volume=0.0, container="p")
    >>> resolved_places((pouch, brush), {"p": "seat", "b": "bar"})["b"]
    'seat'
    """
    by_id = {item.id: item for item in items}
    found = dict(places)
    for item in items:
        holder = holder_of(item, by_id)
        if holder is not None:
            found[item.id] = places.get(holder.id, "")
    loose = {item.id for item in items if not item.packed}  # wants no place, but may be left at home
    return {key: place for key, place in found.items() if place == HOME or (place and key not in loose)}


def lined_things(items: tuple[Item, ...], places: Mapping[str, str], carriers: tuple[Carrier, ...]) -> frozenset[str]:
    """Return the things that an empty dry bag keeps dry in a carrier that lets rain in.

    Parameters
    ----------
    items : tuple of Item
        All that go along.
    places : mapping of str to str
        Carrier of each thing.
    carriers : tuple of Carrier
        Those mounted.

    Returns
    -------
    things : frozenset of str
        Their ids; none in a carrier where they take more room than the dry bags there have.

    Examples
    --------
    >>> from stonechat.core.kit.item import Pouch
    >>> cage = Carrier(id="c", name="c", place="fork", capacity=0.003, load_limit=1, mass=0, longest=1, dryness="open")
    >>> bag = Item(id="b", name="dry bag", mass=0.04, volume=0.0, pouch=Pouch(makes_dry=True))
    >>> quilt = Item(id="q", name="quilt", mass=0.5, volume=0.002, keep_dry=True)
    >>> lined_things((bag, quilt), {"b": "c", "q": "c"}, (cage,))
    frozenset({'q'})
    """
    by_id = {item.id: item for item in items}
    holders = {holder.id for item in items if (holder := holder_of(item, by_id)) is not None}
    found = frozenset[str]()
    for carrier in carriers:
        if not carrier.dry:
            here = tuple(item for item in items if places.get(item.id) == carrier.id)
            found |= _lined_in(carrier, here, holders)
    return found


def _lined_in(carrier: Carrier, here: tuple[Item, ...], holders: set[str]) -> frozenset[str]:
    """Return what empty dry bags keep dry in one carrier; none where it takes more room than they have."""
    rooms = [item.room or carrier.capacity for item in here if item.makes_dry and item.id not in holders]
    wet = {item.id: item.total_volume for item in sheltered(here) if item.keep_dry}
    holds = bool(rooms) and sum(wet.values()) <= sum(rooms) + 1e-9
    return frozenset(wet) if holds else frozenset()


def sheltered(items: tuple[Item, ...]) -> tuple[Item, ...]:
    """Return the things as they ride: what is in a dry bag need not be kept dry again, nor part from a leak outside.

    Parameters
    ----------
    items : tuple of Item
        All that go along.

    Returns
    -------
    items : tuple of Item
        In the same order.

    Examples
    --------
    >>> from stonechat.core.kit.item import Pouch
    >>> bag = Item(id="d", name="dry bag", mass=0.03, volume=0.0, pouch=Pouch(makes_dry=True))
    >>> down = Item(id="q", name="quilt", mass=0.5, volume=0.004, keep_dry=True, container="d")
    >>> sheltered((bag, down))[1].keep_dry
    False
    """
    by_id = {item.id: item for item in items}

    def one(item: Item) -> Item:
        holder = holder_of(item, by_id)
        if holder is None or not holder.makes_dry:
            return item
        return replace(item, keep_dry=False, leaks=False, spoils=False)

    return tuple(one(item) for item in items)


def units_to_pack(items: tuple[Item, ...]) -> tuple[Item, ...]:
    """Return what is packed as one: things by themselves, and each pouch with what it holds; nothing worn or fixed.

    Parameters
    ----------
    items : tuple of Item
        All that go along.

    Returns
    -------
    units : tuple of Item
        A pouch stands for its contents: masses, volumes and reaches add, the longest side and the easiest access
        asked for count; what it holds is dry in a dry bag.

    Examples
    --------
    >>> from stonechat.core.kit.item import Pouch
    >>> pouch = Item(id="p", name="pouch", mass=0.02, volume=0.0001, pouch=Pouch())
    >>> brush = Item(id="b", name="brush", mass=0.03, volume=0.0002, container="p")
    >>> [(unit.id, round(unit.total_mass, 3)) for unit in units_to_pack((pouch, brush))]
    [('p', 0.05)]
    """
    by_id = {item.id: item for item in items}
    inside: dict[str, list[Item]] = {}
    for item in sheltered(items):
        holder = holder_of(item, by_id)
        if holder is not None:
            inside.setdefault(holder.id, []).append(item)
    held = {item.id for group in inside.values() for item in group}
    return tuple(_with_contents(item, inside.get(item.id, [])) for item in items if item.packed and item.id not in held)


def jobs_outside(items: Iterable[Item]) -> frozenset[str]:
    """Return the jobs that are done by what is worn or fixed, and so in no bag.

    Parameters
    ----------
    items : iterable of Item
        All that go along.

    Returns
    -------
    jobs : frozenset of str
        Keys of JOBS.

    Examples
    --------
    >>> lamp = Item(id="l", name="lamp", mass=0.1, volume=0.0, fixed="bars", roles=frozenset({"front_light"}))
    >>> sorted(jobs_outside((lamp,)))
    ['front_light']
    """
    return frozenset().union(*(item.roles for item in items if not item.packed))


def contents_of(items: tuple[Item, ...]) -> dict[str, tuple[Item, ...]]:
    """Return each pouch's own self and what it holds, for pouches that hold something.

    Parameters
    ----------
    items : tuple of Item
        All that go along.

    Returns
    -------
    contents : dict of str to tuple of Item
        By the pouch's id; the pouch comes first.

    Examples
    --------
    >>> contents_of((Item(id="a", name="a", mass=0.1, volume=0.0),))
    {}
    """
    by_id = {item.id: item for item in items}
    found: dict[str, tuple[Item, ...]] = {}
    for item in sheltered(items):
        holder = holder_of(item, by_id)
        if holder is not None:
            found[holder.id] = (*found.get(holder.id, (holder,)), item)
    return found


def _marks_of(items: list[Item]) -> dict[str, Any]:
    """Return what is true of things together because it is of one of them."""
    return {key: any(getattr(item, key) for item in items) for key in ("keep_dry", "fragile", "leaks", "spoils")}


def _with_contents(holder: Item, inside: list[Item]) -> Item:
    if not inside:
        return holder
    everything = [holder, *inside]
    wanted = [item.access for item in everything if item.reaches.per_day > 0.0] or [holder.access]
    return replace(
        holder,
        mass=sum(item.total_mass for item in everything),
        content=0.0,
        left=1.0,
        volume=sum(item.total_volume for item in everything),
        quantity=1,
        length=max(item.length for item in everything),
        width=max(item.width for item in everything),
        **_marks_of(everything),
        access=min(wanted, key=lambda access: ACCESS_RANK[access]),
        reaches=Reaches.sum(item.reaches for item in everything),
    )


def refuse_loops(items: tuple[Item, ...]) -> None:
    """Refuse a pouch in itself, in another pouch, or a thing in what holds nothing.

    Parameters
    ----------
    items : tuple of Item
        The kit.

    Raises
    ------
    InvalidInput
        With the thing and what to do.

    Examples
    --------
    >>> refuse_loops((Item(id="a", name="a", mass=0.1, volume=0.0),))
    """
    by_id = {item.id: item for item in items}
    for item in items:
        if not item.container:
            continue
        holder = by_id.get(item.container)
        if holder is None:
            continue
        if holder.id == item.id:
            raise InvalidInput(f"{item.name} cannot be inside itself. Choose another pouch.", subject="container")
        if not holder.holds:
            raise InvalidInput(
                f"{holder.name} holds nothing. Tick “holds other things” there first.", subject="container"
            )
        if item.holds:
            raise InvalidInput(
                f"{item.name} holds things itself; pouches do not go into pouches here.", subject="container"
            )
