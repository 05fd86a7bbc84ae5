"""Surface classes: rolling resistance by tyre, speed caps by boldness, and the steepest grade that can be ridden.

All figures are engineering estimates at sensible pressure; each plan may replace them.
"""

from dataclasses import dataclass, replace

TYRES = {"road": "road, about 30 mm", "gravel": "gravel, about 45 mm", "wide": "wide, about 57 mm"}


@dataclass(frozen=True, kw_only=True)
class Surface:
    """One class of surface under one tyre."""

    key: str
    name: str
    rolling_low: float  # 1
    rolling: float  # 1
    rolling_high: float  # 1
    cap_cautious: float  # m/s, fastest descent of a cautious rider
    descent_cap: float  # m/s, of a rider of normal boldness
    cap_bold: float  # m/s
    grade_most: float  # 1, steepest grade that is still ridden
    speed_least: float  # m/s, below this the rider walks
    is_loose: bool  # rain makes it slower; warmth does not matter
    is_rough: bool  # where the rider sits up


# key, name, loose, rough, caps of cautious, normal, bold [m/s], steepest [1], slowest [m/s]
_CLASSES = (
    ("tarmac", "tarmac", False, False, (11.1, 15.3, 19.4), 0.22, 1.0),
    ("smooth_gravel", "smooth gravel", True, False, (8.3, 11.1, 13.9), 0.18, 1.2),
    ("rough_gravel", "rough gravel", True, True, (5.6, 8.3, 11.1), 0.15, 1.2),
    ("track", "track", True, True, (4.7, 6.9, 9.4), 0.14, 1.2),
    ("singletrack", "singletrack", True, True, (3.3, 5.0, 7.2), 0.12, 1.2),
    ("sand_mud", "sand or mud", True, True, (2.8, 3.9, 5.0), 0.05, 1.2),
    ("hike_a_bike", "hike-a-bike", True, True, (1.6, 1.6, 1.6), -1.0, 9.9),
)
# rolling coefficient low, default, high by tyre, in the order of the classes
_ROLLING = {
    "road": (
        (0.0038, 0.0050, 0.0068), (0.0080, 0.0115, 0.0150), (0.0160, 0.0220, 0.0320), (0.0180, 0.0270, 0.0380),
        (0.0240, 0.0360, 0.0550), (0.0500, 0.1000, 0.2000), (0.0300, 0.0500, 0.0900),
    ),
    "gravel": (
        (0.0050, 0.0065, 0.0085), (0.0075, 0.0100, 0.0130), (0.0120, 0.0170, 0.0250), (0.0140, 0.0210, 0.0300),
        (0.0180, 0.0270, 0.0400), (0.0350, 0.0700, 0.1500), (0.0300, 0.0500, 0.0900),
    ),
    "wide": (
        (0.0055, 0.0072, 0.0095), (0.0080, 0.0100, 0.0130), (0.0110, 0.0150, 0.0220), (0.0125, 0.0185, 0.0270),
        (0.0160, 0.0230, 0.0350), (0.0300, 0.0550, 0.1200), (0.0300, 0.0500, 0.0900),
    ),
}  # fmt: skip
PUNCTURES = {  # expected per 1,000 km with tubeless tyres; half to twice that (estimates)
    "tarmac": 0.35, "smooth_gravel": 0.9, "rough_gravel": 2.2, "track": 2.0, "singletrack": 1.8, "sand_mud": 0.5,
    "hike_a_bike": 0.5,
}  # fmt: skip
SURFACES_BY_TYRE: dict[str, tuple[Surface, ...]] = {
    tyre: tuple(
        Surface(
            key=key, name=name, rolling_low=rolling[0], rolling=rolling[1], rolling_high=rolling[2],
            cap_cautious=caps[0], descent_cap=caps[1], cap_bold=caps[2], grade_most=grade, speed_least=least,
            is_loose=loose, is_rough=rough,
        )
        for (key, name, loose, rough, caps, grade, least), rolling in zip(_CLASSES, table, strict=True)
    )
    for tyre, table in _ROLLING.items()
}  # fmt: skip
SURFACES = SURFACES_BY_TYRE["gravel"]
SURFACE_INDEX = {surface.key: index for index, surface in enumerate(SURFACES)}


@dataclass(frozen=True, kw_only=True)
class GroundFigures:
    """Figures of one surface under one tyre that the rider knows better; None keeps the usual one."""

    tyre: str
    surface: str
    rolling: float | None = None  # 1
    cap: float | None = None  # m/s, fastest descent of this rider
    grade_most: float | None = None  # 1


def surfaces_for(tyre: str, boldness: str, known: tuple[GroundFigures, ...] = ()) -> tuple[Surface, ...]:
    """Return all surfaces as a rider on a tyre meets them.

    Parameters
    ----------
    tyre : str
        Key of TYRES.
    boldness : str
        cautious, normal or bold.
    known : tuple of GroundFigures
        What the rider knows better.

    Returns
    -------
    surfaces : tuple of Surface
        In the order of SURFACES; `descent_cap` is that of the boldness.

    Examples
    --------
    >>> surfaces_for("wide", "bold")[0].descent_cap
    19.4
    """
    better = {entry.surface: entry for entry in known if entry.tyre == tyre}
    found = []
    for surface in SURFACES_BY_TYRE[tyre]:
        cap = {"cautious": surface.cap_cautious, "bold": surface.cap_bold}.get(boldness, surface.descent_cap)
        own = better.get(surface.key)
        if own is not None:
            surface = replace(
                surface,
                rolling=surface.rolling if own.rolling is None else own.rolling,
                grade_most=surface.grade_most if own.grade_most is None else own.grade_most,
            )
            cap = cap if own.cap is None else own.cap
        found.append(replace(surface, descent_cap=cap))
    return tuple(found)


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
    return _joined(sorted((span for span in laid if span.surface), key=lambda span: span.start))


def _joined(spans: list[SurfaceSpan]) -> tuple[SurfaceSpan, ...]:
    """Return spans in order with those of one surface that meet made one."""
    joined: list[SurfaceSpan] = []
    for span in spans:
        if joined and joined[-1].surface == span.surface and joined[-1].end == span.start:
            joined[-1] = replace(joined[-1], end=span.end)
        else:
            joined.append(span)
    return tuple(joined)
