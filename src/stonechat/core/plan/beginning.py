"""A new plan: empty where the rider has not spoken, and a note of what was taken for granted."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np

from stonechat.core.kit.item import Item
from stonechat.core.line.profile import Cleaning, make_profile
from stonechat.core.line.stops import Stop
from stonechat.core.line.track import Track
from stonechat.core.line.weather import Weather
from stonechat.core.line.zones import zone_name
from stonechat.core.plan.plan import Line, Plan, Variant
from stonechat.core.rhythm.rhythm import Rhythm
from stonechat.core.rhythm.rider import Rider
from stonechat.core.rig.bike import Bike, usual_bike
from stonechat.core.rig.stock import fitting_carriers

BAG_SCHOOLS: dict[str, tuple[str, tuple[str, ...]]] = {  # name, kinds of the catalogue
    "none": ("none yet", ()),
    "road": ("two bottles, top-tube bag, small seat pack: a shop every hour",
             ("bottle_top", "bottle_side", "top_front", "seat_small", "jersey")),
    "half_frame": ("half frame bag over two bottles, seat pack, small bar roll",
                   ("frame_half", "bottle_low", "bottle_side", "top_front", "seat_middle", "bar_roll_small", "jersey")),
    "full_frame": ("full frame bag, bottles on the fork, seat pack, small bar roll",
                   ("frame_full", "fork_bottles", "top_front", "seat_small", "bar_roll_small", "jersey")),
    "rear_pack": ("rear pack on a light rack, half frame bag over two bottles",
                  ("rack_pack", "frame_half", "bottle_low", "bottle_side", "top_front", "stem_one", "jersey")),
    "front": ("nothing behind: roll and pouch in front, full frame bag, bottles on the fork",
              ("bar_roll", "bar_pouch", "frame_full", "fork_bottles", "top_front", "jersey")),
    "vest": ("water on the back, full frame bag, small seat pack",
             ("vest", "frame_full", "top_front", "seat_small", "bib")),
}  # fmt: skip
ASSUMED = ("start", "rider", "nights", "bike")  # what may be taken for granted until the rider says it


@dataclass(frozen=True, kw_only=True)
class Spoken:
    """What a rider says of a new plan; what is None or empty was not said."""

    start: datetime | None = None  # local clock
    mass: float | None = None  # kg, rider in riding clothes
    power: float | None = None  # W
    bike: Bike | None = None
    bags: str = "none"  # key of BAG_SCHOOLS
    items: tuple[Item, ...] = ()


def next_saturday(today: datetime) -> datetime:
    """Return the start that is taken where none was given: six in the morning of the Saturday after.

    Parameters
    ----------
    today : datetime
        A local clock time.

    Returns
    -------
    start : datetime
        Local clock time, at least a day ahead.

    Examples
    --------
    >>> next_saturday(datetime(2027, 9, 23, 15, 0))
    datetime.datetime(2027, 9, 25, 6, 0)
    """
    ahead = (5 - today.weekday()) % 7 or 7
    return (today + timedelta(days=ahead)).replace(hour=6, minute=0, second=0, microsecond=0)


def taken_for_granted(plan: Plan, variant: Variant) -> tuple[tuple[str, str], ...]:
    """Return what a plan stands on that the rider has not said.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant : Variant
        One of its variants.

    Returns
    -------
    entries : tuple of tuple of str
        Room in which it is said, and what is taken meanwhile, in words.
    """
    rider, rhythm = variant.rider, variant.rhythm
    words = {
        "start": ("rhythm", f"a start on {rhythm.start:%a %d %b %Y at %H:%M}"),
        "rider": ("rhythm", f"a rider of {rider.mass:.0f} kg who holds {rider.power:.0f} W"),
        "nights": ("rhythm", f"riding from {_clock(rhythm.rise)} to {_clock(rhythm.halt)}"),
        "bike": ("rig", f"a {variant.bike.name} of {variant.bike.mass:.1f} kg"),
    }
    found = [words[key] for key in ASSUMED if key in variant.assumed]
    usual, day = Weather(), plan.line.weather.days[0]
    if plan.line.weather.days == usual.days and not plan.line.weather.source:
        found.append(("line", f"calm, dry days of {day.temp_low:.0f} to {day.temp_high:.0f} °C"))
    return tuple(found)


def _clock(seconds: float) -> str:
    return f"{int(seconds // 3600) % 24:02d}:{int(seconds % 3600 // 60):02d}"


def begin_plan(
    *,
    name: str,
    track: Track,
    surface: str,
    stops: tuple[Stop, ...],
    spoken: Spoken,
    today: datetime,
) -> Plan:
    """Return a new plan over a course.

    Parameters
    ----------
    name : str
        Of the plan.
    track : Track
        The course.
    surface : str
        Key of the surface where none is marked.
    stops : tuple of Stop
        Along it.
    spoken : Spoken
        What the rider has said.
    today : datetime
        Local clock time now, for the start where none was given.

    Returns
    -------
    plan : Plan
        One variant. What was taken for granted stands in its `assumed`.
    """
    profile = make_profile(track=track, cleaning=Cleaning(), default_surface=surface)
    usual = Rider()
    rider = replace(usual, mass=spoken.mass or usual.mass, power=spoken.power or usual.power)
    bike = spoken.bike or usual_bike("drop_rigid", "m")
    if not bike.aero_bars and rider.position == "aero":
        rider = replace(rider, position="hoods")
    said = {
        "start": spoken.start is not None,
        "rider": spoken.mass is not None and spoken.power is not None,
        "nights": False,
        "bike": spoken.bike is not None,
    }
    zone = zone_name(float(track.latitudes[0]), float(track.longitudes[0]))
    variant = Variant(
        id="a",
        name="A",
        rider=rider,
        rhythm=Rhythm(start=spoken.start or next_saturday(today), zone=zone),
        bike=bike,
        carriers=fitting_carriers(bike, BAG_SCHOOLS[spoken.bags][1], rider.position),
        assumed=frozenset(key for key, known in said.items() if not known),
    )
    weather = Weather(reference_height=float(np.median(profile.heights).round()))
    line = Line(track=track, default_surface=surface, stops=stops, weather=weather)
    return Plan(name=name, line=line, items=spoken.items, variants=(variant,))
