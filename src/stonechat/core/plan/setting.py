"""What stays the same while mass and time of a variant settle: course, rider, stops, sun, what each carrier holds."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from stonechat.core.kit.item import Item
from stonechat.core.line.stops import Stop
from stonechat.core.line.sun import daylight
from stonechat.core.line.surface import SURFACES
from stonechat.core.line.track import SPACING, Profile, make_profile
from stonechat.core.load.balance import Mass
from stonechat.core.numerics.arrays import FloatArray, IntArray
from stonechat.core.plan.plan import HOME, Plan, Variant
from stonechat.core.rhythm.ride import Clock, Course, RiderNumbers
from stonechat.core.rhythm.rider import Rider
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.geometry import bike_position, carrier_position, rider_position

LONGEST_DAYS = 30  # days of weather and sun that are looked up; the last one holds on


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
    items: tuple[Item, ...]
    held: Mapping[str, "Held"]  # what each carrier holds, whatever the leg
    fixed: tuple[Mass, ...]  # rider with what is worn, bike, things without a place
    leg_of: IntArray  # leg of each segment
    start: datetime
    sun: tuple[FloatArray, FloatArray]


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
    return tuple(item for item in plan.items if variant.places.get(item.id) != HOME)


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
    zone = ZoneInfo(variant.rhythm.zone)
    start = variant.rhythm.start.replace(tzinfo=zone)
    carriers = tuple(carrier for carrier in variant.carriers if carrier.mounted)
    items = carried_items(plan, variant)
    held = {carrier.id: _held(variant, carrier, items) for carrier in carriers}
    return Setting(
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
        leg_of=np.searchsorted(stop_segments(stops), np.arange(profile.lengths.size), side="right"),
        start=start,
        sun=_sun(profile, start.date(), zone),
    )


def _held(variant: Variant, carrier: Carrier, items: tuple[Item, ...]) -> Held:
    here = tuple(item for item in items if variant.places.get(item.id) == carrier.id)
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
        headings=np.array(profile.headings),
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


def clock_of(setting: Setting, reach_share: float) -> Clock:
    """Return clock, stops and weather as the ride takes them.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.
    reach_share : float
        Time spent reaching for things per time of moving. [1]

    Returns
    -------
    clock : Clock
        Times of day and dwells. [s]
    """
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
        stop_segments=stop_segments(setting.stops),
        stop_dwells=np.array([_dwell(stop) for stop in setting.stops], dtype=np.float64),
        sunrises=setting.sun[0],
        sunsets=setting.sun[1],
        temps_low=np.array([day.temp_low for day in days], dtype=np.float64),
        temps_high=np.array([day.temp_high for day in days], dtype=np.float64),
        wind_speeds=np.array([day.wind_speed for day in days], dtype=np.float64),
        winds_from=np.array([day.wind_from for day in days], dtype=np.float64),
        reference_height=float(weather.reference_height),
        relative_humidity=float(weather.relative_humidity),
    )


DETOUR_SPEED = 4.5  # m/s off the course (estimate)


def _dwell(stop: Stop) -> float:
    return stop.dwell + stop.detour / DETOUR_SPEED


def local_time(setting: Setting, elapsed: float) -> datetime:
    """Return the clock time at the start's zone, so long after the start.

    Parameters
    ----------
    setting : Setting
        The variant as it stands.
    elapsed : float
        Time since the start. [s]

    Returns
    -------
    moment : datetime
        With its zone.
    """
    moment = setting.start.astimezone(UTC) + timedelta(seconds=round(elapsed))
    return moment.astimezone(setting.start.tzinfo)


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
