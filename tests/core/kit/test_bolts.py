"""Bolts against the tools aboard."""

from dataclasses import replace
from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.kit.bolts import MULTITOOL, TOOLS, Bolt, bolts_of, cover_bolts, lightest_set, with_own
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
    assert without == {"t30", "spoke", "core", "hex8"} and covers[0].items == ()
    key = Item(id="k", name="spoke key", mass=0.02, volume=0.0, tools=recognise("spoke key").tools)
    assert "spoke" not in {e.bolt.tool for e in cover_bolts(bolts_of(flat, ()), (TOOL, key)) if not e.items}


def test_a_short_key_and_a_weak_lever_are_told_apart() -> None:
    deep = Bolt(part="deep", tool="hex4", torque=(5.0, 6.0), reach=45.0)
    tight = Bolt(part="tight", tool="hex8", torque=(35.0, 40.0))
    multi = Item(id="m", name="multitool", kind="multi_tool", mass=0.1, volume=0.0, tools=frozenset({"hex4", "hex8"}))
    keys = replace(multi, id="k", name="hex keys", kind="hex_key")
    covers = {cover.bolt.part: cover for cover in cover_bolts((deep, tight), (multi, keys))}
    assert [item.name for item in covers["deep"].items] == ["hex keys"]
    assert covers["tight"].items == () and "not as tight as 35" in covers["tight"].said
    alone = {cover.bolt.part: cover.said for cover in cover_bolts((deep, tight), (multi,))}
    assert "does not reach 45 mm" in alone["deep"]
    assert cover_bolts((deep,), ())[0].said == "nothing aboard"


@given(
    sizes=st.lists(st.sets(st.sampled_from(sorted(TOOLS)), min_size=1, max_size=5), min_size=1, max_size=7),
    grams=st.lists(st.integers(5, 200), min_size=7, max_size=7),
)
@settings(max_examples=60, deadline=None)
def test_no_lighter_set_turns_as_much(sizes: list[set[str]], grams: list[int]) -> None:
    tools = tuple(
        Item(id=f"t{k}", name=f"t{k}", mass=grams[k] / 1e3, volume=0.0, tools=frozenset(mine))
        for k, mine in enumerate(sizes)
    )
    bolts = tuple(Bolt(part=size, tool=size, torque=(0.0, 0.0), reach=1.0) for size in TOOLS)
    found = lightest_set(cover_bolts(bolts, tools))
    wanted = set().union(*sizes)
    turned: set[str] = set().union(*(item.tools for item in found))
    assert turned == wanted
    best = min(
        sum(item.mass for item in some)
        for count in range(1, len(tools) + 1)
        for some in combinations(tools, count)
        if set().union(*(item.tools for item in some)) == wanted
    )
    assert sum(item.mass for item in found) == pytest.approx(best, abs=1e-5)


def test_own_bolts_stand_in_for_the_usual_ones() -> None:
    usual = bolts_of(Bike(), ())
    own = (Bolt(part="crank", tool="hex5", torque=(12.0, 14.0)), Bolt(part="bell", tool="cross", torque=(0.0, 0.0)),
           Bolt(part="cleats", tool="hex4", torque=(0.0, 0.0), count=0))  # fmt: skip
    found = {bolt.part: bolt for bolt in with_own(usual, own)}
    assert found["crank"].tool == "hex5" and "bell" in found and "cleats" not in found
    assert len(found) == len(usual)
