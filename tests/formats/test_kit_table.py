"""A kit from other people's tables: guessed columns, units, doubles, rows put aside."""

from dataclasses import replace

import pytest
from hypothesis import given

from stonechat.core.kit.item import Item, Pouch, Record
from stonechat.errors import UnreadableFile
from stonechat.formats.kit_columns import TableMapping, guess_mapping
from stonechat.formats.kit_csv import read_kit_rows, write_kit_rows, write_kit_sheet
from stonechat.formats.kit_table import KitTable, read_kit
from stonechat.formats.table_file import read_grid
from tests.strategies import kits, owned_kits, rounded


def mapped(text: str) -> TableMapping:
    return guess_mapping(read_grid(text.encode()))


def read(text: str) -> KitTable:
    grid = read_grid(text.encode())
    return read_kit(grid, guess_mapping(grid))


def fields(text: str) -> list[tuple[str, str]]:
    return [(column.field, column.unit) for column in mapped(text).columns]


@pytest.mark.parametrize(
    ("header", "expected"),
    [
        ("Item,Weight (g),Qty", [("name", ""), ("mass_g", "g"), ("quantity", "")]),
        ("Gear;Mass [kg];Volume in l", [("name", ""), ("mass_g", "kg"), ("volume_ml", "l")]),
        ("article\toz\tclaimed weight oz", [("name", ""), ("mass_g", "oz"), ("claimed_g", "oz")]),
        ("name,weight lb,length cm,colour", [("name", ""), ("mass_g", "lb"), ("length_mm", "cm"), ("", "")]),
        ("Thing,Size packed (in³),grams", [("name", ""), ("volume_ml", "in³"), ("mass_g", "g")]),
        ("name,mass_g,reaches_per_day,note", [("name", ""), ("mass_g", "g"), ("reaches_per_day", ""), ("note", "")]),
    ],
)
def test_headers_are_guessed(header: str, expected: list[tuple[str, str]]) -> None:
    assert fields(f"{header}\n") == expected


def test_a_title_above_the_header_is_stepped_over() -> None:
    grid = read_grid(b"My list 2027,,\n,,\nitem,weight,qty\nlamp,120,1\n")
    mapping = guess_mapping(grid)
    assert mapping.header_row == 3 and [i.name for i in read_kit(grid, mapping).items] == ["lamp"]


def test_a_table_without_header_is_read_by_what_stands_in_it() -> None:
    table = read("lamp,120\ninner tube,134\nmini pump,124\n")
    assert [(item.name, item.mass) for item in table.items] == [
        ("lamp", 0.12),
        ("inner tube", 0.134),
        ("mini pump", 0.124),
    ]


def test_bare_figures_without_a_unit_are_taken_by_their_size() -> None:
    # nobody's kit has a median of 0.2 g
    assert fields("name,weight\na,0.212\nb,0.134\nc,0.54")[1] == ("mass_g", "kg")
    assert fields("name,weight\na,212\nb,134\nc,540")[1] == ("mass_g", "g")


@pytest.mark.parametrize(
    ("unit", "typed", "grams"),
    [("oz", "7,5", 7.5 * 28.349523125), ("lb", "0.5", 226.796185), ("kg", "0,212", 212.0), ("g", "1 212", 1212.0)],
)
def test_units_are_turned_into_grams(unit: str, typed: str, grams: float) -> None:
    (item,) = read(f"name;weight {unit}\nlamp;{typed}\n").items
    assert item.mass * 1e3 == pytest.approx(grams, rel=1e-6)


def test_a_figure_with_its_own_unit_overrules_the_column() -> None:
    assert [i.mass for i in read("name;weight g\na;0,3 kg\nb;4 oz\n").items] == pytest.approx([0.3, 0.113398], rel=1e-5)


def test_volumes_in_cubic_inches() -> None:
    (item,) = read("name;g;volume in³\nbag;200;61,0237\n").items
    assert item.volume == pytest.approx(0.001, rel=1e-5)


def test_every_bad_row_is_kept_with_its_reason_and_its_cells() -> None:
    table = read("name,g,qty\nlamp,120,1\n,30,1\ntube,heavy,1\npump,124,1.5\nsocks,3 t,1\nhat,-4,1\nmat,340,1\n")
    assert [item.name for item in table.items] == ["lamp", "mat"]
    assert [row.number for row in table.aside] == [3, 4, 5, 6, 7]
    words = " ".join(row.sentence for row in table.aside)
    for part in (
        "name is missing",
        "“heavy” is not a number",
        "1.5 is no whole number",
        "“t” is no unit",
        "-4 is outside",
    ):
        assert part in words
    assert table.aside[1].cells == ("tube", "heavy", "1")


def test_what_is_hard_to_believe_waits_for_a_tick() -> None:
    table = read("name,kind,kg\ntoothbrush,hygiene,15\nlamp,light,0.12\ntube,tools,0.13\n")
    assert [item.name for item in table.items] == ["lamp", "tube"]
    assert [(number, item.name) for number, item, _ in table.doubtful] == [(2, "toothbrush")]


def test_rows_alike_are_added_up_and_others_of_the_same_name_stay() -> None:
    table = read("name,g,qty\nspoke,8,2\nspoke,8,1\nspoke,9,1\n")
    assert [(i.name, i.mass, i.quantity) for i in table.items] == [("spoke", 0.008, 3), ("spoke", 0.009, 1)]
    assert table.merged == ("spoke",) and len({i.id for i in table.items}) == 2


def test_what_is_left_out_is_usual_for_the_kind() -> None:
    (quilt,) = read("name,kind,g\nquilt,sleep,540\n").items
    assert (quilt.access, quilt.reaches.per_day, quilt.keep_dry, quilt.volume) == (
        "camp",
        1.0,
        True,
        pytest.approx(0.0038 * 540 / 550),
    )
    assert quilt.roles == {"sleep_warm"}


@pytest.mark.parametrize(
    ("text", "sentence"),
    [("12;30\n5;6", "No column is the name"), ("name,colour\nlamp,red", "No column is the mass")],
)
def test_a_table_without_names_or_masses_says_what_is_missing(text: str, sentence: str) -> None:
    with pytest.raises(UnreadableFile, match=sentence):
        read(text)


@given(kits(6))
def test_csv_and_xlsx_hold_the_whole_kit(kit: tuple[Item, ...]) -> None:
    rich = tuple(
        replace(item, reaches=replace(item.reaches, rain=2.0), roles=frozenset({"plug"}),
                tools=frozenset({"hex4"}), group="set", pouch=Pouch() if n == 0 else None,
                container="" if n == 0 else kit[0].id, record=Record(carried=3, used=1), fragile=True)
        for n, item in enumerate(kit)
    )  # fmt: skip
    unique = tuple(replace(item, name=f"{item.name} {n}"[:80]) for n, item in enumerate(rich))
    for data in (write_kit_rows(unique), write_kit_sheet(unique)):
        again = read_kit_rows(data)
        plain = [replace(i, id="", container="", mass=0.0, volume=0.0, note="") for i in again]
        assert plain == [replace(i, id="", container="", mass=0.0, volume=0.0, note="") for i in unique]
        assert [i.mass for i in again] == pytest.approx([i.mass for i in unique])
        holder = again[0].id if again else ""
        assert [i.container for i in again] == ["" if n == 0 else holder for n in range(len(again))]


@given(owned_kits())
def test_what_a_hand_has_set_comes_back_from_csv_and_xlsx(kit: tuple[Item, ...]) -> None:
    unique = tuple(replace(item, name=f"{item.name} {n}", note="") for n, item in enumerate(kit))
    for data in (write_kit_rows(unique), write_kit_sheet(unique)):
        assert [rounded(replace(i, id="")) for i in read_kit_rows(data)] == [rounded(replace(i, id="")) for i in unique]


SHEET = """My kit for the north,,,,
Item,Where,Qty,Weight (g),Total,Notes
SLEEP,,,,,
Down quilt (comfort 2C),Front roll,1,620,620,custom
Inflatable sleeping pad R3.2,Front roll,1,ca. 430,430,
Pillow,Seat pack,1,,,
Subtotal,,,,1050,
CLOTHES WORN,,,,,
Helmet,,1,260,260,
SS jersey,,1,140,140,
Socks,,1,40,40,
TOOLS,,,,,
Multitool with 17 functions,Frame bag,1,160,160,
2x tubes,Frame bag,,210,210,
Tyre levers (2),Frame bag,,24,24,
Item,Where,Qty,Weight (g),Total,Notes
Socks,Seat pack,2 pr,45,90,
GPS,on bike,1,95,95,
Phone,on me,1,205,205,
Regenkilt,Seat pack,1,80,80,
Grand total,,,,9999,
"""


def test_sections_sums_and_headers_in_between_are_no_things() -> None:
    table = read(SHEET)
    assert len(table.items) == 13 and table.aside == ()
    assert [item.name for item in table.items if item.id in table.estimated] == ["Pillow"]
    (off,) = table.sums  # the sum of the sleeping things is right but for the pillow, which the table does not weigh
    assert "Row 21" in off and "9,999 g" in off
    by_name = {item.name: item for item in table.items}
    assert by_name["Helmet"].worn and by_name["SS jersey"].worn and by_name["Regenkilt"].kind == ""
    assert by_name["GPS"].fixed == "bars" and not by_name["Phone"].worn
    assert table.places[by_name["Down quilt (comfort 2C)"].id] == "Front roll"
    assert dict(by_name["Inflatable sleeping pad R3.2"].facts) == {"r_value": 3.2}
    worn, packed = (item for item in table.items if item.kind == "socks")
    assert worn.worn and worn.roles == set() and packed.quantity == 2 and packed.roles == {"change"}


@pytest.mark.parametrize(
    ("row", "mass", "quantity"),
    [
        ("2x tubes,210", 0.105, 2),  # together: one of 210 g would be a heavy one
        ("2x tubes,105", 0.105, 2),  # each
        ("Tyre levers (2),24", 0.012, 2),
        ("tubes x2,2 x 110 g", 0.110, 2),
        ("multitool 17 functions,160", 0.160, 1),
        ("chain quick link 12,4", 0.004, 1),
        ("rain jacket,~ 210", 0.210, 1),
        ("rain jacket,200-220", 0.210, 1),
        ("rain jacket,ca. 7 oz", 0.1984, 1),
        ("rain jacket,about 0.21 kg", 0.210, 1),
        ("rain jacket,210?", 0.210, 1),
        ("rain jacket,?", 0.220, 1),  # usual of the kind, and said to be
    ],
)
def test_masses_and_counts_are_read_as_riders_write_them(row: str, mass: float, quantity: int) -> None:
    (item,) = read(f"item,grams\n{row}\n").items
    assert (item.mass, item.quantity) == (pytest.approx(mass, abs=5e-5), quantity)


def test_a_mass_together_is_shared_and_a_measured_one_goes_before_a_claim() -> None:
    (tube,) = read("item,qty,total weight g\ntube,2,210\n").items
    assert (tube.mass, tube.quantity) == (0.105, 2)
    jacket, hat = read("item,claimed g,measured g\nrain jacket,200,212\nbeanie,45,\n").items
    assert (jacket.mass, jacket.claimed, jacket.weighed) == (0.212, 0.2, True)
    assert (hat.mass, hat.weighed) == (0.045, False)


def test_more_columns_are_read_where_they_are_there() -> None:
    text = "item,g,kcal,mAh,R-value,comfort °C\nenergy bar,55,240,,,\npower bank,210,10 Ah,,,\n"
    table = read(text)
    assert dict(table.items[0].facts) == {"kcal": 240.0}
    assert [row.number for row in table.aside] == [3] or dict(table.items[1].facts) == {"kcal": 10.0}
    (bank,) = read("item,g,mAh\npower bank,210,10 Ah\n").items
    assert dict(bank.facts) == {"mah": 10_000.0}


def test_a_row_of_units_below_the_header_belongs_to_it() -> None:
    (item,) = read("item,weight,volume\n,oz,l\nrain jacket,7,0.8\n").items
    assert item.mass == pytest.approx(7 * 0.028349523125, rel=1e-6) and item.volume == pytest.approx(0.0008)


def test_another_language_is_not_known_and_not_misread() -> None:
    table = read("Gegenstand,Gewicht (g)\nRegenjacke,210\nSchlafsack,700\nLuftpumpe,120\n")
    assert [item.kind for item in table.items] == ["", "", ""] and all(item.roles == set() for item in table.items)
    assert [item.mass for item in table.items] == [0.21, 0.7, 0.12]


def test_formulas_that_were_not_computed_are_put_aside() -> None:
    table = read("item,weight g\nrain jacket,=B7*2\nhelmet,260\n")
    assert [item.name for item in table.items] == ["helmet"] and "formula" in table.aside[0].sentence


def test_a_second_thing_of_a_kind_that_is_worn_is_packed() -> None:
    first, second = read("item,g\njersey,150\nold jersey,160\n").items
    assert first.worn and not second.worn and second.packed and second.volume > 0.0


def test_a_kind_that_the_rider_chose_counts() -> None:
    grid = read_grid(b"item,g\nRegenjacke,210\nhelmet,260\n")
    jacket, helmet = read_kit(grid, guess_mapping(grid), kinds={2: "rain_jacket", 3: ""}).items
    assert jacket.roles == {"rain_top", "wind"} and helmet.kind == "" and helmet.roles == set()


def test_a_heading_is_no_bag_by_a_part_of_its_word_and_a_thing_without_mass_is_no_heading() -> None:
    table = read("item,grams\nSleep system\nquilt,540\nElectronics details\nframe pump\nrear light,\nphone,200\n")
    assert table.places == {} and [i.name for i in table.items] == ["quilt", "frame pump", "rear light", "phone"]
    assert {i.name for i in table.items if i.id in table.estimated} == {"frame pump", "rear light"}
    assert table.items[2].fixed == "seatpost"


def test_two_that_the_table_says_are_worn_are_both_worn() -> None:
    both = read("item,g,worn\njersey,150,yes\nwool jersey,160,yes\n").items
    assert all(item.worn for item in both)
    first, second = read("item,g,claimed g,shop,kcal\njersey,150,140,here,\nwool jersey,160,155,there,\n").items
    assert first.worn and not second.worn and second.roles == {"change"}
    assert second.claimed == 0.155 and dict(second.cells) == {"shop": "there"}  # nothing else of the row is lost


@pytest.mark.parametrize("cell", ["3 season", "n° 5", "12 l"])
def test_a_figure_in_another_unit_is_not_misread(cell: str) -> None:
    table = read(f"item,g,comfort °C\nquilt,540,{cell}\n")
    assert table.items == () and "no figure in °C" in table.aside[0].sentence


def test_warmth_is_read_from_columns_by_what_they_say() -> None:
    text = (
        "item,g,comfort °C,limit °C,fill g,fill power,clo,R-value\n"
        "bag,900,2,-4,400,750,,\n"
        "down jacket,280,,,90,800,,\n"
        "wind shirt,120,,,,,0.2,\n"
        "mat,400,,,,,,4.2\n"
    )
    bag, jacket, shirt, mat = (dict(item.facts) for item in read(text).items)
    assert bag == {"comfort": 2.0, "limit": -4.0, "fill_g": 400.0, "loft": 750.0}
    assert jacket == {"fill_g": 90.0, "loft": 800.0} and shirt == {"clo": 0.2} and mat == {"r_value": 4.2}
    assert "outside" in read("item,g,R-value\nmat,400,400\n").aside[0].sentence
