"""What reaching costs, by occasions: each opens a carrier once for all that it takes there, and halts once.

Judge, ledger and prices take their minutes from here; the solver's model states the same in rows of its own.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType

from stonechat.core.kit.containers import contents_of, lined_things
from stonechat.core.kit.item import Item
from stonechat.core.kit.occasions import OCCASIONS, uses_of
from stonechat.core.kit.reach import GRIP, HALTS, HANDLING, Often, halt_level, reach_seconds
from stonechat.core.rig.carrier import Carrier

LINER_TIME = 6.0  # s to roll a dry bag open and shut inside a carrier that lets rain in (estimate)
SEARCH_TIME = 0.7  # s that each other thing in a carrier lengthens the search there (estimate)
OPENED_A_DAY = {
    "riding": 12.0,
    "foot": 6.0,
    "off": 2.0,
}  # how often a carrier is looked into, by its access (estimates)


@dataclass(frozen=True, kw_only=True)
class Placed:
    """A thing in a carrier, with what is inside it."""

    parts: tuple[Item, ...]  # a pouch first, then what is in it; else the thing alone
    carrier: Carrier
    lined: bool = False  # what must stay dry rides in a dry bag there, which is opened each time
    share: float = 1.0  # 1, share of the race on which it is aboard

    @property
    def id(self) -> str:
        """Id of the thing as it is packed."""
        return self.parts[0].id


def things_in_carriers(
    items: tuple[Item, ...],
    places: Mapping[str, str],
    carriers: Iterable[Carrier],
    *,
    spans: Mapping[str, tuple[int, int]] = MappingProxyType({}),
    legs: int = 1,
    moved: Mapping[str, Mapping[str, float]] = MappingProxyType({}),
) -> tuple[Placed, ...]:
    """Return what rides in carriers, pouches with what is in them.

    Parameters
    ----------
    items : tuple of Item
        All that go along.
    places : mapping of str to str
        Carrier of each thing.
    carriers : iterable of Carrier
        Those mounted.
    spans : mapping of str to tuple of int
        First and last leg of what is aboard on some legs only. [1]
    legs : int
        How many there are. [1]
    moved : mapping of str to mapping of str to float
        On what share of the race a thing rides in other carriers. [1]

    Returns
    -------
    placed : tuple of Placed
        What is worn, fixed or without a place is left out.

    Examples
    --------
    >>> things_in_carriers((), {}, ())
    ()
    """
    hung = tuple(carriers)
    by_id = {carrier.id: carrier for carrier in hung}
    lined, parts = lined_things(items, places, hung), contents_of(items)
    inside = {part.id for listed in parts.values() for part in listed[1:]}
    found = []
    for item in items:
        carrier = by_id.get(places.get(item.id, ""))
        if carrier is None or not item.packed or item.id in inside:
            continue
        mine = parts.get(item.id, (item,))
        first, last = spans.get(item.id, (0, legs - 1))
        is_lined = any(part.id in lined for part in mine)
        share = (last - first + 1) / legs
        elsewhere = {key: part for key, part in moved.get(item.id, {}).items() if key in by_id and part > 0.0}
        found += [Placed(parts=mine, carrier=by_id[key], share=share * part) for key, part in elsewhere.items()]
        at_home = share * (1.0 - sum(elsewhere.values()))
        if at_home > 1e-9:
            found.append(Placed(parts=mine, carrier=carrier, lined=is_lined, share=at_home))
    return tuple(found)


def opening_seconds(occasion: str, carrier: Carrier, often: Often) -> float:
    """Return what opening a carrier once takes on an occasion, halt and things apart.

    Parameters
    ----------
    occasion : str
        Key of OCCASIONS.
    carrier : Carrier
        The carrier.
    often : Often
        For gloves.

    Returns
    -------
    time : float
        Getting at it and its closure. [s]

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4,
    ...               open_time=12.0)
    >>> opening_seconds("camp", bag, Often()), opening_seconds("rain", bag, Often())
    (22.0, 18.0)
    """
    handling = HANDLING["camp"] if OCCASIONS[occasion].at_camp else HANDLING[carrier.access]
    return handling + carrier.open_time + often.gloved * carrier.gloves_time


def clutter_seconds(carrier: Carrier) -> float:
    """Return what a thing costs a day by being in the way of all else that a carrier is opened for.

    Parameters
    ----------
    carrier : Carrier
        The carrier.

    Returns
    -------
    time : float
        A day; what is looked into most is cluttered dearest. [s]

    Examples
    --------
    >>> clutter_seconds(Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4))
    1.4
    """
    return SEARCH_TIME * OPENED_A_DAY[carrier.access]


def shared_uses(parts: Sequence[Item], often: Often) -> dict[str, float]:
    """Return how often a thing is taken out on each occasion; a pouch as often as the most wanted thing in it.

    Parameters
    ----------
    parts : sequence of Item
        A pouch and what is in it, or one thing.
    often : Often
        What the days are like.

    Returns
    -------
    often : dict of str to float
        By key of OCCASIONS, what is taken out by itself left out. [1 per day]

    Examples
    --------
    >>> shared_uses((), Often())
    {}
    """
    most: dict[str, float] = {}
    for part in parts:
        for use in uses_of(part, often):
            if use.occasion:
                most[use.occasion] = max(most.get(use.occasion, 0.0), use.often)
    return most


def own_seconds(parts: Sequence[Item], carrier: Carrier, often: Often, *, lined: bool = False) -> float:
    """Return what a thing costs a day whatever else is taken out: by itself, and each grip on an occasion.

    Parameters
    ----------
    parts : sequence of Item
        A pouch and what is in it, or one thing.
    carrier : Carrier
        Where it rides.
    often : Often
        What the days are like.
    lined : bool
        What must stay dry rides in a dry bag there.

    Returns
    -------
    time : float
        A day. [s]

    Examples
    --------
    >>> own_seconds((), Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4),
    ...             Often())
    0.0
    """
    total = 0.0
    for part in parts:
        liner = LINER_TIME if lined and part.keep_dry else 0.0
        alone = reach_seconds(part.access, carrier.access, carrier.open_time) + often.gloved * carrier.gloves_time
        for use in uses_of(part, often):
            total += use.often * ((GRIP if use.occasion else alone) + liner)
    return total


def level_on(occasion: str, parts: Sequence[Item], carrier: Carrier, often: Often) -> int:
    """Return how much of a halt it takes to get a thing out on an occasion.

    Parameters
    ----------
    occasion : str
        Key of OCCASIONS.
    parts : sequence of Item
        A pouch and what is in it, or one thing.
    carrier : Carrier
        Where it rides.
    often : Often
        What the days are like.

    Returns
    -------
    level : int
        0 none, 1 a foot down, 2 off the bike. [1]

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4)
    >>> level_on("rain", (), bag, Often())
    0
    """
    if OCCASIONS[occasion].at_camp:
        return 0
    taken = [part for part in parts if any(use.occasion == occasion for use in uses_of(part, often))]
    return max((halt_level(part.access, carrier.access) for part in taken), default=0)


def reaching_seconds(placed: Iterable[Placed], often: Often) -> dict[str, float]:
    """Return what reaching costs a day, by occasion.

    Parameters
    ----------
    placed : iterable of Placed
        All things that ride in carriers.
    often : Often
        What the days are like.

    Returns
    -------
    seconds : dict of str to float
        By key of OCCASIONS: halts and openings. Under the empty key what things cost by themselves, and grips. [s]

    Notes
    -----
    An occasion is as frequent in a carrier as the thing there that it takes most often; so are its halts.

    Examples
    --------
    >>> reaching_seconds((), Often())
    {'': 0.0}
    """
    listed = list(placed)
    own = (
        (p.share, own_seconds(p.parts, p.carrier, often, lined=p.lined) + clutter_seconds(p.carrier)) for p in listed
    )
    found = {"": sum((share * seconds for share, seconds in own), 0.0)}
    return found | {key: _occasion_seconds(key, things, often) for key, things in _by_occasion(listed, often).items()}


def _occasion_seconds(key: str, things: Iterable[tuple[Placed, float]], often: Often) -> float:
    """Return what halts and openings of an occasion take a day. [s]"""
    openings: dict[str, tuple[float, Carrier]] = {}
    halts = [0.0] * len(HALTS)
    for entry, times in things:
        before = openings.get(entry.carrier.id, (0.0, entry.carrier))[0]
        openings[entry.carrier.id] = (max(before, times), entry.carrier)
        for level in range(level_on(key, entry.parts, entry.carrier, often)):
            halts[level] = max(halts[level], times)
    opening = sum(times * opening_seconds(key, carrier, often) for times, carrier in openings.values())
    return opening + sum(times * seconds for times, seconds in zip(halts, HALTS, strict=True))


def _by_occasion(placed: Iterable[Placed], often: Often) -> dict[str, list[tuple[Placed, float]]]:
    """Return by occasion what it takes, and how often a day."""
    found: dict[str, list[tuple[Placed, float]]] = {}
    for entry in placed:
        for key, times in shared_uses(entry.parts, often).items():
            found.setdefault(key, []).append((entry, times * entry.share))
    return found


def marginal_seconds(placed: Iterable[Placed], often: Often) -> Mapping[str, float]:
    """Return what each thing adds to reaching where it rides, all others staying.

    Parameters
    ----------
    placed : iterable of Placed
        All things that ride in carriers.
    often : Often
        What the days are like.

    Returns
    -------
    seconds : mapping of str to float
        By id, things in pouches too; what others on the same occasion open anyway is not counted. [s a day]

    Examples
    --------
    >>> marginal_seconds((), Often())
    {}
    """
    listed = list(placed)
    found = {part.id: 0.0 for entry in listed for part in entry.parts}
    for entry in listed:
        for part in entry.parts:
            found[part.id] += entry.share * own_seconds((part,), entry.carrier, often, lined=entry.lined)
        found[entry.id] += entry.share * clutter_seconds(entry.carrier)
    for key, things in _by_occasion(listed, often).items():
        whole = _occasion_seconds(key, things, often)
        for entry, _ in things:
            others = [other for other in things if other[0] is not entry]
            for part in entry.parts:
                rest = _left_of(entry, part, key, often)
                found[part.id] += whole - _occasion_seconds(key, [*others, *rest], often)
    return found


def _left_of(entry: Placed, part: Item, key: str, often: Often) -> list[tuple[Placed, float]]:
    """Return a pouch without one thing, with how often an occasion takes it then; nothing where it does not."""
    rest = replace(entry, parts=tuple(other for other in entry.parts if other is not part))
    times = shared_uses(rest.parts, often).get(key, 0.0) * entry.share
    return [(rest, times)] if times else []
