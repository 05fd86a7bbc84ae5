"""What course files say of places, as people write it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.line.stops import KINDS, OFFERS
from stonechat.formats.hours import doors_text, hours_text, parse_doors, parse_hours
from stonechat.formats.place_words import read_hours, read_place


# name, symbol, comment: kind, offers that must be there, offers that must not
@pytest.mark.parametrize(
    ("name", "symbol", "words", "kind", "offers", "not_offers"),
    [
        ("Mart", "", "supermarket Mo-Sa 06:30-13:00", "supermarket", "shop water", "bed"),
        ("Station", "Gas Station", "24 h", "fuel", "shop water toilet", ""),
        ("Old mill spring", "", "must be filtered", "spring", "doubtful_water", "water"),
        ("Water", "Drinking Water", "needs treatment", "tap", "doubtful_water", "water"),
        ("Friedhof", "", "Wasserhahn", "cemetery", "water", "doubtful_water"),
        ("St Ann cemetery tap", "", "", "cemetery", "water", ""),
        ("H2O", "", "", "tap", "water", ""),
        ("Convenience store", "", "", "convenience", "shop water", ""),
        ("Upper village", "", "fountain on the square", "village", "water", "shop"),
        ("Lower village", "", "", "village", "water", "shop"),
        ("Town", "City", "everything", "town", "shop meal water", ""),
        ("Café on the pass", "", "closed Mon", "cafe", "meal water", "shop"),
        ("Ash lodge", "", "hotel and restaurant", "hotel", "bed meal water", ""),
        ("Refuge", "", "staffed until October", "hut", "bed meal water", ""),
        ("Campsite", "Campground", "", "campsite", "bed water toilet", ""),
        ("WC", "Restroom", "no water", "toilet", "toilet", "water"),
        ("Bike shop", "", "Tues-Sat 9:00 - 18:00", "bike_shop", "bike_shop", "shop"),
        ("Pharmacy", "", "", "pharmacy", "pharmacy", "shop"),
        ("Ferry", "", "06:00-21:30", "ferry", "", "water"),
        ("CP1", "Flag", "", "checkpoint", "", "water"),
        ("Panadería", "", "", "bakery", "shop", ""),
        ("Nice view", "Summit", "", "other", "", "water shop meal bed"),
        ("Steep", "", "3.5 - 12 %", "other", "", "shop"),
    ],
)
def test_kinds_and_offers_in_the_usual_words(
    name: str, symbol: str, words: str, kind: str, offers: str, not_offers: str
) -> None:
    found = read_place(name, symbol, words)
    assert found.kind == kind
    assert set(offers.split()) <= found.offers and not set(not_offers.split()) & found.offers


@pytest.mark.parametrize(
    ("words", "hours"),
    [
        ("Mo-Sa 06:30-13:00", "Mo-Sa 06:30-13:00; Su shut"),
        ("Mo-Fr 07:00-12:00,15:00-19:00; Sa 7-13", "Mo-Fr 07:00-12:00,15:00-19:00; Sa 07:00-13:00; Su shut"),
        ("open 24h", "24 h"),
        ("24/7", "24 h"),
        ("9am-5pm daily, closed Sun", "Mo-Sa 09:00-17:00; Su shut"),
        ("6am - 10pm", "Mo-Su 06:00-22:00"),
        ("Mo, We, Fr 9-12", "Mo 09:00-12:00; Tu shut; We 09:00-12:00; Th shut; Fr 09:00-12:00; Sa-Su shut"),
        ("Tue to Sun 6.30-12.30", "Mo shut; Tu-Su 06:30-12:30"),
        ("7h-13h", "Mo-Su 07:00-13:00"),
        ("8-18, Mon closed", "Mo shut; Tu-Su 08:00-18:00"),
        ("closed on Wednesdays, 11:00-22:00", "Mo-Tu 11:00-22:00; We shut; Th-Su 11:00-22:00"),
        ("Fr-Mo 18:00-02:00", "Mo 18:00-02:00; Tu-Th shut; Fr-Su 18:00-02:00"),
    ],
)
def test_hours_as_people_write_them(words: str, hours: str) -> None:
    found = read_place("Shop", "", words).hours
    assert hours_text(found) == hours


@pytest.mark.parametrize("words", ["", "42-50 km of dirt", "3 - 5 l", "closed for good", "ring twice", "km 120 to 133"])
def test_what_is_no_time_of_day_is_not_read_as_one(words: str) -> None:
    assert read_hours(words) is None
    found = read_place("Shop", "", words)
    assert found.hours is None and "hours" not in found.read


def test_the_tap_has_its_own_hours_beside_the_shop() -> None:
    found = read_place("Village", "", "Tap at the square 24h; shop Mon-Fri 7:00-12:00; meals 12:00-14:00")
    assert hours_text(found.hours) == "Mo-Fr 07:00-12:00; Sa-Su shut"
    assert {key: hours_text(own) for key, own in found.hours_by.items()} == {
        "water": "24 h", "meal": "Mo-Su 12:00-14:00",
    }  # fmt: skip


def test_what_may_be_dry_is_doubted_and_what_was_read_is_marked() -> None:
    found = read_place("Stream", "", "may be dry in summer")
    assert found.is_doubted and found.read == {"kind", "offers", "note"}
    assert read_place("X", "", "").read == frozenset()


@given(st.text(max_size=200), st.text(max_size=20), st.text(max_size=300))
def test_any_words_are_read_without_harm(name: str, symbol: str, words: str) -> None:
    found = read_place(name, symbol, words)
    assert found.kind in KINDS and found.offers <= set(OFFERS)
    if found.hours is not None:  # and what is read can be written and read again
        assert parse_hours(hours_text(found.hours)) == found.hours
    assert parse_doors(doors_text(found.hours_by)) == dict(found.hours_by)
