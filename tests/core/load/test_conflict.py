"""A smallest conflict is one: without any of its rules the rest can be kept; and every way out leads to a packing."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.kit.item import Item
from stonechat.core.load.conflict import find_conflict
from stonechat.core.load.problem import PackingProblem, Provisions
from stonechat.core.load.solve import solve_packing
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.geometry import bike_position, rider_position
from tests.core.load.test_solve import small
from tests.oracles.packing import best_by_brute_force
from tests.strategies import CARRIERS

FIXED = ((72.0, *rider_position(Bike())), (10.0, *bike_position(Bike())))


def without(problem: PackingProblem, *, leave: tuple[str, ...] = (), unpin: tuple[str, ...] = ()) -> PackingProblem:
    """The same with things left at home and pins let go."""
    rows = [i for i, item in enumerate(problem.items) if item.id not in leave]
    return replace(
        problem,
        items=tuple(problem.items[i] for i in rows),
        minutes=problem.minutes[rows],
        refusals=tuple(problem.refusals[i] for i in rows),
        pins={key: place for key, place in problem.pins.items() if key not in {*leave, *unpin}},
    )


def test_two_pins_that_contradict_are_both_named_and_letting_one_go_is_the_way_out() -> None:
    oil = Item(id="oil", name="oil", mass=0.1, volume=0.0002, leaks=True)
    bread = Item(id="bread", name="bread", mass=0.2, volume=0.0005, spoils=True)
    problem = replace(small((oil, bread)), pins={"oil": "seat", "bread": "seat"})
    conflict = find_conflict(problem)
    said = " ".join(conflict.sentences)
    assert "oil is pinned in seat." in said and "bread is pinned in seat." in said
    assert "In seat, what leaks may not ride beside what it would spoil: oil beside bread." in said
    assert conflict.is_smallest
    assert conflict.ways[0].words[0].startswith("let ")
    assert solve_packing(without(problem, unpin=conflict.ways[0].unpin)).status == "proven"


def test_a_thing_heavier_than_every_limit_says_so() -> None:
    anvil = Item(id="anvil", name="anvil", mass=9.0, volume=0.001)
    result = solve_packing(small((anvil,)))
    assert result.status == "impossible" and "too heavy" in result.reasons[0]


def test_no_carrier_at_all_says_so() -> None:
    thing = Item(id="t", name="thing", mass=0.1, volume=0.001)
    bare = small((thing,))
    none = replace(bare, carriers=(), minutes=bare.minutes[:, :0], refusals=((),), positions=bare.positions[:0],
                   food_minutes=bare.food_minutes[:0])  # fmt: skip
    assert solve_packing(none).reasons == ("thing fits in no carrier: none is mounted.",)


def test_each_way_out_does_without_what_the_last_conceded_most() -> None:
    bags = tuple(Item(id=f"b{k}", name=f"bag {k}", mass=0.05, volume=0.0025) for k in range(7))
    ways = find_conflict(small(bags)).ways
    assert len(ways) >= 2 and len({way.words for way in ways}) == len(ways)


@given(st.lists(st.integers(22, 36), min_size=5, max_size=6))
@settings(max_examples=15, deadline=None)
def test_leaving_what_a_way_out_leaves_makes_a_packing_possible(decilitres: list[int]) -> None:
    things = tuple(Item(id=f"b{k}", name=f"bag {k}", mass=0.1, volume=v / 1e4) for k, v in enumerate(decilitres))
    problem = replace(small(things), provisions=Provisions(fixed=FIXED))
    result = solve_packing(problem)
    assert (result.conflict is not None) == (best_by_brute_force(problem) is None)
    for way in result.conflict.ways if result.conflict else ():
        if len(way.leave) + len(way.unpin) < len(way.words):
            continue  # it also asks for room, for less food or for another balance
        assert best_by_brute_force(without(problem, leave=way.leave, unpin=way.unpin)) is not None


@pytest.mark.parametrize("count", [6, 7, 8])
def test_a_smallest_set_of_things_and_rooms_is_one_by_counting(count: int) -> None:
    # each carrier that takes a 2.5 l bag takes a known number of them: 1, 3 and 1; one more is one too many
    bags = tuple(Item(id=f"b{k}", name=f"bag {k}", mass=0.05, volume=0.0025) for k in range(count))
    conflict = find_conflict(small(bags))
    named = sum(int(s.split()[1]) for s in conflict.sentences if " things want " in s)
    assert named == 1 + sum(int(carrier.capacity / 0.0025) for carrier in CARRIERS)
