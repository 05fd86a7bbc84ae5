"""What a single move would cost, and why some are not possible: what a rider sees while holding a thing."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from stonechat.core.kit.item import Item
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.together.shapes import ApartFrom, NotIn
from stonechat.core.numerics.arrays import FloatArray


@dataclass(frozen=True, kw_only=True)
class MoveOption:
    """One carrier in which a thing could ride."""

    carrier_id: str
    minutes: float  # min of reaching and wind there
    change: float  # min against where it is now; equal to `minutes` for a thing without a place
    reason: str  # why it should not ride there; empty where it may
    is_possible: bool  # whether it goes in at all; a rule that only breaks a check may be overridden by hand
    is_crowded: bool = False  # whether nothing but what is there already stands in its way


def move_options(problem: PackingProblem, places: Mapping[str, str], item_id: str) -> tuple[MoveOption, ...]:
    """Return what a thing would cost in each carrier with all others where they are.

    Parameters
    ----------
    problem : PackingProblem
        Prices and limits.
    places : mapping of str to str
        Carrier of each thing.
    item_id : str
        The thing that is held.

    Returns
    -------
    options : tuple of MoveOption
        One for each carrier, in the order of the problem. [min]

    Notes
    -----
    Room is judged by the things alone; food goes to what room is left.

    Examples
    --------
    >>> from stonechat.core.kit.item import Item, Reaches
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> from stonechat.core.rig.carrier import Carrier
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=1, mass=0.4, longest=0.4, open_time=0)
    >>> pump = Item(id="p", name="pump", mass=0.2, volume=0.0, access="off", reaches=Reaches(per_day=1.0))
    >>> problem = build_problem(items=(pump,), carriers=(bag,), bike=Bike(), provisions=Provisions(), pins={},
    ...                         prices=Prices(per_kg=1, per_drag=1, days=2))
    >>> round(move_options(problem, {}, "p")[0].change, 3)
    1.23
    """
    row = next(i for i, item in enumerate(problem.items) if item.id == item_id)
    beside = problem.beside(row, problem.columns(places))
    return tuple(_option(problem, places, row, c, beside) for c in range(len(problem.carriers)))


def _option(problem: PackingProblem, places: Mapping[str, str], row: int, c: int, beside: FloatArray) -> MoveOption:
    here = places.get(problem.items[row].id, "")
    column = next((k for k, carrier in enumerate(problem.carriers) if carrier.id == here), None)
    now = float(beside[column]) if column is not None else 0.0
    refusal = problem.refusals[row][c]
    crowded, spoiled = _crowded(problem, places, row, c), _said(problem, places, row, c)
    return MoveOption(
        carrier_id=problem.carriers[c].id,
        minutes=float(beside[c]),
        change=float(beside[c]) - now,
        reason=refusal.words if refusal else crowded or spoiled,
        is_possible=refusal is None or not refusal.is_hard,
        is_crowded=refusal is None and bool(crowded) and not spoiled,
    )


def options_together(
    problem: PackingProblem, places: Mapping[str, str], item_ids: Sequence[str]
) -> tuple[MoveOption, ...]:
    """Return what several things would cost in each carrier if they went there together.

    Parameters
    ----------
    problem : PackingProblem
        Prices and limits.
    places : mapping of str to str
        Carrier of each thing.
    item_ids : sequence of str
        The things that are held.

    Returns
    -------
    options : tuple of MoveOption
        One for each carrier: minutes add up, room is judged with those before already there, and the first thing
        that may not go says why. [min]

    Examples
    --------
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> options_together(build_problem(items=(), carriers=(), bike=Bike(), provisions=Provisions(), pins={},
    ...                                prices=Prices(per_kg=1, per_drag=1, days=1)), {}, ())
    ()
    """
    total: list[MoveOption] = []
    rows = {item.id: i for i, item in enumerate(problem.items)}
    for c, carrier in enumerate(problem.carriers):
        moved = dict(places)
        minutes = change = 0.0
        reason, possible = "", True
        for item_id in item_ids:
            beside = problem.beside(rows[item_id], problem.columns(moved))
            option = _option(problem, moved, rows[item_id], c, beside)
            minutes, change = minutes + option.minutes, change + option.change
            possible &= option.is_possible
            if option.reason and not reason:
                whose = "" if len(item_ids) == 1 else f"{problem.items[rows[item_id]].name}: "
                reason = f"{whose}{option.reason}"
            moved[item_id] = carrier.id
        total.append(
            MoveOption(carrier_id=carrier.id, minutes=minutes, change=change, reason=reason, is_possible=possible)
        )
    return tuple(total)


def _said(problem: PackingProblem, places: Mapping[str, str], row: int, c: int) -> str:
    """Say what stands against a thing in a carrier that takes it, room apart."""
    return _spoiled(problem, places, row, c) or _not_in(problem, row, c) or _beside(problem, places, row, c)


def _beside(problem: PackingProblem, places: Mapping[str, str], row: int, column: int) -> str:
    """Name what is in a carrier that would spoil a thing, or be spoiled by it."""
    item, carrier = problem.items[row], problem.carriers[column]
    there = {other.id: other.name for other in problem.items if places.get(other.id) == carrier.id}
    for rule in problem.rules:
        if not isinstance(rule, ApartFrom):
            continue
        amiss = rule.others & set(there) if rule.thing == item.id else {rule.thing} & set(there)
        if amiss and (rule.thing == item.id or item.id in rule.others):
            return f"beside {there[min(amiss)]}"
    return ""


def _not_in(problem: PackingProblem, row: int, column: int) -> str:
    """Say what a rule of riding together has against a carrier."""
    item, carrier = problem.items[row], problem.carriers[column]
    rules = [rule for rule in problem.rules if isinstance(rule, NotIn) and rule.thing == item.id]
    return next((rule.words for rule in rules if carrier.id in rule.carriers), "")


def _crowded(problem: PackingProblem, places: Mapping[str, str], row: int, column: int) -> str:
    """Say by how much a carrier is too small, or bears too little, beside what is there already."""
    item, carrier = problem.items[row], problem.carriers[column]
    there = [other for other in problem.items if places.get(other.id) == carrier.id and other.id != item.id]
    over = sum(other.total_volume for other in there) + item.total_volume - carrier.capacity
    if over > 1e-9:
        return f"full: over by {max(over * 1000, 0.1):.1f} l"
    heavy = sum(other.total_mass for other in there) + item.total_mass - carrier.load_limit
    return f"over its limit by {heavy:.2f} kg" if heavy > 1e-9 else ""


def _spoiled(problem: PackingProblem, places: Mapping[str, str], row: int, column: int) -> str:
    """Name what would leak on a thing, or be leaked on by it."""
    item, carrier = problem.items[row], problem.carriers[column]
    there = (other for other in problem.items if places.get(other.id) == carrier.id and other.id != item.id)
    spoiled = (other for other in there if _clash(item, other) or _clash(other, item))
    return next((f"beside {other.name}" for other in spoiled), "")


def _clash(leaking: Item, spoiled: Item) -> bool:
    return leaking.floods and spoiled.is_spoilable
