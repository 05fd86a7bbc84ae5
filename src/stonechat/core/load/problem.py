"""The packing problem: which thing may ride where, what it costs there, and the limits of every carrier."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from stonechat.core.kit.item import Item
from stonechat.core.kit.reach import Often, reach_seconds, reaches_a_day
from stonechat.core.load.balance import FRONT_SHARE_BAND, LEAN_MOST, SWAY_MOST, Mass
from stonechat.core.numerics.arrays import BoolArray, FloatArray, frozen
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import ACCESS_NAMES, ACCESS_RANK, Carrier
from stonechat.core.rig.geometry import carrier_position

ON_MEAN_DAYS = Often()  # neither wet nor cold nor dark
DRAG_STEP = 0.01  # m², the 100 cm² that prices speak of


@dataclass(frozen=True, kw_only=True)
class Refusal:
    """Why a thing may not ride in a carrier."""

    code: str  # kind, length, volume, limit, dry or reachable: the rule, named as its check
    words: str  # a few words for people

    @property
    def is_hard(self) -> bool:
        """Whether it cannot be done at all, not merely should not."""
        return self.code in ("kind", "length", "volume")


@dataclass(frozen=True, kw_only=True)
class Prices:
    """What weight, wind and reaching cost on this route, in moving minutes."""

    per_kg: float  # min/kg
    per_drag: float  # min per 100 cm²
    days: float  # days of the race, for what is reached so often a day
    often: Often = ON_MEAN_DAYS  # how often they are wet, cold and so on


@dataclass(frozen=True, kw_only=True)
class Provisions:
    """Food that must find room beside the things, and water that sits where it sits."""

    food_mass: float = 0.0  # kg, on the leg that carries most
    food_volume: float = 0.0  # m³
    fixed: tuple[Mass, ...] = ()  # rider, bike, carriers, water: mass and place


@dataclass(frozen=True, kw_only=True)
class PackingProblem:
    """Checked arrays over items (i) and mounted carriers (c)."""

    items: tuple[Item, ...]
    carriers: tuple[Carrier, ...]
    minutes: FloatArray  # min that an item costs in a carrier, shape (i, c)
    refusals: tuple[tuple[Refusal | None, ...], ...]  # why an item may not ride there, None where it may
    positions: FloatArray  # m, where each carrier's load sits, shape (c, 3)
    pins: Mapping[str, str]  # item to the carrier it stays in
    provisions: Provisions
    wheelbase: float  # m
    food_minutes: FloatArray  # min that a m³ of food costs in a carrier, shape (c,)

    @cached_property
    def allowed(self) -> BoolArray:
        """Which item may ride in which carrier, shape (i, c)."""
        return np.array([[refusal is None for refusal in row] for row in self.refusals], dtype=bool).reshape(
            len(self.items), len(self.carriers)
        )

    @property
    def takes_food(self) -> BoolArray:
        """Which carriers take food, shape (c,)."""
        return np.array(["food" in carrier.takes for carrier in self.carriers], dtype=bool)


def why_not(item: Item, carrier: Carrier) -> Refusal | None:
    """Say why a thing may not ride in a carrier, by the rules that one look at both can tell.

    Parameters
    ----------
    item : Item
        The thing.
    carrier : Carrier
        The carrier.

    Returns
    -------
    refusal : Refusal or None
        The first rule that stands against it; None where it may.

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="stem", capacity=0.001, load_limit=1.0, mass=0.1, longest=0.2)
    >>> why_not(Item(id="p", name="pump", mass=0.2, volume=0.0003, length=0.24), bag).words
    'too long by 40 mm'
    """
    if item.worn:
        return None if carrier.place == "body" else Refusal(code="kind", words="worn on the body")
    if "items" not in carrier.takes:
        return Refusal(code="kind", words="takes no things")
    if item.length > carrier.longest:
        return Refusal(code="length", words=f"too long by {(item.length - carrier.longest) * 1000:.0f} mm")
    if carrier.mouth > 0.0 and item.width > carrier.mouth:
        return Refusal(code="length", words=f"wider than its mouth by {(item.width - carrier.mouth) * 1000:.0f} mm")
    if item.total_volume > carrier.capacity:
        litres = (item.total_volume - carrier.capacity) * 1000.0
        return Refusal(code="volume", words=f"too big by {max(litres, 0.1):.1f} l")
    if item.total_mass > carrier.load_limit:
        return Refusal(code="limit", words=f"too heavy by {item.total_mass - carrier.load_limit:.2f} kg")
    if item.keep_dry and not carrier.dry:
        return Refusal(code="dry", words="would get wet")
    if ACCESS_RANK[carrier.access] > ACCESS_RANK[item.access]:
        return Refusal(code="reachable", words=f"needed {ACCESS_NAMES[item.access]}")
    return None


def first_refusal(item: Item, parts: tuple[Item, ...], carrier: Carrier) -> Refusal | None:
    """Say why a thing, or a pouch with all that is in it, may not ride in a carrier.

    Parameters
    ----------
    item : Item
        The thing as it is packed.
    parts : tuple of Item
        What is inside it, each with its own needs.
    carrier : Carrier
        The carrier.

    Returns
    -------
    refusal : Refusal or None
        Of the whole first, then of the first part that may not.

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="stem", capacity=0.001, load_limit=1.0, mass=0.1, longest=0.2)
    >>> first_refusal(Item(id="p", name="pump", mass=0.2, volume=0.0003), (), bag) is None
    True
    """
    whole = why_not(replace(item, access="last") if parts else item, carrier)
    if whole is not None:
        return whole
    for part in parts:
        refusal = why_not(part, carrier)
        if refusal is not None:
            return Refusal(code=refusal.code, words=f"{part.name}: {refusal.words}")
    return None


def placement_minutes(item: Item, carrier: Carrier, prices: Prices) -> float:
    """Return what an item costs in a carrier besides its weight: reaching for it and its share of the wind.

    Parameters
    ----------
    item : Item
        The thing.
    carrier : Carrier
        Where it would ride.
    prices : Prices
        Prices on this route.

    Returns
    -------
    minutes : float
        Moving minutes over the race. [min]

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4,
    ...               open_time=0.0)
    >>> jacket = Item(id="j", name="jacket", mass=0.2, volume=0.001, access="off", reaches=6.0)
    >>> placement_minutes(jacket, bag, Prices(per_kg=25.0, per_drag=10.0, days=2.0))
    7.1
    """
    if item.worn:
        return 0.0
    once = reach_seconds(item.access, carrier.access, carrier.open_time) + prices.often.gloved * carrier.gloves_time
    seconds = once * reaches_a_day(item, prices.often) * prices.days
    wind = carrier.drag_fill * item.total_volume / DRAG_STEP * prices.per_drag
    return seconds / 60.0 + wind


def build_problem(
    *,
    items: tuple[Item, ...],
    carriers: tuple[Carrier, ...],
    bike: Bike,
    prices: Prices,
    provisions: Provisions,
    pins: Mapping[str, str],
    members: Mapping[str, tuple[Item, ...]] | None = None,
) -> PackingProblem:
    """Return the packing problem of things over carriers.

    Parameters
    ----------
    items : tuple of Item
        What is carried.
    carriers : tuple of Carrier
        What it may be carried in; only mounted ones count.
    bike : Bike
        For places and wheelbase.
    prices : Prices
        Minutes of weight, wind and reaching. [min]
    provisions : Provisions
        Food that wants room, and fixed masses. [kg]
    pins : mapping of str to str
        Items that stay where they are, by carrier.
    members : mapping of str to tuple of Item, optional
        What a pouch and its contents are made of: each is reached for and refused by itself.

    Returns
    -------
    problem : PackingProblem
        Checked arrays. [min]

    Examples
    --------
    >>> build_problem(items=(), carriers=(), bike=Bike(), prices=Prices(per_kg=1, per_drag=1, days=1),
    ...               provisions=Provisions(), pins={}).minutes.shape
    (0, 0)
    """
    mounted = tuple(carrier for carrier in carriers if carrier.mounted)
    kept = {item_id: place for item_id, place in pins.items() if any(c.id == place for c in mounted)}
    parts = members or {}
    minutes = [
        [sum(placement_minutes(part, carrier, prices) for part in parts.get(item.id, (item,))) for carrier in mounted]
        for item in items
    ]
    refusals = tuple(
        tuple(first_refusal(item, parts.get(item.id, ()), carrier) for carrier in mounted) for item in items
    )
    shape = (len(items), len(mounted))
    return PackingProblem(
        items=items,
        carriers=mounted,
        minutes=frozen(np.array(minutes, dtype=np.float64).reshape(shape)),
        refusals=refusals,
        positions=frozen(np.array([carrier_position(bike, c) for c in mounted]).reshape(len(mounted), 3)),
        pins=kept,
        provisions=provisions,
        wheelbase=bike.wheelbase,
        food_minutes=frozen(np.array([c.drag_fill / DRAG_STEP * prices.per_drag for c in mounted])),
    )


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """What an assignment costs and which hard rules it breaks, judged from the assignment alone."""

    minutes: float  # min, of things and food
    broken: tuple[str, ...]  # sentences
    food: Mapping[str, float]  # m³ of food by carrier


def judge(problem: PackingProblem, places: Mapping[str, str], *, tolerance: float = 1e-6) -> Verdict:
    """Judge an assignment by plain sums; shares no code with the solver's model.

    Parameters
    ----------
    problem : PackingProblem
        The problem.
    places : mapping of str to str
        Carrier of each item.
    tolerance : float
        What counts as equal, in l, kg and kg·m. [1]

    Returns
    -------
    verdict : Verdict
        Minutes and broken rules. [min]

    Examples
    --------
    >>> empty = build_problem(items=(), carriers=(), bike=Bike(), pins={},
    ...                       prices=Prices(per_kg=1, per_drag=1, days=1), provisions=Provisions())
    >>> judge(empty, {}).broken
    ()
    """
    broken: list[str] = []
    index = {carrier.id: k for k, carrier in enumerate(problem.carriers)}
    volume = [0.0] * len(index)
    mass = [0.0] * len(index)
    leaking, spoiling = [False] * len(index), [False] * len(index)
    minutes = 0.0
    for i, item in enumerate(problem.items):
        c = index.get(places.get(item.id, ""))
        if c is None:
            broken.append(f"{item.name} has no place")
            continue
        if problem.pins.get(item.id, problem.carriers[c].id) != problem.carriers[c].id:
            broken.append(f"{item.name} was pinned elsewhere")
        refusal = problem.refusals[i][c]
        if refusal is not None and item.id not in problem.pins:
            broken.append(f"{item.name} in {problem.carriers[c].name}: {refusal.words}")
        minutes += float(problem.minutes[i, c])
        volume[c] += item.total_volume
        mass[c] += 0.0 if item.worn else item.total_mass
        leaking[c] |= item.leaks
        spoiling[c] |= item.is_spoilable
    food = _stow_food(problem, volume, mass, leaking)
    broken += _over_limits(problem, volume, mass, leaking, spoiling, tolerance)
    left = problem.provisions.food_volume - sum(food)
    if left > tolerance / 1000.0:
        broken.append(f"{left * 1000:.1f} l of food find no room")
    minutes += float(np.dot(food, problem.food_minutes))
    density = _food_density(problem)
    loads = [m + f * density for m, f in zip(mass, food, strict=True)]
    broken += _off_balance(problem, places, loads, tolerance)
    return Verdict(
        minutes=minutes,
        broken=tuple(broken),
        food={carrier.id: food[c] for c, carrier in enumerate(problem.carriers) if food[c] > 0.0},
    )


def _food_density(problem: PackingProblem) -> float:
    volume = problem.provisions.food_volume
    return problem.provisions.food_mass / volume if volume > 0.0 else 0.0


def _stow_food(problem: PackingProblem, volume: list[float], mass: list[float], leaking: list[bool]) -> list[float]:
    """Put food where it costs least wind, then where it is nearest at hand. [m³ by carrier]"""
    density = _food_density(problem)
    food = [0.0] * len(problem.carriers)
    left = problem.provisions.food_volume
    order = sorted(
        (c for c, carrier in enumerate(problem.carriers) if "food" in carrier.takes),
        key=lambda c: (problem.food_minutes[c], ACCESS_RANK[problem.carriers[c].access], c),
    )
    for c in order:
        if leaking[c]:
            continue
        carrier = problem.carriers[c]
        room = max(0.0, carrier.capacity - volume[c])
        if density > 0.0:
            room = min(room, max(0.0, (carrier.load_limit - mass[c]) / density))
        food[c] = min(left, room)
        left -= food[c]
    return food


def _over_limits(
    problem: PackingProblem,
    volume: list[float],
    mass: list[float],
    leaking: list[bool],
    spoiling: list[bool],
    tolerance: float,
) -> list[str]:
    broken = []
    for c, carrier in enumerate(problem.carriers):
        if volume[c] > carrier.capacity + tolerance / 1000.0:
            broken.append(f"{carrier.name} is over by {(volume[c] - carrier.capacity) * 1000:.1f} l")
        if mass[c] > carrier.load_limit + tolerance:
            broken.append(f"{carrier.name} is over its limit by {mass[c] - carrier.load_limit:.2f} kg")
        if leaking[c] and spoiling[c]:
            broken.append(f"{carrier.name} holds what leaks beside what it would spoil")
    return broken


def _off_balance(problem: PackingProblem, places: Mapping[str, str], loads: list[float], tolerance: float) -> list[str]:
    broken = []
    entries = [(m, *problem.positions[c]) for c, m in enumerate(loads)] + list(problem.provisions.fixed)
    total = sum(entry[0] for entry in entries)
    if problem.provisions.fixed:
        forward = sum(entry[0] * entry[1] for entry in entries)
        low, high = (share * problem.wheelbase * total for share in FRONT_SHARE_BAND)
        if not low - tolerance <= forward <= high + tolerance:
            broken.append(f"the front wheel bears {100 * forward / total / problem.wheelbase:.0f} %")
        sideways = sum(entry[0] * entry[2] for entry in entries)
        if abs(sideways) > sideways_most(problem) + tolerance:
            broken.append("left and right are out of balance")
    sway = sum(m * c.sway_lever / c.steadiness for m, c in zip(loads, problem.carriers, strict=True))
    if sway > SWAY_MOST + tolerance:
        broken.append(f"what hangs behind sways with {sway:.2f} kg·m")
    return broken


def sideways_most(problem: PackingProblem) -> float:
    """Return the greatest moment to one side that keeps the lean within its limit.

    Parameters
    ----------
    problem : PackingProblem
        For the mass and height of what is fixed; the load's own height is left out.

    Returns
    -------
    moment : float
        Mass times distance from the middle. [kg·m]

    Examples
    --------
    >>> one = Provisions(fixed=((90.0, 0.5, 0.0, 1.0),))
    >>> empty = build_problem(items=(), carriers=(), bike=Bike(), pins={}, provisions=one,
    ...                       prices=Prices(per_kg=1, per_drag=1, days=1))
    >>> round(sideways_most(empty), 3)
    0.785
    """
    return LEAN_MOST * sum(entry[0] * entry[3] for entry in problem.provisions.fixed)
