"""What riders call their bags, and the carriers that are meant."""

from dataclasses import replace

import pytest

from stonechat.core.kit.item import Carried
from stonechat.core.kit.lexicon.bags import BagWord, bag_of, carrier_for
from stonechat.core.rig.catalogue import KINDS

KEYS = ("seat_middle", "bar_roll_small", "frame_half", "top_front", "top_rear", "stem_pair", "fork_bags", "jersey")
RIG = tuple(
    replace(part, id=f"{key}-{number}", kind=key) for key in KEYS for number, part in enumerate(KINDS[key].parts)
)


@pytest.mark.parametrize(
    ("words", "kind"),
    [
        ("seat pack", "seat_middle"), ("Saddle bag 14L", "seat_middle"), ("REAR BAG", "seat_middle"),
        ("front roll", "bar_roll_small"), ("Handlebar bag", "bar_roll_small"), ("front", "bar_roll_small"),
        ("frame bag", "frame_half"), ("Half-frame bag", "frame_half"), ("top tube", "top_front"),
        ("Top-tube bag (rear)", "top_rear"), ("feed bag", "stem_pair"), ("fork bag left", "fork_bags"),
        ("on me", "jersey"), ("jersey pockets", "jersey"),
    ],
)  # fmt: skip
def test_a_bag_is_found_on_the_bike_by_what_it_is_called(words: str, kind: str) -> None:
    carrier = carrier_for(words, RIG)
    assert carrier is not None and carrier.kind == kind


def test_left_is_left_and_its_own_name_goes_first() -> None:
    left = carrier_for("fork bag left", RIG)
    assert left is not None and left.side == "left"
    named = replace(RIG[0], id="own", name="the blue one")
    assert carrier_for("The blue one", (*RIG, named)) is named


@pytest.mark.parametrize(("words", "what"), [("worn", "worn"), ("Clothes worn", "worn"), ("on bike", "fixed")])
def test_some_words_are_no_bag(words: str, what: str) -> None:
    assert bag_of(words) == what
    assert isinstance(bag_of(words), Carried)


@pytest.mark.parametrize("words", ["", "Tuesday", "electronics", "Sleep system", "details", "bracket", "shipping"])
def test_what_is_no_bag_is_not_taken_for_one(words: str) -> None:
    assert bag_of(words) is None and carrier_for(words, RIG) is None


def test_a_bag_that_is_not_on_the_bike_can_be_made() -> None:
    bag = bag_of("hip pack")
    assert isinstance(bag, BagWord) and bag.make in KINDS and carrier_for("hip pack", RIG) is None
