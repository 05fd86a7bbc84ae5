"""Solve a packing problem to a proven gap."""

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
        Where things are now; of packings that cost the same, one that moves less is returned.
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
    if homeless:
        return _impossible(homeless)
    if not problem.items and problem.provisions.food_volume <= 0.0:
        return PackingResult(status="proven", places={}, minutes=0.0, bound=0.0, gap=0.0)
    model = build_model(problem)
    started = time.perf_counter()
    solver = _run(model, problem, time_limit, on_progress, should_stop, warm=True)
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
    if present is not None:
        places = _moved_less(problem, places, present)
    minutes, bound = judge(problem, places).minutes, float(info.mip_dual_bound)
    gap = _relative_gap(minutes, bound)
    proven = status == highspy.HighsModelStatus.kOptimal
    return PackingResult(status="proven" if proven else "stopped", places=places, minutes=minutes, bound=bound, gap=gap)


def _moved_less(problem: PackingProblem, places: dict[str, str], present: Mapping[str, str]) -> dict[str, str]:
    """Return the packing with every move taken back that brings nothing; each is judged with all others in force."""
    kept = dict(places)
    least = judge(problem, kept).minutes
    for item in problem.items:
        back = present.get(item.id)
        if back is None or back == kept[item.id]:
            continue
        trial = {**kept, item.id: back}
        verdict = judge(problem, trial)
        if not verdict.broken and verdict.minutes <= least + 1e-9:
            kept, least = trial, verdict.minutes
    return kept


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


def _run(
    model: Model,
    problem: PackingProblem,
    time_limit: float,
    on_progress: Callable[[Progress], None],
    should_stop: Callable[[], bool],
    *,
    warm: bool,
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
    if warm:
        _start_from_greedy(solver, model, problem)

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


def _start_from_greedy(solver: highspy.Highs, model: Model, problem: PackingProblem) -> None:
    """Hand the greedy packing to the solver as a start, where it keeps every rule."""
    places = pack_greedily(problem)
    if judge(problem, places).broken:
        return
    chosen = [float(places.get(problem.items[i].id) == problem.carriers[c].id) for i, c in model.pairs]
    solver.setSolution(len(chosen), np.arange(len(chosen), dtype=np.int32), np.array(chosen))


def _what_is_missing(problem: PackingProblem, time_limit: float) -> tuple[str, ...]:
    """Say which carriers would have to hold how much more, by the cheapest overflow."""
    model = build_model(problem, elastic=True)
    solver = _run(model, problem, time_limit, _nothing, _never, warm=False)
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
