"""Line: the route, its stops, how it is cleaned."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from stonechat.services import editing, exchange
from stonechat.services.evaluation import cleaned_profile
from stonechat.services.history import open_plan
from stonechat.web.contexts.line import NEW, PAINT, WEATHER, line_view, profile_points
from stonechat.web.desk import Room, open_desk, workspace_of
from stonechat.web.forms.binding import bind
from stonechat.web.forms.line import NO_PAINT, CleaningForm, PaintForm, StopForm
from stonechat.web.forms.weather import days_in, weather_form
from stonechat.web.respond import after_change, download, show
from stonechat.web.rooms.common import SentForm

ROOM = Room(key="line", name="Line", letter="l", build=line_view)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")


@router.get("/profile.json")
def profile(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the profile for the chart."""
    return JSONResponse(profile_points(open_desk(request, plan_id, variant_id, "line")))


@router.get("/course.gpx")
def course(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the course with its stops."""
    opened = open_plan(workspace_of(request), plan_id)
    data = exchange.export_gpx(opened, cleaned_profile(opened.plan, opened.course_hash))
    return download(data, name=f"{opened.plan.name}.gpx", media_type="application/gpx+xml")


@router.get("/course.geojson")
def course_geojson(request: Request, plan_id: UUID, variant_id: str) -> Response:
    """Give the course with its stops as GeoJSON."""
    opened = open_plan(workspace_of(request), plan_id)
    data = exchange.export_geojson(opened, cleaned_profile(opened.plan, opened.course_hash))
    return download(data, name=f"{opened.plan.name}.geojson", media_type="application/geo+json")


@router.post("/cleaning")
def cleaning(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Set how heights are cleaned and the surface elsewhere."""
    form = bind(CleaningForm, sent.fields)
    if form.value is None:
        return show(request, sent.desk(request, plan_id, variant_id, "line", forms={"cleaning": form}), status=422)
    opened = editing.set_cleaning(
        workspace_of(request),
        plan_id,
        revision=sent.revision,
        cleaning=form.value.to_core(),
        surface=form.value.surface,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened))


@router.post("/paint")
def paint(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Paint a surface over a stretch."""
    form = bind(PaintForm, sent.fields)
    desk = sent.desk(request, plan_id, variant_id, "line", forms={"paint": form})
    length = desk.evaluation.ridden.profile.length
    if form.value is not None and form.value.end_km * 1000.0 > length + 1.0:
        sentence = f"{form.value.end_km:g} km is past the finish at {length / 1000:.1f} km."
        wrong = form.with_error("end_km", sentence)
        desk = sent.desk(request, plan_id, variant_id, "line", forms={"paint": wrong})
        return show(request, desk, status=422)
    if form.value is None:
        return show(request, desk, status=422)
    opened = editing.paint_course(
        workspace_of(request),
        plan_id,
        revision=sent.revision,
        start=form.value.start_km * 1000.0,
        end=form.value.end_km * 1000.0,
        surface="" if form.value.surface == NO_PAINT else form.value.surface,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, edit=PAINT))


@router.post("/weather")
def weather(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Set the weather by day."""
    form = bind(weather_form(days_in(sent.fields)), sent.fields)
    if form.value is None:
        return show(request, sent.desk(request, plan_id, variant_id, "line", forms={"weather": form}), status=422)
    opened = editing.set_weather(workspace_of(request), plan_id, revision=sent.revision, weather=form.value.to_core())
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, edit=WEATHER))


@router.post("/stops/{stop_id}")
def change_stop(request: Request, plan_id: UUID, variant_id: str, stop_id: str, sent: SentForm) -> Response:
    """Change a stop, or add one."""
    workspace = workspace_of(request)
    form = bind(StopForm, sent.fields)
    desk = sent.desk(request, plan_id, variant_id, "line", edit=stop_id, forms={"stop": form})
    if form.value is None:
        return show(request, desk, status=422)
    length = desk.evaluation.ridden.profile.length
    if not 0.0 < form.value.distance_km * 1000.0 < length:
        error = f"{form.value.distance_km:g} km is not on the course, which is {length / 1000:.1f} km long."
        wrong = form.with_error("distance_km", error)
        return show(
            request, sent.desk(request, plan_id, variant_id, "line", edit=stop_id, forms={"stop": wrong}), status=422
        )
    known = None if stop_id == NEW else editing.stop_named(desk.opened.plan, stop_id)
    opened = editing.set_stop(workspace, plan_id, revision=sent.revision, stop=form.value.to_core(known), length=length)
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened))


@router.post("/stops/{stop_id}/use")
def use_stop(request: Request, plan_id: UUID, variant_id: str, stop_id: str, sent: SentForm) -> Response:
    """Use a stop, or pass it by."""
    workspace = workspace_of(request)
    opened = editing.use_stop(workspace, open_plan(workspace, plan_id), revision=sent.revision, stop_id=stop_id)
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened))
