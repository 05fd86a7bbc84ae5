"""Changes of the line through the database: cut, turn, tables, weather; each undone again."""

from dataclasses import replace
from datetime import date, datetime, timedelta

import numpy as np
import pytest

from stonechat.core.line.surface import GroundFigures
from stonechat.errors import InvalidInput, NotFound, Unavailable, UnreadableFile
from stonechat.formats.line_csv import write_stops, write_surfaces
from stonechat.outside.weather import DailyReport, Place, SimulatedWeather
from stonechat.services import history
from stonechat.services import line as line_service
from stonechat.services.evaluation import cleaned_profile, evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace


def same(one: OpenPlan, other: OpenPlan) -> bool:
    """Whether two plans hold the same, the recorded course included."""
    return one.content == other.content and one.course_hash == other.course_hash


def undone(workspace: Workspace, opened: OpenPlan) -> OpenPlan:
    return history.undo(workspace, opened.id, revision=opened.revision)


def test_a_course_turned_round_twice_is_the_course_and_undo_brings_it_back(
    workspace: Workspace, opened: OpenPlan
) -> None:
    turned = line_service.reverse_course(workspace, opened, revision=opened.revision)
    before, after = (cleaned_profile(entry.plan, entry.course_hash) for entry in (opened, turned))
    assert after.length == pytest.approx(before.length, abs=0.01)
    # cut at other places
    mirrored = np.interp(before.length - before.distances, after.distances, after.heights)
    assert mirrored == pytest.approx(before.heights, abs=1.5)
    for stop in turned.plan.line.stops:
        old = line_service.stop_named(opened.plan, stop.id)
        assert stop.distance == pytest.approx(before.length - old.distance)
    at = [stop.distance for stop in turned.plan.line.stops]
    assert at == sorted(at)
    # what was hike-a-bike stays it, at the same places seen from the other side
    metres = [np.bincount(p.surfaces, weights=p.lengths).tolist() for p in (after, before)]
    assert metres[0] == pytest.approx(metres[1], abs=300.0)
    again = line_service.reverse_course(workspace, turned, revision=turned.revision)
    assert np.array_equal(again.plan.line.track.heights, opened.plan.line.track.heights)
    assert again.course_hash == opened.course_hash != turned.course_hash
    first = history.undo(workspace, opened.id, revision=again.revision)
    assert first.course_hash == turned.course_hash
    assert same(history.undo(workspace, opened.id, revision=first.revision), opened)


def test_cutting_the_course_takes_what_lies_outside_with_it(workspace: Workspace, opened: OpenPlan) -> None:
    rhythm = replace(opened.plan.variants[0].rhythm, sleep_at={"ostrel": 3_600.0, "tazzle": 7_200.0})
    from stonechat.services import rhythm as rhythm_service

    slept = rhythm_service.set_rhythm(
        workspace, opened.id, "a", revision=opened.revision, label="sleep", change=lambda _: rhythm
    )
    cut = line_service.trim_course(workspace, slept, revision=slept.revision, start=100_000.0, end=500_000.0)
    assert evaluated(cut, "a").ridden.way.profile.length == pytest.approx(400_000.0, abs=1.0)
    kept = [stop for stop in opened.plan.line.stops if 100_000.0 < stop.distance < 500_000.0]
    assert [stop.id for stop in cut.plan.line.stops] == [stop.id for stop in kept]
    assert cut.plan.line.stops[0].distance == pytest.approx(kept[0].distance - 100_000.0)
    assert all(0.0 <= span.start < span.end <= 400_000.0 for span in cut.plan.line.spans)
    assert set(cut.plan.variants[0].rhythm.sleep_at) == {"tazzle"}  # Ostrel is gone, with what was set for it
    assert same(undone(workspace, cut), slept)


@pytest.mark.parametrize(("start", "end"), [(-1.0, 9e5), (5e5, 4e5), (0.0, 2e6), (1e5, 1.0001e5)])
def test_a_stretch_that_cannot_be_kept_is_said(
    workspace: Workspace, opened: OpenPlan, start: float, end: float
) -> None:
    with pytest.raises(InvalidInput, match=r"begins before it ends|less than 100 m"):
        line_service.trim_course(workspace, opened, revision=opened.revision, start=start, end=end)
    assert open_plan(workspace, opened.id).revision == opened.revision


def test_stops_of_a_table_join_or_take_the_place_of_the_others(workspace: Workspace, opened: OpenPlan) -> None:
    table = b"name,km,offers,stay_min\nTazzle,402,water,9\nNew tap,50,water,\n"
    added = line_service.import_stops(workspace, opened, revision=opened.revision, data=table, mode="add")
    assert len(added.plan.line.stops) == 27
    tazzle = line_service.stop_named(added.plan, "tazzle")
    assert (tazzle.distance, tazzle.dwell, tazzle.offers) == (402_000.0, 540.0, frozenset({"water"}))
    swapped = line_service.import_stops(workspace, added, revision=added.revision, data=table, mode="replace")
    assert [stop.name for stop in swapped.plan.line.stops] == ["New tap", "Tazzle"]
    same = write_stops(opened.plan.line.stops)
    back = line_service.import_stops(workspace, swapped, revision=swapped.revision, data=same, mode="replace")
    assert back.plan.line.stops == opened.plan.line.stops


def test_surfaces_of_a_table_are_painted_over_the_others(workspace: Workspace, opened: OpenPlan) -> None:
    table = b"from_km,to_km,surface\n0,10,sand or mud\n"
    painted = line_service.import_surfaces(workspace, opened, revision=opened.revision, data=table)
    assert painted.plan.line.spans[0].surface == "sand_mud"
    assert painted.plan.line.spans[1:] == opened.plan.line.spans
    assert evaluated(painted, "a").ridden.ledger.moving > evaluated(opened, "a").ridden.ledger.moving
    again = line_service.import_surfaces(
        workspace, painted, revision=painted.revision, data=write_surfaces(painted.plan.line.spans)
    )
    assert again.revision == painted.revision  # nothing changed, so no step


def test_better_known_ground_and_wider_tyres_change_the_time(workspace: Workspace, opened: OpenPlan) -> None:
    def moving(entry: OpenPlan) -> float:
        return evaluated(entry, "a").ridden.ledger.moving

    softer = (GroundFigures(tyre="gravel", surface="smooth_gravel", rolling=0.02),)
    slow = line_service.set_ground(workspace, opened.id, revision=opened.revision, tyre="gravel", ground=softer)
    assert moving(slow) > moving(opened)
    # another tyre has figures of its own, so those for the first do not count there
    wide = line_service.set_tyre(workspace, opened.id, "a", revision=slow.revision, tyre="wide")
    plain = line_service.set_ground(workspace, opened.id, revision=wide.revision, tyre="gravel", ground=())
    assert moving(plain) == pytest.approx(moving(wide), abs=1e-6)
    caps = (GroundFigures(tyre="wide", surface="tarmac", cap=6.0),)
    careful = line_service.set_ground(workspace, opened.id, revision=plain.revision, tyre="wide", ground=caps)
    assert moving(careful) > moving(plain)


def test_the_service_is_asked_for_the_days_of_the_race(workspace: Workspace, opened: OpenPlan) -> None:
    asked = date(2027, 9, 22)
    told = line_service.ask_weather(workspace, opened, "a", revision=opened.revision, asked=asked)
    days = told.plan.line.weather.days
    assert len(days) >= evaluated(opened, "a").ridden.ledger.finish / 86_400
    assert "asked on 22 September 2027: forecast" in told.plan.line.weather.source
    assert days[0].temp_band < days[-1].temp_band
    place = Place(latitude=44.6, longitude=-28.4, height=500.0)
    own = SimulatedWeather().daily(place, date(2027, 9, 24), 1, asked)[0].weather
    assert days[0].temp_low == pytest.approx(own.temp_low, abs=3.0)  # the same region


class Silent:
    """A service that does not answer."""

    def daily(self, place: Place, first: date, count: int, asked: date) -> tuple[DailyReport, ...]:
        raise Unavailable("The weather service does not answer. Nothing was changed; try again, or give your own.")


def test_a_service_that_fails_changes_nothing(workspace: Workspace, opened: OpenPlan) -> None:
    with pytest.raises(Unavailable, match="does not answer"):
        line_service.ask_weather(
            replace(workspace, weather=Silent()), opened, "a", revision=opened.revision, asked=date(2027, 9, 1)
        )
    assert open_plan(workspace, opened.id) == opened


def test_a_table_without_the_day_of_the_start_is_refused(workspace: Workspace, opened: OpenPlan) -> None:
    with pytest.raises(UnreadableFile, match="no row for 24 September 2027"):
        line_service.import_weather(
            workspace, opened, "a", revision=opened.revision, data=b"date,low_c,high_c\n2026-01-01,1,2\n"
        )


def test_a_cut_off_before_the_start_is_refused(opened: OpenPlan) -> None:
    start = opened.plan.variants[0].rhythm.start
    line_service.refuse_early_cutoff(opened, "a", start + timedelta(hours=1))
    line_service.refuse_early_cutoff(opened, "a", None)
    with pytest.raises(InvalidInput, match="is past before the start"):
        line_service.refuse_early_cutoff(opened, "a", datetime(2026, 9, 26, 18, 0))


def test_a_stop_is_taken_off_with_what_was_set_for_it(workspace: Workspace, opened: OpenPlan) -> None:
    gone = line_service.drop_stop(workspace, opened, revision=opened.revision, stop_id="ostrel")
    with pytest.raises(NotFound):
        line_service.stop_named(gone.plan, "ostrel")
    assert same(undone(workspace, gone), opened)


def test_stops_of_one_name_are_told_apart_by_where_they_are(workspace: Workspace, opened: OpenPlan) -> None:
    table = b"name,km,offers\nWell,100,water\nWell,200,water\nTazzle,402,water\nTazzle,700,water\n"
    added = line_service.import_stops(workspace, opened, revision=opened.revision, data=table, mode="add")
    ids = [stop.id for stop in added.plan.line.stops]
    assert len(ids) == len(set(ids)) == len(opened.plan.line.stops) + 3
    wells = [stop.id for stop in added.plan.line.stops if stop.name == "Well"]
    again = line_service.import_stops(workspace, added, revision=added.revision, data=table, mode="replace")
    assert [stop.id for stop in again.plan.line.stops if stop.name == "Well"] == wells
