"""The kit as CSV: there and back, units, decimal commas, and bad cells named by row and column."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.kit.item import Item
from stonechat.errors import StonechatError
from stonechat.formats.kit_csv import read_kit_rows, write_kit_rows
from stonechat.formats.numbers import parse_number
from tests.strategies import kits


def one(text: str) -> Item:
    return read_kit_rows(text.encode())[0]


@given(kits())
def test_a_kit_survives_the_round_trip(kit: tuple[Item, ...]) -> None:
    again = read_kit_rows(write_kit_rows(kit))
    strip = [(i.name, i.category, i.mass, i.volume, i.length, i.quantity, i.access, i.reaches, i.leaks) for i in again]
    assert strip == [
        (
            i.name,
            i.category,
            pytest.approx(i.mass),
            pytest.approx(i.volume),
            i.length,
            i.quantity,
            i.access,
            i.reaches,
            i.leaks,
        )
        for i in kit
    ]


def test_other_separators_decimal_commas_and_units() -> None:
    item = one("Name;Mass_g;volume_ml;length_mm\nlamp;0,212 kg;1,5 l;21.5 cm\n")
    assert (item.mass, item.volume, item.length) == pytest.approx((0.212, 0.0015, 0.215))
    assert one("name\tmass_g\nlamp\t7.5 oz\n").mass == pytest.approx(7.5 * 0.028349523125)


def test_a_volume_left_out_is_guessed_from_mass_and_kind() -> None:
    # 3.8 l is usual of a quilt of 550 g; of what is not known, 6 l for each kg of sleeping things
    assert one("name,category,mass_g\nquilt,sleep,500\n").volume == pytest.approx(0.0038 * 500 / 550)
    assert one("name,category,mass_g\nzorb,sleep,500\n").volume == pytest.approx(0.5 * 6.0 / 1000)


def test_two_things_of_one_name_get_ids_of_their_own() -> None:
    ids = [item.id for item in read_kit_rows(b"name,mass_g\ntube,100\ntube,110\n")]
    assert ids == ["tube", "tube-2"]


def test_a_name_that_a_spreadsheet_would_run_is_kept_from_it() -> None:
    data = write_kit_rows((Item(id="x", name="=2+2", mass=0.1, volume=0.0),))
    assert b"\n =2+2," in data
    assert read_kit_rows(data)[0].name == "=2+2"


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("", "table is empty"),
        ("name,mass_g,colour\nx,1,red", "column “colour” is not known. Known columns: name"),
        ("name,volume_ml\nx,1", "column “mass_g” is missing"),
        ("name,mass_g\nx,-5", "Row 2, column mass_g: -5 is outside"),
        ("name,mass_g\nsocks,3 t", "Row 2, column mass_g: “t” is no unit"),
        ("name,mass_g\nsocks,3000 kg", "Row 2, column mass_g: 3000 kg = 3,000,000 g is outside 0.5 to 15000 g .socks."),
        ("name,mass_g\nx,12\ny,heavy", "Row 3, column mass_g: “heavy” is not a number"),
        ("name,mass_g\n,12", "Row 2: the name is missing"),
        ("name,mass_g,access\nx,1,sideways", "“sideways” is not one of riding"),
        ("name,mass_g,keep_dry\nx,1,perhaps", "write yes or no"),
        ("name,mass_g\nx,", "Row 2, column mass_g"),
    ],
)
def test_a_bad_cell_is_named(text: str, sentence: str) -> None:
    with pytest.raises(StonechatError, match=sentence):
        read_kit_rows(text.encode())


def test_too_many_rows_are_refused() -> None:
    with pytest.raises(StonechatError, match="more than 5,000 rows"):
        read_kit_rows(b"name,mass_g\n" + b"x,1\n" * 5_002)


@pytest.mark.parametrize(
    ("typed", "value"),
    [
        ("72,5", 72.5),
        ("1 234.5", 1234.5),
        ("1.234,5", 1234.5),
        ("1,234.5", 1234.5),
        (" 12 g ", 12.0),
        ("1.2 kg", 1200.0),
        ("−3", -3.0),
    ],
)
def test_figures_as_people_type_them(typed: str, value: float) -> None:
    assert parse_number(typed, unit="g") == pytest.approx(value)


@given(st.text(max_size=30))
def test_any_text_is_a_number_or_a_sentence(typed: str) -> None:
    try:
        assert abs(parse_number(typed, unit="g")) < float("inf")
    except StonechatError as exc:
        assert exc.message.endswith(".")
