"""The rider's own table: out again with its headers, order and units, and back as the same kit."""

import csv
import io
from dataclasses import replace

import pytest

from stonechat.core.kit.item import Item
from stonechat.core.kit.sheet import SheetColumn
from stonechat.formats.kit_columns import guess_mapping
from stonechat.formats.kit_sheet import bag_names, write_own_sheet
from stonechat.formats.kit_table import KitTable, read_kit
from stonechat.formats.table_file import read_grid

SHEETS = {
    "ounces": "Item;Shop link;Weight oz;Where;Colour\nrain jacket;shop 12;7;seat pack;red\n2x tubes;;7.4;frame bag;\n",
    "totals": "Gear,Qty,Total (g),Worn\nhelmet,1,260,yes\nsocks,3,150,\nquick link,2,8,\n",
    "measured": "What,Claimed g,Measured g,kcal,My own idea\nenergy bar,55,57,240,eat first\nquilt,540,,,hm\n",
    "litres": "Thing,kg,packed volume l,Notes\ntent,1.4,4.5,inner and fly\npassport,0.035,0.04,\n",
}


def table(data: bytes) -> tuple[KitTable, tuple[SheetColumn, ...]]:
    grid = read_grid(data)
    mapping = guess_mapping(grid)
    columns = tuple(SheetColumn(header=c.header, field=c.field, unit=c.unit) for c in mapping.columns)
    return read_kit(grid, mapping), columns


@pytest.mark.parametrize("name", sorted(SHEETS))
@pytest.mark.parametrize("as_xlsx", [False, True])
def test_a_riders_sheet_survives_the_round_trip(name: str, as_xlsx: bool) -> None:
    first, sheet = table(SHEETS[name].encode())
    data = write_own_sheet(first.items, sheet, first.places, as_xlsx=as_xlsx)
    again, columns = table(data)
    assert columns == sheet
    assert again.items == first.items and again.places == first.places and again.aside == ()


def test_what_has_changed_since_stands_in_its_columns() -> None:
    first, sheet = table(SHEETS["ounces"].encode())
    jacket = replace(first.items[0], mass=0.25, name="blue rain jacket")
    rows = list(csv.reader(io.StringIO(write_own_sheet((jacket,), sheet, {}, as_xlsx=False).decode())))
    assert rows[0] == ["Item", "Shop link", "Weight oz", "Where", "Colour"]
    assert rows[1][0] == "blue rain jacket" and rows[1][1] == "shop 12" and rows[1][4] == "red"
    assert float(rows[1][2]) == pytest.approx(0.25 / 0.028349523125, abs=1e-4)


def test_places_are_told_as_riders_tell_them() -> None:
    things = [
        Item(id="h", name="helmet", mass=0.3, volume=0.0, worn=True),
        Item(id="l", name="lamp", mass=0.1, volume=0.0, fixed="bars"),
        Item(id="j", name="jacket", mass=0.2, volume=0.001),
        Item(id="b", name="book", mass=0.2, volume=0.001),
        Item(id="x", name="cup", mass=0.2, volume=0.001),
    ]
    names = bag_names(things, {"j": "seat", "b": "home"}, {"seat": "seat pack"})
    assert names == {"h": "worn", "l": "on the bike", "j": "seat pack", "b": "at home", "x": ""}
