"""Packing with carriers to mount, things to leave and rules to keep, by trying everything: a second, plain reading."""

from itertools import product

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
    mass = [sum(item.total_mass for item in bags[carrier.id]) for carrier in problem.carriers]
    own = [c.mass if c.id in problem.choices.carriers and c.id in on else 0.0 for c in problem.carriers]
    if not stands(problem, mass, own):
        return None
    return score + NOT_KEPT * sum(not _kept(rule, bags, problem, on) for rule in problem.rules)


def _holds(problem: PackingProblem, carrier: Carrier, held: list[Item], on: set[str]) -> bool:
    """Whether a carrier bears what is in it, and keeps it dry and clean."""
    if held and carrier.id not in on:
        return False
    if sum(i.total_volume for i in held) > carrier.capacity + 1e-12:
        return False
    if sum(i.total_mass for i in held) > carrier.load_limit + 1e-12:
        return False
    if any(a.leaks for a in held) and any(b.spoils and not b.leaks for b in held):
        return False
    liners = [item for item in held if item.id in problem.liners]
    c = _index(problem, carrier.id)
    wet = [i for i in held if i.keep_dry and carrier.dryness != "dry" and (problem.items.index(i), c) in problem.lined]
    return not wet or sum(i.total_volume for i in wet) <= sum(b.room or carrier.capacity for b in liners) + 1e-12


def _index(problem: PackingProblem, carrier_id: str) -> int:
    return [carrier.id for carrier in problem.carriers].index(carrier_id)


def _kept(rule: object, bags: dict[str, list[Item]], problem: PackingProblem, on: set[str]) -> bool:
    """Read a rule by its check's code and its fields, thing by thing."""
    where = {item.id: key for key, held in bags.items() for item in held}
    code = str(type(rule).code)  # type: ignore[attr-defined]
    f = vars(rule)
    if code in ("apart", "smeared"):
        ones, others = ({where[t] for t in f[side] & set(where)} for side in ("ones", "others"))
        return not ones & others if code == "smeared" else not ones or not others or len(ones | others) > 1
    if code in ("camp", "indoors", "sets"):
        return len({where[t] for t in f["things"] & set(where)} & f["carriers"]) <= f["bags"]
    if code == "puncture":
        aboard = [where[t] for t in f["things"] if t in where]
        return not aboard or any(key in f["carriers"] for key in aboard)
    if code in ("loss", "frost", "clean", "dry", "reachable", "sky"):
        return where.get(f["thing"], "") not in f["carriers"]
    if code == "fragile":
        beside = {t for t, key in where.items() if key == where.get(f["thing"])}
        return f["thing"] not in where or not beside & f["hard"] or bool(beside & f["soft"])
    if code == "heavy-low":
        aboard = {t: m for t, m in f["masses"].items() if t in where}
        return (
            sum(m for t, m in aboard.items() if where[t] in f["carriers"]) >= f["least"] * sum(aboard.values()) - 1e-9
        )
    if code in ("back", "steering"):
        total = 0.0
        for carrier in problem.carriers:
            own = carrier.mass if carrier.id in on else 0.0
            total += f["levers"].get(carrier.id, 0.0) * (sum(i.total_mass for i in bags[carrier.id]) + own)
        return total <= f["limit"] + 1e-9
    if code == "room-left":
        rooms = [
            c.capacity - sum(i.total_volume for i in bags[c.id])
            for c in problem.carriers
            if c.id in f["carriers"] and c.id in on
        ]
        return any(room >= f["room"] - 1e-12 for room in rooms)
    raise AssertionError(code)
