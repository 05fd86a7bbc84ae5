"""The catalogue: enough kinds, believable and complete, each of which can hang on a bike."""

from dataclasses import replace

import pytest

from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import USES
from stonechat.core.rig.catalogue import CATALOGUE, KINDS, SHIELDS, Kind, places_for, uses_at
from stonechat.core.rig.geometry import carrier_outline, carrier_position, shift_range
from stonechat.core.rig.places import PLACES, WORN
from stonechat.formats.documents.rig import CarrierDocument


def test_there_are_at_least_thirty_kinds_at_every_place() -> None:
    assert len(CATALOGUE) >= 30 and len(KINDS) == len(CATALOGUE)
    assert {part.place for kind in CATALOGUE for part in kind.parts} == set(PLACES)
    assert set(SHIELDS) == set(PLACES)


@pytest.mark.parametrize("kind", CATALOGUE, ids=lambda kind: kind.key)
def test_a_kind_is_a_carrier_that_the_document_takes(kind: Kind) -> None:
    for n, part in enumerate(kind.parts):
        carrier = replace(part, id=f"x{n}", kind=kind.key)
        again = CarrierDocument.of(carrier).core()
        assert replace(again, capacity=carrier.capacity, mass=carrier.mass) == carrier
        assert 0.0 <= carrier.capacity_least <= carrier.capacity
        assert carrier.shield_low <= carrier.shield <= carrier.shield_high
        assert carrier.uses <= set(USES)
        # nothing is denser than lead shot, nor bears less than its volume in down
        assert 0.05 < carrier.load_limit / (carrier.capacity * 1e3) < 5.0
        assert carrier_position(Bike(), carrier)[2] > 0.2
        assert bool(carrier_outline(Bike(), carrier)) == (carrier.place not in WORN)


def test_a_bottle_may_go_to_other_bosses_and_takes_those() -> None:
    bottle = replace(KINDS["bottle_top"].parts[0], id="b", kind="bottle_top")
    assert places_for(bottle) == ("bottle_down", "bottle_seat")
    assert uses_at(bottle, "bottle_seat") == {"seat_tube"}
    assert uses_at(bottle, "bottle_down") == bottle.uses
    assert places_for(replace(bottle, kind="own")) == ("bottle_down",)


def test_a_shift_moves_a_bag_along_its_tube() -> None:
    bag = replace(KINDS["top_front"].parts[0], id="t")
    least, most = shift_range(Bike(), bag)
    assert least < 0.0 < most
    ends = [carrier_position(Bike(), replace(bag, shift=s)) for s in (least, most)]
    # the top tube slopes: both ends differ by the range along it
    assert sum((a - b) ** 2 for a, b in zip(*ends, strict=True)) ** 0.5 == pytest.approx(most - least, rel=1e-6)
