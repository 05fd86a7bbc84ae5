"""What is known of a plan variant once it has been ridden in the model: all that checks and pages look at."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cached_property
from typing import Protocol, TypeVar
from zoneinfo import ZoneInfo

import numpy as np

from stonechat.core.diary.shakedown import Shakedown
from stonechat.core.kit.containers import contents_of, jobs_outside, lined_things, units_to_pack
from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import Coverage, Demands, cover
from stonechat.core.ledger.ledger import Ledger
from stonechat.core.ledger.loaded import LegLoad
from stonechat.core.ledger.timetable import Timetable
from stonechat.core.line.profile import Profile
from stonechat.core.line.race_rules import RaceRules
from stonechat.core.line.stops import Stop
from stonechat.core.load.balance import Bands
from stonechat.core.load.problem import Prices, burden_minutes, mishap_minutes
from stonechat.core.load.reaching import Placed, marginal_seconds, things_in_carriers
from stonechat.core.load.together import called_for, given_by
from stonechat.core.load.together.rule import Conditions, Load, Riding
from stonechat.core.mend.rule import MendRule
from stonechat.core.numerics.arrays import BoolArray, FloatArray, frozen
from stonechat.core.rhythm.inputs import RideResult
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.supply.carry import Levels, cannot_be_missed
from stonechat.core.supply.larder import Larder
from stonechat.core.supply.lots import LotPlan, Stuck, Trip
from stonechat.core.supply.rations import Rations

_T = TypeVar("_T")


@dataclass(frozen=True, kw_only=True)
class Cold:
    """How long what is on the bike is out in which cold: riding, and at nights outside."""

    coldest: float  # °C
    hours: Mapping[float, float]  # h at each whole temperature in °C, rounded down, from 1 °C down


@dataclass(frozen=True, kw_only=True)
class Way:
    """The course, and what its race asks."""

    profile: Profile
    stops: tuple[Stop, ...]  # those used, in order
    zones: tuple[ZoneInfo, ...]  # of each stop, and of the finish
    start: datetime
    clock_off: float  # s by which the clock where the course begins is ahead of the rider's
    punctures: float  # expected over the course
    rules: RaceRules


@dataclass(frozen=True, kw_only=True)
class Rigged:
    """The bike and what hangs on it."""

    bike: Bike
    carriers: tuple[Carrier, ...]  # those mounted
    bands: Bands  # what balance keeps to on this terrain with this rig


@dataclass(frozen=True, kw_only=True)
class Carried:
    """The things that go along, and where."""

    items: tuple[Item, ...]
    places: Mapping[str, str]  # carrier of each, what is in a pouch being where the pouch is
    spans: Mapping[str, tuple[int, int]]  # first and last leg of what joins or leaves on the way
    joins: Mapping[str, str]  # thing to the stop whose drop box it is taken from
    orders: Mapping[str, tuple[str, ...]]  # carrier to things from its mouth inwards, where the rider has set it
    jobs_off: frozenset[str]  # jobs that the rider does without
    relied: tuple[Item, ...] = ()  # what a partner carries for both
    moved: Mapping[str, Mapping[str, float]] = field(default_factory=dict)  # 1, share of the race by other carrier


@dataclass(frozen=True, kw_only=True)
class Added:
    """What something that depends on the ride adds along the course."""

    masses: FloatArray  # kg on each segment, shape (n,)
    drags: FloatArray  # m² on each segment, shape (n,)
    brakes: FloatArray  # N at the wheel on each segment, shape (n,)


class Settled(Protocol):
    """What is settled together with the ride: it depends on it, and weighs or brakes."""

    @property
    def added(self) -> Added:
        """What it adds along the course."""


@dataclass(frozen=True, kw_only=True)
class Asked:
    """What the lot programme was asked, and what it said."""

    trip: Trip
    free: Trip  # the same without what the rider wishes of single stops
    lots: LotPlan | None  # None: with what is wished, nothing reaches a stop
    stuck: tuple[Stuck, ...]  # stretches on which less is carried than is wanted, as no more goes in


@dataclass(frozen=True, kw_only=True)
class Provided:
    """Water and food by leg."""

    water: Levels  # l
    food: Levels  # kcal
    capacity: float  # l of water that the bike holds
    food_room: FloatArray  # kcal of what is aboard for which there is room beside the things, shape (l,)
    larder: Larder  # how heavy and bulky food is on each leg, and what is bought
    rations: Rations  # food of the kit that is eaten on the way, beside what is bought
    powder: FloatArray  # kg of drink powder drunk on each leg, shape (l,)
    reserve: float  # l of water to have left at each refill
    added: Added  # food and water run down with riding time
    coldest: FloatArray  # °C, lowest air temperature on each leg
    wrappers: FloatArray  # m³ of wrappers aboard as each leg begins, shape (l,)
    waters: BoolArray  # whether water can be had where each leg begins, planned or not, shape (l,)
    asked: Asked | None = None  # None: every stop is stopped at, as it is

    @cached_property
    def eaten(self) -> Levels:
        """Food with what is eaten riding of the kit's own, as the rider sees it. [kcal]"""
        kit = self.rations.energy
        if not kit.any():
            return self.food
        left = np.cumsum(kit[::-1])[::-1]
        ahead, until = 0.0, np.zeros(kit.size)
        for leg in range(kit.size - 1, -1, -1):
            ahead = float(kit[leg]) + (ahead if leg + 1 < kit.size and not self.food.refilled[leg + 1] else 0.0)
            until[leg] = ahead
        return replace(
            self.food,
            needs=frozen(self.food.needs + kit),
            leaving=frozen(self.food.leaving + left),
            arriving=frozen(self.food.arriving + left - kit),
            until=frozen(self.food.until + until),
        )

    @property
    def must(self) -> BoolArray:
        """Where a refill of water must not be passed by, shape (l,)."""
        return cannot_be_missed(self.water, self.capacity, self.waters)


@dataclass(frozen=True, kw_only=True)
class Body:
    """What is known of the rider's body."""

    mass: float  # kg, in riding clothes
    height: float | None  # m; None: not said
    efficiency: float  # 1, work at the pedals for each joule that is burnt
    runs_cold: float  # K by which the air feels colder than to others; below 0 warmer


@dataclass(frozen=True, kw_only=True)
class Said:
    """What the rider has said and done, and not said yet."""

    ticked: frozenset[str]  # tasks of the countdown that are done
    assumed: tuple[tuple[str, str], ...]  # room, and what is taken for granted there, in words
    mending: MendRule = field(default_factory=MendRule)  # what is known better of failures
    shakedown: Shakedown = field(default_factory=Shakedown)  # how the loaded bike was ridden


def part_of(parts: Mapping[type, object], kind: type[_T]) -> _T:
    """Return the part of a type.

    Parameters
    ----------
    parts : mapping of type to object
        Each by its own type.
    kind : type
        Which.

    Returns
    -------
    part : object
        Of that type.

    Raises
    ------
    LookupError
        Where there is none.

    Examples
    --------
    >>> part_of({str: "a"}, str)
    'a'
    """
    found = parts.get(kind)
    if not isinstance(found, kind):
        raise LookupError(f"There is no {kind.__name__}. Add what makes it to core/plan/features.py.")
    return found


@dataclass(frozen=True, kw_only=True)
class Ridden:
    """A plan variant ridden in the model."""

    way: Way
    rig: Rigged
    kit: Carried
    ride: RideResult
    timetable: Timetable
    settled: Mapping[type, Settled]  # what was settled with the ride, by its type
    film: tuple[LegLoad, ...]  # one for each leg
    ledger: Ledger
    body: Body
    said: Said
    reports: Mapping[type, object] = field(default_factory=dict)  # what rooms read from it, by their type

    @property
    def provisions(self) -> Provided:
        """Water and food by leg."""
        return part_of(self.settled, Provided)

    def report(self, kind: type[_T]) -> _T:
        """Return what a room has read from it; `LookupError` where none of that type was."""
        return part_of(self.reports, kind)

    def with_report(self, report: object) -> "Ridden":
        """Return the same with one report more."""
        return replace(self, reports={**self.reports, type(report): report})

    def aboard_on(self, leg: int) -> tuple[Item, ...]:
        """Return the things that are aboard on a leg."""
        away = {key for key, (first, last) in self.kit.spans.items() if not first <= leg <= last}
        return tuple(item for item in self.kit.items if item.id not in away)

    def share_aboard(self, item_id: str) -> float:
        """Share of a kilogram's price that a thing pays, by the legs on which it is aboard. [1]"""
        if item_id not in self.kit.spans:
            return 1.0
        first, last = self.kit.spans[item_id]
        total = sum(leg.minutes_per_kg for leg in self.timetable.legs)
        return sum(leg.minutes_per_kg for leg in self.timetable.legs[first : last + 1]) / total if total else 0.0

    @cached_property
    def lined(self) -> frozenset[str]:
        """Things that stay dry in an open carrier because a dry bag there holds them."""
        return lined_things(self.kit.items, self.kit.places, self.rig.carriers)

    @cached_property
    def placed(self) -> tuple[Placed, ...]:
        """What rides in carriers, pouches with what is in them."""
        return things_in_carriers(
            self.kit.items,
            self.kit.places,
            self.rig.carriers,
            spans=self.kit.spans,
            legs=len(self.timetable.legs),
            moved=self.kit.moved,
        )

    @cached_property
    def reaching(self) -> Mapping[str, float]:
        """What each thing adds to reaching over the race, all others staying. [min]"""
        prices = self.ledger.prices
        a_day = marginal_seconds(self.placed, prices.often)
        return {key: seconds * prices.reached_days / 60.0 for key, seconds in a_day.items()}

    @cached_property
    def borne(self) -> Mapping[str, float]:
        """What each thing costs by being carried on the body; nothing on the bike. [min]"""
        return self._by_thing(burden_minutes)

    @cached_property
    def risked(self) -> Mapping[str, float]:
        """What each thing costs by being far in a hurry, or lost, where it rides. [min]"""
        return self._by_thing(mishap_minutes)

    def _by_thing(self, minutes: Callable[[tuple[Item, ...], Carrier, Prices], float]) -> dict[str, float]:
        prices, found = self.ledger.prices, dict[str, float]()
        for entry in self.placed:
            for part in entry.parts:
                found[part.id] = found.get(part.id, 0.0) + entry.share * minutes((part,), entry.carrier, prices)
        return found

    @cached_property
    def riding(self) -> Riding:
        """The loads of all legs, and the rules of riding together that they are held against."""
        parts = contents_of(self.kit.items)
        units = units_to_pack(self.kit.items)
        unit_of = {part.id: key for key, inside in parts.items() for part in inside}
        outside = jobs_outside(self.kit.items)
        conditions = Conditions(
            coldest=self.report(Cold).coldest,
            hottest=float(self.ride.temps.max()),
            frost=self.report(Cold).hours,
            steering=self.rig.bands.steering,
            groups=False,
            outside=outside,
        )
        given = given_by(
            items=units, parts=parts, carriers=self.rig.carriers, bike=self.rig.bike, conditions=conditions
        )
        loads = tuple(
            Load(
                carriers={state.carrier.id: state.carrier for state in load.carriers},
                bags={
                    state.carrier.id: frozenset(unit_of.get(i.id, i.id) for i in state.items) for state in load.carriers
                },
                volume={state.carrier.id: state.volume + state.water / 1e3 for state in load.carriers},
                mass={state.carrier.id: state.mass for state in load.carriers},
                food={state.carrier.id: state.food for state in load.carriers},
                leaving=leg.start_name,
            )
            for load, leg in zip(self.film, self.timetable.legs, strict=True)
        )
        return Riding(given=given, loads=loads, rules=called_for(given))

    @cached_property
    def coverage(self) -> tuple[Coverage, ...]:
        """The jobs of the race against what goes along, missing ones first."""
        return cover((*self.kit.items, *self.kit.relied), self.report(Demands), self.kit.jobs_off)

    @property
    def unplaced(self) -> tuple[Item, ...]:
        """Things that are carried, want a place and have none."""
        known = {carrier.id for carrier in self.rig.carriers}
        return tuple(item for item in self.kit.items if item.packed and self.kit.places.get(item.id) not in known)
