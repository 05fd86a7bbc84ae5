"""Packing by trying everything: a second, plain reading of the rules."""

from itertools import product

from stonechat.core.kit.item import Item
from stonechat.core.load.problem import PackingProblem, Stretch


def best_by_brute_force(problem: PackingProblem) -> float | None:
    """Return the least minutes over all assignments, None where none keeps the rules."""
    choices = []
    for i, item in enumerate(problem.items):
        pinned = problem.pins.get(item.id)
        allowed = [c for c in range(len(problem.carriers)) if problem.refusals[i][c] is None]
        choices.append([k for k, c in enumerate(problem.carriers) if c.id == pinned] if pinned else allowed)
    found = [minutes for a in product(*choices) if (minutes := _minutes(problem, a)) is not None]
    return min(found, default=None)


def _minutes(problem: PackingProblem, assignment: tuple[int, ...]) -> float | None:
    """Return the minutes of an assignment with food put where it is cheapest, None where a rule is broken."""
    count = len(problem.carriers)
    volume, mass = [0.0] * count, [0.0] * count
    for item, c in zip(problem.items, assignment, strict=True):
        if item.id not in problem.provisions.away:
            volume[c] += item.volume * item.quantity
            mass[c] += item.mass * item.quantity
    if not all(_goes_in_elsewhere(problem, assignment, other) for other in problem.provisions.others):
        return None
    held = [[item for item, c in zip(problem.items, assignment, strict=True) if c == k] for k in range(count)]
    if any(any(_bursts(a) for a in h) and any(b.spoils and not b.leaks for b in h) for h in held):
        return None
    if any(v > c.capacity + 1e-12 for v, c in zip(volume, problem.carriers, strict=True)):
        return None
    if any(m > c.load_limit + 1e-12 for m, c in zip(mass, problem.carriers, strict=True)):
        return None
    total = sum(float(problem.minutes[i, c]) for i, c in enumerate(assignment)) + on_occasions(problem, assignment)
    left = problem.provisions.food_volume
    density = problem.provisions.food_mass / left if left else 0.0
    order = sorted(range(count), key=lambda c: float(problem.food_minutes[c]))
    for c in order:
        carrier = problem.carriers[c]
        if "food" not in carrier.takes or any(_bursts(item) for item in held[c]):
            continue
        room = min(carrier.capacity - volume[c], (carrier.load_limit - mass[c]) / density if density else 1.0)
        put = min(left, max(0.0, room))
        left, mass[c] = left - put, mass[c] + put * density
        total += put * float(problem.food_minutes[c])
    if left > 1e-9:
        return None
    return total if stands(problem, mass, [0.0] * count) else None


def _goes_in_elsewhere(problem: PackingProblem, assignment: tuple[int, ...], part: Stretch) -> bool:
    """Whether things and food of another part of the race go in."""
    food = 0.0
    for c, carrier in enumerate(problem.carriers):
        here = [item for item, k in zip(problem.items, assignment, strict=True) if k == c]
        aboard = [item for item in here if item.id not in part.away]
        room = carrier.capacity - sum(item.volume * item.quantity for item in aboard)
        load = carrier.load_limit - sum(item.mass * item.quantity for item in aboard)
        if room < -1e-12 or load < -1e-12:
            return False
        if "food" in carrier.takes and not any(_bursts(item) for item in here):
            food += max(0.0, min(room, load * part.food_volume / part.food_mass if part.food_mass else room))
    return food >= part.food_volume - 1e-9


def _bursts(item: Item) -> bool:
    """Whether more may leak than a zip bag keeps in."""
    return item.leaks and item.volume * item.quantity > 0.0001


def stands(problem: PackingProblem, mass: list[float], own: list[float], near: float = 0.0) -> bool:
    """Whether axle share, lean and sway of loads and of carriers that are not among the fixed masses hold."""
    entries = [(m + o, *problem.positions[c]) for c, (m, o) in enumerate(zip(mass, own, strict=True))]
    entries += list(problem.provisions.fixed)
    weight = sum(e[0] for e in entries)
    share = sum(e[0] * e[1] for e in entries) / weight / problem.wheelbase
    aside = abs(sum(e[0] * e[2] for e in entries))
    most = problem.bands.lean * sum(e[0] * e[3] for e in problem.provisions.fixed)
    sway = sum(m * c.sway_lever / c.steadiness for m, c in zip(mass, problem.carriers, strict=True))
    bands = problem.bands
    return (
        bands.front_low - near <= share <= bands.front_high + near
        and aside <= most + near
        and sway <= bands.sway + near
    )


def on_occasions(problem: PackingProblem, assignment: tuple[int, ...]) -> float:
    """Return the minutes of openings and halts, counted occasion by occasion and bag by bag; -1 is at home."""
    total = 0.0
    for occasion in problem.shared:
        taken = {i: assignment[i] for i in occasion.times if assignment[i] >= 0}
        for c in set(taken.values()):
            total += float(occasion.opening[c]) * max(occasion.times[i] for i, k in taken.items() if k == c)
        # so many times a foot goes down, and of those so many times one gets off
        foot = [occasion.times[i] for i, c in taken.items() if occasion.levels[i][c] >= 1]
        off = [occasion.times[i] for i, c in taken.items() if occasion.levels[i][c] >= 2]
        total += (0.7 * 22.0 * max(foot, default=0.0) + 0.7 * 13.0 * max(off, default=0.0)) / 60.0
    return total
