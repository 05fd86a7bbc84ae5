"""When no packing keeps every hard rule: which rules are in each other's way, and the cheapest ways out."""

import math
import time
from collections.abc import Iterable
from dataclasses import dataclass

import highspy

from stonechat.core.kit.item import Item
from stonechat.core.load.highs import as_lp, new_solver
from stonechat.core.load.model import LITRE, Model, build_model
from stonechat.core.load.problem import PackingProblem
from stonechat.text import listed

_MOST_CONCESSIONS = 6  # 1, of a second way out: a longer list helps nobody
_TOTAL_TIME = 12.0  # s for the smallest set
_ONE_TIME = 2.0  # s for one question of it
_PER_LITRE = 40.0  # price of a litre more, in the measure by which ways out are ranked
_PER_KG = 80.0  # of a kg more
_PER_MOMENT = 400.0  # of a kg·m out of balance
_SHARE_BAG = 60.0  # what leaks beside what it would spoil
_UNPIN = 15.0  # a pin let go
_LEAVE = {"maybe": 20.0, "want": 70.0, "must": 2_000.0}
_FOOD_PER_LITRE = 60.0  # of a litre of food left behind


@dataclass(frozen=True, kw_only=True)
class WayOut:
    """One set of concessions after which a packing exists."""

    words: tuple[str, ...]
    leave: tuple[str, ...] = ()  # ids of things to leave at home
    unpin: tuple[str, ...] = ()  # ids of things to let go


@dataclass(frozen=True, kw_only=True)
class Conflict:
    """Rules that cannot all be kept: leave any one out, and the others can."""

    sentences: tuple[str, ...]
    is_smallest: bool  # whether it was shown that each is needed
    ways: tuple[WayOut, ...]


def find_conflict(problem: PackingProblem, *, ways: int = 3) -> Conflict:
    """Return a smallest set of rules in each other's way, and the cheapest ways out.

    Parameters
    ----------
    problem : PackingProblem
        A problem without a packing.
    ways : int
        How many ways out to look for.

    Returns
    -------
    conflict : Conflict
        Rules in sentences, and what to concede.

    Notes
    -----
    Deletion filter [Chinneck2008]: a rule is left out for good where the others are still in each other's way, by
    halves first; the linear relaxation thins them out where it has no solution itself, whole numbers then prove.
    Ways out: every rule may be broken at a price; the next one does without what the last conceded most of.

    Examples
    --------
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> from stonechat.core.rig.carrier import Carrier
    >>> bag = Carrier(id="s", name="bag", place="frame", capacity=0.001, load_limit=1, mass=0.1, longest=0.4)
    >>> two = tuple(Item(id=k, name=k, mass=0.1, volume=0.0007) for k in ("hat", "mat"))
    >>> problem = build_problem(items=two, carriers=(bag,), bike=Bike(), provisions=Provisions(), pins={},
    ...                         prices=Prices(per_kg=1, per_drag=1, days=1))
    >>> find_conflict(problem).sentences[0]
    'These 2 things want 1.4 l and may only ride in bag: hat, mat.'
    """
    model = build_model(problem, pin_rows=True)
    tags = sorted({tag for tag in model.tags if ":" in tag or tag == "food"})
    needed, is_smallest = _smallest(model, tags)
    return Conflict(sentences=_sentences(problem, needed), is_smallest=is_smallest, ways=_ways_out(problem, ways))


def _feasible(model: Model, kept: Iterable[str], *, integer: bool, seconds: float) -> bool | None:
    """Return whether the rows of some tags can be kept together; None where time ran out."""
    wanted = {*kept, ""}
    part = Model(pairs=model.pairs)
    part.cost, part.upper = [0.0] * len(model.cost), model.upper
    part.integer = model.integer if integer else [False] * len(model.integer)
    for row, tag in zip(model.rows, model.tags, strict=True):
        if tag in wanted or tag.startswith("mounted:used"):
            part.rows.append(row)
    solver = new_solver(time_limit=max(0.05, seconds))
    solver.passModel(as_lp(part))
    solver.run()
    status = solver.getModelStatus()
    if status == highspy.HighsModelStatus.kOptimal:
        return True
    return False if status == highspy.HighsModelStatus.kInfeasible else None


def _smallest(model: Model, tags: list[str]) -> tuple[list[str], bool]:
    """Leave out what is not needed: by the linear relaxation as far as that goes, then by whole numbers."""
    until = time.monotonic() + _TOTAL_TIME
    if _feasible(model, tags, integer=False, seconds=_ONE_TIME) is False:
        tags, _ = _thinned(model, tags, until, integer=False)
    return _thinned(model, tags, until, integer=True)


def _thinned(model: Model, tags: list[str], until: float, *, integer: bool) -> tuple[list[str], bool]:
    """Leave out tags by halves, then one by one, as long as the rest is still in each other's way."""
    needed, size, sure = list(tags), max(1, len(tags) // 2), True
    while True:
        start = 0
        while start < len(needed):
            rest = needed[:start] + needed[start + size :]
            left = until - time.monotonic()
            answer = _feasible(model, rest, integer=integer, seconds=min(_ONE_TIME, left)) if left > 0.0 else None
            sure &= answer is not None
            if answer is False:
                needed = rest
            else:
                start += size
        if size == 1:
            return needed, sure
        size = max(1, size // 2)


def _sentences(problem: PackingProblem, needed: list[str]) -> tuple[str, ...]:
    """Word a set of tags for a rider."""
    by_kind: dict[str, list[str]] = {}
    for tag in needed:
        kind, _, key = tag.partition(":")
        by_kind.setdefault(kind, []).append(key)
    things = {item.id: item for item in problem.items}
    carriers = {carrier.id: carrier for carrier in problem.carriers}
    said = []
    if by_kind.get("thing"):
        kept = [things[key] for key in by_kind["thing"]]
        said.append(_of_things(problem, kept))
    if "food" in by_kind:
        said.append(f"{problem.provisions.food_volume * 1e3:.1f} l of food must ride somewhere.")
    for key in by_kind.get("pin", ()):
        said.append(f"{things[key].name} is pinned in {carriers[problem.pins[key]].name}.")
    rooms = [carriers[key] for key in by_kind.get("volume", ())]
    if len(rooms) > 1:
        listed = ", ".join(f"{c.name} {c.capacity / LITRE:.1f} l" for c in sorted(rooms, key=lambda c: -c.capacity))
        said.append(f"These hold {sum(c.capacity for c in rooms) / LITRE:.1f} l together: {listed}.")
    said += [f"{c.name} holds {c.capacity / LITRE:.1f} l." for c in rooms if len(rooms) == 1]
    for key in by_kind.get("limit", ()):
        said.append(f"{carriers[key].name} bears {carriers[key].load_limit:.2f} kg; the maker's limit stands.")
    for key in by_kind.get("leaks", ()):
        said.append(_of_leaks(problem, key))
    for key in by_kind.get("dry", ()):
        said.append(f"In {carriers[key].name}, things stay dry only in a dry bag that holds them.")
    said += [_of_balance(problem, key) for key in by_kind.get("balance", ())]
    said += [f"Something must do this: {key}." for key in by_kind.get("job", ())]
    said += ["Carriers that take the same place exclude one another." for _ in by_kind.get("mounted", ())[:1]]
    return tuple(said)


def _of_leaks(problem: PackingProblem, carrier: str) -> str:
    """Name what leaks and what it would spoil, of the things that may ride in a carrier."""
    c = next(k for k, entry in enumerate(problem.carriers) if entry.id == carrier)
    able = [
        item for i, item in enumerate(problem.items) if problem.allowed[i, c] or problem.pins.get(item.id) == carrier
    ]
    leaking = listed((item.name for item in able if item.floods), 3)
    spoiled = [item.name for item in able if item.is_spoilable]
    food = ["food"] if "food" in problem.carriers[c].takes and problem.provisions.food_volume > 0.0 else []
    words = f"In {problem.carriers[c].name}, what leaks may not ride beside what it would spoil"
    return f"{words}: {leaking} beside {listed([*food, *spoiled], 3)}."


def _of_balance(problem: PackingProblem, band: str) -> str:
    """Say what the balance asks for, and name the things that weigh most in it."""
    heaviest = sorted(problem.items, key=lambda item: -item.total_mass)[:3]
    names = listed((f"{item.name} {item.total_mass:.1f} kg" for item in heaviest), 3)
    return f"The balance asks for its band: {band}." + (f" What weighs most in it: {names}." if names else "")


def _of_things(problem: PackingProblem, things: list[Item]) -> str:
    rows = [i for i, item in enumerate(problem.items) if item in things]
    able = [carrier.name for c, carrier in enumerate(problem.carriers) if problem.allowed[rows, c].any()]
    where = listed(able, 4) or "no carrier"
    things = sorted(things, key=lambda item: -item.total_volume)
    names = listed((item.name for item in things), 6)
    if len(things) == 1:
        return f"{names} must ride somewhere; it may only in {where}."
    litres = sum(item.total_volume for item in things) / LITRE
    return f"These {len(things)} things want {litres:.1f} l and may only ride in {where}: {names}."


def _ways_out(problem: PackingProblem, count: int) -> tuple[WayOut, ...]:
    """Solve with every rule breakable at a price, each time forbidding the concessions made before."""
    model = build_model(problem, pin_rows=True)
    for column in model.unkept.values():
        model.cost[column] *= 0.05
    for column in range(len(model.cost)):
        model.cost[column] *= 0.01  # concessions go before minutes
    concede = _concessions(problem, model)
    found: list[WayOut] = []
    for _ in range(count):
        solver = new_solver(time_limit=4.0, mip_rel_gap=0.02)
        solver.passModel(as_lp(model))
        solver.run()
        if solver.getInfo().primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
            break
        values = solver.getSolution().col_value
        made = [(tag, switch, values[amount]) for tag, switch, amount in concede if values[switch] > 0.5]
        made = [entry for entry in made if entry[2] > 1e-4]
        if not made or (found and len(made) > _MOST_CONCESSIONS):
            break
        found.append(_worded(problem, [(tag, value) for tag, _, value in made]))
        # the next way does without what this one conceded most of: all things left, or its dearest rule
        left = [switch for tag, switch, _ in made if tag.startswith("thing:")]
        dearest = max(made, key=lambda entry: model.cost[entry[1]] + entry[2])[1]
        for switch in left or [dearest]:
            model.upper[switch] = 0.0
    return tuple(found)


def _price_of(problem: PackingProblem, kind: str, thing: Item | None) -> tuple[float, float]:
    """Return what a unit of conceding a rule costs, and how much of it may be conceded; nothing for other rules."""
    if kind == "thing":
        return (_LEAVE[thing.need] if thing is not None else 0.0), 1.0
    return {
        "volume": (_PER_LITRE, 40.0),
        "limit": (_PER_KG, 20.0),
        "balance": (_PER_MOMENT, 20.0),
        "food": (_FOOD_PER_LITRE, problem.provisions.food_volume / LITRE),
        "pin": (_UNPIN, 1.0),
        "leaks": (_SHARE_BAG, 1.0),
    }.get(kind, (0.0, 0.0))


def _concessions(problem: PackingProblem, model: Model) -> list[tuple[str, int, int]]:
    """Add a way to break each rule: tag, column that says whether, column that says by how much."""
    things = {item.id: item for item in problem.items}
    made: dict[str, tuple[int, int]] = {}
    for number, tag in enumerate(list(model.tags)):
        coefficients, low, high = model.rows[number]
        kind, _, key = tag.partition(":")
        price, most = _price_of(problem, kind, things.get(key))
        if most <= 0.0 or (kind == "thing" and key in problem.choices.things):
            continue
        if tag not in made:
            whole = kind in ("thing", "pin", "leaks")
            switch = model.column(cost=price if whole else 1.0, upper=1.0, integer=True)
            amount = switch if whole else model.column(cost=price, upper=most)
            if not whole:
                model.row({amount: 1.0, switch: -most}, -math.inf, 0.0)
            made[tag] = (switch, amount)
        amount = made[tag][1]
        widest = float(len(coefficients)) if kind == "leaks" else 1.0
        row = dict(coefficients)
        if kind == "leaks" and math.isfinite(high):
            widest = sum(abs(value) for value in row.values())
        if math.isfinite(low) and math.isfinite(high) and kind == "balance":
            other = model.column(cost=price, upper=most)
            model.row({other: 1.0, made[tag][0]: -most}, -math.inf, 0.0)
            row[amount], row[other] = 1.0, -1.0
        else:
            row[amount] = widest if math.isfinite(low) else -widest
        model.rows[number] = (row, low, high)
    return [(tag, switch, amount) for tag, (switch, amount) in made.items()]


def _worded(problem: PackingProblem, made: list[tuple[str, float]]) -> WayOut:
    things = {item.id: item for item in problem.items}
    carriers = {carrier.id: carrier for carrier in problem.carriers}
    words, leave, unpin = [], [], []
    for tag, amount in made:
        kind, _, key = tag.partition(":")
        if kind == "thing":
            words.append(f"leave {things[key].name} at home")
            leave.append(key)
        elif kind == "pin":
            words.append(f"let {things[key].name} out of {carriers[problem.pins[key]].name}")
            unpin.append(key)
        elif kind == "volume":
            words.append(f"{max(amount, 0.01):.2f} l more in {carriers[key].name}")
        elif kind == "limit":
            words.append(f"a {carriers[key].name} that bears {max(amount, 0.01):.2f} kg more")
        elif kind == "leaks":
            words.append(f"wrap what leaks in {carriers[key].name} so that it may share the bag")
        elif kind == "food":
            words.append(f"{max(amount, 0.01):.2f} l less food aboard: buy it more often")
        else:
            words.append(f"accept the balance out of its band: {key}")
    return WayOut(words=tuple(words), leave=tuple(leave), unpin=tuple(unpin))
