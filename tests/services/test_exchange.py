"""Plans and kits in and out through the database."""

import json

import pytest

from stonechat.errors import InvalidInput, StonechatError
from stonechat.services import exchange, plans
from stonechat.services.evaluation import cleaned_profile, evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace
from tests.formats.test_gpx import DAMAGED, course


def test_a_course_becomes_a_plan_with_its_stops_and_nothing_of_the_demo(workspace: Workspace) -> None:
    places = '<wpt lat="45.0180" lon="7.0"><name>Tap</name></wpt><wpt lat="46.5" lon="7"><name>Far inn</name></wpt>'
    imported = exchange.import_file(workspace, course(400, waypoints=places), surface="smooth_gravel")
    assert "20.0 km" in imported.note and "1 places" in imported.note and "Far inn" in imported.note
    opened = open_plan(workspace, imported.plan_id)
    ridden = evaluated(opened, imported.variant_id).ridden
    assert ridden.way.stops[0].name == "Tap"
    assert ridden.ledger.finish > 0 and ridden.kit.items == () and ridden.rig.carriers == ()


def test_an_exported_plan_comes_back_equal_and_is_a_plan_of_its_own(workspace: Workspace, opened: OpenPlan) -> None:
    data = exchange.export_json(opened)
    again = open_plan(workspace, exchange.import_file(workspace, data).plan_id)
    assert again.id != opened.id
    assert json.loads(exchange.export_json(again)) == json.loads(data)


@pytest.mark.parametrize("name", sorted(DAMAGED))
def test_a_damaged_file_changes_nothing(workspace: Workspace, name: str) -> None:
    with pytest.raises(StonechatError):
        exchange.import_file(workspace, DAMAGED[name][0])
    assert plans.list_plans(workspace) == ()


def test_the_course_goes_out_with_its_stops_and_comes_in_with_them(workspace: Workspace, opened: OpenPlan) -> None:
    data = exchange.export_gpx(opened, cleaned_profile(opened.plan, opened.course_hash))
    again = open_plan(workspace, exchange.import_file(workspace, data).plan_id)
    theirs = {stop.name: stop.distance for stop in again.plan.line.stops}
    assert len(theirs) == 26
    for stop in opened.plan.line.stops:
        assert theirs[stop.name] == pytest.approx(stop.distance, abs=250.0)


def test_an_unknown_surface_is_refused(workspace: Workspace) -> None:
    with pytest.raises(InvalidInput, match="no surface"):
        exchange.import_file(workspace, course(), surface="lava")
