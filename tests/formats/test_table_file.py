"""Tables as people have them: CSV, paste and XLSX, traps and damage."""

import io
import zipfile

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook

from stonechat.errors import StonechatError, TooLarge
from stonechat.formats.csv_table import write_table
from stonechat.formats.table_file import MOST_ROWS, read_grid, write_xlsx


def sheet(*rows: object, sheets: int = 1) -> bytes:
    book = Workbook()
    for row in rows:
        book.active.append(row)
    for n in range(1, sheets):
        book.create_sheet(f"more {n}")
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_an_xlsx_is_read_as_text_with_its_figures_whole() -> None:
    grid = read_grid(sheet(["name", "g"], ["lamp", 212], ["tube", 0.1345], ["socks", None], ["x", True]))
    assert grid.rows == (("name", "g"), ("lamp", "212"), ("tube", "0.1345"), ("socks", ""), ("x", "yes"))
    assert grid.notes == ()


def test_the_first_sheet_is_read_and_the_others_are_named() -> None:
    assert "2 more are not" in read_grid(sheet(["name"], ["lamp"], sheets=3)).notes[0]


def test_line_ends_of_every_kind_are_read() -> None:
    for end in ("\n", "\r\n", "\r"):
        assert read_grid(end.join(["name,g", "lamp,212", "tube,120"]).encode()).rows[2] == ("tube", "120")
    utf16 = "name\tg\nétui\t21\n".encode("utf-16")
    assert read_grid(utf16).rows[1] == ("étui", "21")


def test_empty_rows_keep_the_numbers_and_count_for_nothing() -> None:
    rows = [["name", "g"], ["lamp", 212], *[[None, None]] * (MOST_ROWS + 500), ["tube", 120], *[[None]] * 300]
    grid = read_grid(sheet(*rows))
    assert len(grid.rows) == MOST_ROWS + 503 and grid.rows[-1] == ("tube", "120")
    as_text = "\n".join(["name,g", "lamp,212", *[","] * (MOST_ROWS + 500), "tube,120", *[","] * 300])
    assert read_grid(as_text.encode()).rows == grid.rows


def test_one_far_cell_does_not_make_a_table_large() -> None:
    book = Workbook()
    for row in (["name", "g"], ["lamp", 212]):
        book.active.append(row)
    book.active.cell(row=1_048_576, column=16_384, value="x")
    out = io.BytesIO()
    book.save(out)
    grid = read_grid(out.getvalue())
    assert grid.rows == (("name", "g"), ("lamp", "212"))
    assert any("below row" in note for note in grid.notes)


def test_a_cell_that_a_spreadsheet_would_run_stays_a_text() -> None:
    for text in ("=1+1", "\t=1+1", "\r=1+1", " \t@SUM(A1)", "-2", "＝1"):
        line = write_table(["name"], [[text]]).decode().splitlines()[1:]
        assert "".join(line).strip('"').startswith(" ")


def test_a_formula_counts_by_its_computed_value_and_is_spoken_of() -> None:
    grid = read_grid(sheet(["name", "g"], ["lamp", "=100+2"]))
    assert grid.rows[1] == ("lamp", "")  # never computed: no program has opened it
    assert any("Formulas are taken by the values last computed" in note for note in grid.notes)


def test_macros_are_spoken_of_and_not_run() -> None:
    out = io.BytesIO(sheet(["name"], ["lamp"]))
    with zipfile.ZipFile(out, "a") as packed:
        packed.writestr("xl/vbaProject.bin", b"\x00" * 100)
    assert "Its macros are not run and not kept." in read_grid(out.getvalue()).notes


def packed(**entries: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, data in entries.items():
            made.writestr(name.replace("__", "/").replace("_xml", ".xml"), data)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (packed(xl__workbook_xml=b"<a/>", xl__worksheets__sheet1_xml=b"0" * 70_000_000), "unpacks to 70 MB"),
        (packed(other=b"x"), "is no XLSX workbook"),
        (packed(xl__workbook_xml=b"<a"), "no XLSX that can be read"),
        (sheet(["name"], ["lamp"])[:600], "damaged"),
        (b"PK\x03\x04" + b"\x00" * 40, "damaged"),
        (b"name,g\nla\x00mp,2", "not text"),
        (b"", "empty"),
        (b"\n\n,,\n", "empty"),
        (b'name,g\n"' + b"x" * 200_000, "Row"),
    ],
)
def test_a_table_that_is_none_is_refused_in_words(data: bytes, sentence: str) -> None:
    with pytest.raises(StonechatError, match=sentence):
        read_grid(data)


def test_too_many_rows_are_refused_before_they_are_all_read() -> None:
    many = "name,g\n" + "lamp,1\n" * 100_000
    with pytest.raises(TooLarge, match="more than 5,000 rows"):
        read_grid(many.encode())
    with pytest.raises(TooLarge, match="more than 5,000 rows"):
        read_grid(sheet(*([f"thing {n}", n] for n in range(MOST_ROWS + 2))))


def test_a_text_that_looks_like_a_formula_stays_a_text() -> None:
    again = read_grid(write_xlsx("kit", ["name", "note"], [["=1+1", "+4 °C"]]))
    assert again.rows[1] == ("=1+1", "+4 °C") and again.notes == ()


@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_pasted_cells_part_at_tabs_semicolons_or_commas(delimiter: str) -> None:
    text = delimiter.join(("name", "g")) + "\r\n" + delimiter.join(('"a lamp"', "2"))
    assert read_grid(text.encode()).rows == (("name", "g"), ("a lamp", "2"))


WHOLE = sheet(["name", "g"], ["lamp", 212], ["tube", 134])


@given(st.lists(st.tuples(st.integers(0, len(WHOLE) - 1), st.integers(0, 255)), min_size=1, max_size=8))
@settings(max_examples=150)
def test_whatever_is_damaged_is_answered_in_words(changes: list[tuple[int, int]]) -> None:
    data = bytearray(WHOLE)
    for place, value in changes:
        data[place] = value
    try:
        grid = read_grid(bytes(data))
    except StonechatError as exc:
        assert exc.message.endswith(".")
    else:
        assert grid.rows


@pytest.mark.parametrize("part", ["xl/worksheets/sheet1.xml", "xl/workbook.xml", "[Content_Types].xml"])
def test_an_entity_bomb_is_defused(part: str) -> None:
    entities = "".join(f'<!ENTITY l{n} "{f"&l{n - 1};" * 10 if n else "lol"}">' for n in range(10))
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(WHOLE)) as source, zipfile.ZipFile(out, "w") as made:
        for name in source.namelist():
            bomb = f'<?xml version="1.0"?><!DOCTYPE a [{entities}]><a>&l9;</a>'.encode()
            made.writestr(name, bomb if name == part else source.read(name))
    with pytest.raises(StonechatError):
        read_grid(out.getvalue())
