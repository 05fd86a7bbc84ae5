"""Repacking on the way: room on every leg, and what it brings."""

from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.load.judge import judge
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.film import MOVE
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import START, Elsewhere, Plan
from stonechat.core.plan.repacking import repacking
from stonechat.formats.plan_json import read_plan, write_plan

VARIANTS = ("a", "b", "c")


@pytest.mark.parametrize("variant_id", VARIANTS)
def test_every_move_finds_room_on_every_leg_and_pays(demo: Plan, variant_id: str) -> None:
    variant, ridden = demo.variant(variant_id), evaluate(demo, variant_id).ridden
    problem = packing_problem(demo, variant, ridden)
    found = repacking(ridden, problem, variant.pins)
    assert found.tried > 0
    items = {item.id: item for item in problem.items}
    into: dict[tuple[str, int], float] = {}
    for move in found.moves:
        assert move.net > 0.0 and move.home != move.to and move.item not in variant.pins
        assert move.cost == MOVE * ((move.since > 0) + (move.until < len(ridden.film)))
        for leg in range(move.since, move.until):
            into[move.to, leg] = into.get((move.to, leg), 0.0) + items[move.item].total_volume
            into[move.home, leg] = into.get((move.home, leg), 0.0) - items[move.item].total_volume
    for (carrier_id, leg), more in into.items():
        state = next(s for s in ridden.film[leg].carriers if s.carrier.id == carrier_id)
        assert state.volume + state.water / 1e3 + more <= state.carrier.capacity + 1e-9


def test_what_a_move_brings_is_what_the_judge_says_of_the_place_for_its_share_of_the_race(demo: Plan) -> None:
    variant, ridden = demo.variant("b"), evaluate(demo, "b").ridden
    problem = packing_problem(demo, variant, ridden)
    bare = replace(problem, provisions=replace(problem.provisions, food_volume=0.0, food_mass=0.0))
    places = {item.id: variant.places.get(item.id, "") for item in problem.items}
    times = np.array([leg.elapsed for leg in ridden.timetable.legs])
    found = repacking(ridden, problem, variant.pins)
    assert found.moves
    for move in found.moves:
        change = judge(bare, {**places, move.item: move.to}).minutes - judge(bare, places).minutes
        share = times[move.since : move.until].sum() / times.sum()
        assert move.gain == pytest.approx(-change * share, abs=1e-6)


def test_a_pinned_thing_does_not_move(demo: Plan) -> None:
    variant, ridden = demo.variant("b"), evaluate(demo, "b").ridden
    problem = packing_problem(demo, variant, ridden)
    moved = {move.item for move in repacking(ridden, problem, variant.pins).moves}
    assert moved and not moved & {m.item for m in repacking(ridden, problem, variant.pins | moved).moves}


def with_moves(plan: Plan, variant_id: str = "b") -> Plan:
    variant, ridden = plan.variant(variant_id), evaluate(plan, variant_id).ridden
    found = repacking(ridden, packing_problem(plan, variant, ridden), variant.pins)
    stops = [START, *(stop.id for stop in ridden.way.stops)]
    repacks = {
        move.item: Elsewhere(
            to=move.to, since=stops[move.since], until=stops[move.until] if move.until < len(stops) else ""
        )
        for move in found.moves
    }
    return plan.with_variant(replace(variant, repacks=repacks))


def test_taking_the_moves_brings_what_they_promised_and_the_film_shows_them(demo: Plan) -> None:
    before = evaluate(demo, "b").ridden
    promised = repacking(before, packing_problem(demo, demo.variant("b"), before), demo.variant("b").pins)
    after = evaluate(with_moves(demo), "b").ridden
    net = sum(move.net for move in promised.moves)
    # by its share of the course in place of the time, and food goes where room is left
    assert before.ledger.carried - after.ledger.carried == pytest.approx(net, abs=0.5)
    for move in promised.moves:
        for leg, load in enumerate(after.film):
            there = next(s.carrier.id for s in load.carriers if move.item in {item.id for item in s.items})
            assert there == (move.to if move.since <= leg < move.until else move.home)
    # what is moved is not offered again
    again = repacking(after, packing_problem(demo, demo.variant("b"), after), frozenset())
    assert not {m.item for m in again.moves} & {m.item for m in promised.moves}


def test_each_thing_is_counted_whole_though_it_rides_in_two_bags(demo: Plan) -> None:
    after = evaluate(with_moves(demo), "b").ridden
    for key in after.kit.moved:
        entries = [entry for entry in after.placed if entry.id == key]
        assert len(entries) == 2 and sum(entry.share for entry in entries) == pytest.approx(1.0)
        assert key in after.reaching and key in after.borne and key in after.risked


def test_a_move_that_names_what_is_gone_leaves_the_thing_where_it_is(demo: Plan) -> None:
    variant = demo.variant("b")
    key = next(iter(with_moves(demo).variant("b").repacks))
    for there in (
        Elsewhere(to="ghost", since=START),
        Elsewhere(to="seat", since="ghost"),
        Elsewhere(to="seat", since="mirrel", until="kemmer"),
    ):
        plan = demo.with_variant(replace(variant, repacks={key: there}))
        assert evaluate(plan, "b").ridden.kit.moved == {}


def test_moves_survive_the_file(demo: Plan) -> None:
    plan = with_moves(demo)
    assert read_plan(write_plan(plan)).variant("b").repacks == plan.variant("b").repacks != {}
