"""Solve a packing problem to a proven gap."""

import math
import time
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import highspy
import numpy as np

from stonechat.core.kit.item import HOME
from stonechat.core.load.conflict import Conflict, find_conflict
from stonechat.core.load.greedy import RULES, pack_greedily
from stonechat.core.load.highs import as_lp, new_solver
from stonechat.core.load.judge import Verdict, judge
from stonechat.core.load.model import LITRE, Model, build_model
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.together.places import NoGoodPlace
from stonechat.core.load.together.rule import UNKEPT, Rule
from stonechat.core.numerics.arrays import FloatArray
from stonechat.errors import InvalidInput

GAP_WANTED = 1e-3  # 1, gap over the minutes at which a packing counts as proven
_NEAR = 0.9  # 1, share of the wanted gap within which nothing better is looked for
_CALM_GAP = 0.05  # 1, gap at which the search for fewer moves ends
_CALM_TIME = 4.0  # s, to look for a packing as good that moves less
_TIDY = 0.5  # min that may be given up so that no bag is put to use for so few things
_LONELY = 2  # 1, things for which a bag is not put to use
_CRUMBS = 1e-7  # m³ of food in a carrier below which it is the solver's rounding
_MOST_CELLS = 40_000  # items times carriers


@dataclass(frozen=True, kw_only=True)
class Packing:
    """What goes where, and what of the carriers that may be is mounted."""

    places: Mapping[str, str]
    mounted: frozenset[str] = frozenset()
    food: Mapping[str, float] | None = None  # m³ by carrier; None: where the ride puts it

    def judged(self, problem: PackingProblem) -> Verdict:
        """Return what the plain judge says of it."""
        return judge(problem, self.places, mounted=self.mounted, food=self.food)


@dataclass(frozen=True, kw_only=True)
class PackingResult:
    """An answer with its proof, or the reason why there is none."""

    status: str  # proven, stopped (limit of time or by hand), impossible, or failed: the judge does not confirm it
    places: Mapping[str, str]  # carrier of each item, or `home`; empty where impossible
    mounted: frozenset[str] = frozenset()  # of the carriers that may be mounted, those that are
    food: Mapping[str, float] = field(default_factory=dict)  # m³ of food by carrier
    minutes: float  # min by the judge, NaN where impossible
    spared: float = 0.0  # min of that which were given up for fewer moves
    solver_minutes: float = math.nan  # min by the solver's own reckoning of the packing that it found
    bound: float  # min, no packing that keeps as many rules can be better
    gap: float  # 1, how far the best found may be from the best there is: (minutes - spared - bound) / minutes
    unkept: tuple[Rule, ...] = ()  # rules of riding together that are not kept
    reasons: tuple[str, ...] = ()  # why it is impossible, in sentences
    conflict: Conflict | None = None  # rules in each other's way, and ways out


@dataclass(frozen=True, kw_only=True)
class Progress:
    """Where a solve stands."""

    minutes: float  # min, best so far; infinity before the first
    bound: float  # min
    gap: float  # 1


def _nothing(_: Progress) -> None:
    return None


def _never() -> bool:
    return False


def solve_packing(
    problem: PackingProblem,
    *,
    present: Mapping[str, str] | None = None,
    mounted: frozenset[str] | None = None,
    tolerance: float = 0.0,
    time_limit: float = 30.0,
    on_progress: Callable[[Progress], None] = _nothing,
    should_stop: Callable[[], bool] = _never,
) -> PackingResult:
    """Return the best packing found, with a bound that proves how good it is.

    Parameters
    ----------
    problem : PackingProblem
        The problem.
    present : mapping of str to str, optional
        Where things are now; of packings within the wanted gap and the tolerance, the one found that moves least is
        returned.
    mounted : frozenset of str, optional
        Which of the carriers that may be mounted are, to start from; as they are now where nothing is said.
    tolerance : float
        What may be given up for fewer moves, and for no bag in use for a thing or two. [min]
    time_limit : float
        Longest time. [s]
    on_progress : callable
        Told where the solve stands.
    should_stop : callable
        Asked now and then; true ends the solve with the best so far.

    Returns
    -------
    result : PackingResult
        Packing, minutes and bound. [min]

    Raises
    ------
    InvalidInput
        If there are more items times carriers than can be packed.

    Notes
    -----
    Branch and cut by the solver HiGHS [Huangfu2018], started from the greedy packing; one thread and a fixed
    seed, so that the same problem gets the same answer unless time runs out.

    Examples
    --------
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> solve_packing(build_problem(items=(), carriers=(), bike=Bike(), provisions=Provisions(), pins={},
    ...                             prices=Prices(per_kg=1, per_drag=1, days=1))).status
    'proven'
    """
    homeless = _homeless(problem)
    if homeless:
        return _impossible(homeless)
    if not problem.items and not problem.choices.carriers and problem.provisions.food_volume <= 0.0:
        return PackingResult(status="proven", places={}, minutes=0.0, bound=0.0, gap=0.0)
    model = build_model(problem)
    start = _best_start(problem, present, mounted)
    begun = time.monotonic()

    def ran(near: float) -> Solved:
        left = max(0.1, time_limit - (time.monotonic() - begun))
        return run_model(model, problem, left, on_progress=on_progress, should_stop=should_stop, start=start, near=near)

    run = ran(_near(model))
    status = run.solver.getModelStatus()
    info = run.solver.getInfo()
    if status == highspy.HighsModelStatus.kInfeasible:
        conflict = find_conflict(problem)
        return _impossible(conflict.sentences, conflict)
    if info.primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
        return PackingResult(
            status="stopped",
            places={},
            minutes=float("nan"),
            bound=run.bound,
            gap=1.0,
            reasons=("No packing was found in the time given. Give it longer.",),
        )
    best, own = _confirmed(model, problem, run, start)
    if status == highspy.HighsModelStatus.kOptimal and run.near > 0.0 and not _is_proven(problem, best, run.bound):
        # what split things save by half a rule made the linear minutes too many to cut off by
        run = ran(0.0)
        best, own = _confirmed(model, problem, run, start)
    bound, found = run.bound, best
    if tolerance > 0.0 and not best.judged(problem).broken:
        found = _tidied(problem, best, present or {}, min(_TIDY, tolerance))
    if present is not None and not best.judged(problem).broken:
        least = best.judged(problem).score
        calm = max(found.judged(problem).score, bound / (1.0 - GAP_WANTED), least + tolerance)
        found = _moved_less(problem, found, present, calm)
    return _judged(problem, found, best, bound, own)


def _is_proven(problem: PackingProblem, best: Packing, bound: float) -> bool:
    """Tell whether a packing is within the wanted gap of a bound, over the minutes."""
    verdict = best.judged(problem)
    rules = UNKEPT * len(verdict.unkept)
    return _relative_gap(verdict.score - rules, bound - rules) <= GAP_WANTED + 1e-9


def _confirmed(model: Model, problem: PackingProblem, run: "Solved", start: Packing | None) -> tuple[Packing, float]:
    """Return the best packing of a run by the judge, with the solver's own minutes of it.

    The solver may tell the objective of its best packing and hand over the columns of another, as of its start: those
    that it told of on the way are judged too.
    """
    columns = [*run.improved[-1:], np.array(run.solver.getSolution().col_value)]
    known = [(read_packing(model, problem, values), float(np.dot(model.cost, values))) for values in columns]
    if start is not None:
        known.append((start, start.judged(problem).score))
    judged = [(packing.judged(problem), packing, own) for packing, own in known]
    _, packing, own = min(judged, key=lambda entry: (bool(entry[0].broken), entry[0].score))
    return packing, own


def _judged(problem: PackingProblem, found: Packing, best: Packing, bound: float, own: float) -> PackingResult:
    """Return a packing as it may be shown: proven only where the judge confirms rules and gap of the best."""
    verdict, least = found.judged(problem), best.judged(problem).score
    rules = UNKEPT * len(verdict.unkept)
    gap = _relative_gap(least - rules, bound - rules)
    slack = 1e-6 * max(1.0, abs(verdict.score))
    failed = bool(verdict.broken) or verdict.score < bound - slack
    return PackingResult(
        status="failed" if failed else "proven" if gap <= GAP_WANTED + 1e-9 else "stopped",
        places=found.places,
        mounted=found.mounted,
        food=verdict.food,
        minutes=verdict.minutes,
        spared=max(0.0, verdict.score - least),
        solver_minutes=own - rules,
        bound=bound - rules,
        gap=gap,
        unkept=verdict.unkept,
        reasons=_why_failed(verdict, bound) if failed else (),
    )


def _why_failed(verdict: Verdict, bound: float) -> tuple[str, ...]:
    words = "; ".join(verdict.broken) or f"it costs {verdict.score:.2f} min, under its own bound of {bound:.2f}"
    return (f"The solver’s packing does not stand up to the judge: {words}. This is a fault of the program.",)


def _tidied(problem: PackingProblem, best: Packing, present: Mapping[str, str], tolerance: float) -> Packing:
    """Return a packing in which no bag is put to use for a thing or two that ride as well where others do.

    At most so many minutes are given up for it, over all such bags.
    """
    most, tidy = best.judged(problem).score + tolerance, best
    for place, things in _lonely(best):
        if any(present.get(key) == place or key in problem.pins for key in things):
            continue
        others = [c.id for c in problem.carriers if c.id != place and c.id in set(tidy.places.values())]
        tried = _all_elsewhere(problem, tidy, things, others)
        if tried is not None and tried.judged(problem).score <= most + 1e-9:
            tidy = tried
    return tidy


def _lonely(packing: Packing) -> list[tuple[str, list[str]]]:
    """Return the places that hold few things, with them; those that hold fewest first."""
    held: dict[str, list[str]] = {}
    for key, place in packing.places.items():
        held.setdefault(place, []).append(key)
    few = [(place, things) for place, things in held.items() if len(things) <= _LONELY]
    return sorted(few, key=lambda entry: (len(entry[1]), entry[0]))


def _all_elsewhere(problem: PackingProblem, packing: Packing, things: list[str], others: list[str]) -> Packing | None:
    """Return a packing with some things each in the cheapest of other carriers, None where one finds no room."""
    for key in things:
        options = [replace(packing, places={**packing.places, key: other}) for other in others]
        judged = [(option.judged(problem), k) for k, option in enumerate(options)]
        kept = [(verdict.score, k) for verdict, k in judged if not verdict.broken]
        if not kept:
            return None
        packing = options[min(kept)[1]]
    return packing


def _moved_less(problem: PackingProblem, best: Packing, present: Mapping[str, str], most: float) -> Packing:
    """Return a packing of at most such a score that moves as few things as could be found in a few seconds."""
    best = _put_back(problem, best, present, most)
    model = build_model(problem)
    model.row({column: cost for column, cost in enumerate(model.cost) if cost}, -math.inf, most)
    costs = [0.0] * len(model.cost)
    for column, (i, c) in enumerate(model.pairs):
        costs[column] = float(present.get(problem.items[i].id) != problem.carriers[c].id)
    for i, column in model.home.items():
        costs[column] = float(present.get(problem.items[i].id) != HOME)
    for c, column in model.mount.items():
        costs[column] = -1.0 if problem.carriers[c].mounted else 1.0
    model.cost = costs
    run = run_model(model, problem, _CALM_TIME, start=best, gap=_CALM_GAP)
    if run.solver.getInfo().primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
        return best
    calmer = read_packing(model, problem, np.array(run.solver.getSolution().col_value))
    verdict = calmer.judged(problem)
    return calmer if not verdict.broken and verdict.score <= most + 1e-9 else best


def _put_back(problem: PackingProblem, best: Packing, present: Mapping[str, str], most: float) -> Packing:
    """Return a packing with things put back where they are, one by one, as far as rules and score allow."""
    places = dict(best.places)
    known = {carrier.id for carrier in problem.carriers} | ({HOME} if problem.choices.things else set())
    moved = [key for key, place in places.items() if present.get(key, place) != place and present[key] in known]
    again = True
    while again:
        again = False
        for key in list(moved):
            tried = {**places, key: present[key]}
            verdict = replace(best, places=tried).judged(problem)
            if not verdict.broken and verdict.score <= most + 1e-9:
                places, again = tried, True
                moved.remove(key)
    return replace(best, places=places)


def _relative_gap(score: float, bound: float) -> float:
    return max(0.0, score - bound) / max(abs(score), 1e-9)


def _impossible(reasons: tuple[str, ...], conflict: Conflict | None = None) -> PackingResult:
    nan = float("nan")
    return PackingResult(
        status="impossible", places={}, minutes=nan, bound=nan, gap=nan, reasons=reasons, conflict=conflict
    )


def _nearest_reason(problem: PackingProblem, i: int) -> str:
    if not problem.carriers:
        return "none is mounted"
    words = [refusal.words for refusal in problem.refusals[i] if refusal is not None and refusal.code != "kind"]
    counts = Counter(text.split(" by ")[0] for text in words)
    return ", ".join(f"{reason} in {count}" for reason, count in counts.items()) or "none takes things"


def read_packing(model: Model, problem: PackingProblem, values: FloatArray) -> Packing:
    """Return the packing that the values of a solution stand for.

    Parameters
    ----------
    model : Model
        The model.
    problem : PackingProblem
        Its problem.
    values : ndarray
        By column. [1]

    Returns
    -------
    packing : Packing
        Places and what is mounted.
    """
    places = {
        problem.items[i].id: problem.carriers[c].id for column, (i, c) in enumerate(model.pairs) if values[column] > 0.5
    }
    places |= {problem.items[i].id: HOME for i, column in model.home.items() if values[column] > 0.5}
    mounted = frozenset(problem.carriers[c].id for c, column in model.mount.items() if values[column] > 0.5)
    food = {problem.carriers[c].id: LITRE * float(values[column]) for c, column in model.food.items()}
    rooms = _rooms_for_food(problem, places)
    return Packing(places=places, mounted=mounted, food=_exactly(food, problem.provisions.food_volume, rooms))


def _rooms_for_food(problem: PackingProblem, places: Mapping[str, str]) -> dict[str, float]:
    """Return how much food goes into each carrier beside its things, by volume and by mass. [m³]"""
    density = problem.provisions.food_mass / max(problem.provisions.food_volume, 1e-12)
    rooms = {carrier.id: carrier.capacity for carrier in problem.carriers}
    bearing = {carrier.id: carrier.load_limit for carrier in problem.carriers}
    for item in problem.items:
        place = places.get(item.id, "")
        if place in rooms and item.id not in problem.provisions.away:
            rooms[place] -= item.total_volume
            bearing[place] -= item.total_mass
    return {key: float(min(room, bearing[key] / max(density, 1e-12))) for key, room in rooms.items()}


def _exactly(food: Mapping[str, float], volume: float, rooms: Mapping[str, float]) -> dict[str, float]:
    """Return food by carrier that adds up to a volume and fits, the solver's rounding left out. [m³]"""
    kept = {key: min(max(0.0, put), max(0.0, rooms[key])) for key, put in food.items() if put > _CRUMBS}
    left = volume - sum(kept.values())
    for key in sorted(kept, key=lambda key: kept[key] - rooms[key]):  # the roomiest takes what rounding left over
        more = max(-kept[key], min(left, rooms[key] - kept[key]))
        kept[key] += more
        left -= more
    return kept


def lower_bound(problem: PackingProblem) -> float:
    """Return minutes that no packing can be under: the model with things allowed to be split.

    Parameters
    ----------
    problem : PackingProblem
        The problem.

    Returns
    -------
    minutes : float
        Optimum of the linear relaxation; NaN where even that has none. [min]

    Examples
    --------
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> lower_bound(build_problem(items=(), carriers=(), bike=Bike(), provisions=Provisions(), pins={},
    ...                           prices=Prices(per_kg=1, per_drag=1, days=1)))
    0.0
    """
    if not problem.items and problem.provisions.food_volume <= 0.0:
        return 0.0
    values = _relaxed(build_model(problem))
    return math.nan if values is None else values[0] - _unavoidable(problem)


def _relaxed(model: Model) -> tuple[float, float] | None:
    """Return the optimum with things allowed to be split, and what of it stands for rules; None: no packing. [min]"""
    lp = as_lp(model)
    lp.integrality_ = []
    solver = new_solver()
    solver.passModel(lp)
    solver.run()
    if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
        return None
    values = np.array(solver.getSolution().col_value)
    rules = sum(model.cost[column] * values[column] for column in model.unkept.values())
    return float(solver.getInfo().objective_function_value), float(rules)


def _near(model: Model) -> float:
    """Return how near to the best found a packing is not worth looking for: most of the wanted gap. [min]"""
    values = _relaxed(model)
    return 0.0 if values is None else _NEAR * GAP_WANTED * max(0.0, values[0] - values[1])


def _unavoidable(problem: PackingProblem) -> float:
    """Return what stands for the rules that no packing keeps: things without any good place. [min]"""
    able = {
        item.id: {carrier.id for c, carrier in enumerate(problem.carriers) if problem.allowed[i, c]}
        for i, item in enumerate(problem.items)
    } | {key: {place} for key, place in problem.pins.items()}
    lost = [rule for rule in problem.rules if isinstance(rule, NoGoodPlace) and able[rule.thing] <= rule.carriers]
    return UNKEPT * len(lost)


def _homeless(problem: PackingProblem) -> tuple[str, ...]:
    """Say what has no place at all; refused where there is too much to pack at once."""
    if len(problem.items) * len(problem.carriers) > _MOST_CELLS:
        raise InvalidInput(
            f"{len(problem.items)} things over {len(problem.carriers)} carriers are too many to pack at once. "
            f"Their product may be {_MOST_CELLS:,} at most."
        )
    found = tuple(
        f"{item.name} fits in no carrier: {_nearest_reason(problem, i)}."
        for i, item in enumerate(problem.items)
        if item.id not in problem.pins and item.id not in problem.choices.things and not problem.allowed[i].any()
    )
    if problem.provisions.food_volume > 0.0 and not problem.takes_food.any():
        litres = problem.provisions.food_volume * 1000.0
        found += (f"No mounted carrier takes food, and {litres:.1f} l of it must ride somewhere.",)
    return found


@dataclass(frozen=True, kw_only=True)
class Solved:
    """A solver after its run."""

    solver: highspy.Highs
    improved: tuple[FloatArray, ...]  # columns of the best packing that it told of on the way
    near: float  # min; what could have been less than this better was not looked at

    @property
    def bound(self) -> float:
        """What no packing is under, rules not kept included; it says no more than was looked at. [min]"""
        info = self.solver.getInfo()
        return min(float(info.mip_dual_bound), float(info.objective_function_value) - self.near)


def run_model(
    model: Model,
    problem: PackingProblem,
    time_limit: float,
    *,
    on_progress: Callable[[Progress], None] = _nothing,
    should_stop: Callable[[], bool] = _never,
    start: Packing | None = None,
    gap: float = GAP_WANTED,
    near: float = 0.0,
) -> Solved:
    """Run a model of a packing problem.

    Parameters
    ----------
    model : Model
        Columns and rows.
    problem : PackingProblem
        Its problem.
    time_limit : float
        Longest time. [s]
    on_progress, should_stop : callable
        Told where it stands; asked whether to end.
    start : Packing, optional
        To start from.
    gap : float
        Relative gap at which it ends, over what it costs besides rules not kept. [1]
    near : float
        What could be better than the best found by less than this is not looked at. [min]

    Returns
    -------
    solved : Solved
        The solver after its run, and the columns that it told of on the way.
    """
    solver = new_solver(time_limit=float(time_limit), mip_rel_gap=0.0, mip_abs_gap=max(near, 1e-6))
    solver.passModel(as_lp(model))
    if start is not None:
        begun = _as_columns(model, problem, start)
        solver.setSolution(len(begun), np.array(list(begun), dtype=np.int32), np.array(list(begun.values())))
    unkept = list(model.unkept.values())
    dear = np.array([model.cost[column] for column in unkept])
    solutions: list[FloatArray] = []
    known = {"unkept": 0.0, "bound": -math.inf, "best": math.inf}

    def stands() -> Progress:
        minutes, bound = (known[name] - known["unkept"] for name in ("best", "bound"))
        between = _relative_gap(minutes, bound) if math.isfinite(minutes) and math.isfinite(bound) else 1.0
        return Progress(minutes=minutes, bound=bound, gap=min(between, 1.0))

    def improved(event: highspy.HighsCallbackEvent) -> None:
        values = np.array(event.data_out.mip_solution)
        solutions[:] = [values] if values.size == len(model.cost) else solutions
        if unkept and values.size:
            known["unkept"] = float(dear[values[unkept] > 0.5].sum())
        known["best"] = float(event.data_out.mip_primal_bound)
        on_progress(stands())

    def may_stop(event: highspy.HighsCallbackEvent) -> None:
        known["bound"] = float(event.data_out.mip_dual_bound)
        now = stands()
        if math.isfinite(now.minutes):
            on_progress(now)
        if event.data_in is not None:
            event.data_in.user_interrupt = bool(should_stop()) or now.gap <= gap

    solver.cbMipImprovingSolution += improved
    solver.cbMipInterrupt += may_stop
    begun_at = time.monotonic()
    solver.run()
    left = time_limit - (time.monotonic() - begun_at)
    if start is not None and left > 0.0 and _lost_columns(model, solver, solutions):
        return run_model(model, problem, left, on_progress=on_progress, should_stop=should_stop, gap=gap, near=near)
    return Solved(solver=solver, improved=tuple(solutions), near=near)


def _lost_columns(model: Model, solver: highspy.Highs, told: Sequence[FloatArray]) -> bool:
    """Tell whether a solver states a better objective than that of any columns that it gave.

    Where its own reductions solve a model outright, it may hand over the columns of the start instead.
    """
    info = solver.getInfo()
    if info.primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
        return False
    columns = [*told[-1:], np.array(solver.getSolution().col_value)]
    least = min(float(np.dot(model.cost, values)) for values in columns)
    return least > info.objective_function_value + 1e-6 * max(1.0, abs(least))


def _as_columns(model: Model, problem: PackingProblem, packing: Packing) -> dict[int, float]:
    """Return the values of the columns that a packing settles; the solver fills in the rest."""
    known = {
        column: float(packing.places.get(problem.items[i].id) == problem.carriers[c].id)
        for column, (i, c) in enumerate(model.pairs)
    }
    known |= {col: float(packing.places.get(problem.items[i].id) == HOME) for i, col in model.home.items()}
    if packing.food is not None:
        known |= {col: packing.food.get(problem.carriers[c].id, 0.0) / LITRE for c, col in model.food.items()}
    return known | {col: float(problem.carriers[c].id in packing.mounted) for c, col in model.mount.items()}


def _best_start(
    problem: PackingProblem, present: Mapping[str, str] | None, mounted: frozenset[str] | None
) -> Packing | None:
    """Return the best of the rules of thumb and the present packing, as far as they keep every hard rule."""
    if mounted is None:
        mounted = frozenset(c.id for c in problem.carriers if c.id in problem.choices.carriers and c.mounted)
    on = mounted
    places = [pack_greedily(problem, rule) for rule in RULES] + ([present] if present is not None else [])
    known = [Packing(places=dict(entry), mounted=on) for entry in places]
    judged = [packing.judged(problem) for packing in known]
    kept = [(verdict.score, k) for k, verdict in enumerate(judged) if not verdict.broken]
    return replace(known[min(kept)[1]], food=judged[min(kept)[1]].food) if kept else None
