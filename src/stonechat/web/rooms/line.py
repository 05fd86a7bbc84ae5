"""Line: the route, its stops, surfaces, weather and rules."""

from datetime import date, datetime
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import JSONResponse, Response

from stonechat.core.line.surface import TYRES
from stonechat.errors import InvalidInput
from stonechat.formats import line_csv
from stonechat.services import exchange
from stonechat.services import line as line_service
from stonechat.services.evaluation import cleaned_profile
from stonechat.services.known_stops import take_stop
from stonechat.web.call import Call, Change, changing, reading
from stonechat.web.contexts.line import COURSE, GROUND, PAINT, RULES, WEATHER, air_view, line_view, profile_points
from stonechat.web.desk import UNNAMED, Look, Room, look_at
from stonechat.web.forms.binding import bind
from stonechat.web.forms.line import NO_PAINT, CleaningForm, PaintForm, RulesForm, StopForm, TrimForm, ground_form
from stonechat.web.forms.weather import days_in, weather_form
from stonechat.web.respond import download, part

router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
ROOM = Room(key="line", name="Line", letter="l", build=line_view, router=router)
Here = Annotated[Call, Depends(reading("line"))]
Changed = Annotated[Change, Depends(changing("line"))]
CSV = "text/csv"


@router.get("/profile.json")
def profile(call: Here) -> Response:
    """Give the profile for the chart."""
    return JSONResponse(profile_points(call.desk()))


@router.get("/course.gpx")
def course(call: Here) -> Response:
    """Give the course with its stops."""
    opened = call.opened
    ridden = call.desk().evaluation.ridden
    data = exchange.export_gpx(opened, cleaned_profile(opened.plan, opened.course_hash), ridden)
    return download(data, name=f"{opened.plan.name}.gpx", media_type="application/gpx+xml")


@router.get("/course.geojson")
def course_geojson(call: Here) -> Response:
    """Give the course with its stops as GeoJSON."""
    opened = call.opened
    data = exchange.export_geojson(opened, cleaned_profile(opened.plan, opened.course_hash))
    return download(data, name=f"{opened.plan.name}.geojson", media_type="application/geo+json")


@router.get("/tables/{table}.csv")
def table(call: Here, table: str) -> Response:
    """Give a table of the line: profile, stops, surfaces, weather, timetable."""
    desk = call.desk()
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
def air(call: Here, km: str = "", at: str = "") -> Response:
    """Say how warm and windy it is at a place and time."""
    desk = call.desk()
    return part("line/_air.html", air=air_view(desk, km, at))


@router.post("/cleaning")
def cleaning(call: Changed) -> Response:
    """Set how heights are cleaned and the surface elsewhere."""
    form = bind(CleaningForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"cleaning": form})
    opened = line_service.set_cleaning(
        call.workspace,
        call.plan_id,
        revision=call.revision,
        cleaning=form.value.to_core(),
        surface=form.value.surface,
    )
    return call.answer(opened, look=Look(tab=COURSE))


@router.post("/reverse")
def reverse(call: Changed) -> Response:
    """Turn the course round."""
    opened = line_service.reverse_course(call.workspace, call.opened, revision=call.revision)
    return call.answer(opened, look=Look(tab=COURSE))


@router.post("/trim")
def trim(call: Changed) -> Response:
    """Keep a stretch of the course."""
    form = bind(TrimForm, call.fields)
    if form.value is not None:
        try:
            opened = line_service.trim_course(
                call.workspace,
                call.opened,
                revision=call.revision,
                start=form.value.start_km * 1000.0,
                end=form.value.end_km * 1000.0,
            )
            return call.answer(opened, look=Look(tab=COURSE))
        except InvalidInput as exc:
            form = form.with_error(exc.subject or "end_km", exc.message)
    return call.refuse(forms={"trim": form})


@router.post("/paint")
def paint(call: Changed) -> Response:
    """Paint a surface over a stretch."""
    form = bind(PaintForm, call.fields)
    desk = call.desk(forms={"paint": form})
    length = desk.evaluation.ridden.way.profile.length
    if form.value is not None and form.value.end_km * 1000.0 > length + 1.0:
        sentence = f"{form.value.end_km:g} km is past the finish at {length / 1000:.1f} km."
        wrong = form.with_error("end_km", sentence)
        desk = call.desk(forms={"paint": wrong})
        return call.show(desk, status=422)
    if form.value is None:
        return call.show(desk, status=422)
    opened = line_service.paint_course(
        call.workspace,
        call.plan_id,
        revision=call.revision,
        start=form.value.start_km * 1000.0,
        end=form.value.end_km * 1000.0,
        surface="" if form.value.surface == NO_PAINT else form.value.surface,
    )
    return call.answer(opened, look=Look(tab=PAINT))


@router.post("/surfaces")
def surfaces(call: Changed) -> Response:
    """Paint the stretches of a table."""
    opened = line_service.import_surfaces(call.workspace, call.opened, revision=call.revision, data=call.file("file"))
    return call.answer(opened, look=Look(tab=PAINT))


@router.post("/ground")
def ground(call: Changed) -> Response:
    """Set what the rider knows better of the surfaces under the variant's tyre."""
    desk = call.desk()
    tyre = desk.variant.bike.tyre
    form = bind(ground_form(tyre, desk.variant.rider.descending), call.fields)
    if form.value is None:
        return call.refuse(forms={"ground": form})
    figures = form.value.to_core(tyre)
    opened = line_service.set_ground(call.workspace, call.plan_id, revision=call.revision, tyre=tyre, ground=figures)
    return call.answer(opened, look=Look(tab=GROUND))


@router.post("/tyre")
def tyre(call: Changed) -> Response:
    """Ride this variant on another tyre."""
    wanted = call.text("tyre")
    if wanted not in TYRES:
        raise InvalidInput("Choose a tyre from the list.", subject="tyre")
    opened = line_service.set_tyre(call.workspace, call.plan_id, call.variant_id, revision=call.revision, tyre=wanted)
    return call.answer(opened, look=Look(tab=GROUND))


@router.post("/weather")
def weather(call: Changed) -> Response:
    """Set the weather by day."""
    form = bind(weather_form(days_in(call.fields)), call.fields)
    if form.value is None:
        return call.refuse(forms={"weather": form})
    known = call.opened.plan.line.weather
    opened = line_service.set_weather(
        call.workspace, call.plan_id, revision=call.revision, weather=form.value.to_core(known)
    )
    return call.answer(opened, look=Look(tab=WEATHER))


@router.post("/weather/ask")
def ask_weather(call: Changed) -> Response:
    """Ask the weather service."""
    try:
        asked = date.fromisoformat(call.text("asked") or datetime.now().date().isoformat())
    except ValueError:
        given = call.text("asked")[:20]
        raise InvalidInput(f"“{given}” is no day of the calendar. Write it as 2027-09-20.", subject="asked") from None
    opened = line_service.ask_weather(call.workspace, call.opened, call.variant_id, revision=call.revision, asked=asked)
    return call.answer(opened, look=Look(tab=WEATHER))


@router.post("/weather/table")
def weather_table(call: Changed) -> Response:
    """Bring the weather in from a table."""
    opened = line_service.import_weather(
        call.workspace, call.opened, call.variant_id, revision=call.revision, data=call.file("file")
    )
    return call.answer(opened, look=Look(tab=WEATHER))


@router.post("/rules")
def rules(call: Changed) -> Response:
    """Set the rules of the race."""
    form = bind(RulesForm, call.fields)
    if form.value is None:
        return call.refuse(forms={"rules": form})
    opened = line_service.set_rules(call.workspace, call.plan_id, revision=call.revision, rules=form.value.to_core())
    return call.answer(opened, look=Look(tab=RULES))


@router.post("/stops.csv")
def stops_table(call: Changed) -> Response:
    """Bring stops in from a table."""
    opened = line_service.import_stops(
        call.workspace,
        call.opened,
        revision=call.revision,
        data=call.file("file"),
        mode=call.text("mode"),
    )
    return call.answer(opened)


@router.post("/stops/{stop_id}")
def change_stop(call: Changed, stop_id: str) -> Response:
    """Change a stop, or add one."""
    form = bind(StopForm, call.fields)
    desk = call.desk(look=look_at(stop_id), forms={"stop": form})
    if form.value is None:
        return call.show(desk, status=422)
    length = desk.evaluation.ridden.way.profile.length
    known = None if stop_id == UNNAMED else line_service.stop_named(desk.opened.plan, stop_id)
    try:
        line_service.refuse_early_cutoff(desk.opened, call.variant_id, form.value.cutoff)
        opened = line_service.set_stop(
            call.workspace, call.plan_id, revision=call.revision, stop=form.value.to_core(known), length=length
        )
    except InvalidInput as exc:
        wrong = form.with_error(exc.subject, exc.message)
        desk = call.desk(look=look_at(stop_id), forms={"stop": wrong})
        return call.show(desk, status=422)
    return call.answer(opened)


@router.post("/stops/{stop_id}/known")
def take_known(call: Changed, stop_id: str) -> Response:
    """Take what an earlier race knows of a stop."""
    opened = take_stop(call.workspace, call.opened, revision=call.revision, stop_id=stop_id)
    return call.answer(opened, note="Its hours, offers and stay are as the earlier race knows them.")


@router.post("/stops/{stop_id}/use")
def use_stop(call: Changed, stop_id: str) -> Response:
    """Use a stop, or pass it by."""
    opened = line_service.use_stop(call.workspace, call.opened, revision=call.revision, stop_id=stop_id)
    return call.answer(opened)


@router.post("/stops/{stop_id}/drop")
def drop_stop(call: Changed, stop_id: str) -> Response:
    """Take a stop off the line."""
    opened = line_service.drop_stop(call.workspace, call.opened, revision=call.revision, stop_id=stop_id)
    return call.answer(opened)
