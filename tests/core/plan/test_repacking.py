"""Repacking on the way: room on every leg, and what it brings."""

import json
from dataclasses import replace
from itertools import pairwise, product

import numpy as np
import pytest

from stonechat.core.kit.containers import units_to_pack
from stonechat.core.kit.item import Item, Reaches
from stonechat.core.kit.reach import Often
from stonechat.core.load.judge import judge
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.film import MOVE
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import START, Elsewhere, Plan
from stonechat.core.plan.repacking import _best, _Thing, repacking, repacking_for
from stonechat.core.rig.carrier import Carrier
from stonechat.formats.plan_json import read_plan, write_plan
from stonechat.services.supplying import elsewhere_of

VARIANTS = ("a", "b", "c")


@pytest.mark.parametrize("variant_id", VARIANTS)
def test_every_move_finds_room_on_every_leg_and_together_they_pay(demo: Plan, variant_id: str) -> None:
    variant, ridden = demo.variant(variant_id), evaluate(demo, variant_id).ridden
    found = repacking_for(demo, variant, ridden)
    assert found.tried > 0 and 0.0 <= found.net <= found.bound + 1e-9
    items = {item.id: item for item in units_to_pack(ridden.kit.items)}
    assert len({move.item for move in found.moves}) == len(found.moves)
    into: dict[tuple[str, int], float] = {}
    for move in found.moves:
        assert move.item not in variant.pins
        edges = {edge for _, since, until in move.windows for edge in (since, until)} - {0, len(ridden.film)}
        assert move.cost == pytest.approx(MOVE * len(edges))
        for to, since, until in move.windows:
            assert to != move.home
            for leg in range(since, until):
                into[to, leg] = into.get((to, leg), 0.0) + items[move.item].total_volume
                into[move.home, leg] = into.get((move.home, leg), 0.0) - items[move.item].total_volume
    for (carrier_id, leg), more in into.items():
        state = next(s for s in ridden.film[leg].carriers if s.carrier.id == carrier_id)
        assert state.volume + state.water / 1e3 + more <= max(state.carrier.capacity, state.volume) + 1e-8


def test_what_a_move_brings_is_what_the_judge_says_of_the_place_on_legs_like_those(demo: Plan) -> None:
    variant, ridden = demo.variant("b"), evaluate(demo, "b").ridden
    legs = ridden.timetable.legs
    times = np.array([leg.elapsed for leg in legs])
    kind_of = np.array([int(leg.dark >= 0.5) for leg in legs])
    problems = [packing_problem(demo, variant, ridden, often=Often(nights=float(k), cold=0.5)) for k in (0, 1)]
    bare = [replace(p, provisions=replace(p.provisions, food_volume=0.0, food_mass=0.0)) for p in problems]
    places = {item.id: variant.places.get(item.id, "") for item in bare[0].items}
    found = repacking(ridden, problems, kind_of, variant.pins)
    assert found.moves
    for move in found.moves:
        gain = 0.0
        for to, since, until in move.windows:
            for leg in range(since, until):
                problem = bare[kind_of[leg]]
                change = judge(problem, {**places, move.item: to}).minutes - judge(problem, places).minutes
                gain -= change * times[leg] / times.sum()
        assert move.gain == pytest.approx(gain, abs=1e-6)


def test_a_pinned_thing_does_not_move(demo: Plan) -> None:
    variant, ridden = demo.variant("b"), evaluate(demo, "b").ridden
    moved = {move.item for move in repacking_for(demo, variant, ridden).moves}
    pinned = replace(variant, pins=variant.pins | moved)
    assert moved and not moved & {m.item for m in repacking_for(demo, pinned, ridden).moves}


def test_where_a_thing_rides_best_is_the_best_of_all_ways_to_ride(demo: Plan) -> None:
    rng = np.random.default_rng(3)
    for _ in range(40):
        legs, names = int(rng.integers(2, 6)), ["a", "b"]
        gains = {name: rng.normal(0.0, 1.0, legs) for name in names}
        gains["b"][rng.random(legs) < 0.3] = -np.inf  # no room there
        thing = _Thing(id="t", volume=1.0, mass=1.0, home="h", gains=gains)
        found = _best(thing, gains, legs)
        nets = [
            sum(0.0 if c == "h" else float(gains[c][k]) for k, c in enumerate(way))
            - MOVE * sum(one != other for one, other in pairwise(way))
            for way in product(["h", *names], repeat=legs)
        ]
        assert (found.net if found else 0.0) == pytest.approx(max(0.0, *nets))


def with_moves(plan: Plan, variant_id: str = "b") -> Plan:
    variant, ridden = plan.variant(variant_id), evaluate(plan, variant_id).ridden
    found = repacking_for(plan, variant, ridden)
    return plan.with_variant(replace(variant, repacks={move.item: elsewhere_of(ridden, move) for move in found.moves}))


def test_taking_the_moves_brings_what_they_promised_and_the_film_shows_them(demo: Plan) -> None:
    before = evaluate(demo, "b").ridden
    promised = repacking_for(demo, demo.variant("b"), before)
    after = evaluate(with_moves(demo), "b").ridden
    # food goes where room is left, and other things of an occasion are opened for it or not
    assert before.ledger.carried - after.ledger.carried == pytest.approx(promised.net, abs=0.5)
    for move in promised.moves:
        for leg, load in enumerate(after.film):
            there = next(s.carrier.id for s in load.carriers if move.item in {item.id for item in s.items})
            assert there == next((to for to, since, until in move.windows if since <= leg < until), move.home)
    # what is moved is not offered again
    again = repacking_for(demo, demo.variant("b"), after)
    assert not {m.item for m in again.moves} & {m.item for m in promised.moves}


def test_day_and_night_kit_change_places_where_neither_bag_has_room(demo: Plan) -> None:
    """A lamp wanted only in the dark and glasses wanted only by day, with one place at hand for one of them."""
    near = Carrier(id="near", name="near", place="top_tube_front", capacity=0.0011, load_limit=1.0, mass=0.1,
                   longest=0.3, access="riding", open_time=1.0, takes=frozenset({"items"}))  # fmt: skip
    far = replace(near, id="far", name="far", place="seat", access="off", open_time=60.0)
    lamp = Item(id="lamp", name="lamp", mass=0.2, volume=0.001, access="off", reaches=Reaches(night=40.0))
    shades = Item(id="shades", name="shades", mass=0.1, volume=0.001, access="off", reaches=Reaches(per_day=20.0))
    variant = replace(
        demo.variant("a"),
        carriers=(*(c for c in demo.variant("a").carriers if "items" not in c.takes), near, far),
        places={"lamp": "near", "shades": "far"},
        pins=frozenset(),
    )
    plan = replace(demo, items=(lamp, shades), variants=(variant,))
    ridden = evaluate(plan, "a").ridden
    found = repacking_for(plan, variant, ridden)
    assert {move.item for move in found.moves} == {"lamp", "shades"} and found.net > 4.0
    by_leg = {leg for move in found.moves if move.item == "shades" for _, a, b in move.windows for leg in range(a, b)}
    darkness = [leg.dark for leg in ridden.timetable.legs]
    assert max(darkness[k] for k in by_leg) < min(darkness[k] for k in range(len(darkness)) if k not in by_leg) + 0.5
    taken = replace(variant, repacks={move.item: elsewhere_of(ridden, move) for move in found.moves})
    # legs of a kind are priced alike, so what is promised for single ones is not to the minute
    after = evaluate(replace(plan, variants=(taken,)), "a").ridden
    assert ridden.ledger.carried - after.ledger.carried == pytest.approx(found.net, rel=0.4)


def test_each_thing_is_counted_whole_though_it_rides_in_two_bags(demo: Plan) -> None:
    after = evaluate(with_moves(demo), "b").ridden
    for key in after.kit.moved:
        entries = [entry for entry in after.placed if entry.id == key]
        assert len(entries) >= 2 and sum(entry.share for entry in entries) == pytest.approx(1.0)
        assert key in after.reaching and key in after.borne and key in after.risked


def test_a_move_that_names_what_is_gone_leaves_the_thing_where_it_is(demo: Plan) -> None:
    variant = demo.variant("b")
    key = next(iter(with_moves(demo).variant("b").repacks))
    for there in (
        Elsewhere(to="ghost", since=START),
        Elsewhere(to="seat", since="ghost"),
        Elsewhere(to="seat", since="mirrel", until="kemmer"),
    ):
        plan = demo.with_variant(replace(variant, repacks={key: (there,)}))
        assert evaluate(plan, "b").ridden.kit.moved == {}


def test_moves_survive_the_file(demo: Plan) -> None:
    plan = with_moves(demo)
    assert read_plan(write_plan(plan)).variant("b").repacks == plan.variant("b").repacks != {}


def test_a_plan_of_before_with_one_stretch_for_each_thing_is_read(demo: Plan) -> None:
    raw = json.loads(write_plan(with_moves(demo)))
    key, windows = next(iter(next(v for v in raw["variants"] if v["id"] == "b")["repacks"].items()))
    for variant in raw["variants"]:
        variant["repacks"] = {item: there[0] for item, there in variant.get("repacks", {}).items()}
    read = read_plan(json.dumps({**raw, "version": 4}).encode())
    assert read.variant("b").repacks[key] == (
        Elsewhere(to=windows[0]["to"], since=windows[0]["since"], until=windows[0].get("until") or ""),
    )
