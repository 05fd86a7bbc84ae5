"""What stays the same while mass and time of a variant settle: course, rider, stops, sun, what each carrier holds."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from itertools import chain
from typing import NamedTuple
from zoneinfo import ZoneInfo

import numpy as np

from stonechat.core.kit.along import fixed_drag
from stonechat.core.kit.containers import contents_of, resolved_places, sheltered
from stonechat.core.kit.item import HOME, Item
from stonechat.core.line.clocks import even_clock, since_midnight
from stonechat.core.line.profile import Profile, make_profile, segments_at
from stonechat.core.line.stops import ALWAYS, BARRED, DAY, KINDS, Hours, Stop, main_door
from stonechat.core.line.sun import daylight
from stonechat.core.line.surface import Surface, surfaces_for
from stonechat.core.line.weather import WET_FROM, Weather
from stonechat.core.line.zones import zone_name
from stonechat.core.load.balance import Mass
from stonechat.core.numerics.arrays import FloatArray, IntArray
from stonechat.core.plan.limits import MOST_DAYS
from stonechat.core.plan.plan import START, Plan, Variant
from stonechat.core.rhythm.inputs import (
    Clock,
    Course,
    Doors,
    Halts,
    Legs,
    Nights,
    OnFoot,
    Pace,
    RiderNumbers,
    Sky,
    Stays,
)
from stonechat.core.rhythm.rhythm import Rhythm, night_arrays
from stonechat.core.rhythm.ride import LONG_STAY
from stonechat.core.rhythm.rider import ALTITUDE_EFFECTS, POSITIONS, Rider
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.geometry import bike_position, carrier_position, rider_position
from stonechat.core.rig.spots import spot_position
from stonechat.core.supply.larder import Larder
from stonechat.core.supply.lots import LotPlan, Stuck
from stonechat.core.supply.rations import Rations, no_rations

LEAST_DAYS = 12  # that are looked at however short the course is
SLOWEST_DAY = 50_000.0  # m of a course's length for each day that is looked at (estimate: slower riders are rare)
SUN_POINTS = 8  # places along the course at which the sun is looked up
CADENCE_LEAST = 40.0 / 60.0  # 1/s, slowest that pedals are turned uphill before walking (estimate)
FIRST_GUESS_SPEED = 5.0  # m/s, what is expected of the way ahead before it was ridden once
DETOUR_SPEED = 4.5  # m/s off the course (estimate)
LATERAL = {"cautious": 2.5, "normal": 3.0, "bold": 3.5}  # m/s², what a rider leans into in a bend (estimates)
STEEP_FROM, STEEP_SLOWING, STEEP_LEAST = 0.10, 2.5, 0.5  # falls steeper than this are ridden slower (estimates)


@dataclass(frozen=True, kw_only=True)
class Scenario:
    """What stays the same while mass and time settle."""

    plan: Plan
    variant: Variant
    profile: Profile
    course: Course
    rider: RiderNumbers
    stops: tuple[Stop, ...]
    carriers: tuple[Carrier, ...]
    items: tuple[Item, ...]  # all that goes along at some time, sheltered as their pouches shelter them
    places: Mapping[str, str]  # carrier of each, what is in a pouch being where the pouch is
    spans: Mapping[str, tuple[int, int]]  # first and last leg of what joins or leaves on the way
    moved: Mapping[str, tuple["Moved", ...]]  # what rides elsewhere for some legs, by the thing as it is packed
    phases: tuple["Phase", ...]  # what is aboard, one for each leg; legs with the same things share one
    leg_of: IntArray  # leg of each segment
    start: datetime  # by the rider's clock
    even: datetime  # the same moment by the clock of the place, which is never set forward or back
    clock: Clock  # with nobody reaching for anything yet
    bare_drag: FloatArray  # m², rider and bare bike on each segment, shape (n,)
    zones: tuple[ZoneInfo, ...]  # of each stop, and of the finish
    supplied: "Supplied"  # what the ride before was supplied with
    rations: Rations  # food of the kit, as it is eaten

    def rides_past(self, k: int) -> bool:
        """Tell whether a stop is ridden past."""
        lots = self.supplied.lots
        return lots is not None and lots.passings[k + 1].stay is None


@dataclass(frozen=True, kw_only=True)
class Moved:
    """Where a thing rides on some legs."""

    to: str  # carrier
    first: int  # leg
    end: int  # first leg after
    share: float  # 1, of the course

    def on(self, leg: int) -> bool:
        """Tell whether it is there on a leg."""
        return self.first <= leg < self.end


@dataclass(frozen=True, kw_only=True)
class Supplied:
    """What a ride was supplied with, and what a kilogram costs on it."""

    prices: FloatArray  # s/kg by leg, shape (l,); none before the first ride
    lots: LotPlan | None = None  # None: every stop as it is
    stuck: tuple[Stuck, ...] = ()  # stretches on which less is carried than is wanted
    held: bool = False  # whether they stay as they are, so that the ride settles
    larder: Larder | None = None  # what food was bought; None: before the first ride


@dataclass(frozen=True, kw_only=True)
class Phase:
    """What is aboard between two points at which things join or leave."""

    held: Mapping[str, "Held"]  # what each carrier holds
    fixed: tuple[Mass, ...]  # rider with what is worn, bike, things without a place
    drag: float  # m², of what is fixed in spots of bike and helmet
    mass: float  # kg, of rider, bike, carriers and things


@dataclass(frozen=True, kw_only=True)
class Held:
    """The things in one carrier, worn ones left out of the sums."""

    items: tuple[Item, ...]
    volume: float  # m³
    mass: float  # kg
    position: tuple[float, float, float]  # m


def carried_items(plan: Plan, variant: Variant) -> tuple[Item, ...]:
    """Return the things that go along in a variant.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant : Variant
        The variant; what it leaves at home is left out.

    Returns
    -------
    items : tuple of Item
        In the order of the kit.
    """
    places = resolved_places(plan.items, variant.places)
    return tuple(item for item in plan.items if places.get(item.id) != HOME)


def item_spans(items: tuple[Item, ...], variant: Variant, stops: tuple[Stop, ...]) -> dict[str, tuple[int, int]]:
    """Return the legs on which things are aboard that join or leave on the way.

    Parameters
    ----------
    items : tuple of Item
        All that goes along.
    variant : Variant
        For drop boxes and what is posted home.
    stops : tuple of Stop
        Those used, in order.

    Returns
    -------
    spans : dict of str to tuple of int
        First and last leg; what is aboard from start to finish is left out, as is a stop that is not used.
    """
    leg_after = {stop.id: k + 1 for k, stop in enumerate(stops)}
    spans = {}
    for item in items:
        first = leg_after.get(variant.joins.get(item.id, ""), 0)
        last = leg_after.get(variant.posts.get(item.id, ""), len(stops) + 1) - 1
        if first > 0 or last < len(stops):
            spans[item.id] = (first, last)
    return spans


def moved_things(
    variant: Variant, items: tuple[Item, ...], stops: tuple[Stop, ...], length: float
) -> dict[str, tuple[Moved, ...]]:
    """Return what rides elsewhere for some legs; what names a stop or a carrier that is not used stays where it is.

    Parameters
    ----------
    variant : Variant
        For its repacks and carriers.
    items : tuple of Item
        What goes along.
    stops : tuple of Stop
        Those used, in order.
    length : float
        Of the course. [m]

    Returns
    -------
    moved : dict of str to tuple of Moved
        By thing, in order; of two that overlap the one named first holds.
    """
    legs = {START: 0} | {stop.id: k + 1 for k, stop in enumerate(stops)}
    ends = [0.0, *(stop.distance for stop in stops), length]
    able = {carrier.id for carrier in variant.bags}
    aboard = {item.id for item in items if item.packed}
    found: dict[str, tuple[Moved, ...]] = {}
    for key, windows in variant.repacks.items():
        made: list[Moved] = []
        for there in windows if key in aboard else ():
            first = legs.get(there.since)
            end = legs.get(there.until) if there.until else len(stops) + 1
            if there.to not in able or first is None or end is None or first >= end:
                continue
            if all(end <= other.first or other.end <= first for other in made):
                share = (ends[end] - ends[first]) / max(length, 1.0)
                made.append(Moved(to=there.to, first=first, end=end, share=share))
        if made:
            found[key] = tuple(sorted(made, key=lambda one: one.first))
    return found


def there_on(moved: Mapping[str, tuple[Moved, ...]], leg: int) -> dict[str, str]:
    """Return what rides elsewhere on a leg.

    Parameters
    ----------
    moved : mapping of str to tuple of Moved
        By thing.
    leg : int
        Which. [1]

    Returns
    -------
    there : dict of str to str
        Carrier by thing.

    Examples
    --------
    >>> there_on({"cap": (Moved(to="vest", first=2, end=4, share=0.1),)}, 3)
    {'cap': 'vest'}
    """
    return {key: one.to for key, windows in moved.items() for one in windows if one.on(leg)}


def moved_shares(moved: Mapping[str, tuple[Moved, ...]]) -> dict[str, dict[str, float]]:
    """Return on how much of the course things ride elsewhere.

    Parameters
    ----------
    moved : mapping of str to tuple of Moved
        By thing.

    Returns
    -------
    shares : dict of str to dict of str to float
        By thing and carrier. [1]

    Examples
    --------
    >>> moved_shares({"cap": (Moved(to="v", first=2, end=4, share=0.125), Moved(to="v", first=5, end=6, share=0.25))})
    {'cap': {'v': 0.375}}
    """
    shares: dict[str, dict[str, float]] = {}
    for key, windows in moved.items():
        mine = shares.setdefault(key, {})
        for one in windows:
            mine[one.to] = mine.get(one.to, 0.0) + one.share
    return shares


def make_scenario(plan: Plan, variant: Variant, profile: Profile | None) -> Scenario:
    """Return what stays the same while mass and time settle.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant : Variant
        One of its variants.
    profile : Profile or None
        The cleaned course, where it is at hand.

    Returns
    -------
    scenario : Scenario
        Course, rider, stops and sun. [1]
    """
    line = plan.line
    if profile is None:
        profile = make_profile(
            track=line.track, cleaning=line.cleaning, spans=line.spans, default_surface=line.default_surface
        )
    stops = tuple(
        sorted((s for s in line.stops if s.used and 0.0 < s.distance < profile.length), key=lambda s: s.distance)
    )
    start = variant.rhythm.start.replace(tzinfo=ZoneInfo(variant.rhythm.zone))
    carriers = tuple(carrier for carrier in variant.carriers if carrier.mounted)
    carried = carried_items(plan, variant)
    places, items = resolved_places(carried, variant.places), sheltered(carried)
    spans = item_spans(items, variant, stops)
    moved = moved_things(variant, items, stops, profile.length)
    ground = surfaces_for(variant.bike.tyre, variant.rider.descending, line.ground)
    zones = _zones(profile, stops, start)
    even = even_clock(start.astimezone(ZoneInfo(zone_at_start(profile))))
    return Scenario(
        plan=plan,
        variant=variant,
        profile=profile,
        course=_course(profile, ground, LATERAL[variant.rider.descending], slowest_pedalled(variant.bike)),
        rider=_rider_numbers(variant.rider),
        stops=stops,
        carriers=carriers,
        items=items,
        places=places,
        spans=spans,
        moved=moved,
        phases=_phases(variant, carriers, items, _Whereabouts(places, spans, moved), no_rations(len(stops) + 1)),
        leg_of=np.searchsorted(stop_segments(profile, stops), np.arange(profile.lengths.size), side="right"),
        start=start,
        even=even,
        clock=_clock(plan, variant, profile, stops, even, zones),
        bare_drag=_bare_drag(profile, ground, variant.rider),
        zones=zones,
        supplied=Supplied(prices=np.zeros(0)),
        rations=no_rations(len(stops) + 1),
    )


def with_rations(scenario: Scenario, rations: Rations) -> Scenario:
    """Return a scenario on which food of the kit is eaten as it rides along.

    Parameters
    ----------
    scenario : Scenario
        With all of it aboard all the way.
    rations : Rations
        What is left of it on each leg.

    Returns
    -------
    scenario : Scenario
        What is eaten up is aboard no more.
    """
    if not rations.left:
        return scenario
    first = {key: span[0] for key, span in scenario.spans.items()}
    last = {key: span[1] for key, span in scenario.spans.items()}
    ended = {key: rations.ends(key) for key in rations.left}
    spans = dict(scenario.spans)
    for key, end in ended.items():
        if end < min(last.get(key, len(scenario.stops)), len(scenario.stops)):
            spans[key] = (first.get(key, 0), max(end, first.get(key, 0)))
    where = _Whereabouts(scenario.places, spans, scenario.moved)
    phases = _phases(scenario.variant, scenario.carriers, scenario.items, where, rations)
    return replace(scenario, spans=spans, phases=phases, rations=rations)


def _phases(
    variant: Variant,
    carriers: tuple[Carrier, ...],
    items: tuple[Item, ...],
    where: "_Whereabouts",
    rations: Rations,
) -> tuple[Phase, ...]:
    made: dict[tuple[tuple[object, ...], ...], Phase] = {}
    phases = []
    parts = contents_of(items)
    for leg in range(rations.energy.size):
        away = tuple(key for key, (first, last) in where.spans.items() if not first <= leg <= last)
        elsewhere = there_on(where.moved, leg)
        moved = tuple(elsewhere.items())
        left = tuple((key, float(shares[leg])) for key, shares in rations.left.items())
        if (away, moved, left) not in made:
            shares = dict(left)
            aboard = tuple(part_left(item, shares.get(item.id, 1.0)) for item in items if item.id not in away)
            inside = {part.id: to for key, to in moved for part in parts.get(key, ())}
            places = {**where.places, **inside, **elsewhere}
            held = {carrier.id: _held(variant, carrier, aboard, places) for carrier in carriers}
            made[away, moved, left] = Phase(
                held=held,
                fixed=_fixed_masses(variant, aboard, held),
                drag=fixed_drag(aboard),
                mass=variant.rider.mass
                + variant.bike.mass
                + sum(carrier.mass for carrier in carriers)
                + sum(item.total_mass for item in aboard),
            )
        phases.append(made[away, moved, left])
    return tuple(phases)


def part_left(item: Item, share: float) -> Item:
    """Return what is left of a thing that is eaten.

    Parameters
    ----------
    item : Item
        The thing.
    share : float
        Of it that is left. [1]

    Returns
    -------
    item : Item
        Lighter and smaller by that.
    """
    if share == 1.0:
        return item
    return replace(item, mass=item.mass_now * share, content=0.0, left=1.0, volume=item.volume * share)


class _Whereabouts(NamedTuple):
    """Where things are, and on which legs they are not there."""

    places: Mapping[str, str]
    spans: Mapping[str, tuple[int, int]]
    moved: Mapping[str, tuple[Moved, ...]]


def _held(variant: Variant, carrier: Carrier, items: tuple[Item, ...], places: Mapping[str, str]) -> Held:
    here = tuple(item for item in items if places.get(item.id) == carrier.id)
    return Held(
        items=here,
        volume=sum(item.total_volume for item in here),
        mass=sum(item.total_mass for item in here),
        position=carrier_position(variant.bike, carrier),
    )


def _fixed_masses(variant: Variant, items: tuple[Item, ...], held: Mapping[str, Held]) -> tuple[Mass, ...]:
    """Return what weighs the same on every leg; things without a place count at the bike's own middle."""
    outside = worn_and_fixed(variant, items)
    aboard = sum(item.total_mass for item in items if item.packed) - sum(entry.mass for entry in held.values())
    return (*outside, (aboard, *bike_position(variant.bike)))


def worn_and_fixed(variant: Variant, items: Iterable[Item]) -> tuple[Mass, ...]:
    """Return the masses that no packing moves: rider with what is worn, bike, and what is fixed in its spots.

    Parameters
    ----------
    variant : Variant
        The variant.
    items : iterable of Item
        What is aboard.

    Returns
    -------
    masses : tuple of Mass
        Each with where it sits. [kg]
    """
    listed = tuple(items)
    worn = sum(item.total_mass for item in listed if item.worn)
    return (
        (variant.rider.mass + worn, *rider_position(variant.bike)),
        (variant.bike.mass, *bike_position(variant.bike)),
        *((item.total_mass, *spot_position(variant.bike, item.fixed)) for item in listed if item.in_spot),
    )


def slowest_pedalled(bike: Bike) -> float:
    """Return the speed below which the smallest gear cannot be turned any more and the rider gets off.

    Parameters
    ----------
    bike : Bike
        The bike.

    Returns
    -------
    speed : float
        At `CADENCE_LEAST` in the smallest gear. [m/s]

    Examples
    --------
    >>> round(slowest_pedalled(Bike()), 2)
    1.08
    """
    return CADENCE_LEAST * bike.gear_least * 2.0 * math.pi * bike.wheel_radius


def _course(profile: Profile, ground: tuple[Surface, ...], lateral: float, slowest: float) -> Course:
    def by_surface(name: str) -> FloatArray:
        return np.array([float(getattr(s, name)) for s in ground])[profile.surfaces]

    steep = np.clip(1.0 - STEEP_SLOWING * (-profile.grades - STEEP_FROM), STEEP_LEAST, 1.0)
    return Course(
        lengths=np.array(profile.lengths),
        grades=np.array(profile.grades),
        heights=0.5 * (profile.heights[:-1] + profile.heights[1:]),
        rolling=by_surface("rolling"),
        loose=by_surface("is_loose"),
        caps=np.minimum(by_surface("descent_cap") * steep, np.sqrt(lateral * profile.bends)),
        grades_most=by_surface("grade_most"),
        speeds_least=np.maximum(by_surface("speed_least"), slowest),
        headings=np.array(profile.headings),
        brakes=np.zeros(profile.grades.size),
    )


def _bare_drag(profile: Profile, ground: tuple[Surface, ...], rider: Rider) -> FloatArray:
    """Return the drag area of rider and bare bike on each segment, by the position held there. [m²]"""
    is_rough = np.array([s.is_rough for s in ground])[profile.surfaces]
    drag = np.full(profile.grades.size, POSITIONS[rider.position][1])
    drag[profile.grades <= -rider.climb_from] = POSITIONS[rider.position_descending][1]
    drag[is_rough] = POSITIONS[rider.position_rough][1]
    drag[profile.grades >= rider.climb_from] = POSITIONS[rider.position_climbing][1]
    return drag * rider.drag_scale


def _rider_numbers(rider: Rider) -> RiderNumbers:
    """Return the rider as numbers, whole ones as floats: another type would be compiled for anew."""
    return RiderNumbers(
        body_mass=float(rider.mass),
        legs=Legs(
            power=float(rider.power),
            endurance=float(rider.endurance),
            fade_time=float(rider.fade_time),
            recovery_time=float(rider.recovery_time),
            night_dip=float(rider.night_dip),
            altitude=list(ALTITUDE_EFFECTS).index(rider.altitude),
            tired=float(rider.tired),
            awake=float(rider.awake),
        ),
        pace=Pace(
            uphill=float(rider.pace_uphill),
            downhill=float(rider.pace_downhill),
            most=float(rider.pace_most),
            coasting=float(rider.coasting),
        ),
        on_foot=OnFoot(
            gross_efficiency=float(rider.gross_efficiency),
            walk_factor=float(rider.walk_factor),
            push_efficiency=float(rider.push_efficiency),
        ),
        drivetrain=float(rider.drivetrain),
        night_cap=float(rider.night_cap),
    )


def _zones(profile: Profile, stops: tuple[Stop, ...], start: datetime) -> tuple[ZoneInfo, ...]:
    """Return the time zone at each stop and at the finish; the rider's own where the whole course lies in it."""
    marks = np.array([*(stop.distance for stop in stops), profile.length])
    lats, lons = (np.interp(marks, profile.distances, v) for v in (profile.latitudes, profile.longitudes))
    here = zone_at_start(profile)
    own = start.tzinfo if isinstance(start.tzinfo, ZoneInfo) else ZoneInfo("UTC")
    names = (zone_name(round(float(lat), 3), round(float(lon), 3)) for lat, lon in zip(lats, lons, strict=True))
    return tuple(own if name == here else ZoneInfo(name) for name in names)


def zone_at_start(profile: Profile) -> str:
    """Return the time zone in which a course begins.

    Parameters
    ----------
    profile : Profile
        The course.

    Returns
    -------
    name : str
        In the time zone database.
    """
    return zone_name(float(profile.latitudes[0]), float(profile.longitudes[0]))


def days_looked_at(profile: Profile, rhythm: Rhythm) -> int:
    """Return how many days of a race over a course are looked at.

    Parameters
    ----------
    profile : Profile
        The course.
    rhythm : Rhythm
        For races that go by so many kilometres a day.

    Returns
    -------
    days : int
        Enough for a slow rider; what comes after is held against the last of them, and said. [1]
    """
    day = min(SLOWEST_DAY, rhythm.day_distance) if rhythm.school == "distance" else SLOWEST_DAY
    return int(min(MOST_DAYS, LEAST_DAYS + profile.length // day))


def _sun(profile: Profile, even: datetime, count: int) -> tuple[FloatArray, FloatArray]:
    """Return sunrise and sunset of each day at points spread evenly along the course, by the even clock."""
    marks = np.linspace(0.0, profile.length, SUN_POINTS)
    lats, lons = (np.interp(marks, profile.distances, v) for v in (profile.latitudes, profile.longitudes))
    found = np.array(
        [
            [
                daylight(
                    latitude=round(float(lat), 2),
                    longitude=round(float(lon), 2),
                    day=even.date() + timedelta(days=k),
                    zone=even.tzinfo or UTC,
                )
                for lat, lon in zip(lats, lons, strict=True)
            ]
            for k in range(count)
        ]
    )
    return np.ascontiguousarray(found[:, :, 0]), np.ascontiguousarray(found[:, :, 1])


def stop_segments(profile: Profile, stops: tuple[Stop, ...]) -> IntArray:
    """Return the first segment after each stop.

    Parameters
    ----------
    profile : Profile
        The cleaned course.
    stops : tuple of Stop
        In order of distance.

    Returns
    -------
    segments : ndarray, shape (s,)
        Index of the segment. [1]
    """
    return segments_at(profile, np.array([stop.distance for stop in stops], dtype=np.float64))


def _clock(
    plan: Plan,
    variant: Variant,
    profile: Profile,
    stops: tuple[Stop, ...],
    even: datetime,
    zones: tuple[ZoneInfo, ...],
) -> Clock:
    """Return clock, nights, stops and weather as the ride takes them."""
    rhythm, count = variant.rhythm, days_looked_at(profile, variant.rhythm)
    begins, ends, lengths = night_arrays(rhythm, even, count)
    stays, sleeps = _stays_and_sleeps(variant, stops)
    return Clock(
        start_of_day=day_seconds(even),
        reach_share=0.0,
        nights=Nights(begin=begins, until=ends, lasting=lengths, camp_time=float(rhythm.camp_time)),
        stays=Stays(
            segments=stop_segments(profile, stops),
            dwells=np.array(stays, dtype=np.float64),
            rests=np.array(sleeps, dtype=np.float64),
        ),
        halts=_halts(variant, profile, stops, even, zones),
        doors=_all_doors(rhythm, stops, even, zones, count),
        sky=_sky(plan.line.weather, profile, even, count),
    )


def _all_doors(
    rhythm: Rhythm, stops: tuple[Stop, ...], even: datetime, zones: tuple[ZoneInfo, ...], count: int
) -> Doors:
    """Return the opening times of all stops."""
    known = [main_door(stop) for stop in stops]
    shuts = [door.is_known and door.hours != ALWAYS for door in known]
    doors = [
        doors_of(door.hours, even, zone, count) if has else []
        for door, zone, has in zip(known, zones, shuts, strict=False)
    ]
    flat = np.array(list(chain.from_iterable(doors)), dtype=np.float64).reshape(-1, 2)
    return Doors(
        first=np.cumsum([0, *(len(found) for found in doors)], dtype=np.int64),
        opens=np.ascontiguousarray(flat[:, 0]),
        shuts=np.ascontiguousarray(flat[:, 1]),
        known=np.array(shuts, dtype=bool),
        waits_most=np.array([np.inf if s.kind in BARRED else rhythm.wait_most for s in stops], dtype=np.float64),
    )


def _sky(weather: Weather, profile: Profile, even: datetime, count: int) -> Sky:
    """Return sun and weather by day; the last day of the table stands for all after it."""
    days = [weather.days[min(k, len(weather.days) - 1)] for k in range(count)]
    rises, sets = _sun(profile, even, count)

    def by_day(name: str) -> FloatArray:
        return np.array([getattr(day, name) for day in days], dtype=np.float64)

    return Sky(
        sunrises=rises,
        sunsets=sets,
        lows=by_day("temp_low"),
        highs=by_day("temp_high"),
        wind_speeds=by_day("wind_speed"),
        winds_from=by_day("wind_from"),
        humidities=np.array(
            [weather.relative_humidity if d.humidity is None else d.humidity for d in days], dtype=np.float64
        ),
        wet=np.array([1.0 if day.rain >= WET_FROM else 0.0 for day in days]),
        reference_height=float(weather.reference_height),
        shelter=float(weather.shelter),
    )


def _stays_and_sleeps(variant: Variant, stops: tuple[Stop, ...]) -> tuple[list[float], list[float]]:
    """Return stay and rest at each stop; a long stay where one can sleep is a rest but for what is usual there. [s]"""
    rhythm = variant.rhythm
    stays, sleeps = [], []
    for stop in stops:
        stay, sleep = stay_at(stop, variant), rhythm.sleep_at.get(stop.id, 0.0)
        sleep = sleep + rhythm.camp_time if sleep > 0.0 else 0.0
        usual = min(stay, KINDS[stop.kind].stay + stop.detour / DETOUR_SPEED)
        if sleep == 0.0 and "bed" in stop.offers and stay - usual >= LONG_STAY:
            stay, sleep = usual, stay - usual
        stays.append(stay)
        sleeps.append(sleep)
    return stays, sleeps


def _each_day(even: datetime, count: int, at: float | None, zone: ZoneInfo) -> list[float]:
    """Return a time of day on each of the days, nothing where there is none. [s]"""
    return [] if at is None else [since_midnight(even, day, at, zone) for day in range(count)]


def _halts(
    variant: Variant, profile: Profile, stops: tuple[Stop, ...], even: datetime, zones: tuple[ZoneInfo, ...]
) -> Halts:
    """Return the rests that go by places, by the distance of a day, and by what lies ahead."""
    rhythm = variant.rhythm
    count = days_looked_at(profile, rhythm)
    in_rooms = rhythm.school == "rooms"
    is_room = [in_rooms and "bed" in stop.offers and stop.id not in rhythm.no_rooms for stop in stops]
    usual = [rhythm.rise if room else None for room in is_room]
    times = [rhythm.leave_at.get(stop.id, at) for stop, at in zip(stops, usual, strict=True)]
    leaves = [_each_day(even, count, at, zone) for at, zone in zip(times, zones, strict=False)]
    own = ZoneInfo(rhythm.zone)
    evening = rhythm.halt if rhythm.halt > rhythm.rise else rhythm.halt + DAY
    return Halts(
        leave_index=np.cumsum([0, *(len(times) for times in leaves)], dtype=np.int64),
        leave_times=np.array(list(chain.from_iterable(leaves)), dtype=np.float64),
        can_sleep=np.array(["bed" in stop.offers for stop in stops], dtype=bool),
        is_room=np.array(is_room, dtype=bool),
        latest_times=np.array([since_midnight(even, day, evening, own) for day in range(-1, count)]),
        expected=np.concatenate(([0.0], np.cumsum(profile.lengths))) / FIRST_GUESS_SPEED,
        quota=float(rhythm.day_distance) if rhythm.school == "distance" else 0.0,
        quota_sleep=float(rhythm.sleep_for + rhythm.camp_time),
        rise_times=np.array(_each_day(even, count, rhythm.rise, own)),
    )


def doors_of(hours: Hours, even: datetime, zone: ZoneInfo, count: int) -> list[tuple[float, float]]:
    """Return the opening times of a door.

    Parameters
    ----------
    hours : tuple
        By weekday, by the clock on the wall. [s]
    even : datetime
        The start by the even clock.
    zone : ZoneInfo
        Of the clock on the wall.
    count : int
        How many days are looked at. [1]

    Returns
    -------
    doors : list of tuple of float
        When it opens and shuts, from midnight of the first day by the even clock. [s]
    """
    return sorted(
        (since_midnight(even, day, opens, zone), since_midnight(even, day, shuts, zone))
        for day in range(-1, count)
        for opens, shuts in hours[(even.weekday() + day) % 7]
    )


def stay_at(stop: Stop, variant: Variant) -> float:
    """Return how long a rider stays at a stop, the way there and back included.

    Parameters
    ----------
    stop : Stop
        The stop.
    variant : Variant
        What it sets for the stop itself comes first, then the stop's own time, then what is usual for its kind.

    Returns
    -------
    stay : float
        Time. [s]
    """
    rhythm = variant.rhythm
    usual = rhythm.dawdle.get(stop.kind, KINDS[stop.kind].stay)
    own = usual if stop.dwell is None else stop.dwell
    return rhythm.stays.get(stop.id, own) + stop.detour / DETOUR_SPEED


def local_time(scenario: Scenario, elapsed: float, zone: ZoneInfo | None = None) -> datetime:
    """Return the clock time so long after the start.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    elapsed : float
        Time since the start. [s]
    zone : ZoneInfo, optional
        Zone of the clock; the start's where it is not given.

    Returns
    -------
    moment : datetime
        With its zone.
    """
    moment = scenario.start.astimezone(UTC) + timedelta(seconds=round(elapsed))
    return moment.astimezone(zone or scenario.start.tzinfo)


def day_seconds(moment: datetime) -> float:
    """Return the time of day.

    Parameters
    ----------
    moment : datetime
        A clock time.

    Returns
    -------
    time : float
        After midnight. [s]
    """
    return float(moment.hour * 3600 + moment.minute * 60 + moment.second)
