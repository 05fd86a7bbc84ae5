"""What clothes and sleep kit are worth: what is lost to the cold without them, riding and asleep, on this race."""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from scipy.special import ndtr

from stonechat.core.kit.item import Item
from stonechat.core.ledger.lost import Lost
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.night.garments import GRANTED
from stonechat.core.night.ladder import COLD, Ladder
from stonechat.core.night.report import RestWarmth, Warmth, degrees
from stonechat.core.night.sleep import BAND, COLD_FROM
from stonechat.core.numerics.arrays import FloatArray

_ASLEEP = 5.0  # min lost for each K too cold and hour of rest: sleep that does not come (estimate, 2 to 15)
_ENDING = 0.2  # 1, chance that a rest far below the limit ends the race (estimate)
_WORDED = 0.5  # K from which a difference is worth a sentence


@dataclass(frozen=True, kw_only=True)
class WarmWorth:
    """What pieces are worth by what they keep warm."""

    ladder: Ladder
    rests: tuple[RestWarmth, ...]  # those that are not in beds
    what: str = "warmth"
    known: dict[frozenset[str], Lost] = field(default_factory=dict)

    def judges(self, item: Item) -> bool:
        """Tell whether a thing's warmth is judged here."""
        return item.id in self.mine

    @cached_property
    def mine(self) -> frozenset[str]:
        """Ids of what is worn or slept in."""
        worn = {garment.id for garment in self.ladder.garments}
        return frozenset(worn.union(*(rest.bedding.ids for rest in self.rests)))

    def loss(self, items: Iterable[Item]) -> Lost:
        """Return what is lost to the cold in some things."""
        listed = {item.id: item for item in items}
        mine = frozenset(key for key, item in listed.items() if self.judges(item))
        if mine not in self.known:
            gone = frozenset(garment.id for garment in self.ladder.garments if garment not in GRANTED) - mine
            riding = self._riding(gone)
            nights = [self._asleep(rest, mine) for rest in self.rests]
            safe = float(np.prod([1.0 - loss.ending for loss in nights])) if nights else 1.0
            self.known[mine] = Lost(minutes=riding + sum(loss.minutes for loss in nights), ending=1.0 - safe)
        return self.known[mine]

    def worth(self, item: Item, items: Iterable[Item]) -> Lost:
        """Return what more is lost without a thing than with it."""
        listed = list(items)
        having = self.loss(listed)
        lacking = self.loss(entry for entry in listed if entry.id != item.id)
        return Lost(minutes=max(0.0, lacking.minutes - having.minutes), ending=max(0.0, lacking.ending - having.ending))

    def words(self, item: Item, items: Iterable[Item]) -> tuple[str, ...]:
        """Say where a thing's lack would be felt."""
        listed = list(items)
        left = frozenset(entry.id for entry in listed if entry.id != item.id)
        told = []
        piece = next((piece for piece in self.ladder.pieces if piece.garment.id == item.id), None)
        if piece is not None and piece.hours > 0.0:
            only = f", {piece.only:.1f} h of it the only answer" if piece.only > 0.05 else ""
            told.append(f"worn {piece.hours:.1f} h{only}")
        for rest in self.rests:
            having, lacking = (self._margin(rest, ids) for ids in (left | {item.id}, left))
            if lacking < having - _WORDED:
                told.append(
                    f"night {rest.night + 1}, down to {degrees(rest.low)}: {_spare(lacking)} without it, "
                    f"{_spare(having)} with it"
                )
        return tuple(told) or ("warm enough on this race without it",)

    def _riding(self, gone: frozenset[str]) -> float:
        hours = self.ladder.spells.lengths / 3600.0
        return sum(
            COLD * float((expected_short(zone.best_without(gone)) * hours).sum()) for zone in self.ladder.zones.values()
        )

    def _margin(self, rest: RestWarmth, left: frozenset[str]) -> float:
        there = replace(rest, items=tuple(item for item in rest.items if item.id in left))
        return rest.low - rest.least(there.bedding.system)

    def _asleep(self, rest: RestWarmth, left: frozenset[str]) -> Lost:
        margin = self._margin(rest, left)
        short = float(expected_short(np.array([margin]))[0])
        return Lost(
            minutes=_ASLEEP * short * rest.length / 3600.0,
            ending=_ENDING * float(ndtr((-margin - COLD_FROM) / BAND)),
        )


def expected_short(margins: FloatArray) -> FloatArray:
    """Return by how many kelvin it is expected to be too cold, a margin being off by BAND as often as not.

    Parameters
    ----------
    margins : ndarray
        Spare, below 0 lacking. [K]

    Returns
    -------
    short : ndarray
        Mean of what lacks of a normal spread of standard deviation BAND. [K]

    Examples
    --------
    >>> np.round(expected_short(np.array([-20.0, 0.0, 20.0])), 3)
    array([20.   ,  1.197,  0.   ])
    """
    density = BAND * np.exp(-0.5 * (margins / BAND) ** 2) / np.sqrt(2.0 * np.pi)
    return np.asarray(np.maximum(density - margins * ndtr(-margins / BAND), 0.0))


def warm_worth_of(ridden: Ridden) -> WarmWorth:
    """Return what pieces are worth by what they keep warm.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    worth : WarmWorth
        To be asked; it remembers what it was asked.
    """
    return WarmWorth(ladder=ridden.report(Ladder), rests=ridden.report(Warmth).outside)


def _spare(margin: float) -> str:
    return f"{abs(margin):.0f} K {'to spare' if margin >= 0.0 else 'too cold'}"
