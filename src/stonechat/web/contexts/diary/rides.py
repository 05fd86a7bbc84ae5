"""Rides that were read in, what they tell, and what is taken of it."""

from dataclasses import dataclass
from datetime import UTC, datetime

from stonechat.core.diary.habits import HABITS
from stonechat.core.diary.rides import FIGURES, PURPOSES, Curve, Ride
from stonechat.core.line.stops import KINDS
from stonechat.core.line.surface import SURFACE_INDEX, SURFACES
from stonechat.core.plan.habits import drunk_by_warmth
from stonechat.render.filters import clock, distance_km, duration, minutes_signed
from stonechat.services.habits import habits_told, races_tell
from stonechat.services.memory import FromElsewhere, own_rides, rides_elsewhere, rides_tell
from stonechat.services.rides import FigureTold, figures_told
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm
from stonechat.web.forms.diary import RideForm

_WIDTH, _HEIGHT = 640.0, 150.0


@dataclass(frozen=True, kw_only=True)
class CurveView:
    """A small picture: dots as measured, a line as fitted."""

    title: str
    words: str
    width: float
    height: float
    dots: tuple[tuple[float, float], ...]
    line: str
    low: str
    high: str
    first: str
    last: str


@dataclass(frozen=True, kw_only=True)
class RideRow:
    """One ride."""

    name: str
    purpose: str
    when: str
    km: str
    hours: str
    moving: str
    mass: float
    faults: tuple[str, ...]
    refusals: tuple[str, ...]
    curves: tuple[CurveView, ...]
    drop_address: str


@dataclass(frozen=True, kw_only=True)
class FigureRow:
    """A figure beside the plan's."""

    name: str
    unit: str
    planned: str
    value: str
    band: str
    holds_plan: bool  # whether the plan's figure lies in the band: what was seen is no reason to change it
    seen: str
    minutes: str
    why_not: str
    is_taken: bool
    address: str
    key: str
    of: str


@dataclass(frozen=True, kw_only=True)
class RidesView:
    """The part of rides."""

    rows: tuple[RideRow, ...]
    elsewhere: tuple[FromElsewhere, ...]
    form: BoundForm[RideForm]
    form_address: str
    figures_address: str
    tells: bool


def rides_view(desk: Desk) -> RidesView:
    """Return rides, and the form that reads one in."""
    rides = desk.variant.rides
    elsewhere = rides_elsewhere(desk.workspace, desk.opened)
    mass = f"{desk.evaluation.ridden.film[0].mass:.1f}"
    # before the race, and once its own file is here, what comes in is another ride
    is_raced = desk.evaluation.ridden.way.start <= datetime.now(UTC) and desk.variant.race is None
    return RidesView(
        rows=tuple(_row(desk, ride) for ride in rides),
        elsewhere=elsewhere,
        form=desk.form("ride", RideForm, {"purpose": "race" if is_raced else "test", "mass": mass, "surface": ""}),
        form_address=desk.do("ride"),
        figures_address=desk.do("ride-figures", leg=desk.leg),
        tells=rides_tell(desk.workspace, desk.opened) or races_tell(desk.workspace, desk.opened, desk.variant_id),
    )


def all_rides(desk: Desk) -> tuple[Ride, ...]:
    """Return the rides of this plan and those of the rider's other plans."""
    return (*own_rides(desk.opened), *(r for one in rides_elsewhere(desk.workspace, desk.opened) for r in one.rides))


def figure_rows(desk: Desk) -> tuple[FigureRow, ...]:
    """Return every figure that rides tell, with what taking it does."""
    return tuple(
        _figure(one, FIGURES[one.key], desk.do("ride-take"), SURFACES[SURFACE_INDEX[one.of]].name if one.of else "")
        for one in figures_told(desk.opened, desk.variant_id, all_rides(desk))
    )


def habit_rows(desk: Desk) -> tuple[FigureRow, ...]:
    """Return every way that races tell, with what taking it does."""
    return tuple(
        _figure(one, HABITS[one.key], desk.do("habit-take"), KINDS[one.of].name if one.key == "dawdle" else one.of)
        for one in habits_told(desk.workspace, desk.opened, desk.variant_id)
    )


def _figure(one: FigureTold, named: tuple[str, int, str], address: str, of: str) -> FigureRow:
    name, digits, unit = named
    join = {"rolling": " on ", "dawdle": " at ", "draw": " of "}.get(one.key, "")
    low = one.told.low if one.key in _SIGNED else max(0.0, one.told.low)
    clock = one.key in ("halt", "rise")
    return FigureRow(
        name=f"{name}{join}{of}" if of else name,
        unit="" if clock else unit,
        planned=_clock(one.planned) if clock else f"{one.planned:.{digits}f}",
        value=_clock(one.told.value) if clock else f"{one.told.value:.{digits}f}",
        band=f"{_clock(low)} to {_clock(one.told.high)}"
        if clock
        else f"{low:.{digits}f} to {one.told.high:.{digits}f}",
        holds_plan=one.told.low <= one.planned <= one.told.high,
        seen=one.seen,
        minutes="" if one.minutes is None else minutes_signed(one.minutes),
        why_not=one.why_not,
        is_taken=abs(one.planned - one.told.value) < _NEAR.get(one.key, 0.5 * 10.0**-digits),
        address=address,
        key=one.key,
        of=one.of,
    )


_SIGNED = frozenset({"runs_cold"})
_NEAR = {"halt": 0.05, "rise": 0.05, "sleep": 0.01, "camp": 0.51, "dawdle": 0.51, "draw": 0.001}  # h, min, W: taken


def _clock(hours: float) -> str:
    """Return a clock time of hours after midnight."""
    minutes = round(60.0 * hours) % 1440
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def body_words(desk: Desk) -> tuple[str, ...]:
    """Return what notes of this race tell of drinking by warmth, in sentences."""
    rows = drunk_by_warmth(desk.evaluation.ridden, desk.variant)
    if not rows:
        return ()
    said = "; ".join(f"{words} {noted:.2f} l an hour ({planned:.2f} planned)" for words, noted, planned in rows)
    return (f"Drunk by the notes: {said}.",)


def _row(desk: Desk, ride: Ride) -> RideRow:
    zone = desk.evaluation.ridden.way.start.tzinfo
    curves = (
        _curve(ride.hours, "Power on the flat, hour by hour", "W", "h"),
        _curve(ride.residual, "Height left unexplained", "m", "min"),
    )
    return RideRow(
        name=ride.name,
        purpose=PURPOSES[ride.purpose],
        when=clock(ride.start.astimezone(zone)) + f", {ride.start.astimezone(zone):%d %b %Y}",
        km=distance_km(ride.distance),
        hours=duration(ride.length),
        moving=duration(ride.moving) if ride.moving else "",
        mass=ride.mass,
        faults=ride.faults,
        refusals=ride.refusals,
        curves=tuple(curve for curve in curves if curve is not None),
        drop_address=desk.do("ride", ride.id, "drop"),
    )


def _curve(curve: Curve, title: str, unit: str, across: str) -> CurveView | None:
    if len(curve.at) < 3:
        return None
    values = (*curve.measured, *curve.fitted)
    low, high = min(values), max(values)
    span, wide = max(high - low, 1e-9), max(curve.at[-1] - curve.at[0], 1e-9)

    def spot(at: float, value: float) -> tuple[float, float]:
        return (at - curve.at[0]) / wide * _WIDTH, (high - value) / span * _HEIGHT

    line = "L".join(f"{x:.1f} {y:.1f}" for x, y in (spot(*pair) for pair in zip(curve.at, curve.fitted, strict=True)))
    return CurveView(
        title=title,
        words=f"{title}: dots as measured, line as fitted, {low:.0f} to {high:.0f} {unit}",
        width=_WIDTH,
        height=_HEIGHT,
        dots=tuple(spot(*pair) for pair in zip(curve.at, curve.measured, strict=True)),
        line=f"M{line}",
        low=f"{low:.0f} {unit}",
        high=f"{high:.0f} {unit}",
        first=f"{curve.at[0]:.0f} {across}",
        last=f"{curve.at[-1]:.0f} {across}",
    )
