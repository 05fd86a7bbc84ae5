"""Stops that an earlier race knows: by place and not by name, the newer race first, taken once."""

from dataclasses import replace
from uuid import UUID

import pytest

from stonechat.core.diary.debrief import Debrief
from stonechat.core.plan.plan import Plan
from stonechat.errors import NotFound
from stonechat.services import plans
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.known_stops import HOURS, NOTED, known_stops, take_stop
from stonechat.services.workspace import Workspace
from tests.services.test_memory import own


def told(workspace: Workspace, plan_id: UUID, stop_id: str, **changes: object) -> None:
    """Let a race know one of its stops otherwise."""
    now = open_plan(workspace, plan_id)

    def change(plan: Plan) -> Plan:
        stops = tuple(
            replace(stop, **changes) if stop.id == stop_id else stop  # type: ignore[arg-type]
            for stop in plan.line.stops
        )
        return replace(plan, line=replace(plan.line, stops=stops))

    change_plan(workspace, plan_id, revision=now.revision, label="found", change=change)


@pytest.fixture
def races(workspace: Workspace, opened: OpenPlan) -> tuple[UUID, UUID, UUID]:
    """An older race, a newer one, and the plan of the next."""
    debrief = {"debrief": Debrief(worked="all of it")}
    older = own(workspace, opened, days=-400, change=dict(debrief))
    newer = own(workspace, opened, days=-40, change=dict(debrief))
    return older, newer, own(workspace, opened)


def test_the_newest_race_speaks_and_is_taken(workspace: Workspace, races: tuple[UUID, UUID, UUID]) -> None:
    older, newer, here = races
    assert known_stops(workspace, open_plan(workspace, here)) == ()
    week = tuple(((9 * 3600.0, 12 * 3600.0),) for _ in range(7))
    told(workspace, older, "kemmer", note="shut on race day")
    told(workspace, newer, "kemmer", hours=week, name="Kemmer, the shop by the bridge", note="opens at nine")
    known = known_stops(workspace, open_plan(workspace, here))
    assert [(one.stop.id, one.differs) for one in known] == [("kemmer", (HOURS, NOTED))]
    now = take_stop(
        workspace, open_plan(workspace, here), revision=open_plan(workspace, here).revision, stop_id="kemmer"
    )
    taken = next(stop for stop in now.plan.line.stops if stop.id == "kemmer")
    assert (taken.hours, taken.note, taken.name) == (week, "opens at nine", known[0].stop.name)
    assert known_stops(workspace, now) == ()
    with pytest.raises(NotFound, match="No earlier race"):
        take_stop(workspace, now, revision=now.revision, stop_id="kemmer")


def test_another_place_of_the_same_name_is_another_stop(workspace: Workspace, races: tuple[UUID, UUID, UUID]) -> None:
    _, newer, here = races
    place = next(stop for stop in open_plan(workspace, newer).plan.line.stops if stop.id == "kemmer")
    told(workspace, newer, "kemmer", note="opens at nine", distance=place.distance + 5_000.0)
    assert known_stops(workspace, open_plan(workspace, here)) == ()
    told(workspace, newer, "kemmer", distance=place.distance + 150.0)
    told(workspace, newer, "kemmer", kind="tap", name="tap behind the church")
    assert known_stops(workspace, open_plan(workspace, here)) == ()
    told(workspace, newer, "kemmer", name=place.name)
    assert [one.stop.id for one in known_stops(workspace, open_plan(workspace, here))] == ["kemmer"]


def test_the_demo_and_later_races_say_nothing(workspace: Workspace, opened: OpenPlan) -> None:
    later = own(workspace, opened, days=40, change={"debrief": Debrief(worked="all")})
    told(workspace, later, "kemmer", note="from the future")
    here = open_plan(workspace, plans.duplicate_plan(workspace, opened.id))
    assert known_stops(workspace, here) == () == known_stops(workspace, opened)
