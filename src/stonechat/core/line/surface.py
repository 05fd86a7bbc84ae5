"""Surface classes: rolling resistance, speed caps and the steepest grade that can be ridden.

All figures are engineering estimates for a fast tubeless tyre of about 45 mm at sensible pressure; each plan may
replace them.
"""

from dataclasses import dataclass, replace


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


def paint_surface(spans: tuple[SurfaceSpan, ...], *, start: float, end: float, surface: str) -> tuple[SurfaceSpan, ...]:
    """Return surface spans with one more painted over them: cut where it covers, joined where it meets its like.

    Parameters
    ----------
    spans : tuple of SurfaceSpan
        What is painted; a later one covers an earlier one. [m]
    start, end : float
        The stretch to paint. [m]
    surface : str
        Key of its surface; empty takes the paint off.

    Returns
    -------
    spans : tuple of SurfaceSpan
        In order of distance, none covering another. [m]

    Examples
    --------
    >>> base = (SurfaceSpan(start=0.0, end=10.0, surface="track"),)
    >>> [(s.start, s.end, s.surface) for s in paint_surface(base, start=4.0, end=6.0, surface="tarmac")]
    [(0.0, 4.0, 'track'), (4.0, 6.0, 'tarmac'), (6.0, 10.0, 'track')]
    """
    laid: list[SurfaceSpan] = []
    for span in (*spans, SurfaceSpan(start=start, end=end, surface=surface)):
        left = [replace(old, end=min(old.end, span.start)) for old in laid]
        right = [replace(old, start=max(old.start, span.end)) for old in laid]
        laid = [old for old in (*left, *right) if old.end > old.start]
        laid += [span] if span.end > span.start else []
    joined: list[SurfaceSpan] = []
    for span in sorted((s for s in laid if s.surface), key=lambda s: s.start):
        if joined and joined[-1].surface == span.surface and joined[-1].end == span.start:
            joined[-1] = replace(joined[-1], end=span.end)
        else:
            joined.append(span)
    return tuple(joined)
