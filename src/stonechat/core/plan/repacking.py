"""Repacking on the way: what rides elsewhere on some legs, or changes places with another, where that is worth it."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, pairwise

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.load.moves import MoveOption, move_options
from stonechat.core.load.problem import PackingProblem
from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray
from stonechat.core.plan.film import MOVE, turns
from stonechat.core.plan.often import mean_often
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan, Variant

_CRUMB = 1e-9  # m³, kg and min below which there is room, and nothing is gained
_DUSK, _DARK, _OFTEN = 0.05, 0.6, 0.5  # 1, share of a leg from which it counts as partly or all dark, as cold or wet
_LONGEST = 1.0  # s that choosing among moves may take


@dataclass(frozen=True, kw_only=True)
class Repack:
    """A thing that rides elsewhere on some legs."""

    item: str
    home: str  # carrier where it rides else
    windows: tuple[tuple[str, int, int], ...]  # carrier, first leg there, first leg after; the number of legs: the end
    gain: float  # min that it saves there; below 0 where it only makes room for another
    cost: float  # min of moving it

    @property
    def net(self) -> float:
        """What is left of it. [min]"""
        return self.gain - self.cost


@dataclass(frozen=True, kw_only=True)
class Repacking:
    """What moves, and the best that does not pay."""

    moves: tuple[Repack, ...]  # by leg
    best_left: Repack | None  # of the things that stay the one that it would cost least to move, over one stretch
    tried: int  # moves and exchanges that were looked at
    bound: float  # min that no repacking betters: each thing where it would be best, as if bags had room for all

    @property
    def net(self) -> float:
        """What the moves that are made gain together. [min]"""
        return sum(move.net for move in self.moves)


@dataclass(frozen=True, kw_only=True)
class _Column:
    """One choice: a thing moves, or two change places."""

    moves: tuple[Repack, ...]

    @property
    def net(self) -> float:
        return sum(move.net for move in self.moves)

    @property
    def items(self) -> frozenset[str]:
        return frozenset(move.item for move in self.moves)


@dataclass(frozen=True, kw_only=True)
class _Thing:
    """A thing that could ride elsewhere."""

    id: str
    volume: float  # m³
    mass: float  # kg
    home: str  # carrier
    gains: Mapping[str, FloatArray]  # min by carrier that takes it and by leg, against home


def repacking_for(plan: Plan, variant: Variant, ridden: Ridden) -> Repacking:
    """Return the moves on the way that pay.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant : Variant
        The variant with its pins.
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    repacking : Repacking
        The best of all single moves, over one stretch or several, and of all exchanges of two things.

    Notes
    -----
    A leg is priced as its part of the race is: a lamp is reached for on legs in the dark, mitts on cold ones. Room is
    what things, food and water leave on each leg; food stays where it is. Which of the moves are made together is
    chosen by an integer programme.
    """
    kinds: dict[tuple[int, bool, bool], list[int]] = {}
    for leg in ridden.timetable.legs:
        kind = ((leg.dark >= _DUSK) + (leg.dark >= _DARK), leg.often.cold >= _OFTEN, leg.often.wet >= _OFTEN)
        kinds.setdefault(kind, []).append(leg.index)
    problems: list[PackingProblem] = []
    kind_of = np.zeros(len(ridden.film), dtype=np.int64)
    lengths = np.array([max(leg.elapsed, 1e-9) for leg in ridden.timetable.legs])
    for number, legs in enumerate(kinds.values()):
        often = mean_often([ridden.timetable.legs[leg].often for leg in legs], lengths[legs])
        problems.append(packing_problem(plan, variant, ridden, often=often))
        kind_of[legs] = number
    return repacking(ridden, problems, kind_of, variant.pins)


def repacking(ridden: Ridden, problems: Sequence[PackingProblem], kind_of: IntArray, pins: frozenset[str]) -> Repacking:
    """Return the moves on the way that pay, the legs being of several kinds.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    problems : sequence of PackingProblem
        For the minutes of every place, one for each kind of leg.
    kind_of : ndarray, shape (l,)
        Kind of each leg. [1]
    pins : frozenset of str
        Things that stay where they are.

    Returns
    -------
    repacking : Repacking
        The best of the moves and exchanges that were looked at.
    """
    room, bearing = _room(ridden), _bearing(ridden)
    things = tuple(_things(ridden, problems, kind_of, pins, room))
    legs = len(ridden.film)
    columns = [*_single(things, room, bearing, legs), *_exchanges(things, room, bearing, legs)]
    chosen = _choose(columns, _Space(things=things, room=room, bearing=bearing), problems[0], ridden)
    moves = tuple(move for column in chosen for move in column.moves)
    made, runs = {move.item for move in moves}, list(_runs(things, room, bearing, legs))
    best = (_best(thing, thing.gains, legs) for thing in things)
    return Repacking(
        moves=tuple(sorted(moves, key=lambda move: (move.windows[0][1], move.item))),
        best_left=max((m for m in runs if m.item not in made), key=lambda m: (m.net, m.item), default=None),
        tried=len(columns) + len(runs),
        bound=sum(move.net for move in best if move),
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


def _things(
    ridden: Ridden,
    problems: Sequence[PackingProblem],
    kind_of: IntArray,
    pins: frozenset[str],
    room: Mapping[str, FloatArray],
) -> Iterator[_Thing]:
    """Yield what could ride elsewhere, with what that saves on each leg."""
    first = problems[0]
    places = {item.id: ridden.kit.places.get(item.id, "") for item in first.items}
    times = np.array([leg.elapsed for leg in ridden.timetable.legs])
    shares = times / max(float(times.sum()), 1e-9)
    for row, item in enumerate(first.items):
        home = places[item.id]
        if item.id in pins or item.id in ridden.kit.spans or item.id in ridden.kit.moved or home not in room:
            continue
        able = [option for option in move_options(first, places, item.id) if _takes(option, home, room)]
        if not able:
            continue
        beside = np.array([problem.beside(row, problem.columns(places)) for problem in problems])
        at = {carrier.id: c for c, carrier in enumerate(first.carriers)}
        yield _Thing(
            id=item.id,
            volume=item.total_volume,
            mass=item.total_mass,
            home=home,
            gains={
                option.carrier_id: shares * (beside[:, at[home]] - beside[:, at[option.carrier_id]])[kind_of]
                for option in able
            },
        )


def _takes(option: MoveOption, home: str, room: Mapping[str, FloatArray]) -> bool:
    """Tell whether a carrier takes a thing where there is room for it."""
    return option.carrier_id != home and option.carrier_id in room and (not option.reason or option.is_crowded)


def _fits(thing: _Thing, carrier: str, room: Mapping[str, FloatArray], bearing: Mapping[str, FloatArray]) -> BoolArray:
    """Tell on which legs a carrier has room for a thing beside all others."""
    return np.asarray((room[carrier] >= thing.volume - _CRUMB) & (bearing[carrier] >= thing.mass - _CRUMB))


def _single(
    things: Iterable[_Thing], room: Mapping[str, FloatArray], bearing: Mapping[str, FloatArray], legs: int
) -> Iterator[_Column]:
    """Yield for each thing its best way through all carriers, and through each by itself."""
    for thing in things:
        able = {c: np.where(_fits(thing, c, room, bearing), gain, -np.inf) for c, gain in thing.gains.items()}
        able = {c: gain for c, gain in able.items() if np.isfinite(gain).any()}
        seen: set[tuple[tuple[str, int, int], ...]] = set()
        for some in (able, *({c: gain} for c, gain in able.items())):
            best = _best(thing, some, legs)
            if best and best.windows not in seen and not _is_all_the_way(best, legs):
                seen.add(best.windows)
                yield _Column(moves=(best,))


def _runs(
    things: Iterable[_Thing], room: Mapping[str, FloatArray], bearing: Mapping[str, FloatArray], legs: int
) -> Iterator[Repack]:
    """Yield every move to where there is room for a stretch, whether it pays or not."""
    for thing in things:
        for carrier, gain in thing.gains.items():
            fits = _fits(thing, carrier, room, bearing)
            for window in _windows(fits.astype(np.int64), [carrier]) if not fits.all() else ():
                cost = MOVE * turns([window[1:]], legs)
                saved = float(gain[slice(*window[1:])].sum())
                yield Repack(item=thing.id, home=thing.home, windows=(window,), gain=saved, cost=cost)


def _best(thing: _Thing, gains: Mapping[str, FloatArray], legs: int) -> Repack | None:
    """Return where a thing rides best leg by leg, a move between legs costing MOVE; None where home is best.

    The cheapest way through a graph of carriers by legs, by dynamic programming.
    """
    names = list(gains)
    table = np.vstack([np.zeros(legs), *(gains[name] for name in names)])
    total, back = table[:, 0].copy(), np.zeros((legs, len(table)), dtype=np.int64)
    for leg in range(1, legs):
        top = int(np.argmax(total))
        stays = total >= total[top] - MOVE
        back[leg] = np.where(stays, np.arange(len(table)), top)
        total = np.where(stays, total, total[top] - MOVE) + table[:, leg]
    at = int(np.argmax(total))
    if total[at] <= _CRUMB:
        return None
    path = [at]
    for leg in range(legs - 1, 0, -1):
        path.append(int(back[leg, path[-1]]))
    windows = _windows(np.array(path[::-1]), names)
    gain = sum(float(gains[c][since:until].sum()) for c, since, until in windows)
    return Repack(
        item=thing.id,
        home=thing.home,
        windows=windows,
        gain=gain,
        cost=MOVE * turns(((since, until) for _, since, until in windows), legs),
    )


def _windows(path: IntArray, names: Sequence[str]) -> tuple[tuple[str, int, int], ...]:
    """Return the runs of legs on which a path is elsewhere; 0 is home.

    Examples
    --------
    >>> _windows(np.array([1, 0, 2, 2]), ["a", "b"])
    (('a', 0, 1), ('b', 2, 4))
    """
    edges = [0, *(np.flatnonzero(np.diff(path)) + 1).tolist(), len(path)]
    return tuple((names[path[since] - 1], since, until) for since, until in pairwise(edges) if path[since] > 0)


def _exchanges(
    things: Sequence[_Thing], room: Mapping[str, FloatArray], bearing: Mapping[str, FloatArray], legs: int
) -> Iterator[_Column]:
    """Yield pairs that change places on some legs, as day and night kit do, where one alone would find no room."""
    for one, other in combinations(things, 2):
        if other.home not in one.gains or one.home not in other.gains:
            continue
        together = one.gains[other.home] + other.gains[one.home]
        if float(np.maximum(together, 0.0).sum()) <= 2.0 * MOVE:
            continue
        fits = np.ones(legs, dtype=bool)
        for mine, its in ((one, other), (other, one)):
            fits &= room[its.home] + its.volume >= mine.volume - _CRUMB
            fits &= bearing[its.home] + its.mass >= mine.mass - _CRUMB
        # half of it stands for either, so that a turn of the pair costs two moves
        pair = _best(one, {other.home: np.where(fits, 0.5 * together, -np.inf)}, legs)
        if pair is not None and not _is_all_the_way(pair, legs):
            yield _Column(moves=tuple(_share(mine, its, pair, legs) for mine, its in ((one, other), (other, one))))


def _is_all_the_way(move: Repack, legs: int) -> bool:
    """Tell whether a thing would better ride elsewhere from start to finish: that is for packing, not for repacking."""
    return len(move.windows) == 1 and move.windows[0][1:] == (0, legs)


def _share(mine: _Thing, its: _Thing, pair: Repack, legs: int) -> Repack:
    """Return what one of a pair does of an exchange."""
    windows = tuple((its.home, since, until) for _, since, until in pair.windows)
    gain = sum(float(mine.gains[its.home][since:until].sum()) for _, since, until in windows)
    cost = MOVE * turns(((since, until) for _, since, until in windows), legs)
    return Repack(item=mine.id, home=mine.home, windows=windows, gain=gain, cost=cost)


@dataclass(frozen=True, kw_only=True)
class _Space:
    """What moves are chosen for."""

    things: tuple[_Thing, ...]
    room: Mapping[str, FloatArray]  # m³
    bearing: Mapping[str, FloatArray]  # kg


def _choose(columns: Sequence[_Column], space: _Space, problem: PackingProblem, ridden: Ridden) -> list[_Column]:
    """Return the columns that gain most together: no thing twice, room and limit kept on each leg, nothing amiss."""
    if not columns:
        return []
    rows, least = _space_rows(columns, space)
    for key in sorted({item for column in columns for item in column.items}):
        rows.append(np.array([-float(key in column.items) for column in columns]))
        least.append(-1.0)
    places = {item.id: ridden.kit.places.get(item.id, "") for item in problem.items}
    for a, b in combinations(range(len(columns)), 2):
        if not columns[a].items & columns[b].items and _amiss(columns[a], columns[b], problem, places):
            rows.append(-np.isin(np.arange(len(columns)), (a, b)).astype(np.float64))
            least.append(-1.0)
    found = milp(
        c=-np.array([column.net for column in columns]),
        integrality=np.ones(len(columns), dtype=np.int64),
        bounds=Bounds(0.0, 1.0),
        constraints=LinearConstraint(np.array(rows), lb=np.array(least)),
        options={"time_limit": _LONGEST},
    )
    return [] if found.x is None else [column for column, value in zip(columns, found.x, strict=True) if value > 0.5]


def _space_rows(columns: Sequence[_Column], space: _Space) -> tuple[list[FloatArray], list[float]]:
    """Return what columns leave of room and limit, as rows that stay above what is short already."""
    things = {thing.id: thing for thing in space.things}
    rows, least = [], []
    for carrier in space.room:
        touched = [k for k, column in enumerate(columns) if any(carrier in _touched(move) for move in column.moves)]
        for leg in range(space.room[carrier].size if len(touched) else 0):
            for left, size in ((space.room, "volume"), (space.bearing, "mass")):
                row = np.zeros(len(columns))
                for k in touched:
                    moves = columns[k].moves
                    row[k] = sum(getattr(things[move.item], size) * _freed(move, carrier, leg) for move in moves)
                if row.any():
                    rows.append(row)
                    least.append(min(0.0, -float(left[carrier][leg])) - _CRUMB)
    return rows, least


def _touched(move: Repack) -> set[str]:
    return {move.home, *(carrier for carrier, _, _ in move.windows)}


def _freed(move: Repack, carrier: str, leg: int) -> float:
    """Return 1 where a thing that moves leaves a carrier on a leg, -1 where it is in it, 0 else."""
    there = next((to for to, since, until in move.windows if since <= leg < until), "")
    return 0.0 if not there else float(move.home == carrier) - float(there == carrier)


def _amiss(one: _Column, other: _Column, problem: PackingProblem, places: Mapping[str, str]) -> bool:
    """Tell whether things of two columns would be together in a carrier where they may not be."""
    for mine in one.moves:
        for its in other.moves:
            for carrier, since, until in mine.windows:
                if any(to == carrier and since < end and begins < until for to, begins, end in its.windows):
                    beside = {**places, its.item: carrier}
                    option = next(o for o in move_options(problem, beside, mine.item) if o.carrier_id == carrier)
                    if option.reason and not option.is_crowded:
                        return True
    return False
