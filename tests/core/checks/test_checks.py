"""Every check, broken on purpose."""

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np
import pytest

from stonechat.core.kit.item import HOME, Item
from stonechat.core.line.race_rules import RaceRules
from stonechat.core.line.stops import Stop
from stonechat.core.line.track import make_track
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.beginning import Spoken, begin_plan
from stonechat.core.plan.evaluate import Evaluation, evaluate, with_places
from stonechat.core.plan.features import all_checks
from stonechat.core.plan.plan import Line, Plan, Variant
from stonechat.core.rig.bike import usual_bike


def state_after(plan: Plan, change: Callable[[Variant], Variant], code: str) -> tuple[str, list[Finding]]:
    """Return the worst state of a check after a change of the first variant."""
    found = evaluate(plan.with_variant(change(plan.variants[0])), "a").findings
    mine = [finding for finding in found if finding.code == code]
    return min((f.state for f in mine), key=lambda state: state.rank, default="silent"), mine


def moved(thing: str, place: str) -> Callable[[Variant], Variant]:
    return lambda variant: with_places(variant, {thing: place})


def carrier(key: str, **changes: object) -> Callable[[Variant], Variant]:
    return lambda v: replace(v, carriers=tuple(replace(c, **changes) if c.id == key else c for c in v.carriers))


BREAKS: dict[str, Callable[[Variant], Variant]] = {
    "water": lambda v: replace(v, supply=replace(v.supply, water_by_stop={"mirrel": 0.5})),
    "food": lambda v: replace(v, supply=replace(v.supply, food_by_stop={"start": 100.0})),
    "food-room": lambda v: replace(v, supply=replace(v.supply, food_bulk=200.0, food_density=500.0)),
    "placed": lambda v: replace(v, places={k: p for k, p in v.places.items() if k != "rain-jacket"}),
    "volume": carrier("seat", capacity=0.001),
    "limit": carrier("seat", load_limit=0.3),
    "length": moved("mini-pump", "top-front"),
    "dry": moved("sleep-socks", "stem-left"),
    "reachable": moved("rain-jacket", "seat"),
    "tyre": lambda v: replace(v, bike=replace(v.bike, fork_travel=0.2)),
    # a bag that was measured full is not cut out for a bottle
    "frame": lambda v: carrier("frame", capacity_by_hand=True)(carrier("bottle-seat", shift=0.15)(v)),
    "body": carrier("bar", width=0.6),
    "bosses": lambda v: replace(v, bike=replace(v.bike, bosses=frozenset())),
    "place": lambda v: replace(
        v, carriers=(*v.carriers, replace(next(c for c in v.carriers if c.id == "seat"), id="rear", name="second pack"))
    ),
    "lights": lambda v: replace(v, bike=replace(v.bike, rear_light="post")),
    "loss": carrier("tool", loss="high"),
    "room-left": lambda v: replace(v, carriers=tuple(replace(c, capacity=0.15 * c.capacity) for c in v.carriers)),
    "back": carrier("jersey", place="back", mass=2.0),
    "heavy-low": lambda v: replace(
        v, carriers=tuple(replace(c, place="rack") if c.id in ("tool", "frame") else c for c in v.carriers)
    ),
    "front-share": lambda v: replace(v, bike=replace(v.bike, wheelbase=1.40)),
    "left-right": carrier("fork-left", mass=9.0),
    "sway": carrier("seat", sway_lever=1.0, steadiness=1.0),
    "steering": carrier("bar", mass=40.0),
    "light": moved("front-light", "home"),
    "rear": lambda v: with_places(v, dict.fromkeys(("rear-light", "spare-rear-light"), "home")),
    "seen": moved("reflective-sash", "home"),
    "repair": lambda v: with_places(v, dict.fromkeys(("mini-pump", "plug-kit", "inner-tube"), "home")),
    "warmth": lambda v: with_places(
        v,
        dict.fromkeys(
            (
                "rain-jacket",
                "light-down-jacket",
                "long-gloves",
                "waterproof-mitts",
                "quilt-comfort-3-c",
                "bivvy-bag",
                "foil-blanket",
            ),
            "home",
        ),
    ),
    "awake": lambda v: replace(v, rhythm=replace(v.rhythm, halt=v.rhythm.rise)),
}


def with_stop(plan: Plan, key: str, **changes: object) -> Plan:
    stops = tuple(replace(stop, **changes) if stop.id == key else stop for stop in plan.line.stops)
    return replace(plan, line=replace(plan.line, stops=stops))


PLAN_BREAKS: dict[str, Callable[[Plan], Plan]] = {
    "cut-off": lambda plan: with_stop(plan, "tazzle", cutoff=datetime(2027, 9, 25, 12, 0)),
    "start": lambda plan: replace(plan, rules=replace(plan.rules, start=datetime(2027, 9, 24, 9, 0))),
    "compulsory": lambda plan: replace(plan, rules=replace(plan.rules, compulsory=("avalanche shovel",))),
    "sky": lambda plan: replace(
        plan, items=tuple(replace(i, fixed="") if i.id == "tracker" else i for i in plan.items)
    ).with_variant(with_places(plan.variants[0], {"tracker": "frame"})),
    "leaks": lambda plan: replace(  # a tube may be zipped in, a big bottle not
        plan, items=tuple(replace(i, volume=0.0003) if i.id == "sealant-bottle" else i for i in plan.items)
    ).with_variant(with_places(plan.variants[0], {"sealant-bottle": "seat"})),
    "asleep": lambda plan: plan.with_variant(
        with_places(plan.variants[0], {i.id: HOME for i in plan.items if i.category == "sleep"})
    ),
    "drop-box": lambda plan: with_stop(plan, "tazzle", offers=frozenset({"drop_box", "water"})),
}
SMALL_BREAKS = {"forbidden", "box", "long", "rooms"}  # broken below, on a plan of their own
COLD = {"riding", "hands", "feet", "ears"}  # broken in test_dressed.py
FLAT = {"flat", "dusk", "leads"}  # broken in core/plan/test_charging.py
WARNINGS = {  # tight at worst
    "shut", "small-hours", "doubtful-stop", "puncture", "fragile", "camp", "indoors", "apart", "frost", "bin", "cables",
    "powder", "tape", "assumed", "kit", "hours", "wall", "zone", "spots",
    "clean", "smeared", "heat", "second", "reserve", "sockets", "cold_power",
    "second-answer", "tyres-last", "troubles", "own-parts", "first-answers", "wears", "shaken",
}  # fmt: skip


@pytest.mark.parametrize("code", sorted(PLAN_BREAKS))
def test_a_rule_of_the_race_breaks_when_it_is_broken(demo: Plan, demo_evaluation: Evaluation, code: str) -> None:
    assert not [f for f in demo_evaluation.findings if f.code == code and f.state == "broken"]
    found = [f for f in evaluate(PLAN_BREAKS[code](demo), "a").findings if f.code == code]
    assert found[0].state == "broken" and found[0].margin < 0.0 and found[0].sentence.endswith((".", "!"))


def test_a_cut_off_is_kept_to_the_minute(demo: Plan, demo_evaluation: Evaluation) -> None:
    tazzle = next(visit for visit in demo_evaluation.ridden.timetable.visits if visit.name == "Tazzle")
    for minutes in (90, 300, -45):
        cutoff = tazzle.arrives.replace(tzinfo=None) + timedelta(minutes=minutes)
        visits = evaluate(with_stop(demo, "tazzle", cutoff=cutoff), "a").ridden.timetable.visits
        assert next(v for v in visits if v.name == "Tazzle").margin == pytest.approx(60.0 * minutes, abs=1.0)


def test_the_time_limit_runs_from_the_races_start(demo: Plan, demo_evaluation: Evaluation) -> None:
    finish = demo_evaluation.ridden.ledger.finish
    for early in (0, 2):
        gun = demo.variants[0].rhythm.start - timedelta(hours=early)
        rules = replace(demo.rules, start=gun, time_limit=130 * 3600.0)
        last = evaluate(replace(demo, rules=rules), "a").ridden.timetable.visits[-1]
        assert last.margin == pytest.approx((130 - early) * 3600.0 - finish, abs=1.0)


def test_riding_through_the_small_hours_after_a_long_day_is_warned_of(demo: Plan) -> None:
    restless = demo.with_variant(replace(demo.variants[0], rhythm=replace(demo.variants[0].rhythm, school="through")))
    found = [f for f in evaluate(restless, "a").findings if f.code == "small-hours"]
    assert [f.state for f in found] == ["tight"] and "Sleep first" in found[0].sentence


def test_a_stop_that_cannot_be_missed_should_be_believed_in(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    must = ridden.provisions.must
    needed = next(stop for k, stop in enumerate(ridden.way.stops) if must[k + 1])
    found = evaluate(with_stop(demo, needed.id, confidence=0.5), "a").findings
    assert any(f.code == "doubtful-stop" and f.subject == needed.id for f in found)


@pytest.mark.parametrize("code", sorted(BREAKS))
def test_a_check_breaks_when_its_rule_is_broken(demo: Plan, code: str) -> None:
    state, found = state_after(demo, BREAKS[code], code)
    assert state == "broken", [f.sentence for f in found]
    worst = min((f for f in found if f.state == "broken"), key=lambda f: f.margin or 0.0)
    assert worst.margin is None or worst.margin <= 0.0
    assert worst.sentence.endswith((".", "!"))


def test_a_plan_that_was_told_nothing_says_what_it_stands_on() -> None:
    track = make_track(np.linspace(45.0, 45.09, 20), np.full(20, 7.0), np.linspace(500.0, 520.0, 20))
    plan = begin_plan(name="New", track=track, surface="tarmac", stops=(), spoken=Spoken(), today=datetime(2027, 3, 1))
    found = {finding.code: finding for finding in evaluate(plan, "a").findings}
    assert found["kit"].title == "No kit yet"
    assert not {"warmth", "repair", "light", "rear", "flat", "bin"} & set(found)
    sentence = found["assumed"].sentence
    assert "Sat 06 Mar 2027 at 06:00" in sentence and "72 kg" in sentence and "6 to 18 °C" in sentence
    said = Spoken(start=datetime(2027, 6, 1, 7), mass=81.0, power=190.0, bike=usual_bike("full", "l"))
    told = begin_plan(name="New", track=track, surface="tarmac", stops=(), spoken=said, today=datetime(2027, 3, 1))
    left = [f for f in evaluate(told, "a").findings if f.code == "assumed"]
    assert [finding.sentence.count(" and ") for finding in left] == [1]  # nights and weather
    assert "05:00 to 22:00" in left[0].sentence


def test_every_check_is_broken_by_some_test_or_only_warns() -> None:
    assert {check.code for check in all_checks()} - set(BREAKS) - set(
        PLAN_BREAKS
    ) - SMALL_BREAKS - COLD - FLAT == WARNINGS


def test_a_shut_door_is_told_with_the_hours_until_it_opens(demo_evaluation: Evaluation) -> None:
    shut = [f for f in demo_evaluation.findings if f.code == "shut"]
    by_visit = [v for v in demo_evaluation.ridden.timetable.visits if v.stop and not v.is_open]
    assert {f.subject for f in shut} == {v.stop.id for v in by_visit if v.stop}
    assert all("opens in" in f.sentence for f in shut)


def test_the_worst_comes_first(demo_evaluation: Evaluation) -> None:
    states = [finding.state.rank for finding in demo_evaluation.findings]
    assert states == sorted(states)


def test_a_check_that_is_switched_off_is_silent(demo: Plan) -> None:
    off = replace(demo.variants[0], checks_off=frozenset({"water", "awake"}))
    found = evaluate(demo.with_variant(off), "a").findings
    assert not {"water", "awake"} & {finding.code for finding in found}


def test_a_kilogram_over_the_limit_is_a_kilogram_in_the_margin(demo: Plan, demo_evaluation: Evaluation) -> None:
    film = demo_evaluation.ridden.film
    heaviest = max(state.mass for load in film for state in load.carriers if state.carrier.id == "bar")
    # the roll takes no food, which would go elsewhere
    _, found = state_after(demo, carrier("bar", load_limit=heaviest - 1.0), "limit")
    assert min(f.margin for f in found) == pytest.approx(-1.0, abs=0.02)


PLACES = Line(
    track=make_track(np.linspace(45.0, 45.9, 2_001), np.full(2_001, 7.0), np.full(2_001, 300.0)),
    stops=(
        Stop(id="inn", name="Inn", distance=30_000.0, kind="hotel", offers=frozenset({"bed", "water"})),
        Stop(id="box", name="Box site", distance=50_000.0, offers=frozenset({"drop_box"}), box_volume=0.002),
        Stop(id="shop", name="Shop", distance=70_000.0, kind="shop", offers=frozenset({"shop", "water"})),
    ),
)


def small_plan(**changes: object) -> Plan:
    """Return a plan over a flat line of 100 km with an inn, a box site and a shop."""
    plan = begin_plan(
        name="Small", track=PLACES.track, surface="tarmac", stops=PLACES.stops,
        spoken=Spoken(start=datetime(2027, 6, 5, 7)), today=datetime(2027, 3, 1),
    )  # fmt: skip
    return replace(plan, **changes)  # type: ignore[arg-type]


def judged(plan: Plan, code: str) -> list[Finding]:
    return [finding for finding in evaluate(plan, "a").findings if finding.code == code]


def test_what_is_forbidden_is_broken_by_the_thing_that_is_carried() -> None:
    unit = Item(id="u", name="Navigation unit", mass=0.1, volume=1e-4)
    rules = RaceRules(forbidden=("navigation unit",))
    (found,) = judged(small_plan(rules=rules, items=(unit,)), "forbidden")
    assert found.state == "broken" and "Navigation unit" in found.sentence
    assert judged(small_plan(rules=rules), "forbidden")[0].state == "fine"


@pytest.mark.parametrize(
    ("stop", "litres", "words"),
    [("shop", 1.0, "no box site"), ("box", 3.0, "the box holds 2.0 l"), ("box", 1.0, "")],
)
def test_a_drop_box_holds_what_it_holds_where_the_rules_allow_one(stop: str, litres: float, words: str) -> None:
    food = Item(id="f", name="food parcel", mass=1.0, volume=litres / 1e3)
    plan = small_plan(rules=RaceRules(drop_boxes=True), items=(food,))
    sent = plan.with_variant(replace(plan.variants[0], joins={"f": stop}))
    found = judged(sent, "box")
    assert [words in finding.sentence for finding in found] == [True] if words else found == []


def test_a_shop_nobody_asked_about_counts_by_day_only_and_is_said() -> None:
    by_day = small_plan()
    assert [f.title for f in judged(by_day, "hours")] == ["Hours not known: 1"] and judged(by_day, "shut") == []
    rhythm = replace(by_day.variants[0].rhythm, start=datetime(2027, 6, 5, 22), school="through")
    by_night = by_day.with_variant(replace(by_day.variants[0], rhythm=rhythm))
    assert judged(by_night, "hours") == []
    (shut,) = [f for f in judged(by_night, "shut") if f.subject == "shop"]
    assert shut.title == "Shop may be shut" and "not known" in shut.sentence


def test_a_wall_is_asked_about_and_a_hill_is_not() -> None:
    heights = np.full(2_001, 300.0)
    heights[1_000:] = 500.0  # 200 m between two points 50 m apart
    wall = replace(PLACES.track, heights=heights)
    (found,) = judged(small_plan(line=replace(PLACES, track=wall)), "wall")
    assert "50." in found.title and "%" in found.sentence
    hill = replace(PLACES.track, heights=np.linspace(300.0, 8_000.0, 2_001))
    assert judged(small_plan(line=replace(PLACES, track=hill)), "wall") == []


def test_a_clock_of_another_place_is_asked_about_and_the_sun_is_that_of_the_place() -> None:
    plan = small_plan()
    rhythm = replace(plan.variants[0].rhythm, zone="Pacific/Auckland")
    far = evaluate(plan.with_variant(replace(plan.variants[0], rhythm=rhythm)), "a")
    (found,) = [finding for finding in far.findings if finding.code == "zone"]
    assert "10 h behind" in found.sentence
    # 07:00 in Auckland is 21:00 of the evening before in Central Europe: it is dark soon, and light again at five
    assert far.ridden.ride.dark.any() and not far.ridden.ride.dark[:10].any()


def test_a_race_longer_than_is_looked_at_says_so() -> None:
    plan = small_plan()
    stays = dict.fromkeys(("inn", "box", "shop"), 12 * 86_400.0)
    slow = replace(plan.variants[0], rider=replace(plan.variants[0].rider, power=60.0))
    rhythm = replace(slow.rhythm, stays=stays, school="distance", day_distance=5_000.0)
    (found,) = judged(plan.with_variant(replace(slow, rhythm=rhythm)), "long")
    assert found.state == "broken" and "32 days" in found.sentence


def test_a_room_reached_too_late_is_broken() -> None:
    plan = small_plan()
    rhythm = replace(
        plan.variants[0].rhythm, school="rooms", rise=7 * 3600.0, halt=20 * 3600.0, start=datetime(2027, 6, 5, 20, 30)
    )
    (found,) = judged(plan.with_variant(replace(plan.variants[0], rhythm=rhythm)), "rooms")
    assert found.state == "broken" and found.subject == "inn"
