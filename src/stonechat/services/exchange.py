"""Plans in and out."""

from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from sqlalchemy.orm import Session

from stonechat.core.kit.containers import resolved_places
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.profile import Cleaning, Profile, make_profile, place_on
from stonechat.core.line.stops import Stop
from stonechat.core.line.surface import SURFACE_INDEX
from stonechat.core.plan.beginning import Spoken, begin_plan
from stonechat.core.plan.plan import Plan
from stonechat.db import plans, uploads
from stonechat.demo.corvane import demo_plan
from stonechat.demo.past import NAME as PAST
from stonechat.demo.past import past_plan
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.course_file import CourseChoice, CourseFile, FileLimits, candidate_stops, chosen_track
from stonechat.formats.detect import is_plan, read_course
from stonechat.formats.geojson import write_geojson
from stonechat.formats.gpx import write_gpx
from stonechat.formats.kit_csv import write_kit_rows, write_kit_sheet
from stonechat.formats.kit_sheet import bag_names, write_own_sheet
from stonechat.formats.plan_json import PlanBody, read_plan, write_plan
from stonechat.services.devices import stop_words
from stonechat.services.history import OpenPlan, store_new
from stonechat.services.kit.shelf import keep_items
from stonechat.services.workspace import Workspace

_NOTHING_SAID = Spoken()


@dataclass(frozen=True, kw_only=True)
class Imported:
    """A plan that came in, and what should be said about it."""

    plan_id: UUID
    variant_id: str
    note: str


def _keep(session: Session, plan: Plan, label: str, *, demo: bool = False, mine: bool = True) -> UUID:
    if mine:
        keep_items(session, plan.items, demo=demo)
    return store_new(session, plan, label, demo=demo)


def ensure_demo(workspace: Workspace) -> UUID:
    """Return the demo plan, made if it is not there yet; programs that start side by side make one between them."""
    with workspace.store.transaction() as session:
        plans.one_at_a_time(session)
        for head in plans.list_plans(session):
            if head.demo and head.name != PAST:
                return head.id
        return _keep(session, demo_plan(), "made the demo plan", demo=True)


def ensure_past_race(workspace: Workspace) -> UUID:
    """Return the demo's race of last year, made if it is not there yet."""
    with workspace.store.transaction() as session:
        plans.one_at_a_time(session)
        for head in plans.list_plans(session):
            if head.demo and head.name == PAST:
                return head.id
        return _keep(session, past_plan(), "made the race of last year", demo=True, mine=False)


def import_file(
    workspace: Workspace,
    data: bytes,
    *,
    surface: str = "tarmac",
    choice: CourseChoice | None = None,
    name: str = "",
    spoken: Spoken = _NOTHING_SAID,
    mine: bool = False,
) -> Imported:
    """Make a new plan from a course (GPX, TCX, FIT, GeoJSON) or an exported plan.

    An exported plan may be somebody else's: its things come onto the rider's shelf only where it is said to be `mine`.
    """
    if surface not in SURFACE_INDEX:
        raise InvalidInput(f"“{surface[:30]}” is no surface. Choose one from the list.", subject="surface")
    if is_plan(data):
        plan, note, label = replace(read_plan(data), partner=""), "", "brought the plan in"
        if plan.items and not mine:
            note = f"{plan.name} is here. Its things stay off your shelf; Kit, Shelf takes them onto it."
    else:
        course = read_course_file(workspace, data)
        label, mine = "brought the course in", True
        plan, note = plan_from_course(course, choice or CourseChoice(), surface=surface, name=name, spoken=spoken)
    with workspace.store.transaction() as session:
        plan_id = _keep(session, plan, label, mine=mine)
    return Imported(plan_id=plan_id, variant_id=plan.variants[0].id, note=note or f"{plan.name} is here.")


def same_plans(workspace: Workspace, data: bytes) -> tuple[plans.PlanHead, ...]:
    """Return the plans that stand just as an exported plan does."""
    plan = read_plan(data)
    body = PlanBody.of(plan).model_dump(mode="json")
    with workspace.store.transaction() as session:
        on_it = plans.plans_on_course(session, plans.course_hash_of(plan.line.track))
        return tuple(head for head in on_it if plans.read_plan(session, head.id).body == body)


def plans_of_course(workspace: Workspace, course: CourseFile) -> tuple[plans.PlanHead, ...]:
    """Return the plans over a course that a file brings again; none where it cannot be used as it is."""
    try:
        track = course.track
    except InvalidInput:
        return ()
    with workspace.store.transaction() as session:
        return plans.plans_on_course(session, plans.course_hash_of(track))


def read_course_file(workspace: Workspace, data: bytes) -> CourseFile:
    """Return what a course file holds, within the limits of this program."""
    settings = workspace.settings
    limits = FileLimits(points=settings.track_points_limit, bytes=int(settings.upload_limit_mb * 1e6))
    return read_course(data, limits)


def stage_upload(workspace: Workspace, name: str, data: bytes) -> UUID:
    """Keep a file for a week, to be looked over before it becomes a plan."""
    with workspace.store.transaction() as session:
        return uploads.add_upload(session, name=name[:200] or "course", data=data)


def staged_upload(workspace: Workspace, upload_id: UUID) -> uploads.Upload:
    """Return a file that waits to be looked over."""
    with workspace.store.transaction() as session:
        return uploads.read_upload(session, upload_id)


def import_staged(
    workspace: Workspace, upload_id: UUID, *, surface: str, choice: CourseChoice, name: str, spoken: Spoken
) -> Imported:
    """Make a plan of a file that was looked over."""
    data = staged_upload(workspace, upload_id).data
    imported = import_file(workspace, data, surface=surface, choice=choice, name=name, spoken=spoken)
    with workspace.store.transaction() as session:
        uploads.drop_upload(session, upload_id)
    return imported


def plan_from_course(
    course: CourseFile, choice: CourseChoice, *, surface: str, name: str = "", spoken: Spoken = _NOTHING_SAID
) -> tuple[Plan, str]:
    """Return a new plan over a course, empty where the rider has not spoken, and a note on its stops."""
    track = chosen_track(course, choice)
    profile = make_profile(track=track, cleaning=Cleaning(), default_surface=surface)
    stops, far = candidate_stops(course.waypoints, profile)
    named = name or course.lines[course.longest if choice.line is None else choice.line].name or course.name
    plan = begin_plan(name=named, track=track, surface=surface, stops=stops, spoken=spoken, today=datetime.now())
    return plan, _note(profile, len(stops), far)


def _note(profile: Profile, stops: int, far: tuple[str, ...]) -> str:
    note = f"{profile.length / 1000:.1f} km with {profile.ascent:,.0f} m of climbing, {stops} places from the file."
    if far:
        note += f" Left out, more than 5 km off the course: {', '.join(far[:5])}{' …' if len(far) > 5 else ''}."
    return note


def export_json(opened: OpenPlan) -> bytes:
    """Return the plan as an open document."""
    return write_plan(opened.plan)


def export_gpx(opened: OpenPlan, profile: Profile, ridden: Ridden | None = None) -> bytes:
    """Return the course with its used stops as GPX; with what to leave each with where it is ridden."""
    visits = ridden.timetable.visits[:-1] if ridden else ()
    words = {visit.stop.id: stop_words(ridden, k) for k, visit in enumerate(visits, start=1) if visit.stop and ridden}
    return write_gpx(opened.plan.name, opened.plan.line.track, _placed_stops(opened, profile), words)


def export_geojson(opened: OpenPlan, profile: Profile) -> bytes:
    """Return the course with its used stops as GeoJSON."""
    return write_geojson(opened.plan.name, opened.plan.line.track, _placed_stops(opened, profile))


def _placed_stops(opened: OpenPlan, profile: Profile) -> tuple[tuple[Stop, float, float], ...]:
    """Return each used stop with its latitude and longitude on the course. [°]"""
    return tuple((stop, *place_on(profile, stop.distance)) for stop in opened.plan.line.stops if stop.used)


def export_kit(opened: OpenPlan) -> bytes:
    """Return the kit as CSV."""
    return write_kit_rows(opened.plan.items)


def export_own_sheet(opened: OpenPlan, variant_id: str, *, as_xlsx: bool) -> bytes:
    """Return the kit in the columns of the rider's own table, with the places of a variant."""
    plan, variant = opened.plan, opened.plan.variant(variant_id)
    if not plan.sheet:
        raise NotFound("No table of your own was brought in yet. Bring one in, or take the export of all columns.")
    places = resolved_places(plan.items, variant.places)
    bags = bag_names(plan.items, places, {carrier.id: carrier.name for carrier in variant.carriers})
    return write_own_sheet(plan.items, plan.sheet, bags, as_xlsx=as_xlsx)


def export_kit_sheet(opened: OpenPlan) -> bytes:
    """Return the kit as XLSX."""
    return write_kit_sheet(opened.plan.items)
