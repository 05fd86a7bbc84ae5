"""The Diary over the wire: rides and figures, the replay, the plan of the rest, the debrief, the loaded ride."""

import io
import re
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

from stonechat.core.diary.shakedown import Shakedown
from stonechat.core.plan.plan import Plan, Variant
from stonechat.outside.bike_computer import SimulatedComputer, TrueRace, true_race
from stonechat.services import exchange, replay
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.kit.shelf import shelf_items
from stonechat.services.plans import duplicate_plan
from stonechat.services.workspace import Workspace
from tests.core.diary.test_truth import LAPS, LOOP, rider
from tests.oracles.rides import Hills, Recorded, ride

HTMX = {"HX-Request": "true"}


def send(client: TestClient, opened: OpenPlan, path: str, file: bytes | None = None, **fields: str) -> tuple[int, str]:
    now = client.get(f"/plans/{opened.id}/a/diary").text
    revision = re.search(r'name="revision" value="(\d+)"', now)
    assert revision
    files = {"file": ("ride.gpx", file, "application/gpx+xml")} if file is not None else None
    data = {"revision": revision[1], **fields}
    answer = client.post(f"/plans/{opened.id}/a/do/{path}", data=data, files=files, headers=HTMX)
    return answer.status_code, answer.text + "".join(f" {k}={v}" for k, v in answer.headers.items())


def say(client: TestClient, opened: OpenPlan, said: list[str]) -> int:
    now = client.get(f"/plans/{opened.id}/a/diary").text
    revision = re.search(r'name="revision" value="(\d+)"', now)
    assert revision
    data = {"revision": revision[1], "said": said}
    return client.post(f"/plans/{opened.id}/a/do/debrief-things", data=data, headers=HTMX).status_code


def variant_of(workspace: Workspace, opened: OpenPlan) -> Variant:
    return open_plan(workspace, opened.id).plan.variants[0]


def race_of(opened: OpenPlan, seed: int = 5) -> TrueRace:
    return true_race(evaluated(opened, "a").ridden, seed)


def minutes(page: str, name: str) -> float:
    """How far the finish moves by a row of the figures, as it is written."""
    row = " ".join(page[page.index(name) :].split())
    found = re.search(r"([+−±])(\d+):(\d\d)<|([+−±])(\d+) h (\d\d)<", row)
    assert found, row[:300]
    sign, big, small = (found[1], found[2], found[3]) if found[1] else (found[4], found[5], found[6])
    value = int(big) + int(small) / 60.0 if found[1] else 60.0 * int(big) + int(small)
    return -value if sign == "−" else value


def gpx_of(recorded: Recorded) -> bytes:
    """The file that the simulated computer writes of a ride of the independent simulator."""
    same = {
        name: getattr(recorded, name) for name in ("latitudes", "longitudes", "heights", "speeds", "powers", "temps")
    }
    start = datetime.fromtimestamp(float(recorded.times[0]), UTC)
    race = TrueRace(start=start, elapsed=recorded.times - recorded.times[0], **same)
    return SimulatedComputer(race).file(start + timedelta(days=9))


def test_the_races_own_file_is_read_put_on_the_course_and_told(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    race = race_of(opened)
    data = SimulatedComputer(race, 5).file(race.start + timedelta(hours=52))
    status, text = send(client, opened, "ride", data, name="my race", purpose="race", mass="", surface="")
    assert status == 200 and "km in 52.0 h are read in" in text and "It ends at" in text
    kept = variant_of(workspace, opened).race
    assert kept is not None and kept.name == "my race" and kept.off_course < 0.02
    profile = evaluated(opened, "a").ridden.way.profile
    lats = np.interp(kept.trail.distances, profile.distances, profile.latitudes)
    assert np.abs(lats - np.interp(kept.trail.elapsed, race.elapsed, race.latitudes)).max() < 0.01  # some kilometre
    # the same file, longer by then, is the same ride
    longer = SimulatedComputer(race, 5).file(race.start + timedelta(hours=60))
    send(client, opened, "ride", longer, name="my race", purpose="race", mass="", surface="")
    assert len(variant_of(workspace, opened).rides) == 1
    shown = client.get(f"/plans/{opened.id}/a/diary", params={"tab": "race"}).text
    assert "was there Fri" in shown  # on the tape
    assert "Where the time went" in shown and "Ostrel" in shown and 'class="was"' in shown
    figures = client.get(f"/plans/{opened.id}/a/do/ride-figures", headers=HTMX).text
    assert "sustained power" in figures and "Take sustained power" in figures
    before = variant_of(workspace, opened).rider.power
    status, _ = send(client, opened, "ride-take", key="power", of="")
    taken = variant_of(workspace, opened).rider.power
    assert status == 200 and taken != before and taken == pytest.approx(before, rel=0.15)
    status, text = send(client, opened, f"ride/{kept.id}/drop")
    assert status == 200 and variant_of(workspace, opened).rides == ()


def test_a_test_ride_on_one_surface_moves_drag_and_rolling_of_the_plan(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    truth = rider(1)
    recorded = ride(replace(truth, fade_hours=1e6), Hills.of(10, LOOP * LAPS, turns=LAPS), 10, steps=(0.75, 1.25))
    samples = gpx_of(recorded)
    assert len(samples) > 100_000
    status, text = send(
        client, opened, "ride", samples, name="laps", purpose="test", mass=f"{truth.mass:.1f}", surface="tarmac"
    )
    assert status == 200, text[:300]
    told = variant_of(workspace, opened).rides[0].figures
    bags = evaluated(opened, "a").ridden.film[0].bag_drag
    assert 0.0 < bags < 0.1 and told["drag_area"].low <= truth.cda - bags <= told["drag_area"].high
    figures = client.get(f"/plans/{opened.id}/a/do/ride-figures", headers=HTMX).text
    moves = {name: minutes(figures, name) for name in ("drag area without bags", "rolling on tarmac")}
    before = evaluated(opened, "a").ridden.ledger.finish
    send(client, opened, "ride-take", key="drag_area", of="")
    # what the page said that taking it does is what it did
    after = evaluated(open_plan(workspace, opened.id), "a").ridden.ledger.finish
    assert (after - before) / 60.0 == pytest.approx(moves["drag area without bags"], abs=1.01)
    send(client, opened, "ride-take", key="rolling", of="tarmac")
    now = open_plan(workspace, opened.id)
    ground = {(entry.tyre, entry.surface): entry.rolling for entry in now.plan.line.ground}
    tyre = now.plan.variants[0].bike.tyre
    assert ground[tyre, "tarmac"] == pytest.approx(told["rolling"].value)
    assert now.plan.variants[0].rider.drag_area == pytest.approx(told["drag_area"].value, abs=1e-4)
    assert "taken" in client.get(f"/plans/{opened.id}/a/do/ride-figures", headers=HTMX).text


@pytest.mark.parametrize(("data", "fields", "says"), [
    (b"<gpx></gpx>", {}, "0 samples"), (b"nonsense", {}, "not readable"), (b"<gpx></gpx>", {"mass": "3"}, "30"),
    (b"<gpx></gpx>", {"purpose": "holiday"}, "Choose"), (b"<gpx></gpx>", {"surface": "lava"}, "Choose"),
])  # fmt: skip
def test_what_is_no_ride_is_told_and_nothing_is_kept(
    client: TestClient, opened: OpenPlan, workspace: Workspace, data: bytes, fields: dict[str, str], says: str
) -> None:
    asked = {"name": "x", "purpose": "race", "mass": "", "surface": "", **fields}
    status, text = send(client, opened, "ride", data, **asked)
    assert 400 <= status < 500 and says in text
    assert variant_of(workspace, opened).rides == ()


def test_a_replay_is_watched_kept_and_its_rest_planned(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    status, text = send(client, opened, "replay", seed="7", speed="60")
    assert status == 200 and "no position yet" in text
    for wrong in ({"seed": "x", "speed": "60"}, {"seed": "1", "speed": "7"}):
        assert send(client, opened, "replay", **wrong)[0] == 422
    for _ in range(6):
        send(client, opened, "replay-go", hours="6")
    send(client, opened, "replay-run", speed="0")
    live = client.get(f"/plans/{opened.id}/a/do/replay-live", headers=HTMX).text
    assert "Where the time went" in live and "hx-trigger" not in live.split(">")[0]
    assert client.get(f"/plans/{opened.id}/a/do/computer.gpx").text.startswith("<?xml")
    status, text = send(client, opened, "replay-keep")
    kept = variant_of(workspace, opened).race
    assert status == 200 and kept is not None and kept.name == "tracker"
    assert kept.trail.elapsed[-1] == pytest.approx(36 * 3600.0, abs=1_800.0)
    at = f"{kept.trail.distances[-1] / 1e3:.1f}"
    asked = {"km": at, "at": "2027-09-25 19:30", "water": "1.2", "kcal": "900", "gone": "rag"}
    status, text = send(client, opened, "plan-rest", **asked)
    found = re.search(r"hx-redirect=/plans/([0-9a-f-]{36})/a/rhythm", text)
    assert status == 204 and found, re.findall(r'role="alert"[^<]*<[^<]*|<strong[^<]*<', text)
    rest = client.get(f"/plans/{found[1]}/a/rhythm").text
    assert "rest of the race" in rest and f"from km {float(at):.0f}" in rest
    for wrong, says in (
        ({"km": "9999"}, "Say a km"),
        ({"at": "2027-09-20 10:00"}, "after the start"),
        ({"water": "-1"}, "0"),
    ):
        status, text = send(client, opened, "plan-rest", **{**asked, **wrong})
        assert status == 422 and says in text
    send(client, opened, "replay-end")
    assert replay.replay_of(opened.id, "a") is None
    assert send(client, opened, "replay-keep")[0] == 404


def test_a_debrief_is_counted_once_and_the_shelf_knows_it(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    was = {item.id: item.record for item in opened.plan.items}
    steps = open_plan(workspace, opened.id).revision
    said = ["mini-pump|use|no", "mini-pump|use|once", "mini-pump|fate|broken", "rag|use|no"]
    assert say(client, opened, said) == 204
    assert open_plan(workspace, opened.id).revision == steps + 1  # one breath, one step
    shown = client.get(f"/plans/{opened.id}/a/diary", params={"tab": "debrief"}).text
    assert "used once" in shown and "2 of " in shown
    for wrong, status in (("rag|use|often", 422), ("rag|mass|no", 422), ("nothing|use|no", 404), ("rag", 422)):
        assert say(client, opened, [wrong]) == status
    assert send(client, opened, "debrief-bag", bag="seat", state="full", day="2")[0] == 200
    assert send(client, opened, "debrief-bag", bag="seat", state="full", day="soon")[0] == 422
    send(client, opened, "debrief-words", worked="naps", change="gloves", wished="socks\nmore tape")
    status, text = send(client, opened, "debrief-count")
    assert status == 200 and "Counted into the records" in text
    now = open_plan(workspace, opened.id)
    record = {item.id: item.record for item in now.plan.items}
    assert record["mini-pump"].carried == was["mini-pump"].carried + 1
    assert record["mini-pump"].used == was["mini-pump"].used + 1
    assert record["mini-pump"].broken == was["mini-pump"].broken + 1
    assert record["rag"].carried == was["rag"].carried + 1 and record["rag"].used == was["rag"].used
    assert send(client, opened, "debrief-count")[0] == 422  # once
    assert say(client, opened, ["rag|use|daily"]) == 422
    on_shelf = {item.name: item.record for item in shelf_items(workspace, demo=opened.demo)}
    name = next(item.name for item in now.plan.items if item.id == "mini-pump")
    assert on_shelf[name] == record["mini-pump"]
    report = client.get(f"/plans/{opened.id}/a/do/debrief.pdf").content
    words = " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(report)).pages).split())
    assert "socks, more tape" in words and "naps" in words and "on day 2" in words


def test_the_next_plan_says_what_the_last_race_left_behind(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    """The demo's race of last year speaks in the demo plan, and not to a rider's own plans."""
    assert "Last time:" not in client.get(f"/plans/{opened.id}/a/kit").text
    past = exchange.ensure_past_race(workspace)
    assert exchange.ensure_past_race(workspace) == past
    kit = client.get(f"/plans/{opened.id}/a/kit").text
    assert "Last time:" in kit and "dry socks" in kit and "full on day 2" in kit
    rhythm = client.get(f"/plans/{opened.id}/a/rhythm").text
    assert "Your rides tell" in rhythm
    since = client.get(f"/plans/{opened.id}/a/diary", params={"tab": "since"}).text
    assert "Beside The Dunmarrow Half" in since
    assert "No earlier race" in client.get(f"/plans/{past}/a/diary", params={"tab": "since"}).text
    told = client.get(f"/plans/{past}/a/do/ride-ways", headers=HTMX).text
    assert "own punctures" in told and "Drunk by the notes" in told and "stay at shop" in told
    line = client.get(f"/plans/{opened.id}/a/line").text
    assert "shuts at midday" in line and "Take Cobbin as known there" in line
    assert send(client, opened, "stops/cobbin/known")[0] == 200
    assert "Take Cobbin as known there" not in client.get(f"/plans/{opened.id}/a/line").text
    assert "Carried again and again, never used" in kit and "spare spokes" in kit
    was = open_plan(workspace, past).plan.variants[0].rider.intake
    now = open_plan(workspace, past)
    assert send(client, now, "habit-take", key="intake", of="")[0] == 200
    assert open_plan(workspace, past).plan.variants[0].rider.intake != was
    assert send(client, now, "habit-take", key="dawdle", of="moon")[0] == 404
    own = duplicate_plan(workspace, opened.id)
    assert "Last time:" not in client.get(f"/plans/{own}/a/kit").text
    assert exchange.ensure_demo(workspace) == opened.id


def test_a_loaded_rides_findings_are_mended_and_ticked_off(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    assert send(client, opened, "found", trouble="rubs", about="frame", words="on the tube")[0] == 200
    assert send(client, opened, "found", trouble="sings", about="", words="")[0] == 422
    assert send(client, opened, "shakedown", day="2027-09-10", km="50", rough_km="80")[0] == 422
    assert send(client, opened, "shakedown", day="2027-02-30", km="50", rough_km="8")[0] == 422
    assert send(client, opened, "shakedown", day="2027-09-10", km="50", rough_km="8")[0] == 200
    assert send(client, opened, "found/0", remedy="tape", done="yes")[0] == 200
    shakedown = variant_of(workspace, opened).shakedown
    assert shakedown.findings[0].done and shakedown.findings[0].remedy == "tape" and shakedown.left == ()
    finding = next(f for f in evaluated(open_plan(workspace, opened.id), "a").findings if f.code == "shaken")
    assert finding.state == "fine"
    text = send(client, opened, "found/0", remedy="tape")[1]
    assert "Do it" in text and "Tape" not in variant_of(workspace, opened).places
    assert "tape under it" in client.get(f"/plans/{opened.id}/a/kit?tab=countdown").text
    assert send(client, opened, "tick", task="found-0")[0] == 200
    assert variant_of(workspace, opened).shakedown.findings[0].done
    assert send(client, opened, "found", trouble="hard", about="rain-jacket", words="")[0] == 200
    assert send(client, opened, "found/1", remedy="place:no-bag", done="yes")[0] == 422
    assert send(client, opened, "found/1", remedy="", done="yes")[0] == 422
    status, text = send(client, opened, "found/1", remedy="order:", done="yes")
    assert status == 200 and "at the mouth of" in text
    assert send(client, opened, "found/7", remedy="tape")[0] == 404
    assert send(client, opened, "found/0", remedy="glue")[0] == 422
    assert send(client, opened, "found/0", drop="yes")[0] == 200
    assert [one.trouble for one in variant_of(workspace, opened).shakedown.findings] == ["hard"]


def test_a_note_by_the_clock_alone_lies_where_one_was_then(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    ridden = evaluated(opened, "a").ridden
    visit = ridden.timetable.visits[3]
    before_it = (visit.arrives - timedelta(minutes=5)).strftime("%Y-%m-%d %H:%M")
    status, text = send(client, opened, "diary-note", kind="cold", words="on the descent", km="", at=before_it)
    assert status == 200, text[:400]
    note = variant_of(workspace, opened).diary[0]
    assert 0.0 < visit.distance - note.distance < 5_000.0 and note.at is not None
    # as it really was comes before as it was planned
    race = true_race(ridden, 3)
    data = SimulatedComputer(race, 3).file(race.start + timedelta(hours=30))
    assert send(client, opened, "ride", data, name="race", purpose="race", mass="", surface="")[0] == 200
    assert send(client, opened, "diary-note", kind="warm", words="by the file", km="", at=before_it)[0] == 200
    trail = variant_of(workspace, opened).rides[0].trail
    was = np.interp((visit.arrives - race.start).total_seconds() - 300.0, trail.elapsed, trail.distances)
    assert variant_of(workspace, opened).diary[1].distance == pytest.approx(was, abs=400.0)
    status, text = send(client, opened, "diary-note", kind="cold", words="when?", km="", at="")
    assert status == 422 and "at which km it was, or when" in text
    status, text = send(client, opened, "diary-note", kind="cold", words="years on", km="", at="2031-01-01 10:00")
    assert status == 422 and "not going on" in text
    assert len(variant_of(workspace, opened).diary) == 2


def test_a_file_of_the_loaded_ride_is_the_loaded_ride_once(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    ridden = ride(replace(rider(2), fade_hours=1e6), Hills.of(3, 30_000.0, turns=3.0), 3)
    data = gpx_of(ridden)
    for _ in range(2):
        status, text = send(
            client, opened, "ride", data, name="garden to the quarry", purpose="loaded", mass="", surface=""
        )
        assert status == 200 and "how much of it was rough" in text
    shakedown = variant_of(workspace, opened).shakedown
    assert shakedown.km == pytest.approx(30.0, rel=0.03) and shakedown.rough_km == 0.0
    assert shakedown.day == datetime.fromtimestamp(float(ridden.times[0]), UTC).date()
    week_on = datetime(2027, 5, 9, 7, tzinfo=UTC)
    other = gpx_of(ride(replace(rider(2), fade_hours=1e6), Hills.of(4, 22_000.0, turns=3.0), 4, start=week_on))
    send(client, opened, "ride", other, name="quarry", purpose="loaded", mass="", surface="rough_gravel")
    now = variant_of(workspace, opened).shakedown
    assert now.km > shakedown.km and now.day == week_on.date() and now.rough_km == pytest.approx(22.0, rel=0.03)


def test_the_report_has_the_stops_as_they_were(client: TestClient, workspace: Workspace) -> None:
    past = exchange.ensure_past_race(workspace)
    report = client.get(f"/plans/{past}/a/do/debrief.pdf").content
    words = " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(report)).pages).split())
    assert "Stops as they were" in words and "Sandreach" in words and "stayed" in words
    assert "Nights" in words and "Bought" in words and "pastry and cola" in words


def test_a_loaded_ride_that_is_taken_out_counts_no_more(
    client: TestClient, opened: OpenPlan, workspace: Workspace
) -> None:
    data = gpx_of(ride(replace(rider(2), fade_hours=1e6), Hills.of(3, 30_000.0, turns=3.0), 3))
    assert send(client, opened, "ride", data, name="lane", purpose="loaded", mass="", surface="rough_gravel")[0] == 200
    kept = variant_of(workspace, opened)
    assert kept.shakedown.km == kept.shakedown.rough_km > 25.0 and kept.shakedown.day is not None
    assert send(client, opened, f"ride/{kept.rides[0].id}/drop")[0] == 200
    assert variant_of(workspace, opened).shakedown == Shakedown()


@pytest.mark.parametrize(("days", "purpose"), [(20, "test"), (-20, "race")])
def test_what_a_file_is_taken_for_at_first_depends_on_whether_the_race_was(
    client: TestClient, opened: OpenPlan, workspace: Workspace, days: int, purpose: str
) -> None:
    def moved(plan: Plan) -> Plan:
        variant = plan.variant("a")
        start = (datetime.now() + timedelta(days=days)).replace(microsecond=0)
        return plan.with_variant(replace(variant, rhythm=replace(variant.rhythm, start=start)))

    change_plan(workspace, opened.id, revision=opened.revision, label="moved", change=moved)
    page = client.get(f"/plans/{opened.id}/a/diary", params={"tab": "rides"}).text
    assert f'<option value="{purpose}" selected' in page
