"""Surface classes: rolling resistance, speed caps and the steepest grade that can be ridden.

All figures are engineering estimates for a fast tubeless tyre of about 45 mm at sensible pressure; each plan may
replace them.
"""

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Surface:
    """One class of surface."""

    key: str
    name: str
    rolling_low: float  # 1
    rolling: float  # 1
    rolling_high: float  # 1
    descent_cap: float  # m/s, fastest descent of a rider of normal boldness
    grade_most: float  # 1, steepest grade that is still ridden
    speed_least: float  # m/s, below this the rider walks


SURFACES: tuple[Surface, ...] = tuple(
    Surface(
        key=key,
        name=name,
        rolling_low=low,
        rolling=mid,
        rolling_high=high,
        descent_cap=cap,
        grade_most=grade,
        speed_least=least,
    )
    for key, name, low, mid, high, cap, grade, least in (
        ("tarmac", "tarmac", 0.0050, 0.0065, 0.0085, 15.3, 0.22, 1.0),
        ("smooth_gravel", "smooth gravel", 0.0075, 0.0100, 0.0130, 11.1, 0.18, 1.2),
        ("rough_gravel", "rough gravel", 0.0120, 0.0170, 0.0250, 8.3, 0.15, 1.2),
        ("track", "track", 0.0140, 0.0210, 0.0300, 6.9, 0.14, 1.2),
        ("singletrack", "singletrack", 0.0180, 0.0270, 0.0400, 5.0, 0.12, 1.2),
        ("sand_mud", "sand or mud", 0.0350, 0.0700, 0.1500, 3.9, 0.05, 1.2),
        ("hike_a_bike", "hike-a-bike", 0.0300, 0.0500, 0.0900, 1.6, -1.0, 9.9),
    )
)
SURFACE_INDEX = {surface.key: index for index, surface in enumerate(SURFACES)}


@dataclass(frozen=True, kw_only=True)
class SurfaceSpan:
    """A stretch of the route on one surface."""

    start: float  # m from the start of the route
    end: float  # m
    surface: str  # key of a Surface
