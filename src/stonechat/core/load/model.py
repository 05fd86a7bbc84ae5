"""The mixed-integer model of a packing problem: one function per family of rows."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from scipy.sparse import csr_array

from stonechat.core.load.problem import PackingProblem, Shared, Stretch, sideways_most
from stonechat.core.load.together.rule import UNKEPT
from stonechat.core.numerics.arrays import FloatArray, IntArray

_INFINITY = float("inf")
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
    other_food: list[dict[int, int]] = field(default_factory=list)  # the same on other parts of the race
    mount: dict[int, int] = field(default_factory=dict)  # carrier that may be mounted to column
    home: dict[int, int] = field(default_factory=dict)  # item that may stay at home to column
    unkept: dict[int, int] = field(default_factory=dict)  # rule to column
    at: dict[int, dict[int, int]] = field(default_factory=dict)  # item to carrier to column
    tags: list[str] = field(default_factory=list)  # what each row is for
    # carrier, things and whether food counts, to the column that says whether it holds any
    holding: dict[tuple[str, frozenset[str], bool], int] = field(default_factory=dict)

    def column(self, *, cost: float, upper: float, integer: bool = False) -> int:
        """Add a column and return its number."""
        self.cost.append(cost)
        self.upper.append(upper)
        self.integer.append(integer)
        return len(self.cost) - 1

    def row(self, coefficients: dict[int, float], low: float, high: float, tag: str = "") -> None:
        """Add a row ``low <= coefficients · x <= high``; an empty one only if it could fail."""
        if coefficients or not low <= 0.0 <= high:
            self.rows.append((coefficients, low, high))
            self.tags.append(tag)

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


def build_model(problem: PackingProblem, *, pin_rows: bool = False) -> Model:
    """Return the model of a packing problem.

    Parameters
    ----------
    problem : PackingProblem
        The problem.
    pin_rows : bool
        Let pinned things into other carriers too, and hold them by rows, so that a pin can be found in the way.

    Returns
    -------
    model : Model
        Columns for allowed placements, things at home, carriers mounted, food by carrier, and switches of rules;
        each row carries a tag that says what it is for. [min]

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
        if pinned is not None and not pin_rows:
            pairs.append((i, index[pinned]))
        else:
            pairs += [(i, c) for c, carrier in enumerate(problem.carriers) if allowed[i, c] or carrier.id == pinned]
    model = Model(pairs=pairs)
    for i, c in pairs:
        model.at.setdefault(i, {})[c] = model.column(cost=float(problem.minutes[i, c]), upper=1.0, integer=True)
    _openings(problem, model)
    _choices(problem, model)
    _leaving(problem, model)
    _add_food(problem, model)
    _assign(problem, model)
    _limits(problem, model)
    _leaks(problem, model)
    _liners(problem, model)
    _balance(problem, model)
    for item_id, place in problem.pins.items() if pin_rows else ():
        row = next(i for i, item in enumerate(problem.items) if item.id == item_id)
        model.row({model.at[row][index[place]]: 1.0}, 1.0, _INFINITY, f"pin:{item_id}")
    loads = {column: (problem.carriers[c].id, mass) for column, (c, mass) in _loads(problem, model).items()}
    for number, rule in enumerate(problem.rules):
        rows = _RuleRows(problem, model, loads)
        model.unkept[number] = rows.unkept
        rule.rows(rows)
    return model


def _openings(problem: PackingProblem, model: Model) -> None:
    """Open each carrier as often as the thing there that an occasion takes most often, and halt as often.

    What an occasion takes alone costs as much in its own column.
    """
    for occasion in problem.shared:
        if len(occasion.times) == 1:
            for i, times in occasion.times.items():
                for c, column in model.at.get(i, {}).items():
                    model.cost[column] += times * float(
                        occasion.opening[c] + sum(occasion.halts[: occasion.levels[i][c]])
                    )
            continue
        _opened(occasion, problem, model)
        _halted(occasion, problem, model)


def _opened(occasion: Shared, problem: PackingProblem, model: Model) -> None:
    for c in range(len(problem.carriers)):
        here = {i: [model.at[i][c]] for i in occasion.times if c in model.at.get(i, {})}
        steps = _as_often_as_most(occasion, here, float(occasion.opening[c]), model, "opening")
        _no_more_than_opened(problem, model, c, {i: steps[float(occasion.times[i])] for i in here})


def _halted(occasion: Shared, problem: PackingProblem, model: Model) -> None:
    for level, minutes in enumerate(occasion.halts):
        needed = {
            i: [column for c, column in model.at.get(i, {}).items() if occasion.levels[i][c] > level]
            for i in occasion.times
        }
        _as_often_as_most(occasion, {i: columns for i, columns in needed.items() if columns}, minutes, model, "halt")


def _no_more_than_opened(problem: PackingProblem, model: Model, c: int, steps: Mapping[int, int]) -> None:
    """Hold what is taken out of a carrier under its capacity times each step: no more comes out than is opened.

    Implied by whole numbers, and much tighter where parts of things are allowed: a set of things that is larger than
    the carrier cannot be half there for half an opening. `steps` are those of the things, by item.
    """
    room = problem.carriers[c].capacity
    for step in dict.fromkeys(steps.values()):
        out = {i for i, other in steps.items() if other <= step}  # taken out as often or oftener: made before
        out -= {i for i in out if problem.items[i].id in problem.provisions.always.away}  # these share their room
        volume = {model.at[i][c]: problem.items[i].total_volume / LITRE for i in out}
        if sum(volume.values()) > room / LITRE:
            model.row({**volume, step: -room / LITRE}, -_INFINITY, 0.0, "opening")


def _as_often_as_most(
    occasion: Shared, columns: Mapping[int, list[int]], minutes: float, model: Model, tag: str
) -> dict[float, int]:
    """Count some minutes as often as the thing that is taken most often of those that have one of their columns.

    A step for each number of times, over the next lower one: the most of several is submodular, and its steps are its
    convex envelope [Lovasz1983]. Whole numbers, so that the solver may branch on what is opened. Returned by times.
    """
    by_times: dict[float, list[int]] = {}
    for i in columns:
        by_times.setdefault(float(occasion.times[i]), []).append(i)
    above: int | None = None
    steps: dict[float, int] = {}
    for times, lower in pairwise([*sorted(by_times, reverse=True), 0.0]):
        step = model.column(cost=minutes * (times - lower), upper=1.0, integer=True)
        for i in by_times[times]:
            model.row({step: 1.0, **dict.fromkeys(columns[i], -1.0)}, 0.0, _INFINITY, tag)
        if above is not None:
            model.row({step: 1.0, above: -1.0}, 0.0, _INFINITY, tag)
        above = steps[times] = step
    return steps


def _food_kg_per_l(problem: PackingProblem) -> float:
    volume = problem.provisions.food_volume
    return problem.provisions.food_mass / volume * LITRE if volume > 0.0 else 0.0


def _choices(problem: PackingProblem, model: Model) -> None:
    """Carriers mounted or not."""
    choices = problem.choices
    for c, carrier in enumerate(problem.carriers):
        if carrier.id in choices.carriers:
            model.mount[c] = model.column(cost=choices.carriers[carrier.id], upper=1.0, integer=True)
    by_id = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    for group in choices.exclusive:
        columns = [model.mount[by_id[key]] for key in sorted(group) if by_id.get(key) in model.mount]
        fixed = sum(1 for key in group if key in by_id and by_id[key] not in model.mount)
        model.row(dict.fromkeys(columns, 1.0), -_INFINITY, max(0.0, 1.0 - fixed), "mounted:one of them")
    for group in choices.twins:
        first, *others = (model.mount[by_id[key]] for key in sorted(group))
        for other in others:
            model.row({first: 1.0, other: -1.0}, 0.0, 0.0, "mounted:both sides")


def _leaving(problem: PackingProblem, model: Model) -> None:
    """Things at home or not, and jobs that nothing does."""
    choices = problem.choices
    rows = {item.id: i for i, item in enumerate(problem.items)}
    for key in choices.things:
        if key not in problem.pins:
            model.home[rows[key]] = model.column(cost=0.0, upper=1.0, integer=True)
    for loss in choices.losses:
        along = [column for key in sorted(loss.things) for column in model.at.get(rows[key], {}).values()]
        lack = model.column(cost=loss.minutes, upper=0.0 if loss.never_cut else 1.0)
        model.row({**dict.fromkeys(along, 1.0), lack: 1.0}, 1.0, _INFINITY, f"job:{loss.name}")


def _add_food(problem: PackingProblem, model: Model) -> None:
    if problem.provisions.food_volume <= 0.0:
        return
    for c in _fed(problem):
        upper = problem.carriers[c].capacity / LITRE
        model.food[c] = model.column(cost=float(problem.food_minutes[c]) * LITRE, upper=upper)
    total = problem.provisions.food_volume / LITRE
    model.row(dict.fromkeys(model.food.values(), 1.0), total, total, "food")
    if problem.provisions.fetching:
        halts = model.column(cost=1.0, upper=_INFINITY)
        for slope, start in problem.provisions.fetching:
            near = {column: -slope * LITRE for c, column in model.food.items() if problem.at_hand[c]}
            model.row({halts: 1.0, **near}, start, _INFINITY, "eating")


def _assign(problem: PackingProblem, model: Model) -> None:
    for i, item in enumerate(problem.items):
        coefficients = dict.fromkeys(model.at.get(i, {}).values(), 1.0)
        if i in model.home:
            coefficients[model.home[i]] = 1.0
        model.row(coefficients, 1.0, 1.0, f"thing:{item.id}")
        along = problem.choices.things.get(item.id, 0.0)
        for column in model.at.get(i, {}).values():
            model.cost[column] += along


def _limits(problem: PackingProblem, model: Model) -> None:
    for column, (_, c) in enumerate(model.pairs):
        if c in model.mount:
            model.row({column: 1.0, model.mount[c]: -1.0}, -_INFINITY, 0.0, "mounted:used")
    _room_on(problem, model, problem.provisions.stretch, model.food)
    for other in problem.provisions.others:
        food = {}
        if other.food_volume > 0.0:
            food = {c: model.column(cost=0.0, upper=problem.carriers[c].capacity / LITRE) for c in _fed(problem)}
            total = other.food_volume / LITRE
            model.row(dict.fromkeys(food.values(), 1.0), total, total, "food")
            model.other_food.append(food)
        _room_on(problem, model, other, food)


def _fed(problem: PackingProblem) -> list[int]:
    """Return the carriers that take food."""
    return [c for c, carrier in enumerate(problem.carriers) if "food" in carrier.takes]


def _room_on(problem: PackingProblem, model: Model, stretch: Stretch, food: Mapping[int, int]) -> None:
    """Hold what is aboard on a part of the race within volumes and load limits."""
    density = stretch.food_mass / stretch.food_volume * LITRE if stretch.food_volume > 0.0 else 0.0
    aboard = [item.id not in stretch.away for item in problem.items]
    for c, carrier in enumerate(problem.carriers):
        here = [(column, problem.items[i]) for column, (i, place) in enumerate(model.pairs) if place == c and aboard[i]]
        volume = {column: item.total_volume / LITRE for column, item in here}
        mass = {column: item.total_mass for column, item in here}
        if c in food:
            volume[food[c]], mass[food[c]] = 1.0, density
        room, bearing = carrier.capacity / LITRE, carrier.load_limit
        if c in model.mount:
            volume[model.mount[c]], mass[model.mount[c]] = -room, -bearing
            room = bearing = 0.0
        model.row(volume, -_INFINITY, room, f"volume:{carrier.id}")
        model.row(mass, -_INFINITY, bearing, f"limit:{carrier.id}")


def _leaks(problem: PackingProblem, model: Model) -> None:
    """Keep what floods from what it would spoil by one switch a carrier."""
    for c, carrier in enumerate(problem.carriers):
        here = [(column, problem.items[i]) for column, (i, place) in enumerate(model.pairs) if place == c]
        leaking = {column: 1.0 for column, item in here if item.floods}
        spoiling = {column: 1.0 for column, item in here if item.is_spoilable}
        fed = [food[c] for food in (model.food, *model.other_food) if c in food]
        if not leaking or not (spoiling or fed):
            continue
        switch = model.column(cost=0.0, upper=1.0, integer=True)
        tag = f"leaks:{carrier.id}"
        model.row({**leaking, switch: -float(len(leaking))}, -_INFINITY, 0.0, tag)
        if spoiling:
            model.row({**spoiling, switch: float(len(spoiling))}, -_INFINITY, float(len(spoiling)), tag)
        for food in fed:
            room = carrier.capacity / LITRE
            model.row({food: 1.0, switch: room}, -_INFINITY, room, tag)


def _liners(problem: PackingProblem, model: Model) -> None:
    """Let things that must stay dry into an open carrier only beside a dry bag that holds them."""
    bags = [i for i, item in enumerate(problem.items) if item.id in problem.liners]
    for c, carrier in enumerate(problem.carriers):
        wet = [
            (model.at[i][c], problem.items[i]) for i, k in sorted(problem.lined) if k == c and c in model.at.get(i, {})
        ]
        if not wet:
            continue
        there = {model.at[i][c]: problem.items[i].room or carrier.capacity for i in bags if c in model.at.get(i, {})}
        for column, _ in wet:
            model.row({column: 1.0, **dict.fromkeys(there, -1.0)}, -_INFINITY, 0.0, f"dry:{carrier.id}")
        volumes = {column: item.total_volume / LITRE for column, item in wet}
        rooms = {column: -room / LITRE for column, room in there.items()}
        model.row({**volumes, **rooms}, -_INFINITY, 0.0, f"dry:{carrier.id}")


def _loads(problem: PackingProblem, model: Model) -> dict[int, tuple[int, float]]:
    """Return carrier and mass of each column that loads one where most is carried. [kg, food kg per l]"""
    away = problem.provisions.away
    loads: dict[int, tuple[int, float]] = {
        column: (c, problem.items[i].total_mass)
        for column, (i, c) in enumerate(model.pairs)
        if problem.items[i].id not in away
    }
    density = _food_kg_per_l(problem)
    return loads | {column: (c, density) for c, column in model.food.items()}


def _balance(problem: PackingProblem, model: Model) -> None:
    """Hold front share, lean and sway within their bands; all linear in the loads."""
    loads = _loads(problem, model)
    standing = loads | {column: (c, problem.carriers[c].mass) for c, column in model.mount.items()}
    fixed, bands = problem.provisions.fixed, problem.bands
    if fixed:
        for bound, sign in zip((bands.front_low, bands.front_high), (1.0, -1.0), strict=True):
            line = bound * problem.wheelbase
            model.row(
                {col: sign * m * (problem.positions[c, 0] - line) for col, (c, m) in standing.items()},
                -sign * sum(m * (x - line) for m, x, _, _ in fixed),
                _INFINITY,
                "balance:front and rear share",
            )
        most, already = sideways_most(problem), sum(m * y for m, _, y, _ in fixed)
        sideways = {col: m * problem.positions[c, 1] for col, (c, m) in standing.items()}
        model.row(sideways, -most - already, most - already, "balance:left and right")
    sway = {
        col: m * problem.carriers[c].sway_lever / problem.carriers[c].steadiness
        for col, (c, m) in loads.items()
        if problem.carriers[c].sway_lever > 0.0
    }
    model.row(sway, -_INFINITY, bands.sway, "balance:sway")


class _RuleRows:
    """What a rule of riding together sees of the model while it adds its rows."""

    def __init__(self, problem: PackingProblem, model: Model, loads: Mapping[int, tuple[str, float]]) -> None:
        self.carriers = problem.carriers
        self.water = problem.provisions.water
        self.unkept = model.column(cost=UNKEPT, upper=1.0, integer=True)
        self._problem, self._model, self._loads = problem, model, loads
        self._row = {item.id: i for i, item in enumerate(problem.items)}
        self._food = {problem.carriers[c].id: (column, problem.carriers[c]) for c, column in model.food.items()}

    def switch(self) -> int:
        """Add a column that is 0 or 1 and costs nothing."""
        return self._model.column(cost=0.0, upper=1.0, integer=True)

    def holds(self, carrier: str, things: frozenset[str], *, food: bool = False) -> int | None:
        """Return a column that is 1 where a carrier holds one of some things, or food; None where it takes neither.

        Rules that ask for the same share it.
        """
        here = [self.places(key)[carrier] for key in sorted(things) if carrier in self.places(key)]
        fed = self._food.get(carrier) if food else None
        if not here and fed is None:
            return None
        known = self._model.holding
        if (carrier, things, food) not in known:
            switch = known[carrier, things, food] = self.switch()
            for column in here:
                self.most({column: 1.0, switch: -1.0}, 0.0)
            if fed is not None:
                self.most({fed[0]: 1.0, switch: -fed[1].capacity / LITRE}, 0.0)
        return known[carrier, things, food]

    def places(self, thing: str) -> Mapping[str, int]:
        """Return the columns of a thing by carrier."""
        columns = self._model.at.get(self._row[thing], {}) if thing in self._row else {}
        return {self.carriers[c].id: column for c, column in columns.items()}

    def mounting(self) -> Mapping[str, int]:
        """Return the columns of carriers that may be mounted."""
        return {self.carriers[c].id: column for c, column in self._model.mount.items()}

    def loads(self) -> Mapping[int, tuple[str, float]]:
        """Return carrier and mass of each column that loads one. [kg]"""
        return self._loads

    def volumes(self, carrier: str) -> Mapping[int, float]:
        """Return what each column of things and food takes up in a carrier. [l]"""
        found = {
            column: self._problem.items[i].total_volume / LITRE
            for column, (i, c) in enumerate(self._model.pairs)
            if self.carriers[c].id == carrier
        }
        return found | {column: 1.0 for c, column in self._model.food.items() if self.carriers[c].id == carrier}

    def most(self, coefficients: Mapping[int, float], high: float) -> None:
        """Hold a sum at or under a limit."""
        self._model.row(dict(coefficients), -_INFINITY, high)

    def least(self, coefficients: Mapping[int, float], low: float) -> None:
        """Hold a sum at or over a limit."""
        self._model.row(dict(coefficients), low, _INFINITY)
