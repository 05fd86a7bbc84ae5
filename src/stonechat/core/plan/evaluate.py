"""The whole chain for one variant: ride it, supply it, load it, price it, check it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from stonechat.core.checks.registry import run_checks
from stonechat.core.kit.item import Item
from stonechat.core.kit.reach import reach_seconds
from stonechat.core.ledger.state import (
    CarrierState,
    Cause,
    Ledger,
    Leg,
    LegLoad,
    MassCurve,
    Ridden,
    Visit,
)
from stonechat.core.line.stops import DAY, Stop, is_open, next_opening
from stonechat.core.line.sun import daylight
from stonechat.core.line.surface import SURFACES
from stonechat.core.line.track import SPACING, Profile, make_profile
from stonechat.core.load.balance import Mass, balance, steering_inertia
from stonechat.core.load.problem import DRAG_STEP, PackingProblem, Prices, Provisions, build_problem
from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.plan import HOME, START, Plan, Variant
from stonechat.core.rhythm.ride import (
    Clock,
    Course,
    RideResult,
    RiderNumbers,
    ride_course,
    segment_times,
    time_gradients,
)
from stonechat.core.rhythm.rider import Rider
from stonechat.core.rig.carrier import ACCESS_RANK, Carrier
from stonechat.core.rig.geometry import bike_position, carrier_position, rider_position
from stonechat.core.supply.carry import Levels, carry_levels
from stonechat.core.supply.needs import URINE, drinking_need

LONGEST_DAYS = 30  # days of weather and sun that are looked up; the last one holds on
_ROUNDS = 8  # most passes of the fixed point
_SETTLED = 1.0  # s of the finish
_CURVE = (0.0, 0.25, 1.0, 4.0)  # kg taken away for the mass curve
POWER_BAND = 0.05  # 1, band of the rider's power from which the finish's spread comes
WATER_DENSITY = 1.0  # kg/l
TURNING_PLACES = frozenset({"bar", "bar_front", "stem", "fork"})  # what turns with the bars


@dataclass(frozen=True, kw_only=True)
class Evaluation:
    """A variant ridden and judged."""

    ridden: Ridden
    findings: tuple[Finding, ...]  # worst first


@dataclass(frozen=True, kw_only=True)
class _Setting:
    """What stays the same while mass and time settle."""

    plan: Plan
    variant: Variant
    profile: Profile
    course: Course
    rider: RiderNumbers
    stops: tuple[Stop, ...]
    carriers: tuple[Carrier, ...]
    items: tuple[Item, ...]
    held: Mapping[str, "_Held"]  # what each carrier holds, whatever the leg
    fixed: tuple[Mass, ...]  # rider with what is worn, bike, things without a place
    leg_of: IntArray  # leg of each segment
    start: datetime
    sun: tuple[FloatArray, FloatArray]


@dataclass(frozen=True, kw_only=True)
class _Held:
    """The things in one carrier, worn ones left out of the sums."""

    items: tuple[Item, ...]
    volume: float  # m³
    mass: float  # kg
    leaks: bool
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
    return tuple(item for item in plan.items if variant.places.get(item.id) != HOME)


def evaluate(plan: Plan, variant_id: str, *, profile: Profile | None = None) -> Evaluation:
    """Ride, supply, load, price and check one variant.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant_id : str
        Which variant.
    profile : Profile, optional
        The cleaned course, where it is at hand already.

    Returns
    -------
    evaluation : Evaluation
        Timetable, film of the load, ledger, prices and checks.

    Raises
    ------
    NotFound
        If there is no such variant.

    Notes
    -----
    Mass depends on provisions, provisions on the timetable (hours, heat, what is open), the timetable on mass:
    the three are gone through in turn until the finish moves by less than a second.
    """
    setting = _setting(plan, plan.variant(variant_id), profile)
    masses, drags = _first_guess(setting)
    share, finish, settled = 0.0, -1.0, False
    for _ in range(_ROUNDS):
        ride = _ride(setting, masses, drags, share)
        water, food = _provide(setting, ride)
        film = tuple(_leg_load(setting, water, food, leg) for leg in range(water.needs.size))
        masses, drags = _along(setting, ride, water, food, film)
        share = _reach_share(setting, ride)
        settled = abs(float(ride.clocks[-1]) - finish) < _SETTLED
        if settled:
            break
        finish = float(ride.clocks[-1])
    ridden = _summarise(setting, ride, water, food, film, masses, drags, settled=settled)
    return Evaluation(ridden=ridden, findings=run_checks(ridden, setting.variant.checks_off))


def _setting(plan: Plan, variant: Variant, profile: Profile | None) -> _Setting:
    line = plan.line
    if profile is None:
        profile = make_profile(
            track=line.track, cleaning=line.cleaning, spans=line.spans, default_surface=line.default_surface
        )
    stops = tuple(
        sorted((s for s in line.stops if s.used and 0.0 < s.distance < profile.length), key=lambda s: s.distance)
    )
    zone = ZoneInfo(variant.rhythm.zone)
    start = variant.rhythm.start.replace(tzinfo=zone)
    carriers = tuple(carrier for carrier in variant.carriers if carrier.mounted)
    items = carried_items(plan, variant)
    held = {carrier.id: _held(variant, carrier, items) for carrier in carriers}
    return _Setting(
        plan=plan,
        variant=variant,
        profile=profile,
        course=_course(profile),
        rider=_rider_numbers(variant.rider),
        stops=stops,
        carriers=carriers,
        items=items,
        held=held,
        fixed=_fixed_masses(variant, items, held),
        leg_of=np.searchsorted(_stop_segments(stops), np.arange(profile.lengths.size), side="right"),
        start=start,
        sun=_sun(profile, start.date(), zone),
    )


def _held(variant: Variant, carrier: Carrier, items: tuple[Item, ...]) -> _Held:
    here = tuple(item for item in items if variant.places.get(item.id) == carrier.id)
    return _Held(
        items=here,
        volume=sum(item.total_volume for item in here),
        mass=sum(item.total_mass for item in here if not item.worn),
        leaks=any(item.leaks for item in here),
        position=carrier_position(variant.bike, carrier),
    )


def _fixed_masses(variant: Variant, items: tuple[Item, ...], held: Mapping[str, _Held]) -> tuple[Mass, ...]:
    """Return what weighs the same on every leg; things without a place count at the bike's own middle."""
    worn = sum(item.total_mass for item in items if item.worn)
    loose = sum(item.total_mass for item in items) - worn - sum(entry.mass for entry in held.values())
    middle = bike_position(variant.bike)
    return (
        (variant.rider.mass + worn, *rider_position(variant.bike)),
        (variant.bike.mass, *middle),
        (loose, *middle),
    )


def _course(profile: Profile) -> Course:
    def by_surface(name: str) -> FloatArray:
        return np.array([getattr(s, name) for s in SURFACES])[profile.surfaces]

    return Course(
        lengths=np.array(profile.lengths),
        grades=np.array(profile.grades),
        heights=0.5 * (profile.heights[:-1] + profile.heights[1:]),
        rolling=by_surface("rolling"),
        caps=by_surface("descent_cap"),
        grades_most=by_surface("grade_most"),
        speeds_least=by_surface("speed_least"),
    )


def _rider_numbers(rider: Rider) -> RiderNumbers:
    return RiderNumbers(
        body_mass=rider.mass,
        power=rider.power,
        endurance=rider.endurance,
        fade_time=rider.fade_time,
        recovery_time=rider.recovery_time,
        night_dip=rider.night_dip,
        pace_uphill=rider.pace_uphill,
        pace_downhill=rider.pace_downhill,
        pace_most=rider.pace_most,
        drivetrain=rider.drivetrain,
        gross_efficiency=rider.gross_efficiency,
    )


def _sun(profile: Profile, first: date, zone: ZoneInfo) -> tuple[FloatArray, FloatArray]:
    """Return sunrise and sunset of each day at the middle of the course's span."""
    latitude = 0.5 * float(profile.latitudes.min() + profile.latitudes.max())
    longitude = 0.5 * float(profile.longitudes.min() + profile.longitudes.max())
    days = [
        daylight(latitude=latitude, longitude=longitude, day=first + timedelta(days=k), zone=zone)
        for k in range(LONGEST_DAYS)
    ]
    return np.array([rise for rise, _ in days]), np.array([down for _, down in days])


def _stop_segments(stops: tuple[Stop, ...]) -> IntArray:
    return np.array([round(stop.distance / SPACING) for stop in stops], dtype=np.int64)


def _clock(setting: _Setting, reach_share: float) -> Clock:
    rhythm, weather = setting.variant.rhythm, setting.plan.line.weather
    days = [weather.days[min(k, len(weather.days) - 1)] for k in range(LONGEST_DAYS)]
    start = setting.start
    return Clock(
        start_of_day=float(start.hour * 3600 + start.minute * 60 + start.second),
        rise=float(rhythm.rise),
        halt=float(rhythm.halt),
        first_night=bool(rhythm.first_night),
        camp_time=float(rhythm.camp_time),
        reach_share=float(reach_share),
        stop_segments=_stop_segments(setting.stops),
        stop_dwells=np.array([_dwell(stop) for stop in setting.stops], dtype=np.float64),
        sunrises=setting.sun[0],
        sunsets=setting.sun[1],
        temps_low=np.array([day.temp_low for day in days], dtype=np.float64),
        temps_high=np.array([day.temp_high for day in days], dtype=np.float64),
        reference_height=float(weather.reference_height),
        relative_humidity=float(weather.relative_humidity),
    )


DETOUR_SPEED = 4.5  # m/s off the course (estimate)


def _dwell(stop: Stop) -> float:
    return stop.dwell + stop.detour / DETOUR_SPEED


def _first_guess(setting: _Setting) -> tuple[FloatArray, FloatArray]:
    variant, count = setting.variant, setting.profile.lengths.size
    mass = _fixed_mass(setting) + 2.0
    drag = variant.rider.drag_area + sum(carrier.drag for carrier in setting.carriers)
    return np.full(count, mass), np.full(count, drag)


def _fixed_mass(setting: _Setting) -> float:
    variant = setting.variant
    return (
        variant.rider.mass
        + variant.bike.mass
        + sum(carrier.mass for carrier in setting.carriers)
        + sum(item.total_mass for item in setting.items)
    )


def _ride(setting: _Setting, masses: FloatArray, drags: FloatArray, share: float) -> RideResult:
    return ride_course(setting.course, setting.rider, _clock(setting, share), masses, drags)


def _by_leg(setting: _Setting, values: FloatArray) -> FloatArray:
    return np.asarray(np.bincount(setting.leg_of, weights=values, minlength=len(setting.stops) + 1), np.float64)


def _provide(setting: _Setting, ride: RideResult) -> tuple[Levels, Levels]:
    """Return water [l] and food [kcal] by leg, from hours, heat and effort."""
    supply = setting.variant.supply
    hours = ride.times / 3600.0
    effort = np.where(ride.walked > 0.0, setting.variant.rider.power, ride.powers)
    drunk = drinking_need(temp_air=ride.temps, power=effort) * hours + URINE * ride.rests / 3600.0
    ids = (START, *(stop.id for stop in setting.stops))
    opened = _opened(setting, ride)
    water_from = np.array([True, *(s.gives_water and o for s, o in zip(setting.stops, opened, strict=True))])
    food_from = np.array([True, *(s.gives_food and o for s, o in zip(setting.stops, opened, strict=True))])
    water = carry_levels(
        needs=_by_leg(setting, drunk),
        refills=water_from,
        capacity=water_capacity(setting.carriers),
        reserve=supply.water_reserve,
        wanted=tuple(supply.water_by_stop.get(place) for place in ids),
    )
    food = carry_levels(
        needs=_by_leg(setting, setting.variant.rider.intake * hours),
        refills=food_from,
        capacity=float("inf"),
        reserve=supply.food_reserve,
        wanted=tuple(supply.food_by_stop.get(place) for place in ids),
    )
    return water, food


def water_capacity(carriers: tuple[Carrier, ...]) -> float:
    """Return how much water a set of carriers holds.

    Parameters
    ----------
    carriers : tuple of Carrier
        Mounted carriers; those that take water count, as far as their load limit bears it.

    Returns
    -------
    capacity : float
        Litres. [l]

    Examples
    --------
    >>> water_capacity(())
    0.0
    """
    return float(sum(_bottle(carrier) for carrier in carriers))


def _bottle(carrier: Carrier) -> float:
    if "water" not in carrier.takes:
        return 0.0
    return min(carrier.capacity * 1000.0, carrier.load_limit / WATER_DENSITY)


def _opened(setting: _Setting, ride: RideResult) -> BoolArray:
    moments = [_local(setting, float(arrival)) for arrival in ride.arrivals]
    return np.array(
        [is_open(s, m.weekday(), _day_seconds(m)) for s, m in zip(setting.stops, moments, strict=True)],
        dtype=bool,
    )


def _local(setting: _Setting, elapsed: float) -> datetime:
    moment = setting.start.astimezone(UTC) + timedelta(seconds=round(elapsed))
    return moment.astimezone(setting.start.tzinfo)


def _day_seconds(moment: datetime) -> float:
    return float(moment.hour * 3600 + moment.minute * 60 + moment.second)


def _leg_load(setting: _Setting, water: Levels, food: Levels, leg: int) -> LegLoad:
    """Return the bike as it leaves for a leg: things at their places, water in bottles, food where there is room."""
    supply, bike = setting.variant.supply, setting.variant.bike
    litres, food_mass = float(water.leaving[leg]), float(food.leaving[leg]) / supply.food_density
    food_volume = float(food.leaving[leg]) / supply.food_bulk / 1000.0
    poured = _pour(setting.carriers, litres)
    stowed = _stow(setting, food_volume, food_mass)
    density = food_mass / food_volume if food_volume > 0.0 else 0.0
    states: list[CarrierState] = []
    masses: list[Mass] = []
    for carrier in setting.carriers:
        held = setting.held[carrier.id]
        aboard = stowed[carrier.id] * density + poured[carrier.id] * WATER_DENSITY
        state = CarrierState(
            carrier=carrier,
            items=held.items,
            volume=held.volume + stowed[carrier.id],
            mass=held.mass + aboard,
            water=poured[carrier.id],
            food=stowed[carrier.id],
        )
        states.append(state)
        masses.append((state.mass + carrier.mass, *held.position))
    left_over = food_volume - sum(stowed.values())
    turning = [m for m, s in zip(masses, states, strict=True) if s.carrier.place in TURNING_PLACES]
    masses += [*setting.fixed, (left_over * density, *setting.fixed[1][1:])]
    return LegLoad(
        carriers=tuple(states),
        balance=balance(masses, bike.wheelbase),
        steering=steering_inertia(turning, bike),
        sway=sum(s.mass * s.carrier.sway_lever / s.carrier.steadiness for s in states),
        mass=sum(m[0] for m in masses),
        drag_area=setting.variant.rider.drag_area
        + sum(s.carrier.drag + s.carrier.drag_fill * s.volume for s in states),
        food_left_over=left_over,
    )


def _pour(carriers: tuple[Carrier, ...], litres: float) -> dict[str, float]:
    """Fill bottles in the order of the rig. [l]"""
    poured = {}
    for carrier in carriers:
        poured[carrier.id] = min(litres, _bottle(carrier))
        litres -= poured[carrier.id]
    return poured


def _stow(setting: _Setting, volume: float, mass: float) -> dict[str, float]:
    """Put food where it costs least wind and is nearest at hand, as far as room and limits go. [m³]"""
    density = mass / volume if volume > 0.0 else 0.0
    stowed = {carrier.id: 0.0 for carrier in setting.carriers}
    order = sorted(
        (c for c in setting.carriers if "food" in c.takes), key=lambda c: (c.drag_fill, ACCESS_RANK[c.access])
    )
    for carrier in order:
        held = setting.held[carrier.id]
        if held.leaks:
            continue
        room = max(0.0, carrier.capacity - held.volume)
        if density > 0.0:
            room = min(room, max(0.0, carrier.load_limit - held.mass) / density)
        stowed[carrier.id] = min(volume, room)
        volume -= stowed[carrier.id]
    return stowed


def _along(
    setting: _Setting, ride: RideResult, water: Levels, food: Levels, film: tuple[LegLoad, ...]
) -> tuple[FloatArray, FloatArray]:
    """Return mass and drag area on every segment; water and food run down with riding time."""
    leg = setting.leg_of
    leg_times = _by_leg(setting, ride.times)
    before = np.concatenate(([0.0], np.cumsum(leg_times)))[leg]
    through = (np.cumsum(ride.times) - 0.5 * ride.times - before) / np.maximum(leg_times[leg], 1e-9)
    litres = water.leaving[leg] + (water.arriving - water.leaving)[leg] * through
    energy = food.leaving[leg] + (food.arriving - food.leaving)[leg] * through
    masses = _fixed_mass(setting) + litres * WATER_DENSITY + energy / setting.variant.supply.food_density
    return masses, np.array([load.drag_area for load in film])[leg]


def _reach_share(setting: _Setting, ride: RideResult) -> float:
    """Return the seconds spent reaching for things for each second of moving."""
    by_id = {carrier.id: carrier for carrier in setting.carriers}
    a_day = 0.0
    for item in setting.items:
        carrier = by_id.get(setting.variant.places.get(item.id, ""))
        if carrier is not None and not item.worn:
            a_day += item.reaches * reach_seconds(item.access, carrier.access, carrier.open_time)
    return a_day * (float(ride.clocks[-1]) / DAY) / float(ride.times.sum())


def _summarise(
    setting: _Setting,
    ride: RideResult,
    water: Levels,
    food: Levels,
    film: tuple[LegLoad, ...],
    masses: FloatArray,
    drags: FloatArray,
    *,
    settled: bool,
) -> Ridden:
    body = setting.rider.body_mass
    _, by_mass, by_drag, by_power = time_gradients(setting.course, ride.conditions, body, masses, drags)
    prices = Prices(
        per_kg=float(by_mass.sum()) / 60.0,
        per_drag=float(by_drag.sum()) * DRAG_STEP / 60.0,
        days=float(ride.clocks[-1]) / DAY,
    )
    return Ridden(
        profile=setting.profile,
        stops=setting.stops,
        bike=setting.variant.bike,
        carriers=setting.carriers,
        items=setting.items,
        places=setting.variant.places,
        ride=ride,
        legs=_legs(setting, ride, _by_leg(setting, by_mass) / 60.0, _by_leg(setting, by_drag) * DRAG_STEP / 60.0),
        visits=_visits(setting, ride),
        water=water,
        food=food,
        water_capacity=water_capacity(setting.carriers),
        film=film,
        ledger=_ledger(setting, ride, masses, drags),
        prices=prices,
        mass_curve=_mass_curve(setting, ride, masses, drags),
        minutes_per_watt=float(by_power.sum()) * setting.rider.drivetrain / 60.0,
        start=setting.start,
        dark=_dark(setting, ride),
        settled=settled,
        reserve=setting.variant.supply.water_reserve,
    )


def _moving(setting: _Setting, ride: RideResult, masses: FloatArray, drags: FloatArray) -> float:
    """Return moving time under the conditions of a ride. [s]"""
    body = setting.rider.body_mass
    return float(segment_times(setting.course, ride.conditions, body, masses, drags)[0].sum())


def _mass_curve(setting: _Setting, ride: RideResult, masses: FloatArray, drags: FloatArray) -> MassCurve:
    full = _moving(setting, ride, masses, drags)
    saved = [full - _moving(setting, ride, masses - taken, drags) for taken in _CURVE]
    return MassCurve(masses=np.array(_CURVE), minutes=np.array(saved) / 60.0)


def _ledger(setting: _Setting, ride: RideResult, masses: FloatArray, drags: FloatArray) -> Ledger:
    """Split the finish by cause: take the load off first, then the bags out of the wind."""
    variant = setting.variant
    bare_mass = np.full(masses.size, variant.rider.mass + variant.bike.mass)
    bare_drag = np.full(drags.size, variant.rider.drag_area)
    moving = float(ride.times.sum())
    unloaded = _moving(setting, ride, bare_mass, drags)
    bare = _moving(setting, ride, bare_mass, bare_drag)
    full = _moving(setting, ride, masses, drags)
    finish = float(ride.clocks[-1])
    stops = float((ride.departures - ride.arrivals).sum())
    rests = float(ride.rests.sum())
    causes = (
        ("riding", "riding the line bare", moving - full + bare),
        ("load", "carrying the load", full - unloaded),
        ("wind", "bags in the wind", unloaded - bare),
        ("reach", "reaching for things", finish - moving - stops - rests),
        ("stops", "stops and detours", stops),
        ("nights", "nights", rests),
    )
    return Ledger(
        causes=tuple(Cause(key=key, name=name, minutes=seconds / 60.0) for key, name, seconds in causes),
        pushing=float(ride.times[ride.walked > 0.0].sum()) / 60.0,
        moving=moving,
        finish=finish,
        spread=_spread(setting, ride, masses, drags),
    )


def _spread(setting: _Setting, ride: RideResult, masses: FloatArray, drags: FloatArray) -> float:
    """Return half the difference of the finishes with power a band above and below. [s]"""
    share = _reach_share(setting, ride)
    ends = []
    for factor in (1.0 - POWER_BAND, 1.0 + POWER_BAND):
        rider = setting.rider._replace(power=setting.rider.power * factor)
        ends.append(float(ride_course(setting.course, rider, _clock(setting, share), masses, drags).clocks[-1]))
    return 0.5 * abs(ends[0] - ends[1])


def _legs(setting: _Setting, ride: RideResult, per_kg: FloatArray, per_drag: FloatArray) -> tuple[Leg, ...]:
    names = ("Start", *(stop.name for stop in setting.stops), "Finish")
    marks = (0.0, *(stop.distance for stop in setting.stops), setting.profile.length)
    leaves = (0.0, *ride.departures.tolist())
    arrives = (*ride.arrivals.tolist(), float(ride.clocks[-1]))
    climbed = np.interp(marks, setting.profile.distances, setting.profile.ascent_by_end)
    dark = _dark(setting, ride)
    legs = []
    for k in range(len(names) - 1):
        inside = setting.leg_of == k
        moving = float(ride.times[inside].sum())
        temps = ride.temps[inside] if inside.any() else np.array([np.nan])
        legs.append(
            Leg(
                index=k,
                start=marks[k],
                end=marks[k + 1],
                start_name=names[k],
                end_name=names[k + 1],
                ascent=float(climbed[k + 1] - climbed[k]),
                moving=moving,
                elapsed=arrives[k] - leaves[k],
                leaves=_local(setting, leaves[k]),
                arrives=_local(setting, arrives[k]),
                minutes_per_kg=float(per_kg[k]),
                minutes_per_drag=float(per_drag[k]),
                temp_low=float(temps.min()),
                temp_high=float(temps.max()),
                dark=float(ride.times[inside & dark].sum()) / max(moving, 1e-9),
                rest=float(ride.rests[inside].sum()),
            )
        )
    return tuple(legs)


def _dark(setting: _Setting, ride: RideResult) -> BoolArray:
    """Return which segments begin in the dark."""
    local = _day_seconds(setting.start) + ride.clocks[:-1]
    day = np.minimum((local // DAY).astype(np.int64), LONGEST_DAYS - 1)
    time_of_day = local % DAY
    return ~((setting.sun[0][day] <= time_of_day) & (time_of_day < setting.sun[1][day]))


def _visits(setting: _Setting, ride: RideResult) -> tuple[Visit, ...]:
    dark = _dark(setting, ride)
    last = setting.profile.lengths.size - 1
    marks: list[tuple[Stop | None, float, float]] = [
        (stop, float(a), float(d)) for stop, a, d in zip(setting.stops, ride.arrivals, ride.departures, strict=True)
    ]
    finish = float(ride.clocks[-1])
    marks.append((None, finish, finish))
    visits = []
    for stop, arrives, leaves in marks:
        moment = _local(setting, arrives)
        seconds = _day_seconds(moment)
        segment = last if stop is None else max(0, min(round(stop.distance / SPACING) - 1, last))
        visits.append(
            Visit(
                stop=stop,
                name="Finish" if stop is None else stop.name,
                distance=setting.profile.length if stop is None else stop.distance,
                arrives=moment,
                leaves=_local(setting, leaves),
                elapsed=arrives,
                is_open=stop is None or is_open(stop, moment.weekday(), seconds),
                wait=0.0 if stop is None else next_opening(stop, moment.weekday(), seconds),
                dark=bool(dark[segment]),
                temp=float(ride.temps[segment]),
                awake=float(ride.awake[segment]),
            )
        )
    return tuple(visits)


def packing_problem(plan: Plan, variant: Variant, ridden: Ridden) -> PackingProblem:
    """Return the packing problem of a variant: all its things, on the leg that carries most food.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant : Variant
        The variant with its pins.
    ridden : Ridden
        The variant as ridden, for prices and provisions.

    Returns
    -------
    problem : PackingProblem
        Things, carriers, prices and limits. [min]
    """
    heaviest = int(np.argmax(ridden.food.leaving))
    energy, supply = float(ridden.food.leaving[heaviest]), variant.supply
    worn = sum(item.total_mass for item in ridden.items if item.worn)
    fixed: list[Mass] = [
        (variant.rider.mass + worn, *rider_position(variant.bike)),
        (variant.bike.mass, *bike_position(variant.bike)),
    ]
    for state in ridden.film[heaviest].carriers:
        place = carrier_position(variant.bike, state.carrier)
        fixed.append((state.carrier.mass + state.water * WATER_DENSITY, *place))
    pins: Mapping[str, str] = {item_id: variant.places.get(item_id, "") for item_id in variant.pins}
    return build_problem(
        items=carried_items(plan, variant),
        carriers=variant.carriers,
        bike=variant.bike,
        prices=ridden.prices,
        provisions=Provisions(
            food_mass=energy / supply.food_density,
            food_volume=energy / supply.food_bulk / 1000.0,
            fixed=tuple(fixed),
        ),
        pins=pins,
    )


def with_places(variant: Variant, places: Mapping[str, str]) -> Variant:
    """Return a variant with things moved.

    Parameters
    ----------
    variant : Variant
        The variant.
    places : mapping of str to str
        New places; what is not named stays.

    Returns
    -------
    variant : Variant
        The same with the new places.
    """
    return replace(variant, places={**variant.places, **places})
