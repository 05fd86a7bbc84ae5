"""What a packing costs and which rules it breaks, judged by plain sums that share no code with the solver's model."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np

from stonechat.core.kit.item import HOME
from stonechat.core.load.eating import halts_for_food
from stonechat.core.load.problem import PackingProblem, Shared, sideways_most
from stonechat.core.load.stow import Taken, stow_food
from stonechat.core.load.together.rule import UNKEPT, Load, Rule
from stonechat.core.rig.carrier import Carrier


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """What an assignment costs and which rules it breaks, judged from the assignment alone."""

    minutes: float  # min: reaching and wind of things and food; of what may be chosen also weight, mounting and lack
    broken: tuple[str, ...]  # hard rules, in sentences
    unkept: tuple[Rule, ...]  # rules of riding together that are not kept
    food: Mapping[str, float]  # m³ of food by carrier

    @property
    def score(self) -> float:
        """What the solver makes least: minutes, and UNKEPT for each rule not kept. [min]"""
        return self.minutes + UNKEPT * len(self.unkept)


@dataclass(kw_only=True)
class _Carried:
    """What an assignment puts into each carrier."""

    held: list[list[int]]  # items by carrier
    volume: list[float]  # m³
    mass: list[float]  # kg
    mounted: list[bool]
    home: set[str]

    def without(self, problem: PackingProblem, away: frozenset[str]) -> "tuple[list[float], list[float]]":
        """Return volume [m³] and mass [kg] by carrier where some things are not aboard."""
        volume, mass = [0.0] * len(self.held), [0.0] * len(self.held)
        for c, held in enumerate(self.held):
            for item in (problem.items[i] for i in held):
                if item.id not in away:
                    volume[c] += item.total_volume
                    mass[c] += item.total_mass
        return volume, mass


def judge(
    problem: PackingProblem,
    places: Mapping[str, str],
    *,
    mounted: frozenset[str] | None = None,
    food: Mapping[str, float] | None = None,
    tolerance: float = 1e-6,
) -> Verdict:
    """Judge an assignment by plain sums; shares no code with the solver's model.

    Parameters
    ----------
    problem : PackingProblem
        The problem.
    places : mapping of str to str
        Carrier of each item, or `home`.
    mounted : frozenset of str, optional
        Which of the carriers that may be mounted are; as they are now where nothing is said.
    food : mapping of str to float, optional
        Food by carrier; where nothing is said it goes where the ride puts it. [m³]
    tolerance : float
        What counts as equal, in l, kg and kg·m. [1]

    Returns
    -------
    verdict : Verdict
        Minutes and broken rules. [min]

    Examples
    --------
    >>> from stonechat.core.load.problem import Prices, Provisions, build_problem
    >>> from stonechat.core.rig.bike import Bike
    >>> empty = build_problem(items=(), carriers=(), bike=Bike(), pins={},
    ...                       prices=Prices(per_kg=1, per_drag=1, days=1), provisions=Provisions())
    >>> judge(empty, {}).broken
    ()
    """
    carried, broken = _carried(problem, places, mounted)
    broken += _too_much_elsewhere(problem, carried, tolerance)
    carried.volume, carried.mass = carried.without(problem, problem.provisions.away)
    leaking = [any(problem.items[i].floods for i in held) for held in carried.held]
    stowed = _stow_food(problem, carried, leaking, food)
    broken += _over_limits(problem, carried, leaking, tolerance) + _food_amiss(problem, carried, stowed, tolerance)
    broken += _wrongly_mounted(problem, carried) + _without_liner(problem, carried, tolerance)
    density = _food_density(problem)
    loads = [m + f * density for m, f in zip(carried.mass, stowed, strict=True)]
    broken += _off_balance(problem, carried, loads, tolerance)
    minutes, lacking = _chosen(problem, carried)
    load = _load(problem, carried, stowed, loads)
    return Verdict(
        minutes=minutes + _of_things(problem, carried) + _of_food(problem, stowed),
        broken=(*broken, *lacking),
        unkept=tuple(rule for rule in problem.rules if not rule.kept(load, tolerance)),
        food={carrier.id: stowed[c] for c, carrier in enumerate(problem.carriers) if stowed[c] > 0.0},
    )


def _of_things(problem: PackingProblem, carried: _Carried) -> float:
    """Return the minutes of things where they ride: by themselves, and on occasions. [min]"""
    alone = sum(float(problem.minutes[i, c]) for c, held in enumerate(carried.held) for i in held)
    return alone + sum(_on_occasion(occasion, carried) for occasion in problem.shared)


def _of_food(problem: PackingProblem, stowed: list[float]) -> float:
    """Return the minutes of food where it is: its wind and burden, and halts for what is not at hand. [min]"""
    at_hand = float(np.dot(stowed, problem.at_hand))
    return float(np.dot(stowed, problem.food_minutes)) + halts_for_food(at_hand, problem.provisions.fetching)


def _carried(
    problem: PackingProblem, places: Mapping[str, str], mounted: frozenset[str] | None
) -> tuple[_Carried, list[str]]:
    index = {carrier.id: c for c, carrier in enumerate(problem.carriers)}
    count = len(index)
    on = [_is_on(carrier, problem.choices.carriers, mounted) for carrier in problem.carriers]
    carried = _Carried(
        held=[[] for _ in range(count)], volume=[0.0] * count, mass=[0.0] * count, mounted=on, home=set()
    )
    broken: list[str] = []
    for i, item in enumerate(problem.items):
        place = places.get(item.id, "")
        if place == HOME and item.id in problem.choices.things and item.id not in problem.pins:
            carried.home.add(item.id)
        elif place not in index:
            broken.append(f"{item.name} has no place")
        else:
            c = index[place]
            broken += _misplaced(problem, i, c)
            carried.held[c].append(i)
            carried.volume[c] += item.total_volume
            carried.mass[c] += item.total_mass
    return carried, broken


def _is_on(carrier: Carrier, free: Collection[str], mounted: frozenset[str] | None) -> bool:
    """Tell whether a carrier is mounted: as it is, or as was chosen of those that may be."""
    return carrier.mounted if carrier.id not in free or mounted is None else carrier.id in mounted


def _misplaced(problem: PackingProblem, i: int, c: int) -> list[str]:
    """Say what stands against a thing in a carrier; what is pinned may be wherever it is pinned."""
    item, carrier = problem.items[i], problem.carriers[c]
    if item.id in problem.pins:
        return [] if problem.pins[item.id] == carrier.id else [f"{item.name} was pinned elsewhere"]
    refusal = problem.refusals[i][c]
    return [] if refusal is None else [f"{item.name} in {carrier.name}: {refusal.words}"]


def _chosen(problem: PackingProblem, carried: _Carried) -> tuple[float, list[str]]:
    """Return the minutes of what the packing may choose, and jobs never cut that nothing does."""
    choices = problem.choices
    along = set(choices.things) - carried.home
    minutes = sum(choices.things[key] for key in along)
    minutes += sum(
        choices.carriers.get(carrier.id, 0.0)
        for carrier, on in zip(problem.carriers, carried.mounted, strict=True)
        if on
    )
    lacking = [loss for loss in choices.losses if not loss.things & along]
    return minutes + sum(loss.minutes for loss in lacking), [
        f"nothing does this: {loss.name}" for loss in lacking if loss.never_cut
    ]


def _on_occasion(occasion: Shared, carried: _Carried) -> float:
    """Return the minutes of openings and halts of an occasion. [min]"""
    at = {i: c for c, held in enumerate(carried.held) for i in held if i in occasion.times}
    opened: dict[int, float] = {}
    for i, c in at.items():
        opened[c] = max(opened.get(c, 0.0), occasion.times[i])
    halted = [
        max((occasion.times[i] for i, c in at.items() if occasion.levels[i][c] > level), default=0.0)
        for level in range(len(occasion.halts))
    ]
    opening = sum(times * float(occasion.opening[c]) for c, times in opened.items())
    return opening + sum(times * minutes for times, minutes in zip(halted, occasion.halts, strict=True))


def _food_density(problem: PackingProblem) -> float:
    volume = problem.provisions.food_volume
    return problem.provisions.food_mass / volume if volume > 0.0 else 0.0


def _stow_food(
    problem: PackingProblem, carried: _Carried, leaking: list[bool], food: Mapping[str, float] | None
) -> list[float]:
    """Put food where it is said to be, else where it goes. [m³ by carrier]"""
    ids = [carrier.id for carrier in problem.carriers]
    if food is not None:
        return [food.get(key, 0.0) for key in ids]
    on = tuple(carrier for carrier, is_on in zip(problem.carriers, carried.mounted, strict=True) if is_on)
    taken = Taken(
        volume=dict(zip(ids, carried.volume, strict=True)),
        mass=dict(zip(ids, carried.mass, strict=True)),
        leaking=frozenset(key for key, leaks in zip(ids, leaking, strict=True) if leaks),
        oily=frozenset(
            key for key, held in zip(ids, carried.held, strict=True) if any(problem.items[i].leaks for i in held)
        ),
        wanted=problem.provisions.wanted,
    )
    provisions = problem.provisions
    stowed = stow_food(on, taken, volume=provisions.food_volume, mass=provisions.food_mass)
    return [stowed.get(key, 0.0) for key in ids]


def _food_amiss(problem: PackingProblem, carried: _Carried, food: list[float], tolerance: float) -> list[str]:
    """Say what is wrong with where food is."""
    broken = []
    left = problem.provisions.food_volume - sum(food)
    if abs(left) > 10.0 * tolerance / 1000.0:
        broken.append(f"{left * 1000:.1f} l of food find no room")
    density = _food_density(problem)
    for c, carrier in enumerate(problem.carriers):
        if food[c] <= tolerance / 1000.0:
            continue
        if "food" not in carrier.takes or not carried.mounted[c]:
            broken.append(f"{carrier.name} takes no food")
        if carried.volume[c] + food[c] > carrier.capacity + tolerance / 1000.0:
            broken.append(f"{carrier.name} is over by food")
        if carried.mass[c] + food[c] * density > carrier.load_limit + tolerance:
            broken.append(f"{carrier.name} is over its limit by food")
        if any(problem.items[i].floods for i in carried.held[c]):
            broken.append(f"{carrier.name} holds what leaks beside food")
    return broken


def _too_much_elsewhere(problem: PackingProblem, carried: _Carried, tolerance: float) -> list[str]:
    """Say what goes over on parts of the race with other things aboard; food goes wherever there is room."""
    broken = []
    for other in problem.provisions.others:
        volume, mass = carried.without(problem, other.away)
        density = other.food_mass / other.food_volume if other.food_volume > 0.0 else 0.0
        left = other.food_volume
        for c, carrier in enumerate(problem.carriers):
            room, bearing = carrier.capacity - volume[c], carrier.load_limit - mass[c]
            if room < -tolerance / 1000.0 or bearing < -tolerance:
                broken.append(f"{carrier.name} is over on a part of the race")
            leaks = any(problem.items[i].floods for i in carried.held[c])
            if "food" in carrier.takes and carried.mounted[c] and not leaks:
                left -= max(0.0, min(room, bearing / density if density > 0.0 else room))
        if left > 10.0 * tolerance / 1000.0:
            broken.append(f"{left * 1000:.1f} l of food find no room on a part of the race")
    return broken


def _load(problem: PackingProblem, carried: _Carried, food: list[float], masses: list[float]) -> Load:
    """Return what the rules of riding together look at."""
    carriers = list(enumerate(problem.carriers))
    return Load(
        carriers={carrier.id: carrier for c, carrier in carriers if carried.mounted[c]},
        bags={carrier.id: frozenset(problem.items[i].id for i in carried.held[c]) for c, carrier in carriers},
        volume={carrier.id: carried.volume[c] + food[c] for c, carrier in carriers},
        mass={carrier.id: masses[c] + problem.provisions.water.get(carrier.id, 0.0) for c, carrier in carriers},
        food={carrier.id: food[c] for c, carrier in carriers},
    )


def _over_limits(problem: PackingProblem, carried: _Carried, leaking: list[bool], tolerance: float) -> list[str]:
    broken = []
    for c, carrier in enumerate(problem.carriers):
        if carried.volume[c] > carrier.capacity + tolerance / 1000.0:
            broken.append(f"{carrier.name} is over by {(carried.volume[c] - carrier.capacity) * 1000:.1f} l")
        if carried.mass[c] > carrier.load_limit + tolerance:
            broken.append(f"{carrier.name} is over its limit by {carried.mass[c] - carrier.load_limit:.2f} kg")
        if leaking[c] and any(problem.items[i].is_spoilable for i in carried.held[c]):
            broken.append(f"{carrier.name} holds what leaks beside what it would spoil")
    return broken


def _wrongly_mounted(problem: PackingProblem, carried: _Carried) -> list[str]:
    pairs = list(zip(problem.carriers, carried.mounted, carried.held, strict=True))
    broken = [f"{carrier.name} is not mounted" for carrier, is_on, held in pairs if held and not is_on]
    on = {carrier.id: carrier.name for carrier, is_on, _ in pairs if is_on}
    for group in problem.choices.exclusive:
        names = sorted(on[key] for key in group & set(on))
        broken += [f"{' and '.join(names)} take the same place"] if len(names) > 1 else []
    for group in problem.choices.twins:
        hung = sorted(group & set(on))
        broken += [f"{on[hung[0]]} is mounted on one side only"] if 0 < len(hung) < len(group) else []
    return broken


def _without_liner(problem: PackingProblem, carried: _Carried, tolerance: float) -> list[str]:
    broken = []
    for c, carrier in enumerate(problem.carriers):
        here = {i: problem.items[i] for i in carried.held[c]}
        lined = [here[i] for i in here if (i, c) in problem.lined]
        room = sum(item.room or carrier.capacity for item in here.values() if item.id in problem.liners)
        if lined and sum(item.total_volume for item in lined) > room + tolerance / 1000.0:
            broken.append(f"{lined[0].name} in {carrier.name}: would get wet, no dry bag there holds it")
    return broken


def _off_balance(problem: PackingProblem, carried: _Carried, loads: list[float], tolerance: float) -> list[str]:
    broken = []
    free = problem.choices.carriers
    own = [c.mass if c.id in free and on else 0.0 for c, on in zip(problem.carriers, carried.mounted, strict=True)]
    entries = [(m + own[c], *problem.positions[c]) for c, m in enumerate(loads)] + list(problem.provisions.fixed)
    total = sum(entry[0] for entry in entries)
    if problem.provisions.fixed:
        forward = sum(entry[0] * entry[1] for entry in entries)
        low, high = (share * problem.wheelbase * total for share in (problem.bands.front_low, problem.bands.front_high))
        if not low - tolerance <= forward <= high + tolerance:
            broken.append(f"the front wheel bears {100 * forward / total / problem.wheelbase:.0f} %")
        sideways = sum(entry[0] * entry[2] for entry in entries)
        if abs(sideways) > sideways_most(problem) + tolerance:
            broken.append("left and right are out of balance")
    sway = sum(m * c.sway_lever / c.steadiness for m, c in zip(loads, problem.carriers, strict=True))
    if sway > problem.bands.sway + tolerance:
        broken.append(f"what hangs behind sways with {sway:.2f} kg·m")
    return broken
