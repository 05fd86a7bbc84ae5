"""What a ride came to, small enough to be kept with the plan: its trail, its fits, what was wrong with it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from math import exp, log

from stonechat.core.diary.combine import Estimate, combined
from stonechat.core.diary.trail import Trail

PURPOSES = {
    "race": "the race itself",
    "loaded": "a ride with the loaded bike",
    "test": "a test ride",
    "other": "another ride",
}
FIGURES = {  # figures that rides tell, with the decimals that they are shown with and their unit
    "power": ("sustained power", 0, "W"),
    "endurance": ("share of power left without recovery", 2, ""),
    "fade_time": ("hours over which it fades", 0, "h"),
    "recovery_time": ("hours of sleep over which it comes back", 1, "h"),
    "drag_area": ("drag area without bags", 3, "m²"),
    "rolling": ("rolling", 4, ""),
}
MOST_RIDES = 30  # of a variant
CAUSES = {"moving": "on the road", "stops": "stops", "nights": "nights"}
LOGGED = frozenset({"fade_time", "recovery_time"})  # whose bands are factors


@dataclass(frozen=True, kw_only=True)
class Told:
    """A figure that a ride tells, with its 95 % band, in the unit of FIGURES."""

    value: float
    low: float
    high: float


@dataclass(frozen=True, kw_only=True)
class Curve:
    """Two lines over one axis, for the eye: what was measured and what the fit says."""

    at: tuple[float, ...] = ()
    measured: tuple[float, ...] = ()
    fitted: tuple[float, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Ride:
    """One ride."""

    id: str
    name: str
    purpose: str  # key of PURPOSES
    start: datetime  # with its zone
    length: float  # s from the first sample to the last
    moving: float  # s
    distance: float  # m
    mass: float  # kg that rolled, as the rider said
    surface: str = ""  # key of a surface it was ridden on; empty: several
    has_power: bool = False
    faults: tuple[str, ...] = ()  # what was wrong with the file, and what was done
    refusals: tuple[str, ...] = ()  # what it cannot tell, why, and what would
    figures: Mapping[str, Told] = field(default_factory=dict)  # by key of FIGURES
    from_speed: bool = False  # power reckoned from speed on climbs
    trail: Trail = field(default_factory=Trail)  # by its own start
    off_course: float = 0.0  # 1, share of positions off the course
    pauses: int = 0  # short halts on the road
    paused: float = 0.0  # s that they took together
    time_by: Mapping[str, tuple[float, float]] = field(default_factory=dict)  # s planned and in truth, by cause
    hours: Curve = field(default_factory=Curve)  # power on the flat by hour
    residual: Curve = field(default_factory=Curve)  # height left unexplained by minute


def told_by(rides: Iterable[Ride], key: str, today: datetime, surface: str = "") -> Told | None:
    """Return what several rides tell of a figure: the surer and the newer weigh more.

    Parameters
    ----------
    rides : iterable of Ride
        Of one rider.
    key : str
        Of FIGURES.
    today : datetime
        From which ages count.
    surface : str
        For rolling: the surface; rides on another one tell nothing of it.

    Returns
    -------
    told : Told or None
        None where no ride tells it.
    """
    found = []
    for ride in rides:
        told = ride.figures.get(key)
        if told is None or (key == "rolling" and ride.surface != surface):
            continue
        age = max(0.0, (today - ride.start).total_seconds() / 86_400.0)
        value, low, high = (_scaled(key, figure) for figure in (told.value, told.low, told.high))
        found.append(Estimate(value=value, band=max((high - low) / 2.0, 1e-9), age=age))
    if not found:
        return None
    one = combined(found)
    return Told(**{
        name: exp(value) if key in LOGGED else value
        for name, value in (("value", one.value), ("low", one.value - one.band), ("high", one.value + one.band))
    })  # fmt: skip


def _scaled(key: str, figure: float) -> float:
    """Return a figure on the scale on which its band is even."""
    return log(max(figure, 1e-9)) if key in LOGGED else figure
