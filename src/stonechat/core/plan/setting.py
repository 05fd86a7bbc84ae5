"""What stays the same while mass and time of a variant settle: course, rider, stops, sun, what each carrier holds."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from stonechat.core.kit.containers import resolved_places, sheltered
from stonechat.core.kit.item import Item
from stonechat.core.line.profile import SPACING, Profile, make_profile
from stonechat.core.line.stops import DAY, KINDS, Stop
from stonechat.core.line.sun import daylight
from stonechat.core.line.surface import Surface, surfaces_for
from stonechat.core.line.weather import WET_FROM
from stonechat.core.line.zones import zone_name
from stonechat.core.load.balance import Mass
from stonechat.core.numerics.arrays import FloatArray, IntArray
from stonechat.core.plan.plan import HOME, Plan, Variant
from stonechat.core.rhythm.inputs import Clock, Course, RiderNumbers
from stonechat.core.rhythm.rhythm import night_arrays
from stonechat.core.rhythm.rider import ALTITUDE_EFFECTS, POSITIONS, Rider
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.geometry import bike_position, carrier_position, rider_position

LONGEST_DAYS = 30  # days of weather and sun that are looked up; the last one holds on
SUN_POINTS = 8  # places along the course at which the sun is looked up
DETOUR_SPEED = 4.5  # m/s off the course (estimate)
LATERAL = {"cautious": 2.5, "normal": 3.0, "bold": 3.5}  # m/s², what a rider leans into in a bend (estimates)
STEEP_FROM, STEEP_SLOWING, STEEP_LEAST = 0.10, 2.5, 0.5  # falls steeper than this are ridden slower (estimates)


@dataclass(frozen=True, kw_only=True)
class Setting:
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
    phases: tuple["Phase", ...]  # what is aboard, one for each leg; legs with the same things share one
    leg_of: IntArray  # leg of each segment
    start: datetime
    clock: Clock  # with nobody reaching for anything yet
    bare_drag: FloatArray  # m², rider and bare bike on each segment, shape (n,)
    zones: tuple[ZoneInfo, ...]  # of each stop, and of the finish


@dataclass(frozen=True, kw_only=True)
class Phase:
    """What is aboard between two points at which things join or leave."""

    held: Mapping[str, "Held"]  # what each carrier holds
    fixed: tuple[Mass, ...]  # rider with what is worn, bike, things without a place
    mass: float  # kg, of rider, bike, carriers and things


@dataclass(frozen=True, kw_only=True)
class Held:
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


def make_setting(plan: Plan, variant: Variant, profile: Profile | None) -> Setting:
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
    setting : Setting
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
    ground = surfaces_for(variant.bike.tyre, variant.rider.descending, line.ground)
    zones = _zones(profile, stops, start)
    return Setting(
        plan=plan,
        variant=variant,
        profile=profile,
        course=_course(profile, ground, LATERAL[variant.rider.descending]),
        rider=_rider_numbers(variant.rider),
        stops=stops,
        carriers=carriers,
        items=items,
        places=places,
        spans=spans,
        phases=_phases(variant, carriers, items, places, spans, len(stops) + 1),
        leg_of=np.searchsorted(stop_segments(stops), np.arange(profile.lengths.size), side="right"),
        start=start,
        clock=_clock(plan, variant, profile, stops, start, zones),
        bare_drag=_bare_drag(profile, ground, variant.rider),
        zones=zones,
    )


def _phases(
    variant: Variant,
    carriers: tuple[Carrier, ...],
    items: tuple[Item, ...],
    places: Mapping[str, str],
    spans: Mapping[str, tuple[int, int]],
    legs: int,
) -> tuple[Phase, ...]:
    made: dict[tuple[str, ...], Phase] = {}
    phases = []
    for leg in range(legs):
        away = tuple(key for key, (first, last) in spans.items() if not first <= leg <= last)
        if away not in made:
            aboard = tuple(item for item in items if item.id not in away)
            held = {carrier.id: _held(variant, carrier, aboard, places) for carrier in carriers}
            made[away] = Phase(
                held=held,
                fixed=_fixed_masses(variant, aboard, held),
                mass=variant.rider.mass
                + variant.bike.mass
                + sum(carrier.mass for carrier in carriers)
                + sum(item.total_mass for item in aboard),
            )
        phases.append(made[away])
    return tuple(phases)


def _held(variant: Variant, carrier: Carrier, items: tuple[Item, ...], places: Mapping[str, str]) -> Held:
    here = tuple(item for item in items if places.get(item.id) == carrier.id)
    return Held(
        items=here,
        volume=sum(item.total_volume for item in here),
        mass=sum(item.total_mass for item in here if not item.worn),
        leaks=any(item.leaks for item in here),
        position=carrier_position(variant.bike, carrier),
    )


def _fixed_masses(variant: Variant, items: tuple[Item, ...], held: Mapping[str, Held]) -> tuple[Mass, ...]:
    """Return what weighs the same on every leg; things without a place count at the bike's own middle."""
    worn = sum(item.total_mass for item in items if item.worn)
    loose = sum(item.total_mass for item in items) - worn - sum(entry.mass for entry in held.values())
    middle = bike_position(variant.bike)
    return (
        (variant.rider.mass + worn, *rider_position(variant.bike)),
        (variant.bike.mass, *middle),
        (loose, *middle),
    )


def _course(profile: Profile, ground: tuple[Surface, ...], lateral: float) -> Course:
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
        speeds_least=by_surface("speed_least"),
        headings=np.array(profile.headings),
    )


def _bare_drag(profile: Profile, ground: tuple[Surface, ...], rider: Rider) -> FloatArray:
    """Return the drag area of rider and bare bike on each segment, by the position held there. [m²]"""
    is_rough = np.array([s.is_rough for s in ground])[profile.surfaces]
    drag = np.full(profile.grades.size, POSITIONS[rider.position][1])
    drag[profile.grades <= -rider.climb_from] = POSITIONS[rider.position_descending][1]
    drag[is_rough] = POSITIONS[rider.position_rough][1]
    drag[profile.grades >= rider.climb_from] = POSITIONS[rider.position_climbing][1]
    return drag


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
        coasting=rider.coasting,
        altitude=list(ALTITUDE_EFFECTS).index(rider.altitude),
        night_cap=rider.night_cap,
        walk_factor=rider.walk_factor,
        push_efficiency=rider.push_efficiency,
    )


def _zones(profile: Profile, stops: tuple[Stop, ...], start: datetime) -> tuple[ZoneInfo, ...]:
    """Return the time zone at each stop and at the finish; the rider's own where the whole course lies in it."""
    marks = np.array([*(stop.distance for stop in stops), profile.length])
    lats, lons = (np.interp(marks, profile.distances, v) for v in (profile.latitudes, profile.longitudes))
    here = zone_name(float(profile.latitudes[0]), float(profile.longitudes[0]))
    own = start.tzinfo if isinstance(start.tzinfo, ZoneInfo) else ZoneInfo("UTC")
    names = (zone_name(round(float(lat), 3), round(float(lon), 3)) for lat, lon in zip(lats, lons, strict=True))
    return tuple(own if name == here else ZoneInfo(name) for name in names)


def _sun(profile: Profile, first: date, zone: ZoneInfo) -> tuple[FloatArray, FloatArray]:
    """Return sunrise and sunset of each day at points spread evenly along the course."""
    marks = np.linspace(0.0, profile.length, SUN_POINTS)
    lats, lons = (np.interp(marks, profile.distances, v) for v in (profile.latitudes, profile.longitudes))
    found = np.array(
        [
            [
                daylight(
                    latitude=round(float(lat), 2),
                    longitude=round(float(lon), 2),
                    day=first + timedelta(days=k),
                    zone=zone,
                )
                for lat, lon in zip(lats, lons, strict=True)
            ]
            for k in range(LONGEST_DAYS)
        ]
    )
    return np.ascontiguousarray(found[:, :, 0]), np.ascontiguousarray(found[:, :, 1])


def stop_segments(stops: tuple[Stop, ...]) -> IntArray:
    """Return the first segment after each stop.

    Parameters
    ----------
    stops : tuple of Stop
        In order of distance.

    Returns
    -------
    segments : ndarray, shape (s,)
        Index of the segment. [1]
    """
    return np.array([round(stop.distance / SPACING) for stop in stops], dtype=np.int64)


def _clock(
    plan: Plan,
    variant: Variant,
    profile: Profile,
    stops: tuple[Stop, ...],
    start: datetime,
    zones: tuple[ZoneInfo, ...],
) -> Clock:
    """Return clock, nights, stops and weather as the ride takes them."""
    rhythm, weather = variant.rhythm, plan.line.weather
    days = [weather.days[min(k, len(weather.days) - 1)] for k in range(LONGEST_DAYS)]
    start_of_day = day_seconds(start)
    begins, ends, lengths = night_arrays(rhythm, start_of_day, LONGEST_DAYS)
    rises, sets = _sun(profile, start.date(), ZoneInfo(rhythm.zone))
    doors = [_doors(stop, start, zone) for stop, zone in zip(stops, zones, strict=False)]
    flat = np.array([door for found in doors for door in found], dtype=np.float64).reshape(-1, 2)
    sleeps = [rhythm.sleep_at.get(stop.id, 0.0) for stop in stops]

    def by_day(name: str) -> FloatArray:
        return np.array([getattr(day, name) for day in days], dtype=np.float64)

    return Clock(
        start_of_day=start_of_day,
        night_from=begins,
        night_until=ends,
        night_for=lengths,
        camp_time=float(rhythm.camp_time),
        reach_share=0.0,
        stop_segments=stop_segments(stops),
        stop_dwells=np.array([stay_at(stop, variant) for stop in stops], dtype=np.float64),
        stop_rests=np.array([s + rhythm.camp_time if s > 0.0 else 0.0 for s in sleeps], dtype=np.float64),
        door_index=np.cumsum([0, *(len(found) for found in doors)], dtype=np.int64),
        door_opens=np.ascontiguousarray(flat[:, 0]),
        door_shuts=np.ascontiguousarray(flat[:, 1]),
        has_doors=np.array([stop.hours is not None for stop in stops], dtype=bool),
        wait_most=float(rhythm.wait_most),
        sunrises=rises,
        sunsets=sets,
        temps_low=by_day("temp_low"),
        temps_high=by_day("temp_high"),
        wind_speeds=by_day("wind_speed"),
        winds_from=by_day("wind_from"),
        humidities=np.array([weather.relative_humidity if d.humidity is None else d.humidity for d in days]),
        wet=np.array([1.0 if day.rain >= WET_FROM else 0.0 for day in days]),
        reference_height=float(weather.reference_height),
        shelter=float(weather.shelter),
    )


def _doors(stop: Stop, start: datetime, zone: ZoneInfo) -> list[tuple[float, float]]:
    """Return the opening times of a stop by the clock at the start, counted from the first midnight. [s]"""
    ahead = (start.astimezone(zone).utcoffset() or timedelta()) - (start.utcoffset() or timedelta())
    shift = ahead.total_seconds()
    return sorted(
        (day * DAY + opens - shift, day * DAY + shuts - shift)
        for day in range(-1, LONGEST_DAYS)
        for opens, shuts in (stop.hours or ((),) * 7)[(start.weekday() + day) % 7]
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
    usual = rhythm.dawdle.get(stop.kind, KINDS[stop.kind][1])
    own = usual if stop.dwell is None else stop.dwell
    return rhythm.stays.get(stop.id, own) + stop.detour / DETOUR_SPEED


def local_time(setting: Setting, elapsed: float, zone: ZoneInfo | None = None) -> datetime:
    """Return the clock time so long after the start.

    Parameters
    ----------
    setting : Setting
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
    moment = setting.start.astimezone(UTC) + timedelta(seconds=round(elapsed))
    return moment.astimezone(zone or setting.start.tzinfo)


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
