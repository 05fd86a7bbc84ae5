"""Solve a packing problem to a proven gap."""

import math
import time
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import highspy
import numpy as np

from stonechat.core.load.greedy import pack_greedily
from stonechat.core.load.model import Model, build_model
from stonechat.core.load.problem import PackingProblem, judge
from stonechat.core.numerics.arrays import FloatArray
from stonechat.errors import InvalidInput

GAP_WANTED = 1e-3  # 1, relative gap at which a packing counts as proven
_CALM_TIME = 4.0  # s, to look for a packing as good that moves less
_MOST_CELLS = 40_000  # items times carriers


@dataclass(frozen=True, kw_only=True)
class PackingResult:
    """An answer with its proof, or the reason why there is none."""

    status: str  # proven, stopped (limit of time or by hand) or impossible
    places: Mapping[str, str]  # carrier of each item; empty where impossible
    minutes: float  # min, NaN where impossible
    bound: float  # min, no packing can be better
    gap: float  # 1, (minutes - bound) / minutes
    reasons: tuple[str, ...] = ()  # why it is impossible, in sentences


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
        Where things are now; of packings within the wanted gap, the one found that moves least is returned.
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
    if len(problem.items) * len(problem.carriers) > _MOST_CELLS:
        raise InvalidInput(
            f"{len(problem.items)} things over {len(problem.carriers)} carriers are too many to pack at once. "
            f"Their product may be {_MOST_CELLS:,} at most."
        )
    homeless = tuple(
        f"{item.name} fits in no carrier: {_nearest_reason(problem, i)}."
        for i, item in enumerate(problem.items)
        if item.id not in problem.pins and not problem.allowed[i].any()
    )
    if problem.provisions.food_volume > 0.0 and not problem.takes_food.any():
        litres = problem.provisions.food_volume * 1000.0
        homeless += (f"No mounted carrier takes food, and {litres:.1f} l of it must ride somewhere.",)
    if homeless:
        return _impossible(homeless)
    if not problem.items and problem.provisions.food_volume <= 0.0:
        return PackingResult(status="proven", places={}, minutes=0.0, bound=0.0, gap=0.0)
    model = build_model(problem)
    started = time.perf_counter()
    solver = _run(model, problem, time_limit, on_progress, should_stop, start=_best_start(problem, present))
    status = solver.getModelStatus()
    info = solver.getInfo()
    if status == highspy.HighsModelStatus.kInfeasible:
        return _impossible(_what_is_missing(problem, max(2.0, time_limit - time.perf_counter() + started)))
    if info.primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
        return PackingResult(
            status="stopped",
            places={},
            minutes=float("nan"),
            bound=float(info.mip_dual_bound),
            gap=1.0,
            reasons=("No packing was found in the time given. Give it longer.",),
        )
    values = np.array(solver.getSolution().col_value)
    places = _places(model, problem, values)
    minutes, bound = judge(problem, places).minutes, float(info.mip_dual_bound)
    if present is not None:
        places = _moved_less(problem, places, present, max(minutes, bound / (1.0 - GAP_WANTED)))
        minutes = judge(problem, places).minutes
    gap = _relative_gap(minutes, bound)
    proven = status == highspy.HighsModelStatus.kOptimal
    return PackingResult(status="proven" if proven else "stopped", places=places, minutes=minutes, bound=bound, gap=gap)


def _moved_less(
    problem: PackingProblem, places: dict[str, str], present: Mapping[str, str], most_minutes: float
) -> dict[str, str]:
    """Return a packing of at most so many minutes that moves as few things as could be found in a few seconds."""
    model = build_model(problem)
    model.row({column: cost for column, cost in enumerate(model.cost) if cost}, -math.inf, most_minutes)
    moved = [float(present.get(problem.items[i].id) != problem.carriers[c].id) for i, c in model.pairs]
    model.cost = moved + [0.0] * (len(model.cost) - len(moved))
    solver = _run(model, problem, _CALM_TIME, _nothing, _never, start=places)
    if solver.getInfo().primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
        return places
    calmer = _places(model, problem, np.array(solver.getSolution().col_value))
    verdict = judge(problem, calmer)
    return calmer if not verdict.broken and verdict.minutes <= most_minutes + 1e-9 else places


def _relative_gap(minutes: float, bound: float) -> float:
    return max(0.0, minutes - bound) / max(abs(minutes), 1e-9)


def _impossible(reasons: tuple[str, ...]) -> PackingResult:
    nan = float("nan")
    return PackingResult(status="impossible", places={}, minutes=nan, bound=nan, gap=nan, reasons=reasons)


def _nearest_reason(problem: PackingProblem, i: int) -> str:
    if not problem.carriers:
        return "none is mounted"
    words = [refusal.words for refusal in problem.refusals[i] if refusal is not None and refusal.code != "kind"]
    counts = Counter(text.split(" by ")[0] for text in words)
    return ", ".join(f"{reason} in {count}" for reason, count in counts.items()) or "none takes things"


def _places(model: Model, problem: PackingProblem, values: FloatArray) -> dict[str, str]:
    return {
        problem.items[i].id: problem.carriers[c].id for column, (i, c) in enumerate(model.pairs) if values[column] > 0.5
    }


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
    model = build_model(problem)
    model.integer = [False] * len(model.integer)
    solver = highspy.Highs()
    for option, value in (("output_flag", False), ("log_to_console", False), ("threads", 1)):
        solver.setOptionValue(option, value)
    solver.passModel(_as_lp(model))
    solver.run()
    optimal = solver.getModelStatus() == highspy.HighsModelStatus.kOptimal
    return float(solver.getInfo().objective_function_value) if optimal else float("nan")


def _run(
    model: Model,
    problem: PackingProblem,
    time_limit: float,
    on_progress: Callable[[Progress], None],
    should_stop: Callable[[], bool],
    *,
    start: Mapping[str, str] | None = None,
) -> highspy.Highs:
    solver = highspy.Highs()
    for option, value in (
        ("output_flag", False),
        ("log_to_console", False),
        ("threads", 1),
        ("random_seed", 1),
        ("time_limit", float(time_limit)),
        ("mip_rel_gap", GAP_WANTED),
    ):
        solver.setOptionValue(option, value)
    solver.passModel(_as_lp(model))
    if start is not None:
        chosen = [float(start.get(problem.items[i].id) == problem.carriers[c].id) for i, c in model.pairs]
        solver.setSolution(len(chosen), np.arange(len(chosen), dtype=np.int32), np.array(chosen))

    def watch(event: highspy.HighsCallbackEvent) -> None:
        out = event.data_out
        best, bound = float(out.mip_primal_bound), float(out.mip_dual_bound)
        on_progress(Progress(minutes=best, bound=bound, gap=_relative_gap(best, bound) if best < 1e20 else 1.0))

    def may_stop(event: highspy.HighsCallbackEvent) -> None:
        watch(event)
        if event.data_in is not None:
            event.data_in.user_interrupt = bool(should_stop())

    solver.cbMipImprovingSolution += watch
    solver.cbMipInterrupt += may_stop
    solver.run()
    return solver


def _as_lp(model: Model) -> highspy.HighsLp:
    matrix, low, high, integer = model.arrays()
    by_column = matrix.tocsc()
    lp = highspy.HighsLp()
    lp.num_col_, lp.num_row_ = len(model.cost), len(model.rows)
    lp.col_cost_ = np.array(model.cost)
    lp.col_lower_ = np.zeros(len(model.cost))
    lp.col_upper_ = np.array(model.upper)
    lp.row_lower_, lp.row_upper_ = low, high
    lp.a_matrix_.format_ = highspy.MatrixFormat.kColwise
    lp.a_matrix_.start_ = by_column.indptr
    lp.a_matrix_.index_ = by_column.indices
    lp.a_matrix_.value_ = by_column.data
    kinds = (highspy.HighsVarType.kContinuous, highspy.HighsVarType.kInteger)
    lp.integrality_ = [kinds[flag] for flag in integer.tolist()]
    return lp


def _best_start(problem: PackingProblem, present: Mapping[str, str] | None) -> Mapping[str, str] | None:
    """Return the better of the greedy packing and the present one, as far as they keep every rule."""
    known = [places for places in (pack_greedily(problem), present) if places is not None]
    judged = [(judge(problem, places), places) for places in known]
    kept = [(verdict.minutes, places) for verdict, places in judged if not verdict.broken]
    return min(kept, key=lambda entry: entry[0])[1] if kept else None


def _what_is_missing(problem: PackingProblem, time_limit: float) -> tuple[str, ...]:
    """Say which carriers would have to hold how much more, by the cheapest overflow."""
    model = build_model(problem, elastic=True)
    solver = _run(model, problem, time_limit, _nothing, _never)
    if solver.getInfo().primal_solution_status != highspy.SolutionStatus.kSolutionStatusFeasible:
        return ("No packing keeps leaks, balance and sway within their limits. Unpin things or move the bags.",)
    values = solver.getSolution().col_value
    sentences = []
    for c, (litres, kilos) in model.overflow.items():
        name = problem.carriers[c].name
        if values[litres] > 1e-4:
            sentences.append(f"{name} would be over by {values[litres]:.2f} l.")
        if values[kilos] > 1e-4:
            sentences.append(f"{name} would be over its limit by {values[kilos]:.2f} kg.")
    if model.food_left >= 0 and values[model.food_left] > 1e-4:
        sentences.append(f"{values[model.food_left]:.2f} l of food find no room.")
    return (*sentences, "Leave something at home, mount a larger bag, or buy food more often.")
