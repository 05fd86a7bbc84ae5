"""What the rider's other plans know of this course's stops: hours, offers and stays at the same place."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

import numpy as np

from stonechat.core.diary.notes import Note
from stonechat.core.line.profile import Profile
from stonechat.core.line.stops import Stop
from stonechat.core.line.track import step_lengths
from stonechat.core.plan.plan import Plan, Variant
from stonechat.errors import NotFound
from stonechat.services.evaluation import cleaned_profile
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.kept import Kept
from stonechat.services.memory import earlier_races
from stonechat.services.workspace import Workspace

HOURS, OFFERED, STAY, NOTED = "hours", "offers", "stay", "note"
_NEAR = 400.0  # m within which two stops are one place (estimate)
_AT = 800.0  # m from a stop within which a note speaks of it (estimate)
_MOST_RACES = 6
_MOST_NOTES = 3  # of a stop that are told


@dataclass(frozen=True, kw_only=True)
class KnownStop:
    """One stop of this plan as an earlier race knows it."""

    stop: Stop  # here
    other: Stop  # there
    plan: str
    plan_id: UUID
    variant_id: str
    notes: tuple[Note, ...]  # that were made there
    differs: tuple[str, ...]  # HOURS, OFFERED, STAY, NOTED: what is known otherwise there


_KNOWN: Kept[tuple[KnownStop, ...]] = Kept(16)


def known_stops(workspace: Workspace, opened: OpenPlan) -> tuple[KnownStop, ...]:
    """Return stops that an earlier race knows more or otherwise of, or has notes of; the newest race speaks."""
    races = earlier_races(workspace, opened)[:_MOST_RACES]
    key = (opened.content, tuple((race.content, variant.id) for race, variant in races))
    return _KNOWN.of(key, lambda: _known(opened, races))


def _known(opened: OpenPlan, races: Sequence[tuple[OpenPlan, Variant]]) -> tuple[KnownStop, ...]:
    here = _positions(opened.plan, cleaned_profile(opened.plan, opened.course_hash))
    found: dict[str, KnownStop | None] = {}  # None: the newest race that knows it knows what is known here
    for race, variant in races:
        there = _positions(race.plan, cleaned_profile(race.plan, race.course_hash))
        for stop, at in here:
            other = _same_place(stop, at, there)
            if other is None or stop.id in found:
                continue
            notes = tuple(note for note in variant.diary if abs(note.distance - other.distance) <= _AT)
            differs = _differs(stop, other)
            if differs or notes:
                found[stop.id] = KnownStop(
                    stop=stop,
                    other=other,
                    plan=race.plan.name,
                    plan_id=race.id,
                    variant_id=variant.id,
                    notes=notes[:_MOST_NOTES],
                    differs=differs,
                )
            elif other.hours is not None or other.note:
                found[stop.id] = None
    return tuple(one for one in found.values() if one is not None)


def _positions(plan: Plan, profile: Profile) -> list[tuple[Stop, tuple[float, float]]]:
    """Return stops with where they lie. [°]"""
    at = [stop.distance for stop in plan.line.stops]
    lats, lons = (np.interp(at, profile.distances, values) for values in (profile.latitudes, profile.longitudes))
    return [
        (stop, (float(lat), float(lon))) for stop, lat, lon in zip(plan.line.stops, lats, lons, strict=True)
    ]  # fmt: skip


def _same_place(stop: Stop, at: tuple[float, float], there: list[tuple[Stop, tuple[float, float]]]) -> Stop | None:
    """Return the nearest stop close by of the same kind or name: a tap beside a shop is no shop."""

    def apart(place: tuple[float, float]) -> float:
        return float(step_lengths(*(np.array(pair) for pair in zip(at, place, strict=True)))[0])

    alike = [entry for entry in there if entry[0].kind == stop.kind or entry[0].name == stop.name]
    best = min(alike, key=lambda entry: apart(entry[1]), default=None)
    return best[0] if best is not None and apart(best[1]) <= _NEAR else None


def _differs(stop: Stop, other: Stop) -> tuple[str, ...]:
    """Return what the earlier race knows more or otherwise of: nothing where it knows less."""
    own_doors = bool(other.hours_by) and dict(other.hours_by) != dict(stop.hours_by)
    told = {
        HOURS: own_doors or (other.hours is not None and other.hours != stop.hours),
        OFFERED: bool(other.offers) and other.offers != stop.offers,
        STAY: other.dwell is not None and other.dwell != stop.dwell,
        NOTED: bool(other.note) and other.note != stop.note,
    }
    return tuple(key for key, holds in told.items() if holds)


def take_stop(workspace: Workspace, opened: OpenPlan, *, revision: int, stop_id: str) -> OpenPlan:
    """Take what an earlier race knows of a stop; what it does not know stays as it is here."""
    known = next((one for one in known_stops(workspace, opened) if one.stop.id == stop_id), None)
    if known is None or not known.differs:
        raise NotFound("No earlier race knows that stop otherwise any more. Load the page again.", subject=stop_id)
    other = known.other

    def change(plan: Plan) -> Plan:
        stops = tuple(_as_known(stop, other) if stop.id == stop_id else stop for stop in plan.line.stops)
        return replace(plan, line=replace(plan.line, stops=stops))

    label = f"took {known.stop.name} as {known.plan} knows it"
    return change_plan(workspace, opened.id, revision=revision, label=label[:120], change=change)


def _as_known(stop: Stop, other: Stop) -> Stop:
    return replace(
        stop,
        hours=other.hours or stop.hours,
        hours_by=other.hours_by or stop.hours_by,
        offers=other.offers or stop.offers,
        dwell=stop.dwell if other.dwell is None else other.dwell,
        note=other.note or stop.note,
        read=frozenset(),
    )
