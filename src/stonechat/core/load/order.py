"""What lies above what inside a bag: by reaches and by camp order, with the digging that an order costs."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from stonechat.core.kit.item import Item
from stonechat.core.kit.reach import Often, reaches_a_day
from stonechat.core.load.together.places import HARD, SOFT
from stonechat.core.rig.carrier import Carrier

DIGGING = 4.0  # s for each litre that lies above what is wanted, out and back in (estimate; 2 to 8)
CAMP_ORDER = ("shelter", "ground", "sleep_warm")  # what comes out first, by its job
FIRST_ANSWER = "plug"  # job of what lies at the mouth whatever its reaches say: air leaks while you dig
GAP_FILLER = 6e-5  # m³, a thing up to this size finds room between the others (estimate)
WRAPS = 3.0  # times its own volume that a soft thing takes to wrap a fragile one (estimate)


@dataclass(frozen=True, kw_only=True)
class Slot:
    """One thing in a bag, counted from its mouth."""

    item: Item
    reaches: float  # a day
    above: float  # m³ that lie above it
    end: int  # mouth that it comes out of: 0, or 1 for the other end of a roll


@dataclass(frozen=True, kw_only=True)
class BagOrder:
    """The order inside one bag."""

    carrier: Carrier
    slots: tuple[Slot, ...]  # from each mouth inwards
    digging: float  # min over the race
    best: float  # min over the race in the best order
    is_own: bool  # whether the rider has set it

    @property
    def sentences(self) -> tuple[str, ...]:
        """What to wrap in what, and what goes into gaps."""
        return (*_wrapped([slot.item for slot in self.slots]), *_in_gaps(self.carrier, self.slots))


def bag_order(
    carrier: Carrier, items: Sequence[Item], *, often: Often, days: float, own: Sequence[str] = ()
) -> BagOrder:
    """Return the order inside a bag: the rider's own where there is one, else the one with the least digging.

    Parameters
    ----------
    carrier : Carrier
        The bag; a roll under the bars has a mouth at each end.
    items : sequence of Item
        What is in it.
    often : Often
        How often the days are wet, cold and so on.
    days : float
        Of the race.
    own : sequence of str
        Ids from the mouth inwards, as the rider set them; what is new lies on top.

    Returns
    -------
    order : BagOrder
        Slots and digging. [min]

    Notes
    -----
    Digging is reaches times litres above, summed: weighted completion time on one machine, least by falling
    reaches per litre [Smith1956], and with a chain of camp things by the best-ratio prefix of the chain [Sidney1975].
    Two ends are filled in that order, each thing at the emptier end: near the best, not proven.

    Examples
    --------
    >>> from stonechat.core.kit.item import Reaches
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4)
    >>> quilt, hat = (Item(id=k, name=k, mass=0.1, volume=v, reaches=Reaches(per_day=r)) for k, v, r in
    ...               (("quilt", 0.004, 1.0), ("hat", 0.0002, 3.0)))
    >>> [slot.item.id for slot in bag_order(bag, (quilt, hat), often=Often(), days=4.0).slots]
    ['hat', 'quilt']
    """
    packed = list(items)
    ends = 2 if carrier.place == "bar" else 1
    best = _slots(_sorted(packed, often), often, ends)
    mine = [key for key in own if any(item.id == key for item in packed)]
    shown = best
    if mine:
        rank = {key: k for k, key in enumerate(mine)}
        shown = _slots(sorted(packed, key=lambda item: rank.get(item.id, -1)), often, ends)
    return BagOrder(
        carrier=carrier,
        slots=tuple(sorted(shown, key=lambda slot: (slot.end, slot.above))) if not mine else tuple(shown),
        digging=_digging(shown) * days,
        best=_digging(best) * days,
        is_own=bool(mine),
    )


def _digging(slots: Sequence[Slot]) -> float:
    """Return minutes a day."""
    return sum(slot.reaches * slot.above * 1e3 * DIGGING for slot in slots) / 60.0


def _slots(items: Sequence[Item], often: Often, ends: int) -> list[Slot]:
    depth, slots = [0.0] * ends, []
    for item in items:
        end = min(range(ends), key=depth.__getitem__)
        slots.append(Slot(item=item, reaches=reaches_a_day(item, often), above=depth[end], end=end))
        depth[end] += item.total_volume
    return slots


def _ratio(items: Sequence[Item], often: Often) -> float:
    volume = sum(item.total_volume for item in items)
    reaches = sum(reaches_a_day(item, often) for item in items)
    return reaches / volume if volume > 0.0 else math.inf if reaches > 0.0 else 0.0


def _sorted(items: Sequence[Item], often: Often) -> list[Item]:
    """Return first answers, then things by falling reaches per litre, camp things in the order they come out in."""
    first = [item for item in items if FIRST_ANSWER in item.roles]
    items = [item for item in items if FIRST_ANSWER not in item.roles]
    chain = sorted((item for item in items if _camp_rank(item) is not None), key=lambda i: (_camp_rank(i), i.id))
    blocks = [[item] for item in items if _camp_rank(item) is None] + _chain_in_blocks(chain, often)
    blocks.sort(key=lambda block: (-_ratio(block, often), sum(item.total_volume for item in block)))
    return [*first, *(item for block in blocks for item in block)]


def camp_order_kept(items: Sequence[Item]) -> bool:
    """Return whether things come out of a bag in the order in which a camp is made.

    Parameters
    ----------
    items : sequence of Item
        From the mouth inwards.

    Returns
    -------
    kept : bool
        Shelter before mat before what is slept in.

    Examples
    --------
    >>> camp_order_kept(())
    True
    """
    ranks = [rank for item in items if (rank := _camp_rank(item)) is not None]
    return ranks == sorted(ranks)


def _camp_rank(item: Item) -> int | None:
    """Return when a thing comes out at camp; None for what does not."""
    if item.access != "camp":
        return None
    return next((k for k, job in enumerate(CAMP_ORDER) if job in item.roles), None)


def _chain_in_blocks(chain: list[Item], often: Often) -> list[list[Item]]:
    """Return camp things in their order, cut after each prefix of the best ratio [Sidney1975]."""
    blocks = []
    while chain:
        cut = max(range(1, len(chain) + 1), key=lambda k: (_ratio(chain[:k], often), k))
        blocks.append(chain[:cut])
        chain = chain[cut:]
    return blocks


def _wrapped(items: Sequence[Item]) -> list[str]:
    """Say what to wrap fragile things in where hard ones ride beside them."""
    if not any(item.category in HARD and not item.fragile for item in items):
        return []
    soft = sorted((item for item in items if item.category in SOFT), key=lambda item: item.total_volume)
    pairs = ((item, _wrap_for(item, soft)) for item in items if item.fragile)
    return [f"{item.name} inside {wrap.name}" for item, wrap in pairs if wrap is not None]


def _wrap_for(item: Item, soft: Sequence[Item]) -> Item | None:
    """Return the smallest soft thing that goes round a thing."""
    return next((wrap for wrap in soft if wrap.total_volume >= WRAPS * item.total_volume), None)


def _in_gaps(carrier: Carrier, slots: Sequence[Slot]) -> list[str]:
    small = [s.item.name for s in slots if 0.0 < s.item.total_volume <= GAP_FILLER and s.reaches < 1.0]
    if len(slots) - len(small) < 2 or not small:
        return []
    return [f"{', '.join(small[:5])}{' …' if len(small) > 5 else ''} into the gaps"]


@dataclass(frozen=True, kw_only=True)
class LaySide:
    """On which side the bike is laid down, and what should not lie under it."""

    side: str  # left or right
    under: tuple[str, ...]  # fragile or leaking things in carriers of that side


def lay_side(carriers: Sequence[Carrier], held: Sequence[Sequence[Item]]) -> LaySide:
    """Return on which side the bike is laid down.

    Parameters
    ----------
    carriers : sequence of Carrier
        Those mounted.
    held : sequence of sequence of Item
        What is in each.

    Returns
    -------
    side : LaySide
        The left, derailleur and chain up, unless fragile or leaking things ride left and none right.

    Examples
    --------
    >>> lay_side((), ()).side
    'left'
    """
    delicate: dict[str, list[str]] = {"left": [], "right": [], "centre": []}
    for carrier, items in zip(carriers, held, strict=True):
        delicate[carrier.side] += [item.name for item in items if item.fragile or item.leaks]
    side = "right" if delicate["left"] and not delicate["right"] else "left"
    return LaySide(side=side, under=tuple(delicate[side]))
