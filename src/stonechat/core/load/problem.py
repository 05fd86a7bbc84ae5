"""The packing problem: which thing may ride where, what it costs there, and the limits of every carrier."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.kinds import marks_of
from stonechat.core.kit.reach import HALTS, Often, reach_seconds, reaches_a_day
from stonechat.core.load.balance import USUAL_BANDS, Bands, Mass
from stonechat.core.load.body import body_minutes, food_on_body
from stonechat.core.load.eating import is_at_hand
from stonechat.core.load.mishap import loss_minutes, urgency_minutes
from stonechat.core.load.reaching import (
    LINER_TIME,
    clutter_seconds,
    level_on,
    opening_seconds,
    own_seconds,
    shared_uses,
)
from stonechat.core.load.together import called_for, given_by
from stonechat.core.load.together.places import NOWHERE
from stonechat.core.load.together.rule import Conditions, Rule
from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray, frozen
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import ACCESS_NAMES, ACCESS_RANK, Carrier
from stonechat.core.rig.geometry import carrier_position
from stonechat.core.rig.places import FRAME_PLACES

ON_MEAN_DAYS = Often()  # neither wet nor cold nor dark
BLIND = FRAME_PLACES | {"down_tube", "down_store", "bottle_down", "bottle_seat"}  # places that see no sky
ZIP_BAG = 0.5e-3  # m³ that a zip bag holds: papers, phone, electronics (estimate)
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
    hours: float = 0.0  # h of riding, for what is carried on the body and what may be lost
    loose: float = 0.0  # 1, share of the course on loose ground, which shakes things out
    body: float = 1.0  # 1, by how much more than usual the rider minds what is carried on the body
    handling: float = 1.0  # 1, the rider's own time at bags over the usual
    often: Often = ON_MEAN_DAYS  # how often they are wet, cold and so on

    @property
    def reached_days(self) -> float:
        """Days of the race, by what the usual seconds of reaching take this rider."""
        return self.handling * self.days


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """Legs on which the same things are aboard: what joins and leaves on the way leaves its room to others."""

    away: frozenset[str] = frozenset()  # things that are not aboard
    food_mass: float = 0.0  # kg, on its leg with most food
    food_volume: float = 0.0  # m³


@dataclass(frozen=True, kw_only=True)
class Provisions:
    """Food that must find room beside the things, and water that sits where it sits."""

    food_mass: float = 0.0  # kg, on the leg that carries most
    food_volume: float = 0.0  # m³
    fixed: tuple[Mass, ...] = ()  # rider, bike, carriers that stay mounted, water: mass and place
    water: Mapping[str, float] = field(default_factory=dict)  # kg by carrier, for rules of sums
    wanted: Mapping[str, float] = field(default_factory=dict)  # m³ of food that goes into each first as things are
    fetching: tuple[tuple[float, float], ...] = ()  # minutes of halts for food by what is at hand, as lines
    away: frozenset[str] = frozenset()  # things that are not aboard on the leg that carries most food
    others: tuple[Stretch, ...] = ()  # other parts of the race, with other things aboard

    @property
    def stretch(self) -> Stretch:
        """The part of the race that carries most food."""
        return Stretch(away=self.away, food_mass=self.food_mass, food_volume=self.food_volume)

    @property
    def always(self) -> "Stretch":
        """All that is away at some time, as one."""
        return Stretch(away=self.away.union(*(other.away for other in self.others)))


@dataclass(frozen=True, kw_only=True)
class Loss:
    """What a job costs that only things which may stay at home can do."""

    name: str
    minutes: float  # min expected where none of them goes along
    things: frozenset[str]
    never_cut: bool = False  # one of them must go along


@dataclass(frozen=True, kw_only=True)
class Choices:
    """What a packing may decide besides where things go."""

    carriers: Mapping[str, float] = field(default_factory=dict)  # min that mounting one costs, by its id
    things: Mapping[str, float] = field(default_factory=dict)  # min of weight where one goes along, by its id
    losses: tuple[Loss, ...] = ()
    exclusive: tuple[frozenset[str], ...] = ()  # of these carriers one at most is mounted
    twins: tuple[frozenset[str], ...] = ()  # these carriers are mounted all or none


NO_CHOICES = Choices()


@dataclass(frozen=True, kw_only=True)
class Shared:
    """An occasion that takes several things: each carrier is opened once for all of them, and halted for once."""

    key: str  # of OCCASIONS
    times: Mapping[int, float]  # how often in the race each item is taken out on it
    opening: FloatArray  # min that opening a carrier once takes, shape (c,)
    levels: Mapping[int, IntArray]  # halt that getting an item out takes by carrier, 0 to len(HALTS), shape (c,)

    @property
    def halts(self) -> tuple[float, ...]:
        """Minutes of each level of a halt. [min]"""
        return tuple(seconds / 60.0 for seconds in HALTS)


@dataclass(frozen=True, kw_only=True)
class PackingProblem:
    """Checked arrays over items (i) and carriers (c), those mounted and those that may be."""

    items: tuple[Item, ...]
    carriers: tuple[Carrier, ...]
    minutes: FloatArray  # min that an item costs in a carrier whatever else rides there, shape (i, c)
    shared: tuple[Shared, ...] = ()  # what it costs besides, by occasions
    refusals: tuple[tuple[Refusal | None, ...], ...]  # why an item may not ride there, None where it may
    positions: FloatArray  # m, where each carrier's load sits, shape (c, 3)
    pins: Mapping[str, str]  # item to the carrier it stays in
    provisions: Provisions
    wheelbase: float  # m
    food_minutes: FloatArray  # min that a m³ of food costs in a carrier, shape (c,)
    wind_minutes: FloatArray  # min of that, or of any m³, in the wind, shape (c,)
    choices: Choices = NO_CHOICES
    rules: tuple[Rule, ...] = ()  # kept where they can be
    bands: Bands = USUAL_BANDS
    liners: frozenset[str] = frozenset()  # empty dry bags: where one rides, things stay dry
    lined: frozenset[tuple[int, int]] = frozenset()  # (i, c) that stay dry only beside a liner

    @cached_property
    def allowed(self) -> BoolArray:
        """Which item may ride in which carrier, shape (i, c)."""
        return np.array([[refusal is None for refusal in row] for row in self.refusals], dtype=bool).reshape(
            len(self.items), len(self.carriers)
        )

    @cached_property
    def alone(self) -> FloatArray:
        """Minutes that an item costs in a carrier if each occasion took it alone, shape (i, c). [min]"""
        total = np.array(self.minutes)
        for occasion in self.shared:
            for i, times in occasion.times.items():
                total[i] += times * (occasion.opening + _halting(occasion, i))
        return frozen(total)

    def columns(self, places: Mapping[str, str]) -> list[int]:
        """Return the carrier of each item, -1 where it is in none of them."""
        index = {carrier.id: c for c, carrier in enumerate(self.carriers)}
        return [index.get(places.get(item.id, ""), -1) for item in self.items]

    def beside(self, i: int, at: Sequence[int]) -> FloatArray:
        """Return minutes that an item adds in each carrier with all others in theirs, shape (c,). [min]"""
        total = np.array(self.minutes[i])
        for occasion in self.shared:
            if i not in occasion.times:
                continue
            times, opened, halted = occasion.times[i], np.zeros(len(self.carriers)), np.zeros(len(HALTS))
            for other, often in occasion.times.items():
                if other != i and at[other] >= 0:
                    opened[at[other]] = max(opened[at[other]], often)
                    level = int(occasion.levels[other][at[other]])
                    halted[:level] = np.maximum(halted[:level], often)
            total += occasion.opening * np.maximum(0.0, times - opened)
            for level, minutes in enumerate(occasion.halts):
                total += minutes * max(0.0, times - halted[level]) * (occasion.levels[i] > level)
        return total

    @property
    def at_hand(self) -> BoolArray:
        """In which carriers food is eaten without a halt, shape (c,)."""
        return np.array([is_at_hand(carrier) for carrier in self.carriers], dtype=bool)

    @property
    def takes_food(self) -> BoolArray:
        """Which carriers take food, shape (c,)."""
        return np.array(["food" in carrier.takes for carrier in self.carriers], dtype=bool)


def _halting(occasion: Shared, i: int) -> FloatArray:
    """Return the minutes of a halt for an item by carrier, shape (c,)."""
    steps = np.concatenate(([0.0], np.cumsum(occasion.halts)))
    return np.asarray(steps[occasion.levels[i]], dtype=np.float64)


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
    if item.keep_dry and not _is_dry_enough(item, carrier):
        return Refusal(code="dry", words="would get wet")
    if ACCESS_RANK[carrier.access] > ACCESS_RANK[item.access]:
        return Refusal(code="reachable", words=f"needed {ACCESS_NAMES[item.access]}")
    if carrier.place in BLIND and _needs_sky(item):
        return Refusal(code="sky", words="sees no sky there")
    return None


def _is_dry_enough(item: Item, carrier: Carrier) -> bool:
    """Tell whether a thing stays dry: in a dry carrier, or in a zip bag where showers are kept out."""
    zipped = item.total_volume <= ZIP_BAG and item.category not in ("sleep", "clothes")
    return carrier.dry or (zipped and carrier.dryness == "shower")


def _needs_sky(item: Item) -> bool:
    """Tell whether a thing works only where it sees the sky; a spare one is switched off."""
    return "sky" in marks_of(item.kind) and "navigate_spare" not in item.roles


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


def placement_minutes(item: Item, carrier: Carrier, prices: Prices, *, lined: bool = False) -> float:
    """Return what an item costs in a carrier besides its weight: reaching for it and its share of the wind.

    Parameters
    ----------
    item : Item
        The thing.
    carrier : Carrier
        Where it would ride.
    prices : Prices
        Prices on this route.
    lined : bool
        It rides in a dry bag there, which is opened each time.

    Returns
    -------
    minutes : float
        Moving minutes over the race. [min]

    Examples
    --------
    >>> from stonechat.core.kit.item import Reaches
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4,
    ...               open_time=0.0)
    >>> jacket = Item(id="j", name="jacket", mass=0.2, volume=0.001, access="off", reaches=Reaches(per_day=6.0))
    >>> placement_minutes(jacket, bag, Prices(per_kg=25.0, per_drag=10.0, days=2.0))
    7.1
    """
    once = reach_seconds(item.access, carrier.access, carrier.open_time) + prices.often.gloved * carrier.gloves_time
    once += LINER_TIME if lined else 0.0
    seconds = once * reaches_a_day(item, prices.often) * prices.reached_days
    return seconds / 60.0 + wind_minutes(item.total_volume, carrier, prices)


def wind_minutes(volume: float, carrier: Carrier, prices: Prices) -> float:
    """Return what a volume costs in the wind of a carrier that it fills.

    Parameters
    ----------
    volume : float
        Of what is in it. [m³]
    carrier : Carrier
        The carrier.
    prices : Prices
        Prices on this route.

    Returns
    -------
    minutes : float
        Over the race. [min]

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4, drag_fill=0.1)
    >>> round(wind_minutes(0.001, bag, Prices(per_kg=25.0, per_drag=10.0, days=2.0)), 3)
    0.1
    """
    return carrier.drag_fill * volume / DRAG_STEP * prices.per_drag


def build_problem(
    *,
    items: tuple[Item, ...],
    carriers: tuple[Carrier, ...],
    bike: Bike,
    prices: Prices,
    provisions: Provisions,
    pins: Mapping[str, str],
    members: Mapping[str, tuple[Item, ...]] | None = None,
    choices: Choices = NO_CHOICES,
    conditions: Conditions | None = None,
    bands: Bands = USUAL_BANDS,
) -> PackingProblem:
    """Return the packing problem of things over carriers.

    Parameters
    ----------
    items : tuple of Item
        What is carried, and what may be.
    carriers : tuple of Carrier
        What it may be carried in; only those mounted count, and those that may be.
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
    choices : Choices
        Carriers that may be mounted, things that may stay at home.
    conditions : Conditions, optional
        What the rules of riding together depend on; without it there are none.
    bands : Bands
        What balance keeps to.

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
    able = tuple(carrier for carrier in carriers if carrier.mounted or carrier.id in choices.carriers)
    parts = members or {}
    shape = (len(items), len(able))
    liners = frozenset(i.id for i in items if i.holds and i.makes_dry and i.id not in parts)
    found = [
        [_refused(item, parts.get(item.id, ()), c, lines=bool(liners - {item.id})) for c in able] for item in items
    ]
    found, nowhere = _lifted(items, able, found, rain=prices.often.wet > 0.0)
    lined = frozenset((i, c) for i, row in enumerate(found) for c, (_, in_liner) in enumerate(row) if in_liner)

    def minutes_in(i: int, c: int) -> float:
        inside = parts.get(items[i].id, (items[i],))
        reached = own_seconds(inside, able[c], prices.often, lined=(i, c) in lined) + clutter_seconds(able[c])
        besides = burden_minutes(inside, able[c], prices) + mishap_minutes(inside, able[c], prices)
        return prices.reached_days * reached / 60.0 + besides + wind_minutes(items[i].total_volume, able[c], prices)

    minutes = [[minutes_in(i, c) for c in range(len(able))] for i in range(len(items))]
    problem = PackingProblem(
        items=items,
        carriers=able,
        minutes=frozen(np.array(minutes, dtype=np.float64).reshape(shape)),
        shared=_shared(items, parts, able, prices),
        refusals=tuple(tuple(refusal for refusal, _ in row) for row in found),
        positions=frozen(np.array([carrier_position(bike, c) for c in able]).reshape(len(able), 3)),
        pins={item_id: place for item_id, place in pins.items() if any(c.id == place for c in able)},
        provisions=provisions,
        wheelbase=bike.wheelbase,
        food_minutes=frozen(np.array([_food_minutes(c, provisions, prices) for c in able])),
        wind_minutes=frozen(np.array([wind_minutes(1.0, c, prices) for c in able])),
        choices=choices,
        bands=bands,
        liners=liners,
        lined=lined,
    )
    problem = problem if conditions is None else _with_rules(problem, parts, bike, conditions)
    return replace(problem, rules=(*problem.rules, *nowhere))


Refusals = list[list[tuple[Refusal | None, bool]]]  # by item and carrier: why not, and whether only in a liner


def _lifted(
    items: tuple[Item, ...], carriers: tuple[Carrier, ...], found: Refusals, *, rain: bool
) -> tuple[Refusals, tuple[Rule, ...]]:
    """Return refusals with those lifted of things that no carrier takes, and rules that tell of them.

    A rig without a dry or a near place is packed all the same; what cannot be done at all stays refused. Where no rain
    is forecast, getting wet is weighed like the other rules, and nothing that cannot be done.
    """
    lifted, rules = [list(row) for row in found], []
    for i, row in enumerate(found):
        known = {c: refusal for c, (refusal, _) in enumerate(row) if refusal is not None}
        nowhere = len(known) == len(row)
        soft = {c: r for c, r in known.items() if r.code in NOWHERE and (nowhere or (r.code == "dry" and not rain))}
        if not soft:
            continue
        for c in soft:
            lifted[i][c] = (None, False)
        worst = next(iter(soft.values()))
        rules.append(
            NOWHERE[worst.code](
                words=f"{items[i].name}: {worst.words}" + (", wherever it rides" if nowhere else " if it rained"),
                thing=items[i].id,
                carriers=frozenset(carriers[c].id for c in soft),
            )
        )
    return lifted, tuple(rules)


def burden_minutes(parts: Iterable[Item], carrier: Carrier, prices: Prices) -> float:
    """Return what things cost on the body.

    Parameters
    ----------
    parts : iterable of Item
        A pouch and what is in it, or one thing.
    carrier : Carrier
        Where it rides.
    prices : Prices
        Hours, and how much the rider minds.

    Returns
    -------
    minutes : float
        Over the race. [min]

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4)
    >>> burden_minutes((), bag, Prices(per_kg=25.0, per_drag=10.0, days=4.0))
    0.0
    """
    return body_minutes(parts, carrier, prices.hours * prices.body)


def mishap_minutes(parts: Sequence[Item], carrier: Carrier, prices: Prices) -> float:
    """Return what it costs that things are not in the hand at once, or may be lost, where they ride.

    Parameters
    ----------
    parts : sequence of Item
        A pouch and what is in it, or one thing.
    carrier : Carrier
        Where it rides.
    prices : Prices
        Days, hours and ground.

    Returns
    -------
    minutes : float
        Chance times minutes, over the race. [min]

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4)
    >>> mishap_minutes((), bag, Prices(per_kg=25.0, per_drag=10.0, days=4.0))
    0.0
    """
    urgent = urgency_minutes(parts, carrier, prices.days, prices.often)
    return urgent + loss_minutes(parts, carrier, prices.hours, prices.loose)


def _food_minutes(carrier: Carrier, provisions: Provisions, prices: Prices) -> float:
    """Return what a m³ of food costs in a carrier: its wind, and on the body its burden. [min]"""
    density = provisions.food_mass / provisions.food_volume if provisions.food_volume > 0.0 else 0.0
    return wind_minutes(1.0, carrier, prices) + food_on_body(carrier, density, prices.hours * prices.body)


def _shared(
    items: tuple[Item, ...], parts: Mapping[str, tuple[Item, ...]], carriers: tuple[Carrier, ...], prices: Prices
) -> tuple[Shared, ...]:
    """Return the occasions that take some of the things."""
    times: dict[str, dict[int, float]] = {}
    for i, item in enumerate(items):
        for key, often in shared_uses(parts.get(item.id, (item,)), prices.often).items():
            times.setdefault(key, {})[i] = often * prices.reached_days

    def levels(key: str, i: int) -> IntArray:
        inside = parts.get(items[i].id, (items[i],))
        return np.array([level_on(key, inside, carrier, prices.often) for carrier in carriers], dtype=np.int64)

    return tuple(
        Shared(
            key=key,
            times=taken,
            opening=frozen(np.array([opening_seconds(key, c, prices.often) / 60.0 for c in carriers])),
            levels={i: levels(key, i) for i in taken},
        )
        for key, taken in sorted(times.items())
    )


def _refused(item: Item, parts: tuple[Item, ...], carrier: Carrier, *, lines: bool) -> tuple[Refusal | None, bool]:
    """Return why a thing may not ride in a carrier, and whether it may only because a dry bag lines it."""
    refusal = first_refusal(item, parts, carrier)
    if not lines or refusal is None or refusal.code != "dry":
        return refusal, False
    dry = first_refusal(replace(item, keep_dry=False), tuple(replace(p, keep_dry=False) for p in parts), carrier)
    return dry, dry is None


def _with_rules(
    problem: PackingProblem, parts: Mapping[str, tuple[Item, ...]], bike: Bike, conditions: Conditions
) -> PackingProblem:
    """Return a problem with its rules of riding together."""
    fits = {
        item.id: frozenset(c.id for c, allowed in zip(problem.carriers, row, strict=True) if allowed)
        for item, row in zip(problem.items, problem.allowed, strict=True)
    }
    given = given_by(
        items=problem.items, parts=parts, carriers=problem.carriers, bike=bike, conditions=conditions, fits=fits
    )
    return replace(problem, rules=called_for(given))


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
    return problem.bands.lean * sum(entry[0] * entry[3] for entry in problem.provisions.fixed)
