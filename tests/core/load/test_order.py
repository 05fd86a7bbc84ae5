"""The order inside a bag against every permutation, and what it says of wrapping, gaps and the side to lie on."""

from itertools import permutations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.kit.item import Item, Reaches
from stonechat.core.kit.reach import Often
from stonechat.core.load.order import DIGGING, bag_order, lay_side
from stonechat.core.rig.carrier import Carrier

BAG = Carrier(id="seat", name="seat pack", place="seat", capacity=0.02, load_limit=5.0, mass=0.4, longest=0.5)
JOBS = ("shelter", "ground", "sleep_warm")


@st.composite
def packed(draw: st.DrawFn) -> tuple[Item, ...]:
    """Up to six things, some of them for camp."""
    count = draw(st.integers(0, 6))
    things = []
    for k in range(count):
        job = draw(st.sampled_from(["", "", *JOBS]))
        things.append(
            Item(id=f"t{k}", name=f"thing {k}", mass=0.1, volume=draw(st.integers(0, 40)) / 1e4,
                 reaches=Reaches(per_day=draw(st.integers(0, 9)) / 2.0), access="camp" if job else "off",
                 roles=frozenset({job}) if job else frozenset())
        )  # fmt: skip
    return tuple(things)


def by_hand(order: tuple[Item, ...], days: float) -> float:
    """Minutes of digging, thing by thing."""
    above, seconds = 0.0, 0.0
    for item in order:
        seconds += item.reaches.per_day * above * 1000.0 * DIGGING
        above += item.volume
    return seconds / 60.0 * days


def comes_out_right(order: tuple[Item, ...]) -> bool:
    ranks = [(JOBS.index(next(iter(i.roles))), i.id) for i in order if i.access == "camp"]
    return ranks == sorted(ranks)


@given(packed())
@settings(max_examples=80, deadline=None)
def test_no_order_that_camp_allows_needs_less_digging(things: tuple[Item, ...]) -> None:
    order = bag_order(BAG, things, often=Often(), days=4.0)
    found = tuple(slot.item for slot in order.slots)
    assert sorted(item.id for item in found) == sorted(item.id for item in things)
    assert comes_out_right(found)
    least = min(by_hand(p, 4.0) for p in permutations(things) if comes_out_right(p))
    assert order.digging == pytest.approx(least, abs=1e-9) == order.best


@given(packed(), st.randoms())
def test_an_order_of_ones_own_is_kept_and_what_is_new_lies_on_top(things: tuple[Item, ...], random: object) -> None:
    ids = [item.id for item in things]
    random.shuffle(ids)  # type: ignore[attr-defined]
    own = ids[1:]
    order = bag_order(BAG, things, often=Often(), days=4.0, own=own)
    shown = [slot.item.id for slot in order.slots]
    assert [key for key in shown if key in own] == own or not own
    if own:
        assert shown[0] == ids[0] and order.is_own
        assert order.digging == pytest.approx(by_hand(tuple(slot.item for slot in order.slots), 4.0), abs=1e-9)


@given(packed())
def test_a_roll_with_two_mouths_needs_no_more_digging_than_one(things: tuple[Item, ...]) -> None:
    roll = Carrier(id="bar", name="bar roll", place="bar", capacity=0.02, load_limit=5.0, mass=0.4, longest=0.5)
    assert (
        bag_order(roll, things, often=Often(), days=4.0).digging
        <= bag_order(BAG, things, often=Often(), days=4.0).digging + 1e-9
    )


def test_a_fragile_thing_goes_inside_a_soft_one_where_hard_ones_ride_and_small_ones_fill_gaps() -> None:
    glasses = Item(id="g", name="glasses", mass=0.03, volume=0.0001, fragile=True, reaches=Reaches(per_day=1.0))
    jacket = Item(id="j", name="down jacket", category="clothes", mass=0.3, volume=0.0015, reaches=Reaches(per_day=1.0))
    pump = Item(id="p", name="pump", category="tools", mass=0.1, volume=0.0002)
    bolts = Item(id="b", name="bolts", category="tools", mass=0.02, volume=0.00001)
    said = bag_order(BAG, (glasses, jacket, pump, bolts), often=Often(), days=4.0).sentences
    assert "glasses inside down jacket" in said and "bolts into the gaps" in said
    assert not any("inside" in words for words in bag_order(BAG, (glasses, jacket), often=Often(), days=4.0).sentences)


def test_the_bike_lies_on_its_left_unless_delicate_things_ride_there() -> None:
    left = Carrier(id="l", name="l", place="fork", side="left", capacity=0.003, load_limit=1, mass=0.1, longest=0.3)
    right = Carrier(id="r", name="r", place="fork", side="right", capacity=0.003, load_limit=1, mass=0.1, longest=0.3)
    glass = Item(id="g", name="camera", mass=0.1, volume=0.0, fragile=True)
    assert lay_side((left, right), ((), ())).side == "left"
    assert lay_side((left, right), ((glass,), ())).side == "right"
    both = lay_side((left, right), ((glass,), (glass,)))
    assert both.side == "left" and both.under == ("camera",)
