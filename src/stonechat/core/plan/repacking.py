"""Repacking on the way: things that move into room which food has left, where that gains more than it takes."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.load.moves import move_options
from stonechat.core.load.problem import PackingProblem
from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.core.plan.film import MOVE

_CRUMB = 1e-9  # m³ and kg below which there is room


@dataclass(frozen=True, kw_only=True)
class Repack:
    """A thing that rides elsewhere for some legs."""

    item: str
    home: str  # carrier where it rides else
    to: str  # carrier where it rides meanwhile
    since: int  # first leg there
    until: int  # first leg after that; the number of legs: to the finish
    gain: float  # min that it saves there
    cost: float  # min of moving it there, and back where the race goes on

    @property
    def net(self) -> float:
        """What is left of it. [min]"""
        return self.gain - self.cost


@dataclass(frozen=True, kw_only=True)
class Repacking:
    """What moves, and the best that does not pay."""

    moves: tuple[Repack, ...]  # by leg
    best_left: Repack | None  # of the moves that are not made the best one, whether it pays or finds its room taken
    tried: int  # moves that were looked at
    bound: float  # min that no choice among them betters: each thing's best, as if none stood in another's way

    @property
    def net(self) -> float:
        """What the moves that are made gain together. [min]"""
        return sum(move.net for move in self.moves)


def repacking(ridden: Ridden, problem: PackingProblem, pins: frozenset[str]) -> Repacking:
    """Return the moves on the way that pay, each by itself beside those before it.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    problem : PackingProblem
        Its packing problem, for the minutes of every place.
    pins : frozenset of str
        Things that stay where they are.

    Returns
    -------
    repacking : Repacking
        Taken greedily, the best first; every thing moves once at most, and no move into a bag that breaks a rule there
        is looked at.

    Notes
    -----
    A place is worth its share of the race's time, as all that is reached by day is. Room is what things, food and water
    leave on each leg; food is left where it is.
    """
    room, bearing = _room(ridden), _bearing(ridden)
    shares = _shares(ridden)
    volumes = {item.id: item.total_volume for item in problem.items}
    masses = {item.id: item.total_mass for item in problem.items}
    found = sorted(
        _candidates(ridden, problem, pins, room, bearing, shares), key=lambda move: (-move.net, move.item, move.to)
    )
    made: list[Repack] = []
    left: Repack | None = None
    for move in found:
        legs = slice(move.since, move.until)
        fits = bool((room[move.to][legs] >= volumes[move.item] - _CRUMB).all()) and bool(
            (bearing[move.to][legs] >= masses[move.item] - _CRUMB).all()
        )
        if move.net > 0.0 and fits and move.item not in {other.item for other in made}:
            made.append(move)
            room[move.to][legs] -= volumes[move.item]
            bearing[move.to][legs] -= masses[move.item]
            room[move.home][legs] += volumes[move.item]
            bearing[move.home][legs] += masses[move.item]
        elif left is None and move.item not in {other.item for other in made}:
            left = move
    best: dict[str, float] = {}
    for move in found:
        best[move.item] = max(best.get(move.item, 0.0), move.net)
    return Repacking(
        moves=tuple(sorted(made, key=lambda m: (m.since, m.item))),
        best_left=left,
        tried=len(found),
        bound=sum(best.values()),
    )


def _room(ridden: Ridden) -> dict[str, FloatArray]:
    """Return the room left in each carrier on each leg. [m³]"""
    return {
        state.carrier.id: np.array(
            [state.carrier.capacity - load.carriers[c].volume - load.carriers[c].water / 1e3 for load in ridden.film]
        )
        for c, state in enumerate(ridden.film[0].carriers)
    }


def _bearing(ridden: Ridden) -> dict[str, FloatArray]:
    """Return the load that each carrier bears beyond what it holds on each leg. [kg]"""
    return {
        state.carrier.id: np.array(
            [load.carriers[c].carrier.load_limit - load.carriers[c].mass for load in ridden.film]
        )
        for c, state in enumerate(ridden.film[0].carriers)
    }


def _shares(ridden: Ridden) -> FloatArray:
    """Return the share of the race's time that each leg takes. [1]"""
    times = np.array([leg.elapsed for leg in ridden.timetable.legs])
    return np.asarray(times / max(float(times.sum()), 1e-9), dtype=np.float64)


def _candidates(
    ridden: Ridden,
    problem: PackingProblem,
    pins: frozenset[str],
    room: Mapping[str, FloatArray],
    bearing: Mapping[str, FloatArray],
    shares: FloatArray,
) -> Iterator[Repack]:
    """Yield every move that would save something on the legs on which there is room for it."""
    places = {item.id: ridden.kit.places.get(item.id, "") for item in problem.items}
    for item in problem.items:
        home = places[item.id]
        if item.id in pins or item.id in ridden.kit.spans or item.id in ridden.kit.moved or home not in room:
            continue
        for option in move_options(problem, places, item.id):
            if option.carrier_id == home or option.carrier_id not in room or option.change >= 0.0 or option.reason:
                continue
            fits = (room[option.carrier_id] >= item.total_volume - _CRUMB) & (
                bearing[option.carrier_id] >= item.total_mass - _CRUMB
            )
            for since, until in _windows(fits):
                if until - since == fits.size:
                    continue  # it fits all the way: that is a matter of packing, not of repacking
                moves = (since > 0) + (until < fits.size)
                yield Repack(
                    item=item.id,
                    home=home,
                    to=option.carrier_id,
                    since=since,
                    until=until,
                    gain=-option.change * float(shares[since:until].sum()),
                    cost=MOVE * moves,
                )


def _windows(fits: BoolArray) -> list[tuple[int, int]]:
    """Return the longest runs of legs that fit: first leg, and first leg after.

    Examples
    --------
    >>> _windows(np.array([True, False, True, True]))
    [(0, 1), (2, 4)]
    """
    edges = np.flatnonzero(np.diff(np.concatenate(([0], fits.astype(np.int8), [0]))))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
