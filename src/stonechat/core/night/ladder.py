"""The clothing ladder: what is worn when, zone by zone, for the fewest changes that keep one warm enough.

For each zone every outfit is judged on every stretch in kelvin: by how much colder it might be until one is cold, and
how much colder until it is not too warm. A shortest path through outfits by stretches weighs the two against changes.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from stonechat.core.night.extremities import HOT, NIMBLE, skin_after
from stonechat.core.night.garments import ZONES, Garment, Outfit, outfits_of
from stonechat.core.night.riding import LOW, NEUTRAL, Going, needed
from stonechat.core.night.sleep import CLO
from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray

# what trunk with arms, and legs, need of what the whole body does: legs work, and so warm themselves (estimates)
_NEEDS = {"trunk": 1.2, "legs": 0.27}
_AIRS = (5.0, 20.0, 50.0)  # l/(m²s), between which needs are read
_STEP = 5.0  # K over which a need's slope is taken
_ZIPS = 6.0  # K that opening zips and rolling down takes off (estimate)
_SHORT, _BRIEFLY = 600.0, 1800.0  # s, a shorter way is borne as if it went on for so long
COLD, WARM = 1.5, 0.1  # min lost for each K and hour too cold, and too warm (estimates)
_CHILLY = 1.0  # K that one is too cold rather than stop to change (estimate)
_UNSAFE = 12.0  # min more for each K and hour of it beyond what there is aboard against: no change is dearer (estimate)
_BOTHER, _CLAMMY = 0.02, 0.25  # min for each hour of a piece that is on; of a shell in the dry (estimates)
_SWEATED = 1.5  # min for each hour of down or fleece that is ridden in: it is damp for the night (estimate)
_ONLY_IN_NEED = frozenset({"warm", "heat"})  # groups that are worn only where nothing else does; packs burn out
_AT_HALT = 0.35  # 1, of a change's minutes where one stands still anyway (estimate)
_HALT = 0.4  # min of a halt for whatever is changed (estimate)
RIDING, DESCENT, FOOT = "riding", "descent", "on foot"


class Needs(NamedTuple):
    """What the whole body needs on each stretch, a row for each of _AIRS, shape (a, n)."""

    low: FloatArray  # m²K/W that are enough
    slope: FloatArray  # m²K/W more for each kelvin colder
    neutral: FloatArray  # m²K/W that are neither warm nor cool


@dataclass(frozen=True, kw_only=True)
class Spells:
    """Stretches of a race that are ridden alike, shape (n,)."""

    begins: FloatArray  # m along the course
    ends: FloatArray  # m
    clocks: FloatArray  # s since the start
    lengths: FloatArray  # s
    kinds: tuple[str, ...]  # RIDING, DESCENT, FOOT
    going: Going
    wet: BoolArray  # whether it is on a day of rain
    halts: BoolArray  # whether it begins where one stands still anyway
    effort: float  # W/m², usual metabolic rate of this race

    @property
    def seconds(self) -> FloatArray:
        """How long each is borne: a descent while it lasts, a short way between for a while, all else for good. [s]"""
        others = np.where(self.lengths < _SHORT, _BRIEFLY, np.inf)
        return np.where(self.descends, self.lengths, others)

    @cached_property
    def needs(self) -> Needs:
        """What the whole body needs on each."""
        return _needs_of(self)

    @property
    def descends(self) -> BoolArray:
        """Which of them are descents."""
        return np.array([kind == DESCENT for kind in self.kinds])


@dataclass(frozen=True, kw_only=True)
class ZoneLadder:
    """What one zone wears."""

    zone: str
    outfits: tuple[Outfit, ...]
    margins: FloatArray  # K until it is too cold, of each outfit on each stretch, shape (m, n)
    chosen: IntArray  # outfit on each stretch, shape (n,)
    needs: FloatArray  # m²K/W that the stretch asks for in what is chosen; nan for head, hands and feet, shape (n,)

    @property
    def margin(self) -> FloatArray:
        """K until it is too cold, in what is chosen, shape (n,)."""
        return np.asarray(self.margins[self.chosen, np.arange(self.chosen.size)])

    def worn(self, garment_id: str) -> BoolArray:
        """Tell on which stretches a piece is worn."""
        wears = np.array([any(piece.id == garment_id for piece in outfit.pieces) for outfit in self.outfits])
        return np.asarray(wears[self.chosen])

    def best_without(self, gone: Iterable[str]) -> FloatArray:
        """Return the most that could be spare on each stretch without some pieces, shape (n,). [K]"""
        left = set(gone)
        kept = [k for k, outfit in enumerate(self.outfits) if not any(piece.id in left for piece in outfit.pieces)]
        return np.asarray(self.margins[kept].max(axis=0)) if kept else np.full(self.chosen.size, -30.0)


@dataclass(frozen=True, kw_only=True)
class Change:
    """What is put on or taken off at the beginning of a stretch."""

    spell: int
    on: tuple[Garment, ...]
    off: tuple[Garment, ...]


@dataclass(frozen=True, kw_only=True)
class Piece:
    """What the ladder says of one garment."""

    garment: Garment
    hours: float  # h worn
    changes: int  # times put on or taken off
    only: float  # h on which without it no outfit is warm enough, and with it one is
    at: int  # stretch on which it matters most
    colder: float  # K that are spare less at most without it


@dataclass(frozen=True, kw_only=True)
class Ladder:
    """What is worn when, along a race."""

    spells: Spells
    zones: Mapping[str, ZoneLadder]
    garments: tuple[Garment, ...]
    assumed: tuple[str, ...]  # names of what everybody rides in and this kit does not name
    spares: tuple[str, ...]  # ids of seconds of a kind

    @cached_property
    def changes(self) -> tuple[Change, ...]:
        """What is put on and taken off, in order; the first is what is worn from the start."""
        found = []
        before: set[str] = {garment.id for garment in self.garments if garment.is_on}
        by_id = {garment.id: garment for garment in self.garments}
        for k in range(self.spells.lengths.size):
            now = {p.id for zone in self.zones.values() for p in zone.outfits[int(zone.chosen[k])].pieces}
            if k == 0 or now != before:
                on = tuple(by_id[key] for key in sorted(now - before))
                off = tuple(by_id[key] for key in sorted(before - now))
                if on or off:
                    found.append(Change(spell=k, on=on, off=off))
            before = now
        return tuple(found)

    @cached_property
    def pieces(self) -> tuple[Piece, ...]:
        """What is said of each garment, in the order of the kit."""
        return tuple(self._piece(garment) for garment in self.garments)

    def _piece(self, garment: Garment) -> Piece:
        zone = self.zones[garment.cut.zone]
        worn = zone.worn(garment.id)
        hours = self.spells.lengths / 3600.0
        best, without = zone.margins.max(axis=0), zone.best_without({garment.id})
        only = (best >= 0.0) & (without < 0.0)
        lost = np.where(without < 0.0, np.minimum(best, 0.0) - without, 0.0)
        return Piece(
            garment=garment,
            hours=float(hours[worn].sum()),
            changes=int(np.abs(np.diff(worn.astype(np.int64))).sum()) + int(worn[0] != garment.is_on),
            only=float(hours[only].sum()),
            at=int(np.argmax(lost)),
            colder=float(lost.max()),
        )


def ladder_of(
    spells: Spells,
    garments: Sequence[Garment],
    spares: Sequence[str],
    assumed: Sequence[str],
) -> Ladder:
    """Return what is worn when.

    Parameters
    ----------
    spells : Spells
        The race by stretches.
    garments : sequence of Garment
        What there is, and what is taken for granted.
    spares : sequence of str
        Ids of seconds of a kind.
    assumed : sequence of str
        Names of what is taken for granted.

    Returns
    -------
    ladder : Ladder
        By zone.

    Notes
    -----
    A day of rain is dressed for as if it rained all the time: how long it does nobody knows.
    """
    dressed = {}
    for zone in ZONES:
        outfits = outfits_of(garments, zone)
        margins, excess, needs = judge_outfits(zone, outfits, spells)
        chosen = _path(outfits, margins, excess, spells)
        at = np.arange(chosen.size)
        dressed[zone] = ZoneLadder(zone=zone, outfits=outfits, margins=margins, chosen=chosen, needs=needs[chosen, at])
    return Ladder(spells=spells, zones=dressed, garments=tuple(garments), assumed=tuple(assumed), spares=tuple(spares))


def judge_outfits(zone: str, outfits: Sequence[Outfit], spells: Spells) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return how outfits do on each stretch.

    Parameters
    ----------
    zone : str
        Of ZONES.
    outfits : sequence of Outfit
        Ways to dress it.
    spells : Spells
        The race by stretches.

    Returns
    -------
    margins : ndarray, shape (m, n)
        Until it is too cold. [K]
    excess : ndarray, shape (m, n)
        Beyond what is not too warm, negative where that is not reached. [K]
    needs : ndarray, shape (m, n)
        Insulation that the stretch asks for under such an outer layer; nan for head, hands and feet. [m²K/W]
    """
    return _judge_core(zone, outfits, spells) if zone in _NEEDS else _judge_ends(zone, outfits, spells)


def _effective(outfits: Sequence[Outfit], wet: BoolArray) -> FloatArray:
    """Return what outfits insulate on each stretch, less where they get wet, shape (m, n). [m²K/W]"""
    dry = np.array([outfit.insulation for outfit in outfits])[:, None]
    soaked = np.array([outfit.soaked for outfit in outfits])[:, None]
    open_to_rain = ~np.array([outfit.sheds_rain for outfit in outfits])[:, None]
    return np.where(open_to_rain & wet[None, :], soaked, dry)


def _needs_of(spells: Spells) -> Needs:
    count, rows = spells.lengths.size, len(_AIRS)
    air = np.repeat(_AIRS, count)
    hours = np.tile(spells.seconds / 3600.0, rows)

    def over(colder: float) -> Going:
        going = spells.going._replace(temps=spells.going.temps - colder)
        return Going(*(np.tile(values, rows) for values in going))

    low, below = needed(over(0.0), air, LOW, hours), needed(over(_STEP), air, LOW, hours)
    return Needs(
        low=low.reshape(rows, count),
        slope=np.maximum((below - low) / _STEP, 0.01 * CLO).reshape(rows, count),
        neutral=needed(over(0.0), air, NEUTRAL, hours).reshape(rows, count),
    )


def _judge_core(zone: str, outfits: Sequence[Outfit], spells: Spells) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return margins, excess and needs of outfits for trunk or legs, shape (m, n) each."""
    have = _effective(outfits, spells.wet)
    factor = _NEEDS[zone]
    air = np.array([min(max(outfit.air, _AIRS[0]), _AIRS[-1]) for outfit in outfits])
    # more air passes, more is needed: read between the three by the logarithm of what passes
    at = np.interp(np.log(air), np.log(_AIRS), np.arange(len(_AIRS)))
    low, slope, neutral = (_between(values, at) for values in spells.needs)
    margins = (have - factor * low) / (factor * slope)
    excess = (have - factor * neutral) / (factor * slope) - _ZIPS
    return np.clip(margins, -30.0, 60.0), np.clip(excess, -60.0, 60.0), factor * low


def _between(values: FloatArray, at: FloatArray) -> FloatArray:
    """Return values read between rows, shape (m, n)."""
    below = np.minimum(at.astype(np.int64), len(values) - 2)
    share = (at - below)[:, None]
    return np.asarray((1.0 - share) * values[below] + share * values[below + 1])


def _judge_ends(zone: str, outfits: Sequence[Outfit], spells: Spells) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return margins and excess of outfits for head, hands or feet, shape (m, n) each; what they need has no figure."""
    have = _effective(outfits, spells.wet)
    skin = skin_after(zone, spells.going, have, seconds=spells.seconds, before=spells.effort)
    forever = np.full(spells.lengths.shape, np.inf)
    steady = skin_after(zone, spells.going, have, seconds=forever, before=spells.effort)
    margins = np.clip(skin - NIMBLE, -30.0, 60.0)
    return margins, np.clip(steady - HOT, -60.0, 60.0), np.full(margins.shape, np.nan)


def _path(outfits: Sequence[Outfit], margins: FloatArray, excess: FloatArray, spells: Spells) -> IntArray:
    """Return the outfits that cost least over all stretches: too cold, too warm, and changes."""
    hours = (spells.lengths / 3600.0)[None, :]
    short = np.maximum(-margins, 0.0)
    avoidable = np.maximum(short - short.min(axis=0) - _CHILLY, 0.0)
    costs = (COLD * short + _UNSAFE * avoidable + WARM * np.maximum(excess, 0.0)) * hours
    costs += _BOTHER * np.array([len(outfit.pieces) for outfit in outfits])[:, None] * hours
    shells = np.array([sum(p.cut.group == "rain" for p in outfit.pieces) for outfit in outfits])[:, None]
    warm = np.array([sum(p.cut.group in _ONLY_IN_NEED for p in outfit.pieces) for outfit in outfits])[:, None]
    costs += (_CLAMMY * shells * ~spells.wet[None, :] + _SWEATED * warm) * hours * ~spells.descends[None, :]
    swap = _swaps(outfits)
    count, size = costs.shape[1], costs.shape[0]
    total, back = costs[:, 0] + _AT_HALT * swap[0], np.zeros((count, size), dtype=np.int64)
    for k in range(1, count):
        halted = bool(spells.halts[k])
        moving = swap * (_AT_HALT if halted else 1.0) + (swap > 0.0) * (0.0 if halted else _HALT)
        reached = total[:, None] + moving
        back[k] = np.argmin(reached, axis=0)
        total = reached[back[k], np.arange(size)] + costs[:, k]
    path = [int(np.argmin(total))]
    for k in range(count - 1, 0, -1):
        path.append(int(back[k, path[-1]]))
    return np.array(path[::-1], dtype=np.int64)


def _swaps(outfits: Sequence[Outfit]) -> FloatArray:
    """Return the minutes from one outfit to another: each piece that differs is put on or taken off, shape (m, m)."""
    pieces = {piece.id: piece for outfit in outfits for piece in outfit.pieces}
    wears = np.array([[key in {p.id for p in outfit.pieces} for key in pieces] for outfit in outfits], dtype=np.float64)
    minutes = np.array([piece.cut.minutes for piece in pieces.values()])
    if not pieces:
        return np.zeros((len(outfits), len(outfits)))
    return np.asarray((np.abs(wears[:, None, :] - wears[None, :, :]) * minutes).sum(axis=2))
