"""Sound files of every format that comes in, to be damaged."""

from collections.abc import Callable
from random import Random

from stonechat.core.plan.plan import Plan
from stonechat.formats.kit_csv import write_kit_rows, write_kit_sheet
from stonechat.formats.line_csv import write_stops, write_surfaces, write_weather
from stonechat.formats.plan_json import write_plan
from tests.faults.damage import damaged, damaged_inside, damaged_json
from tests.formats.test_fit import fit
from tests.formats.test_gpx import course
from tests.formats.test_other_courses import geojson, tcx

Damage = Callable[[bytes, Random], bytes]
PLACES = '<wpt lat="45.0090" lon="7.0010"><name>Old fountain</name><cmt>Mo-Sa 06:30-13:00</cmt></wpt>'


def seeds(plan: Plan) -> dict[str, tuple[str, str, bytes, tuple[Damage, ...]]]:
    """Return for each format where it is sent, in which field, a sound file, and the ways to damage it."""
    line, start = plan.line, plan.variants[0].rhythm.start.date()
    to = "/plans/{plan}/{variant}/do"
    return {
        "GPX": ("/plans", "file", course(60, waypoints=PLACES), (damaged,)),
        "TCX": ("/plans", "file", tcx(), (damaged,)),
        "FIT": ("/plans", "file", fit(), (damaged,)),
        "GeoJSON": ("/plans", "file", geojson(), (damaged, damaged_json)),
        "plan JSON": ("/plans", "file", write_plan(plan), (damaged, damaged_json, damaged_json)),
        "kit CSV": (f"{to}/kit", "file", write_kit_rows(plan.items), (damaged,)),
        "kit XLSX": (f"{to}/kit", "file", write_kit_sheet(plan.items[:20]), (damaged, damaged_inside, damaged_inside)),
        "stops CSV": (f"{to}/stops.csv", "file", write_stops(line.stops), (damaged,)),
        "surfaces CSV": (f"{to}/surfaces", "file", write_surfaces(line.spans), (damaged,)),
        "weather CSV": (f"{to}/weather/table", "file", write_weather(line.weather.days, start), (damaged,)),
    }
