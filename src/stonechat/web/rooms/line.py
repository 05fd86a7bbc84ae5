"""Line: the route, its stops, surfaces, weather and rules."""

from datetime import date, datetime
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse, Response

from stonechat.core.line.surface import TYRES
from stonechat.errors import InvalidInput
from stonechat.formats import line_csv
from stonechat.services import exchange, routing
from stonechat.services.evaluation import cleaned_profile
from stonechat.services.history import open_plan
from stonechat.web.contexts.line import COURSE, GROUND, PAINT, RULES, WEATHER, air_view, line_view, profile_points
from stonechat.web.desk import UNNAMED, Look, Room, look_at, open_desk, workspace_of
from stonechat.web.forms.binding import bind
from stonechat.web.forms.line import NO_PAINT, CleaningForm, PaintForm, RulesForm, StopForm, TrimForm, ground_form
from stonechat.web.forms.weather import days_in, weather_form
from stonechat.web.respond import after_change, download, render, show
from stonechat.web.rooms.common import SentForm

ROOM = Room(key="line", name="Line", letter="l", build=line_view)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
CSV = "text/csv"


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


@router.get("/tables/{table}.csv")
def table(request: Request, plan_id: UUID, variant_id: str, table: str) -> Response:
    """Give a table of the line: profile, stops, surfaces, weather, timetable."""
    desk = open_desk(request, plan_id, variant_id, "line")
    line, ridden = desk.opened.plan.line, desk.evaluation.ridden
    tables = {
        "profile": lambda: line_csv.write_profile(ridden.way.profile),
        "stops": lambda: line_csv.write_stops(line.stops),
        "surfaces": lambda: line_csv.write_surfaces(line.spans),
        "weather": lambda: line_csv.write_weather(line.weather.days, ridden.way.start.date()),
        "timetable": lambda: line_csv.write_timetable(ridden),
    }
    if table not in tables:
        raise InvalidInput(f"There is no table “{table[:30]}”. There are: {', '.join(tables)}.")
    return download(tables[table](), name=f"{desk.opened.plan.name} {table}.csv", media_type=CSV)


@router.get("/air")
def air(request: Request, plan_id: UUID, variant_id: str, km: str = "", at: str = "") -> Response:
    """Say how warm and windy it is at a place and time."""
    desk = open_desk(request, plan_id, variant_id, "line")
    return HTMLResponse(render("line/_air.html", air=air_view(desk, km, at)), headers={"Cache-Control": "no-store"})


@router.post("/cleaning")
def cleaning(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Set how heights are cleaned and the surface elsewhere."""
    form = bind(CleaningForm, sent.fields)
    if form.value is None:
        return show(request, sent.desk(request, plan_id, variant_id, "line", forms={"cleaning": form}), status=422)
    opened = routing.set_cleaning(
        workspace_of(request),
        plan_id,
        revision=sent.revision,
        cleaning=form.value.to_core(),
        surface=form.value.surface,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=COURSE)))


@router.post("/reverse")
def reverse(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Turn the course round."""
    workspace = workspace_of(request)
    opened = routing.reverse_course(workspace, open_plan(workspace, plan_id), revision=sent.revision)
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=COURSE)))


@router.post("/trim")
def trim(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Keep a stretch of the course."""
    workspace = workspace_of(request)
    form = bind(TrimForm, sent.fields)
    if form.value is not None:
        try:
            opened = routing.trim_course(
                workspace,
                open_plan(workspace, plan_id),
                revision=sent.revision,
                start=form.value.start_km * 1000.0,
                end=form.value.end_km * 1000.0,
            )
            return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=COURSE)))
        except InvalidInput as exc:
            form = form.with_error(exc.subject or "end_km", exc.message)
    return show(request, sent.desk(request, plan_id, variant_id, "line", forms={"trim": form}), status=422)


@router.post("/paint")
def paint(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Paint a surface over a stretch."""
    form = bind(PaintForm, sent.fields)
    desk = sent.desk(request, plan_id, variant_id, "line", forms={"paint": form})
    length = desk.evaluation.ridden.way.profile.length
    if form.value is not None and form.value.end_km * 1000.0 > length + 1.0:
        sentence = f"{form.value.end_km:g} km is past the finish at {length / 1000:.1f} km."
        wrong = form.with_error("end_km", sentence)
        desk = sent.desk(request, plan_id, variant_id, "line", forms={"paint": wrong})
        return show(request, desk, status=422)
    if form.value is None:
        return show(request, desk, status=422)
    opened = routing.paint_course(
        workspace_of(request),
        plan_id,
        revision=sent.revision,
        start=form.value.start_km * 1000.0,
        end=form.value.end_km * 1000.0,
        surface="" if form.value.surface == NO_PAINT else form.value.surface,
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=PAINT)))


@router.post("/surfaces")
def surfaces(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Paint the stretches of a table."""
    workspace = workspace_of(request)
    opened = routing.import_surfaces(
        workspace, open_plan(workspace, plan_id), revision=sent.revision, data=sent.file("file")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=PAINT)))


@router.post("/ground")
def ground(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Set what the rider knows better of the surfaces under the variant's tyre."""
    desk = sent.desk(request, plan_id, variant_id, "line")
    tyre = desk.variant.bike.tyre
    form = bind(ground_form(tyre, desk.variant.rider.descending), sent.fields)
    if form.value is None:
        return show(request, sent.desk(request, plan_id, variant_id, "line", forms={"ground": form}), status=422)
    figures = form.value.to_core(tyre)
    opened = routing.set_ground(workspace_of(request), plan_id, revision=sent.revision, tyre=tyre, ground=figures)
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=GROUND)))


@router.post("/tyre")
def tyre(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Ride this variant on another tyre."""
    wanted = sent.text("tyre")
    if wanted not in TYRES:
        raise InvalidInput("Choose a tyre from the list.", subject="tyre")
    opened = routing.set_tyre(workspace_of(request), plan_id, variant_id, revision=sent.revision, tyre=wanted)
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=GROUND)))


@router.post("/weather")
def weather(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Set the weather by day."""
    form = bind(weather_form(days_in(sent.fields)), sent.fields)
    if form.value is None:
        return show(request, sent.desk(request, plan_id, variant_id, "line", forms={"weather": form}), status=422)
    workspace = workspace_of(request)
    known = open_plan(workspace, plan_id).plan.line.weather
    opened = routing.set_weather(workspace, plan_id, revision=sent.revision, weather=form.value.to_core(known))
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=WEATHER)))


@router.post("/weather/ask")
def ask_weather(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Ask the weather service."""
    try:
        asked = date.fromisoformat(sent.text("asked") or datetime.now().date().isoformat())
    except ValueError:
        given = sent.text("asked")[:20]
        raise InvalidInput(f"“{given}” is no day of the calendar. Write it as 2027-09-20.", subject="asked") from None
    workspace = workspace_of(request)
    opened = routing.ask_weather(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, asked=asked
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=WEATHER)))


@router.post("/weather/table")
def weather_table(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Bring the weather in from a table."""
    workspace = workspace_of(request)
    opened = routing.import_weather(
        workspace, open_plan(workspace, plan_id), variant_id, revision=sent.revision, data=sent.file("file")
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=WEATHER)))


@router.post("/rules")
def rules(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Set the rules of the race."""
    form = bind(RulesForm, sent.fields)
    if form.value is None:
        return show(request, sent.desk(request, plan_id, variant_id, "line", forms={"rules": form}), status=422)
    opened = routing.set_rules(workspace_of(request), plan_id, revision=sent.revision, rules=form.value.to_core())
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened, look=Look(tab=RULES)))


@router.post("/stops.csv")
def stops_table(request: Request, plan_id: UUID, variant_id: str, sent: SentForm) -> Response:
    """Bring stops in from a table."""
    workspace = workspace_of(request)
    opened = routing.import_stops(
        workspace,
        open_plan(workspace, plan_id),
        revision=sent.revision,
        data=sent.file("file"),
        mode=sent.text("mode"),
    )
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened))


@router.post("/stops/{stop_id}")
def change_stop(request: Request, plan_id: UUID, variant_id: str, stop_id: str, sent: SentForm) -> Response:
    """Change a stop, or add one."""
    workspace = workspace_of(request)
    form = bind(StopForm, sent.fields)
    desk = sent.desk(request, plan_id, variant_id, "line", look=look_at(stop_id), forms={"stop": form})
    if form.value is None:
        return show(request, desk, status=422)
    length = desk.evaluation.ridden.way.profile.length
    known = None if stop_id == UNNAMED else routing.stop_named(desk.opened.plan, stop_id)
    try:
        routing.refuse_early_cutoff(desk.opened, variant_id, form.value.cutoff)
        opened = routing.set_stop(
            workspace, plan_id, revision=sent.revision, stop=form.value.to_core(known), length=length
        )
    except InvalidInput as exc:
        wrong = form.with_error(exc.subject, exc.message)
        desk = sent.desk(request, plan_id, variant_id, "line", look=look_at(stop_id), forms={"stop": wrong})
        return show(request, desk, status=422)
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened))


@router.post("/stops/{stop_id}/use")
def use_stop(request: Request, plan_id: UUID, variant_id: str, stop_id: str, sent: SentForm) -> Response:
    """Use a stop, or pass it by."""
    workspace = workspace_of(request)
    opened = routing.use_stop(workspace, open_plan(workspace, plan_id), revision=sent.revision, stop_id=stop_id)
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened))


@router.post("/stops/{stop_id}/drop")
def drop_stop(request: Request, plan_id: UUID, variant_id: str, stop_id: str, sent: SentForm) -> Response:
    """Take a stop off the line."""
    workspace = workspace_of(request)
    opened = routing.drop_stop(workspace, open_plan(workspace, plan_id), revision=sent.revision, stop_id=stop_id)
    return after_change(request, sent.desk(request, plan_id, variant_id, "line", opened))
