"""The mixed-integer model of a packing problem: one function per family of rows."""

from dataclasses import dataclass, field

import numpy as np
from scipy.sparse import csr_array

from stonechat.core.load.balance import FRONT_SHARE_BAND, SWAY_MOST
from stonechat.core.load.problem import PackingProblem, sideways_most
from stonechat.core.numerics.arrays import FloatArray, IntArray

_INFINITY = float("inf")
OVERFLOW_PRICE = 1e4  # min per litre or kg over a limit, in the elastic model
LITRE = 1e-3  # m³; volumes enter the model in litres, so that coefficients stay near 1


@dataclass(kw_only=True)
class Model:
    """Columns and rows of a model; `pairs` names the item and carrier of each placement column."""

    pairs: list[tuple[int, int]]
    cost: list[float] = field(default_factory=list)
    upper: list[float] = field(default_factory=list)
    integer: list[bool] = field(default_factory=list)
    rows: list[tuple[dict[int, float], float, float]] = field(default_factory=list)
    food: dict[int, int] = field(default_factory=dict)  # carrier to column, in litres
    overflow: dict[int, tuple[int, int]] = field(default_factory=dict)  # carrier to columns of l and kg over
    food_left: int = -1

    def column(self, *, cost: float, upper: float, integer: bool = False) -> int:
        """Add a column and return its number."""
        self.cost.append(cost)
        self.upper.append(upper)
        self.integer.append(integer)
        return len(self.cost) - 1

    def row(self, coefficients: dict[int, float], low: float, high: float) -> None:
        """Add a row ``low <= coefficients · x <= high``; an empty one only if it could fail."""
        if coefficients or not low <= 0.0 <= high:
            self.rows.append((coefficients, low, high))

    def arrays(self) -> tuple[csr_array, FloatArray, FloatArray, IntArray]:
        """Return the matrix with its row limits and the flags of the whole-number columns."""
        data = [(r, c, v) for r, (coefficients, _, _) in enumerate(self.rows) for c, v in coefficients.items()]
        rows, columns, values = (np.array([entry[k] for entry in data]) for k in range(3))
        matrix: csr_array = csr_array(
            (values.astype(np.float64), (rows.astype(np.int64), columns.astype(np.int64))),
            shape=(len(self.rows), len(self.cost)),
        )
        low, high = (np.array([row[k] for row in self.rows]) for k in (1, 2))
        return matrix, low, high, np.array(self.integer, dtype=np.int64)


def build_model(problem: PackingProblem, *, elastic: bool = False) -> Model:
    """Return the model of a packing problem.

    Parameters
    ----------
    problem : PackingProblem
        The problem.
    elastic : bool
        Let carriers be over their limits, and food be left, at a high price each litre and kilogram.

    Returns
    -------
    model : Model
        Columns for allowed placements, food by carrier, and one switch a carrier for what leaks. [min]

    Examples
    --------
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> len(build_model(build_problem(items=(), carriers=(), bike=Bike(), provisions=Provisions(), pins={},
    ...                               prices=Prices(per_kg=1, per_drag=1, days=1))).rows)
    0
    """
    allowed = problem.allowed
    index = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    pairs = []
    for i, item in enumerate(problem.items):
        pinned = problem.pins.get(item.id)
        if pinned is not None:
            pairs.append((i, index[pinned]))
        else:
            pairs += [(i, c) for c in range(len(problem.carriers)) if allowed[i, c]]
    model = Model(pairs=pairs)
    for i, c in pairs:
        model.column(cost=float(problem.minutes[i, c]), upper=1.0, integer=True)
    _add_food(problem, model, elastic=elastic)
    if elastic:
        for c in range(len(problem.carriers)):
            model.overflow[c] = (
                model.column(cost=OVERFLOW_PRICE, upper=_INFINITY),
                model.column(cost=OVERFLOW_PRICE, upper=_INFINITY),
            )
    _assign(problem, model)
    _limits(problem, model)
    _leaks(problem, model)
    _balance(problem, model)
    return model


def _food_kg_per_l(problem: PackingProblem) -> float:
    volume = problem.provisions.food_volume
    return problem.provisions.food_mass / volume * LITRE if volume > 0.0 else 0.0


def _add_food(problem: PackingProblem, model: Model, *, elastic: bool) -> None:
    if problem.provisions.food_volume <= 0.0:
        return
    for c, carrier in enumerate(problem.carriers):
        if "food" in carrier.takes:
            model.food[c] = model.column(cost=float(problem.food_minutes[c]) * LITRE, upper=carrier.capacity / LITRE)
    coefficients = dict.fromkeys(model.food.values(), 1.0)
    if elastic:
        model.food_left = model.column(cost=OVERFLOW_PRICE, upper=_INFINITY)
        coefficients[model.food_left] = 1.0
    total = problem.provisions.food_volume / LITRE
    model.row(coefficients, total, total)


def _assign(problem: PackingProblem, model: Model) -> None:
    by_item: dict[int, dict[int, float]] = {i: {} for i in range(len(problem.items))}
    for column, (i, _) in enumerate(model.pairs):
        by_item[i][column] = 1.0
    for coefficients in by_item.values():
        model.row(coefficients, 1.0, 1.0)


def _limits(problem: PackingProblem, model: Model) -> None:
    density = _food_kg_per_l(problem)
    for c, carrier in enumerate(problem.carriers):
        volume: dict[int, float] = {}
        mass: dict[int, float] = {}
        for column, (i, place) in enumerate(model.pairs):
            item = problem.items[i]
            if place == c and not item.worn:
                volume[column] = item.total_volume / LITRE
                mass[column] = item.total_mass
        if c in model.food:
            volume[model.food[c]], mass[model.food[c]] = 1.0, density
        if c in model.overflow:
            volume[model.overflow[c][0]], mass[model.overflow[c][1]] = -1.0, -1.0
        model.row(volume, -_INFINITY, carrier.capacity / LITRE)
        model.row(mass, -_INFINITY, carrier.load_limit)


def _leaks(problem: PackingProblem, model: Model) -> None:
    """Keep what leaks from what it would spoil by one switch a carrier."""
    for c, carrier in enumerate(problem.carriers):
        here = [(column, problem.items[i]) for column, (i, place) in enumerate(model.pairs) if place == c]
        leaking = {column: 1.0 for column, item in here if item.leaks}
        spoiling = {column: 1.0 for column, item in here if item.is_spoilable}
        food = model.food.get(c)
        if not leaking or not (spoiling or food is not None):
            continue
        switch = model.column(cost=0.0, upper=1.0, integer=True)
        model.row({**leaking, switch: -float(len(leaking))}, -_INFINITY, 0.0)
        if spoiling:
            model.row({**spoiling, switch: float(len(spoiling))}, -_INFINITY, float(len(spoiling)))
        if food is not None:
            room = carrier.capacity / LITRE
            model.row({food: 1.0, switch: room}, -_INFINITY, room)


def _balance(problem: PackingProblem, model: Model) -> None:
    """Hold front share, lean and sway within their bands; all linear in the loads."""
    density = _food_kg_per_l(problem)
    loads: dict[int, tuple[int, float]] = {
        column: (c, 0.0 if problem.items[i].worn else problem.items[i].total_mass)
        for column, (i, c) in enumerate(model.pairs)
    }
    loads |= {column: (c, density) for c, column in model.food.items()}
    fixed = problem.provisions.fixed
    if fixed:
        for bound, sign in zip(FRONT_SHARE_BAND, (1.0, -1.0), strict=True):
            line = bound * problem.wheelbase
            model.row(
                {col: sign * m * (problem.positions[c, 0] - line) for col, (c, m) in loads.items()},
                -sign * sum(m * (x - line) for m, x, _, _ in fixed),
                _INFINITY,
            )
        most, already = sideways_most(problem), sum(m * y for m, _, y, _ in fixed)
        model.row({col: m * problem.positions[c, 1] for col, (c, m) in loads.items()}, -most - already, most - already)
    sway = {
        col: m * problem.carriers[c].sway_lever / problem.carriers[c].steadiness
        for col, (c, m) in loads.items()
        if problem.carriers[c].sway_lever > 0.0
    }
    model.row(sway, -_INFINITY, SWAY_MOST)
