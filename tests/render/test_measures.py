"""Units and clock of the reader, against the exact definitions of the yard and the pound."""

from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.render import filters
from stonechat.render.measures import IMPERIAL, Measures, in_other_units, reading_in
from stonechat.web.forms.binding import Form, bind, figure, start_values

US = Measures(imperial=True, twelve_hours=True)


class Way(Form):
    """A form with figures of three units."""

    reach: float = figure("Reach", unit="km", limit="distance", factor=1e-3)
    load: float = figure("Load", unit="kg", limit="box_mass")
    warmth: float = figure("Warmth", unit="°C", limit="temp")


def test_figures_are_read_in_miles_pounds_and_fahrenheit() -> None:
    with reading_in(US):
        assert filters.distance_km(160_934.4) == "100 mi"
        assert filters.height_m(304.8) == f"1{filters.THIN}000 ft"
        assert filters.mass_kg(4.5359237, 2) == "10.00 lb"
        assert filters.mass_g(0.028349523125) == "1.0 oz"
        assert filters.temperature(-40.0) == "−40 °F"
        assert filters.temperature(100.0) == "212 °F"
        assert filters.length_mm(0.0254) == "1.0 in"
    assert filters.distance_km(160_934.4) == "161 km"


@pytest.mark.parametrize(
    ("hour", "words"), [(0, "12:05 am"), (3, "3:05 am"), (12, "12:05 pm"), (13, "1:05 pm"), (23, "11:05 pm")]
)
def test_twelve_hours_have_no_hour_nought(hour: int, words: str) -> None:
    moment = datetime(2027, 9, 28, hour, 5)
    with reading_in(US):
        assert filters.clock(moment) == f"Tue {words}"
    assert filters.clock(moment) == f"Tue {hour:02}:05"


def test_sentences_are_said_in_the_readers_units_and_nothing_else_in_them_changes() -> None:
    said = "62 kg over 1,609 km (km 80.5 is next), −18 °C, 25.4 mm, 100 km/h, 5 m², 3 minutes, 2 l"
    with reading_in(US):
        assert in_other_units(said) == (
            "137 lb over 1,000 mi (mi 50.0 is next), -0 °F, 1.00 in, 62 mph, 5 m², 3 minutes, 2 l"
        )
    assert in_other_units(said) == said


@given(st.integers(100, 60_000).map(lambda grams: grams / 1000.0), st.integers(-40, 55).map(float))
def test_a_form_that_is_shown_and_sent_back_in_imperial_keeps_its_values(amount: float, warmth: float) -> None:
    with reading_in(US):
        shown = start_values(Way, {"reach": amount, "load": amount, "warmth": warmth})
        back = bind(Way, shown.raw).value
    assert back is not None
    assert (back.reach, back.load, back.warmth) == (amount, amount, warmth)


def test_a_unit_typed_behind_a_figure_counts_whatever_the_reader_has_chosen() -> None:
    with reading_in(US):
        value = bind(Way, {"reach": "10 km", "load": "2 kg", "warmth": "50"}).value
    assert value is not None and value.reach == pytest.approx(10.0) and value.load == pytest.approx(2.0)
    assert value.warmth == pytest.approx(10.0)
    metric = bind(Way, {"reach": "10 mi", "load": "2 lb", "warmth": "10"}).value
    assert metric is not None and metric.reach == pytest.approx(16.09344)
    assert metric.load == pytest.approx(0.90718474)


@given(st.sampled_from(sorted(IMPERIAL)), st.floats(-1e4, 1e4))
def test_every_unit_comes_back(unit: str, value: float) -> None:
    assert IMPERIAL[unit].metric(IMPERIAL[unit].shown(value)) == pytest.approx(value, abs=1e-9)


def test_what_is_not_a_figure_is_told_in_imperial_too() -> None:
    with reading_in(US):
        bound = bind(Way, {"reach": "far", "load": "1", "warmth": "1"})
    assert bound.value is None and bound.errors["reach"]
