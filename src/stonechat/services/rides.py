"""Rides: files read in, what they tell of the rider, and figures taken from them."""

from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

from stonechat.core.diary.reading import Asked, read_in
from stonechat.core.diary.rides import FIGURES, LOGGED, MOST_RIDES, PURPOSES, Ride, Told, told_by
from stonechat.core.line.surface import SURFACE_INDEX, SURFACES, GroundFigures, surfaces_for
from stonechat.core.plan.limits import LIMITS
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.played import time_by
from stonechat.core.rhythm.inputs import WHEEL_INERTIA
from stonechat.core.rhythm.rider import POSITIONS
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.ride_file import read_ride
from stonechat.services.evaluation import evaluated, finish_as
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.kept import Kept
from stonechat.services.variant import change_variant
from stonechat.services.workspace import Workspace


@dataclass(frozen=True, kw_only=True)
class AskedRide:
    """What the rider says of a file."""

    name: str
    purpose: str  # key of PURPOSES
    mass: float | None  # kg that rolled; None: as planned
    surface: str  # key of a surface, empty: several


@dataclass(frozen=True, kw_only=True)
class ReadIn:
    """A ride that came in, and what should be said of it."""

    opened: OpenPlan
    note: str


@dataclass(frozen=True, kw_only=True)
class FigureTold:
    """A figure as planned and as rides tell it."""

    key: str
    of: str  # of which surface, kind of stop or thing; empty: of none
    planned: float  # in the unit of FIGURES, or of HABITS
    told: Told
    seen: str  # in how many rides, or how often
    minutes: float | None  # by which the finish moves where it is taken; None: it cannot be taken
    why_not: str  # why it cannot be taken, empty where it can


def add_ride(
    workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, data: bytes, asked: AskedRide
) -> ReadIn:
    """Read a ride in, and keep what it came to."""
    if asked.purpose not in PURPOSES or asked.surface not in (*SURFACE_INDEX, ""):
        raise InvalidInput("Choose from the lists what the ride was.", subject="purpose")
    variant, ridden = opened.plan.variant(variant_id), evaluated(opened, variant_id).ridden
    ride = read_in(
        read_ride(data),
        Asked(
            name=asked.name or PURPOSES[asked.purpose],
            purpose=asked.purpose,
            mass=asked.mass or ridden.film[0].mass,
            surface=asked.surface,
            rider=variant.rider,
            drag_area=ridden.film[0].drag_area,
            bag_drag=ridden.film[0].bag_drag,
            rolling=_rolling(opened.plan, variant, asked.surface or opened.plan.line.default_surface),
            rolling_most=_rolling_most(variant, asked.surface),
            inertia=WHEEL_INERTIA,
            start=ridden.way.start,
            profile=ridden.way.profile,
        ),
    )
    return keep_ride(workspace, opened, variant_id, revision=revision, ride=ride)


def keep_ride(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, ride: Ride) -> ReadIn:
    """Keep a ride; one that is here already is replaced."""
    ridden, before = evaluated(opened, variant_id).ridden, opened.plan.variant(variant_id).rides
    ride = replace(ride, time_by=time_by(ridden, ride.trail))
    if len(before) >= MOST_RIDES and all(one.id != ride.id for one in before):
        raise InvalidInput(f"A variant holds {MOST_RIDES} rides. Take one out first.")
    changed = change_variant(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label=f"read in {ride.name}"[:120],
        change=lambda variant: _with_ride(variant, ride),
    )
    told = [FIGURES[key][0] for key in ride.figures]
    words = f"{ride.distance / 1e3:.0f} km in {ride.length / 3600.0:.1f} h are read in"
    words += f": they tell {', '.join(told)}." if told else "."
    if ride.purpose == "loaded" and not ride.surface:
        words += " Say in “Loaded ride” how much of it was rough."
    return ReadIn(opened=changed, note=" ".join([words, *ride.faults][:4]))


def _with_ride(variant: Variant, ride: Ride) -> Variant:
    """Return a variant with a ride; one with the loaded bike counts as its loaded ride, once."""
    known = any(one.id == ride.id for one in variant.rides)
    kept = replace(variant, rides=(*(one for one in variant.rides if one.id != ride.id), ride))
    if ride.purpose != "loaded" or known:
        return kept
    (km, rough), was = _loaded_km(ride), variant.shakedown
    day = max(one for one in (was.day, ride.start.astimezone(ZoneInfo(variant.rhythm.zone)).date()) if one is not None)
    return replace(
        kept, shakedown=replace(was, day=day, km=round(was.km + km, 1), rough_km=round(was.rough_km + rough, 1))
    )


def _without_ride(variant: Variant, ride: Ride) -> Variant:
    """Return a variant without a ride; what it counted for is taken off again."""
    left = replace(variant, rides=tuple(one for one in variant.rides if one.id != ride.id))
    if ride.purpose != "loaded" or len(left.rides) == len(variant.rides):
        return left
    (km, rough), was = _loaded_km(ride), variant.shakedown
    less = max(0.0, round(was.km - km, 1))
    now = replace(was, km=less, rough_km=min(less, max(0.0, round(was.rough_km - rough, 1))))
    return replace(left, shakedown=replace(now, day=was.day if less else None))


def _loaded_km(ride: Ride) -> tuple[float, float]:
    """Return how far a ride went, and how much of it was rough as far as it is known. [km]"""
    km = round(ride.distance / 1e3, 1)
    return km, km if ride.surface and SURFACES[SURFACE_INDEX[ride.surface]].is_rough else 0.0


def drop_ride(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, ride_id: str) -> OpenPlan:
    """Take a ride out."""
    dropped = next((ride for ride in opened.plan.variant(variant_id).rides if ride.id == ride_id), None)
    if dropped is None:
        raise NotFound("That ride is gone already.", subject=ride_id)
    return change_variant(
        workspace,
        opened.id,
        variant_id,
        revision=revision,
        label="took a ride out",
        change=lambda variant: _without_ride(variant, dropped),
    )


_FIGURES: Kept[tuple[FigureTold, ...]] = Kept(32)


def figures_told(opened: OpenPlan, variant_id: str, rides: tuple[Ride, ...]) -> tuple[FigureTold, ...]:
    """Return every figure that rides tell, beside the plan's."""
    key_of = (opened.content, variant_id, tuple((ride.id, ride.length, ride.name) for ride in rides))
    return _FIGURES.of(key_of, lambda: _figures_told(opened, variant_id, rides))


def _figures_told(opened: OpenPlan, variant_id: str, rides: tuple[Ride, ...]) -> tuple[FigureTold, ...]:
    variant = opened.plan.variant(variant_id)
    today = datetime.now(UTC)
    finish = evaluated(opened, variant_id).ridden.ledger.finish
    found = []
    for key in FIGURES:
        surfaces = dict.fromkeys(ride.surface for ride in rides if ride.surface) if key == "rolling" else [""]
        for surface in surfaces:
            told = told_by(rides, key, today, surface)
            if told is None:
                continue
            count = sum(1 for ride in rides if key in ride.figures and (key != "rolling" or ride.surface == surface))
            minutes, why_not = None, ""
            try:
                taken = _with_figure(opened.plan, variant_id, key, surface, told.value)
                minutes = (finish_as(opened, taken, variant_id) - finish) / 60.0
            except InvalidInput as wrong:
                why_not = str(wrong)
            found.append(
                FigureTold(
                    key=key, of=surface, planned=_planned(opened.plan, variant, key, surface), told=told,
                    seen=f"{count} {'rides' if count != 1 else 'ride'}", minutes=minutes, why_not=why_not,
                )
            )  # fmt: skip
    return tuple(found)


def take_figure(
    workspace: Workspace,
    opened: OpenPlan,
    variant_id: str,
    *,
    revision: int,
    key: str,
    surface: str,
    rides: tuple[Ride, ...],
) -> OpenPlan:
    """Take a figure that rides tell into the plan."""
    told = told_by(rides, key, datetime.now(UTC), surface) if key in FIGURES else None
    if told is None:
        raise NotFound("No ride tells that figure any more. Load the page again.", subject=key)
    name, digits, unit = FIGURES[key]
    return change_plan(
        workspace,
        opened.id,
        revision=revision,
        label=f"took {name} of {told.value:.{digits}f} {unit} from rides".replace("  ", " "),
        change=lambda plan: _with_figure(plan, variant_id, key, surface, told.value),
    )


def _planned(plan: Plan, variant: Variant, key: str, surface: str) -> float:
    """Return a figure as the plan has it, in the unit of FIGURES."""
    if key == "rolling":
        return _rolling(plan, variant, surface)
    value = float(getattr(variant.rider, key))
    return value / 3600.0 if key in LOGGED else value


def _rolling(plan: Plan, variant: Variant, surface: str) -> float:
    ground = surfaces_for(variant.bike.tyre, variant.rider.descending, plan.line.ground)
    return ground[SURFACE_INDEX[surface]].rolling


def _rolling_most(variant: Variant, surface: str) -> float:
    if not surface:
        return 0.0
    return surfaces_for(variant.bike.tyre, variant.rider.descending)[SURFACE_INDEX[surface]].rolling_high


def _with_figure(plan: Plan, variant_id: str, key: str, surface: str, value: float) -> Plan:
    """Return a plan with a figure of rides; refused where it lies outside what can be."""
    variant = plan.variant(variant_id)
    rider = variant.rider
    if key == "rolling":
        refuse_outside("rolling", value, "rolling")
        tyre = variant.bike.tyre
        known = {(entry.tyre, entry.surface): entry for entry in plan.line.ground}
        one = known.get((tyre, surface), GroundFigures(tyre=tyre, surface=surface))
        known[tyre, surface] = replace(one, rolling=value)
        return replace(plan, line=replace(plan.line, ground=tuple(known.values())))
    if key == "drag_area":
        scale = value / POSITIONS[rider.position][1]
        refuse_outside("drag_scale", scale, "drag of rider and bare bike over the usual")
        return plan.with_variant(replace(variant, rider=replace(rider, drag_scale=round(scale, 4))))
    given = value * 3600.0 if key in LOGGED else value
    refuse_outside(key, given, FIGURES[key][0])
    changed: dict[str, Any] = {key: given}
    return plan.with_variant(replace(variant, rider=replace(rider, **changed)))


def refuse_outside(limit: str, value: float, name: str) -> None:
    """Refuse a figure that lies outside what can be."""
    low, high = LIMITS[limit]
    if not low <= value <= high:
        raise InvalidInput(
            f"A {name} of {value:.3g} lies outside {low:g} to {high:g}: was it this bike, this mass, this rider?"
        )
