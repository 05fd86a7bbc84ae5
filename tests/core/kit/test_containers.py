"""Pouches and dry bags: what is inside goes along, stays dry, and is packed as one."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.kit.containers import (
    contents_of,
    holder_of,
    refuse_loops,
    resolved_places,
    sheltered,
    units_to_pack,
)
from stonechat.core.kit.item import Item, Pouch, Reaches
from stonechat.errors import InvalidInput
from tests.strategies import kits

POUCH = Item(id="pouch", name="wash pouch", mass=0.018, volume=0.00001, pouch=Pouch(), access="camp")
BRUSH = Item(id="brush", name="brush", mass=0.02, volume=0.0001, container="pouch", access="camp",
             reaches=Reaches(per_day=1.0))  # fmt: skip
CREAM = Item(id="cream", name="cream", mass=0.06, volume=0.0001, container="pouch", access="off",
             reaches=Reaches(per_day=2.0),
             leaks=True, length=0.12)  # fmt: skip


def test_a_pouch_is_packed_with_all_that_is_in_it() -> None:
    (unit,) = units_to_pack((POUCH, BRUSH, CREAM))
    assert unit.id == "pouch" and unit.total_mass == pytest.approx(0.098) and unit.total_volume == pytest.approx(21e-5)
    assert (unit.reaches.per_day, unit.access, unit.length, unit.leaks) == (3.0, "off", 0.12, True)
    assert [part.id for part in contents_of((POUCH, BRUSH, CREAM))["pouch"]] == ["pouch", "brush", "cream"]


def test_what_is_inside_is_where_the_pouch_is_whatever_was_set() -> None:
    places = resolved_places((POUCH, BRUSH, CREAM), {"pouch": "seat", "brush": "bar"})
    assert places == {"pouch": "seat", "brush": "seat", "cream": "seat"}
    assert resolved_places((POUCH, BRUSH), {"brush": "bar"}) == {}


def test_a_dry_bag_keeps_dry_and_holds_leaks_back_but_a_pouch_does_neither() -> None:
    down = Item(id="down", name="down", mass=0.3, volume=0.002, keep_dry=True, spoils=True, container="pouch")
    dry = replace(POUCH, pouch=Pouch(makes_dry=True))
    assert sheltered((POUCH, down))[1] == down
    inside = sheltered((dry, down))[1]
    assert not inside.keep_dry and not inside.spoils


def test_what_is_worn_or_in_something_that_holds_nothing_stands_by_itself() -> None:
    worn = replace(BRUSH, worn=True)
    closed = replace(POUCH, pouch=None)
    assert holder_of(worn, {"pouch": POUCH}) is None and holder_of(BRUSH, {"pouch": closed}) is None
    assert len(units_to_pack((closed, BRUSH))) == 2


@pytest.mark.parametrize(
    ("items", "sentence"),
    [
        ((replace(POUCH, container="pouch"),), "cannot be inside itself"),
        ((replace(POUCH, pouch=None), BRUSH), "holds nothing. Tick"),
        ((POUCH, replace(POUCH, id="small", name="small pouch", container="pouch")), "pouches do not go into pouches"),
    ],
)
def test_a_nesting_that_cannot_be_is_refused(items: tuple[Item, ...], sentence: str) -> None:
    with pytest.raises(InvalidInput, match=sentence):
        refuse_loops(items)


@given(kits(8), st.lists(st.integers(0, 7), max_size=8))
def test_packing_as_units_loses_no_gram_and_no_drop(kit: tuple[Item, ...], inside: list[int]) -> None:
    bag = Item(id="bag", name="bag", mass=0.03, volume=0.0001, pouch=Pouch())
    things = tuple(replace(item, container="bag" if n in inside else "") for n, item in enumerate(kit))
    units = units_to_pack((bag, *things))
    assert sum(u.total_mass for u in units) == pytest.approx(bag.total_mass + sum(i.total_mass for i in kit))
    assert sum(u.total_volume for u in units) == pytest.approx(bag.total_volume + sum(i.total_volume for i in kit))
    assert len(units) == 1 + len(kit) - len({n for n in inside if n < len(kit)})
