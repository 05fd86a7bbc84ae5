"""The one cleaning of text from outside."""

import json
import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from stonechat.text import clean_json, clean_lines, clean_text

ANYTHING = st.text(st.characters(exclude_categories=()), max_size=60)


@given(ANYTHING)
def test_what_is_left_fits_xml_json_and_the_database(text: str) -> None:
    cleaned = clean_lines(text)
    etree.Element("a").text = cleaned  # refuses what XML 1.0 does not hold
    assert json.loads(json.dumps(cleaned).encode()) == cleaned
    assert cleaned.encode("utf-8").decode() == cleaned  # no half of a pair
    assert "\x00" not in cleaned
    assert not [mark for mark in cleaned if unicodedata.bidirectional(mark) in {"LRO", "RLO", "LRE", "RLE", "PDF"}]
    assert clean_lines(cleaned) == cleaned  # cleaning twice is cleaning once
    assert "\n" not in clean_text(text) and "\t" not in clean_text(text)


@given(st.text(st.characters(categories=("L", "N", "Zs", "S")), max_size=60))
def test_letters_figures_and_symbols_stay(text: str) -> None:
    assert clean_lines(text) == unicodedata.normalize("NFC", text)


@pytest.mark.parametrize(
    ("given_", "left"),
    [
        ("bar\x00bag", "barbag"),
        ("a\u202egpj.exe", "agpj.exe"),
        ("\ufeffname", "name"),
        ("one\r\ntwo\rthree\u2028four", "one\ntwo\nthree\nfour"),
        ("e\u0301tape", "\u00e9tape"),
        ("\ud800tent", "tent"),
        ("🚴 שלום नमस्ते", "🚴 שלום नमस्ते"),
    ],
)
def test_each_kind_of_trouble(given_: str, left: str) -> None:
    assert clean_lines(given_) == left


def test_json_is_cleaned_throughout_and_does_not_nest_for_ever() -> None:
    assert clean_json({"a\x00": ["b\u202e", 1, {"c": "\ud800d"}]}) == {"a": ["b", 1, {"c": "d"}]}
    deep: object = "x"
    for _ in range(200):
        deep = [deep]
    with pytest.raises(ValueError, match="nested too deeply"):
        clean_json(deep)
