"""Bolts against the tools aboard."""

from dataclasses import replace

import pytest

from stonechat.core.kit.bolts import MULTITOOL, TOOLS, bolts_of, cover_bolts
from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.recognise import recognise
from stonechat.core.rig.bike import BIKE_KINDS, Bike, usual_bike
from stonechat.core.rig.catalogue import KINDS

TOOL = Item(id="m", name="multitool", mass=0.15, volume=0.0001, tools=MULTITOOL)


@pytest.mark.parametrize("kind", BIKE_KINDS)
def test_every_bolt_has_a_tool_that_exists_and_a_range(kind: str) -> None:
    for bolt in bolts_of(replace(usual_bike(kind, "m"), electronic=True, dynamo=True), ()):
        assert bolt.tool in TOOLS and bolt.count >= 1 and 0.0 <= bolt.torque[0] <= bolt.torque[1] <= 60.0


def test_what_the_bike_has_brings_its_bolts() -> None:
    def parts(bike: Bike) -> set[str]:
        return {bolt.part for bolt in bolts_of(bike, ())}

    plain = replace(Bike(), aero_bars=False)
    assert parts(Bike()) - parts(plain) == {"aero-bar clamps", "arm pads"}
    assert "shock eyes" in parts(usual_bike("full", "m")) and "shock eyes" not in parts(plain)
    assert "lever battery doors" in parts(replace(plain, electronic=True))
    assert "gear cable clamp" not in parts(replace(plain, electronic=True))


def test_a_mounted_cage_brings_the_bolts_of_its_bosses() -> None:
    cage = replace(KINDS["fork_bottles"].parts[0], id="c")
    assert any("fork bottle, left" in bolt.part and bolt.count == 3 for bolt in bolts_of(Bike(), (cage,)))
    assert not any("fork bottle" in bolt.part for bolt in bolts_of(Bike(), (replace(cage, mounted=False),)))


def test_a_size_that_is_not_aboard_comes_first() -> None:
    flat = usual_bike("flat_rigid", "m")
    covers = cover_bolts(bolts_of(flat, ()), (TOOL,))
    without = {entry.bolt.tool for entry in covers if not entry.items}
    assert without == {"t30", "spoke", "core"} and covers[0].items == ()
    key = Item(id="k", name="spoke key", mass=0.02, volume=0.0, tools=recognise("spoke key").tools)
    assert "spoke" not in {e.bolt.tool for e in cover_bolts(bolts_of(flat, ()), (TOOL, key)) if not e.items}
