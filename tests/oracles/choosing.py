"""Packing with carriers to mount, things to leave and rules to keep, by trying everything: a second, plain reading."""

from itertools import product
from typing import Any

from stonechat.core.kit.item import Item
from stonechat.core.load.problem import PackingProblem
from stonechat.core.rig.carrier import Carrier
from tests.oracles.packing import on_occasions, stands

NOT_KEPT = 60.0


def best_choice(problem: PackingProblem) -> float | None:
    """Return the least score over all assignments and mountings, None where none keeps the hard rules."""
    ids = [carrier.id for carrier in problem.carriers]
    places = []
    for i, item in enumerate(problem.items):
        fine = [k for k, _ in enumerate(ids) if problem.refusals[i][k] is None]
        pinned = problem.pins.get(item.id)
        places.append([ids.index(pinned)] if pinned else fine + ([-1] if item.id in problem.choices.things else []))
    free = sorted(problem.choices.carriers)
    scores = []
    for switches in product((False, True), repeat=len(free)):
        on = {key for key, is_on in zip(free, switches, strict=True) if is_on} | (set(ids) - set(free))
        if any(len(group & on) > 1 for group in problem.choices.exclusive):
            continue
        if any(0 < len(group & on) < len(group) for group in problem.choices.twins):
            continue
        scores += [s for a in product(*places) if (s := _score(problem, a, on)) is not None]
    return min(scores, default=None)


def _score(problem: PackingProblem, assignment: tuple[int, ...], on: set[str]) -> float | None:
    bags: dict[str, list[Item]] = {carrier.id: [] for carrier in problem.carriers}
    score = on_occasions(problem, assignment)
    for i, (item, k) in enumerate(zip(problem.items, assignment, strict=True)):
        if k >= 0:
            bags[problem.carriers[k].id].append(item)
            score += float(problem.minutes[i, k]) + problem.choices.things.get(item.id, 0.0)
    for carrier in problem.carriers:
        if not _holds(problem, carrier, bags[carrier.id], on):
            return None
        score += problem.choices.carriers.get(carrier.id, 0.0) if carrier.id in on else 0.0
    along = {item.id for held in bags.values() for item in held}
    for loss in problem.choices.losses:
        if not loss.things & along:
            if loss.never_cut:
                return None
            score += loss.minutes
    fed = [_fed(problem, bags, on, food) for food in _ways_to_feed(problem, bags, on)]
    return min((score + more for more in fed if more is not None), default=None)


def _ways_to_feed(problem: PackingProblem, bags: dict[str, list[Item]], on: set[str]) -> list[dict[str, float]]:
    """Return food by carrier at every place where minutes or a rule have a corner; two carriers take food at most."""
    total = problem.provisions.food_volume
    takers = [c for c in problem.carriers if "food" in c.takes and c.id in on]
    if total <= 0.0:
        return [{}]
    if len(takers) < 2:
        return [{takers[0].id: total}] if takers else []
    one, other = takers
    density = problem.provisions.food_mass / total
    corners = {0.0, total, 1e-6, total - 1e-6}
    for rule in problem.rules:
        f = vars(rule)
        if rule.code == "room-left":
            corners |= {_room(one, bags) - f["room"], total - _room(other, bags) + f["room"]}
        if rule.code in ("back", "steering"):  # linear in food: where it meets the limit
            at = [_turned(problem, f["levers"], bags, on, {one.id: x, other.id: total - x}) for x in (0.0, total)]
            corners.add(total * (f["limit"] - at[0]) / (at[1] - at[0]) if abs(at[1] - at[0]) > 1e-12 else 0.0)
    corners |= {_room(one, bags), total - _room(other, bags)}
    masses = {c.id: sum(i.total_mass for i in bags[c.id]) for c in takers}
    corners |= {(one.load_limit - masses[one.id]) / density, total - (other.load_limit - masses[other.id]) / density}
    lines = [(0.0, 0.0), *problem.provisions.fetching]
    for a, start in lines:
        for b, begin in lines:
            if abs(a - b) > 1e-12:
                hand = (begin - start) / (a - b)
                corners |= {hand, total - hand}
    corners |= set(_on_the_edge(problem, bags, on, (one, other), density))
    return [{one.id: x, other.id: total - x} for x in sorted(corners) if -1e-12 <= x <= total + 1e-12]


def _on_the_edge(
    problem: PackingProblem, bags: dict[str, list[Item]], on: set[str], takers: tuple[Carrier, Carrier], density: float
) -> list[float]:
    """Return how much food in the first carrier puts axle share, lean or sway on their limits."""
    total, bands = problem.provisions.food_volume, problem.bands

    def sums(x: float) -> tuple[float, float, float, float]:
        entries = list(problem.provisions.fixed)
        sway = 0.0
        for c, carrier in enumerate(problem.carriers):
            food = {takers[0].id: x, takers[1].id: total - x}.get(carrier.id, 0.0)
            own = carrier.mass if carrier.id in problem.choices.carriers and carrier.id in on else 0.0
            mass = sum(i.total_mass for i in bags[carrier.id]) + food * density
            entries.append((mass + own, *problem.positions[c]))
            sway += mass * carrier.sway_lever / carrier.steadiness
        weight = sum(e[0] for e in entries)
        return weight * problem.wheelbase, sum(e[0] * e[1] for e in entries), sum(e[0] * e[2] for e in entries), sway

    (span, first, aside, sway), (_, last, aside_last, sway_last) = sums(0.0), sums(total)
    most = bands.lean * sum(e[0] * e[3] for e in problem.provisions.fixed)
    pairs = [(first, last, bands.front_low * span), (first, last, bands.front_high * span)]
    pairs += [(aside, aside_last, most), (aside, aside_last, -most), (sway, sway_last, bands.sway)]
    return [total * (limit - a) / (b - a) for a, b, limit in pairs if abs(b - a) > 1e-12]


def _room(carrier: Carrier, bags: dict[str, list[Item]]) -> float:
    return carrier.capacity - sum(item.total_volume for item in bags[carrier.id])


def _turned(
    problem: PackingProblem, levers: dict[str, float], bags: dict[str, list[Item]], on: set[str], food: dict[str, float]
) -> float:
    """Return masses times levers: things, food, water and what hangs there."""
    volume = problem.provisions.food_volume
    density = problem.provisions.food_mass / volume if volume else 0.0
    total = 0.0
    for carrier in problem.carriers:
        own = carrier.mass + problem.provisions.water.get(carrier.id, 0.0) if carrier.id in on else 0.0
        mass = sum(i.total_mass for i in bags[carrier.id]) + food.get(carrier.id, 0.0) * density
        total += levers.get(carrier.id, 0.0) * (mass + own)
    return total


def _fed(problem: PackingProblem, bags: dict[str, list[Item]], on: set[str], food: dict[str, float]) -> float | None:
    """Return what food adds where it is, with rules and balance; None where it does not go there."""
    volume = problem.provisions.food_volume
    density = problem.provisions.food_mass / volume if volume else 0.0
    minutes = hand = 0.0
    for c, carrier in enumerate(problem.carriers):
        put = food.get(carrier.id, 0.0)
        if put > 1e-9:
            over = put > _room(carrier, bags) + 1e-9
            heavy = sum(i.total_mass for i in bags[carrier.id]) + put * density > carrier.load_limit + 1e-6
            if over or heavy or any(_bursts(item) for item in bags[carrier.id]):
                return None
        minutes += put * float(problem.food_minutes[c])
        hand += put if carrier.access == "riding" and "food" in carrier.takes else 0.0
    minutes += max([0.0, *(slope * hand + start for slope, start in problem.provisions.fetching)])
    mass = [sum(i.total_mass for i in bags[c.id]) + food.get(c.id, 0.0) * density for c in problem.carriers]
    own = [c.mass if c.id in problem.choices.carriers and c.id in on else 0.0 for c in problem.carriers]
    if not stands(problem, mass, own, near=1e-9):
        return None
    return minutes + NOT_KEPT * sum(not _kept(rule, bags, problem, on, food) for rule in problem.rules)


def _bursts(item: Item) -> bool:
    """Whether more may leak than a zip bag keeps in."""
    return item.leaks and item.total_volume > 0.0001


def _holds(problem: PackingProblem, carrier: Carrier, held: list[Item], on: set[str]) -> bool:
    """Whether a carrier bears what is in it, and keeps it dry and clean."""
    if held and carrier.id not in on:
        return False
    if sum(i.total_volume for i in held) > carrier.capacity + 1e-12:
        return False
    if sum(i.total_mass for i in held) > carrier.load_limit + 1e-12:
        return False
    if any(_bursts(a) for a in held) and any(b.spoils and not b.leaks for b in held):
        return False
    liners = [item for item in held if item.id in problem.liners]
    c = _index(problem, carrier.id)
    wet = [i for i in held if i.keep_dry and carrier.dryness != "dry" and (problem.items.index(i), c) in problem.lined]
    return not wet or sum(i.total_volume for i in wet) <= sum(b.room or carrier.capacity for b in liners) + 1e-12


def _index(problem: PackingProblem, carrier_id: str) -> int:
    return [carrier.id for carrier in problem.carriers].index(carrier_id)


def _kept_apart(code: str, f: dict[str, Any], where: dict[str, str], food: dict[str, float]) -> bool | None:
    """Read a rule of what shares no bag; None where it is another one."""
    if code in ("apart", "way-rooms"):
        ones, others = ({where[t] for t in f[side] & set(where)} for side in ("ones", "others"))
        return not ones & others if code == "way-rooms" else not ones or not others or len(ones | others) > 1
    if code == "smeared":
        place = where.get(f["thing"], "")
        return not place or (food.get(place, 0.0) <= 1e-6 and not {t for t in f["others"] if where.get(t) == place})
    if code == "way-one-end":
        ends = {where[t] for t in f["things"] if t in where}
        return not (ends & f["one"] and ends & f["other"])
    return None


def _kept(
    rule: object, bags: dict[str, list[Item]], problem: PackingProblem, on: set[str], food: dict[str, float]
) -> bool:
    """Read a rule by its check's code and its fields, thing by thing."""
    where = {item.id: key for key, held in bags.items() for item in held}
    code = str(type(rule).code)  # type: ignore[attr-defined]
    f = vars(rule)
    apart = _kept_apart(code, f, where, food)
    if apart is not None:
        return apart
    if code in ("camp", "indoors", "sets"):
        return len({where[t] for t in f["things"] & set(where)} & f["carriers"]) <= f["bags"]
    if code == "puncture":
        aboard = [where[t] for t in f["things"] if t in where]
        return not aboard or any(key in f["carriers"] for key in aboard)
    if code in ("loss", "frost", "heat", "clean", "dry", "reachable", "sky"):
        return where.get(f["thing"], "") not in f["carriers"]
    if code == "fragile":
        beside = {t for t, key in where.items() if key == where.get(f["thing"])}
        return f["thing"] not in where or not beside & f["hard"] or bool(beside & f["soft"])
    if code in ("heavy-low", "way-tools-low"):
        aboard = {t: m for t, m in f["masses"].items() if t in where}
        return (
            sum(m * f["counts"].get(where[t], 0.0) for t, m in aboard.items())
            >= f["least"] * sum(aboard.values()) - 1e-9
        )
    if code in ("back", "steering"):
        return _turned(problem, f["levers"], bags, on, food) <= f["limit"] + 1e-6
    if code == "room-left":
        rooms = [_room(c, bags) - food.get(c.id, 0.0) for c in problem.carriers if c.id in f["carriers"] and c.id in on]
        return any(room >= f["room"] - 1e-9 for room in rooms)
    raise AssertionError(code)
