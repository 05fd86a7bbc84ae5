"""What is known of a plan variant once it has been ridden in the model: the load as a film, and the minutes."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property
from zoneinfo import ZoneInfo

import numpy as np

from stonechat.core.kit.containers import contents_of, lined_things, units_to_pack
from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import Coverage, Demands, cover
from stonechat.core.line.profile import Profile
from stonechat.core.line.rules import Rules
from stonechat.core.line.stops import Stop
from stonechat.core.load.balance import Balance, Bands
from stonechat.core.load.problem import Prices
from stonechat.core.load.together import called_for, given_by
from stonechat.core.load.together.rule import Conditions, Load, Riding
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.rhythm.inputs import Clock, RideResult
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.supply.carry import Levels


@dataclass(frozen=True, kw_only=True)
class Leg:
    """The way between two stops that are used, or start and finish."""

    index: int
    start: float  # m
    end: float  # m
    start_name: str
    end_name: str
    ascent: float  # m
    moving: float  # s
    elapsed: float  # s from leaving to arriving, nights and reaching included
    leaves: datetime
    arrives: datetime
    minutes_per_kg: float  # min/kg
    minutes_per_drag: float  # min per 100 cm²
    temp_low: float  # °C
    temp_high: float  # °C
    dark: float  # 1, share of its time in the dark
    rest: float  # s rested on the way
    work: float  # J at the pedals
    energy: float  # kcal spent riding and walking


@dataclass(frozen=True, kw_only=True)
class Visit:
    """Passing a stop, or the finish."""

    stop: Stop | None  # None at the finish
    name: str
    distance: float  # m
    arrives: datetime
    leaves: datetime
    elapsed: float  # s since the start, on arrival
    is_open: bool  # on arrival, or after the wait; as is usual for such places where its hours are not known
    is_known: bool  # whether its hours are known
    gives: frozenset[str]  # what can be had on passing, each offer behind its own door
    clock_step: float  # s by which the clocks here are ahead of those at the stop before
    wait: float  # s until it opens where it stays shut, infinity if never
    waited: float  # s waited for its door
    rested: float  # s rested there
    dark: bool
    temp: float  # °C
    awake: float  # s awake on arrival
    margin: float | None  # s before its cut-off, negative after; None where it has none


@dataclass(frozen=True, kw_only=True)
class CarrierState:
    """What one carrier holds on one leg."""

    carrier: Carrier
    items: tuple[Item, ...]
    volume: float  # m³ of things and food
    mass: float  # kg of things, food and water; what is worn is the rider's
    water: float  # l
    food: float  # m³

    @property
    def fill(self) -> float:
        """Share of the capacity that is taken. [1]"""
        used = self.volume + self.water / 1000.0
        return used / self.carrier.capacity if self.carrier.capacity > 0.0 else 0.0

    @property
    def items_mass(self) -> float:
        """Mass of the things in it. [kg]"""
        return sum(item.total_mass for item in self.items if not item.worn)


@dataclass(frozen=True, kw_only=True)
class LegLoad:
    """The bike as it leaves for a leg."""

    carriers: tuple[CarrierState, ...]
    balance: Balance
    steering: float  # kg·m² that the load adds
    sway: float  # kg·m
    mass: float  # kg, rider, bike and load
    drag_area: float  # m²
    food_left_over: float  # m³ of food for which there is no room


@dataclass(frozen=True, kw_only=True)
class Cause:
    """One line of the ledger."""

    key: str
    name: str
    minutes: float  # min


@dataclass(frozen=True, kw_only=True)
class Ledger:
    """Minutes by cause; they sum to the finish."""

    causes: tuple[Cause, ...]
    pushing: float  # min of the riding that go on foot
    moving: float  # s
    finish: float  # s
    spread: float  # s, half-width of the finish for power 5 % up or down

    @property
    def carried(self) -> float:
        """Minutes of carrying the load, bags in the wind and reaching: smooth, what prices speak of. [min]"""
        return self.minutes("load") + self.minutes("wind") + self.minutes("reach")

    def minutes(self, key: str) -> float:
        """Minutes of one cause. [min]"""
        return next(cause.minutes for cause in self.causes if cause.key == key)


@dataclass(frozen=True, kw_only=True)
class MassCurve:
    """Moving minutes saved by taking mass away, ridden again at a few masses under the same conditions."""

    masses: FloatArray  # kg taken away, ascending from 0
    minutes: FloatArray  # min saved

    def saved(self, mass: float) -> float:
        """Minutes that a mass costs, between the masses ridden. [min]"""
        if mass <= self.masses[-1]:
            return float(np.interp(mass, self.masses, self.minutes))
        return mass * float(self.minutes[-1] / self.masses[-1])


@dataclass(frozen=True, kw_only=True)
class Ridden:
    """A plan variant ridden in the model: all that checks and pages look at."""

    profile: Profile
    stops: tuple[Stop, ...]  # those used, in order
    bike: Bike
    carriers: tuple[Carrier, ...]  # those mounted
    items: tuple[Item, ...]  # those carried
    places: Mapping[str, str]  # carrier of each, what is in a pouch being where the pouch is
    spans: Mapping[str, tuple[int, int]]  # first and last leg of what joins or leaves on the way
    joins: Mapping[str, str]  # thing to the stop whose drop box it is taken from
    punctures: float  # expected over the course
    ride: RideResult
    legs: tuple[Leg, ...]
    visits: tuple[Visit, ...]
    water: Levels  # l
    food: Levels  # kcal
    water_capacity: float  # l
    film: tuple[LegLoad, ...]
    ledger: Ledger
    prices: Prices
    mass_curve: MassCurve
    minutes_per_watt: float  # min/W, negative
    minutes_per_rolling: float  # min per 0.001 of rolling coefficient
    start: datetime
    rules: Rules
    clock: Clock  # as it was ridden: nights, doors, sun and weather
    zones: tuple[ZoneInfo, ...]  # of each stop, and of the finish
    clock_off: float  # s by which the clock where the course begins is ahead of the rider's
    fan: tuple[FloatArray, FloatArray]  # s since the start at the segment ends, with more and with less power
    settled: bool  # whether mass, time and opening hours agreed with one another
    reserve: float  # l of water to have left at each refill
    orders: Mapping[str, tuple[str, ...]]  # carrier to things from its mouth inwards, where the rider has set it
    jobs_off: frozenset[str]  # jobs that the rider does without
    ticked: frozenset[str]  # tasks of the countdown that are done
    assumed: tuple[tuple[str, str], ...]  # room, and what is taken for granted there, in words
    bands: Bands  # what balance keeps to on this terrain with this rig
    demands: Demands = field(
        default_factory=Demands
    )  # what the race asks of the kit, once it is known how it is ridden

    def share_aboard(self, item_id: str) -> float:
        """Share of a kilogram's price that a thing pays, by the legs on which it is aboard. [1]"""
        if item_id not in self.spans:
            return 1.0
        first, last = self.spans[item_id]
        total = sum(leg.minutes_per_kg for leg in self.legs)
        return sum(leg.minutes_per_kg for leg in self.legs[first : last + 1]) / total if total else 0.0

    @cached_property
    def lined(self) -> frozenset[str]:
        """Things that stay dry in an open carrier because a dry bag there holds them."""
        return lined_things(self.items, self.places, self.carriers)

    @cached_property
    def riding(self) -> Riding:
        """The loads of all legs, and the rules of riding together that they are held against."""
        parts = contents_of(self.items)
        units = units_to_pack(self.items)
        unit_of = {part.id: key for key, inside in parts.items() for part in inside}
        conditions = Conditions(coldest=float(self.ride.temps.min()), steering=self.bands.steering)
        given = given_by(items=units, parts=parts, carriers=self.carriers, bike=self.bike, conditions=conditions)
        loads = tuple(
            Load(
                carriers={state.carrier.id: state.carrier for state in load.carriers},
                bags={
                    state.carrier.id: frozenset(unit_of.get(i.id, i.id) for i in state.items if not i.worn)
                    for state in load.carriers
                },
                volume={state.carrier.id: state.volume for state in load.carriers},
                mass={state.carrier.id: state.mass for state in load.carriers},
                leaving=leg.start_name,
            )
            for load, leg in zip(self.film, self.legs, strict=True)
        )
        return Riding(given=given, loads=loads, rules=called_for(given))

    @cached_property
    def coverage(self) -> tuple[Coverage, ...]:
        """The jobs of the race against what goes along, missing ones first."""
        return cover(self.items, self.demands, self.jobs_off)

    @property
    def unplaced(self) -> tuple[Item, ...]:
        """Things that are carried and have no place."""
        known = {carrier.id for carrier in self.carriers}
        return tuple(item for item in self.items if self.places.get(item.id) not in known)
