"""Figures on the pages against the core's own: tape, ledger, rig, kit, supply, cards."""

from dataclasses import replace
from datetime import timedelta

import pytest

from stonechat.core.kit.item import HOME
from stonechat.core.line.weather import Weather
from stonechat.core.load.problem import DRAG_STEP
from stonechat.core.plan.nights import air_temperature
from stonechat.core.plan.scenario import make_scenario
from stonechat.render.documents.cards import bar_strip, packing_list
from stonechat.render.drawings.rig_side import carrier_letters
from stonechat.services.history import OpenPlan
from stonechat.services.load import moving
from stonechat.services.workspace import Workspace
from stonechat.web.app import create_app
from stonechat.web.contexts.kit.things import things_view
from stonechat.web.contexts.line import air_view, dark_spans, line_view
from stonechat.web.contexts.load.bike import bike_view
from stonechat.web.contexts.load.more import why_view
from stonechat.web.contexts.rig import rig_view
from stonechat.web.contexts.shell import shell_of
from stonechat.web.contexts.supply import supply_view
from stonechat.web.desk import Desk, Look
from stonechat.web.forms.binding import bind, start_values
from stonechat.web.forms.weather import weather_form, weather_values


@pytest.fixture
def desk(workspace: Workspace, opened: OpenPlan) -> Desk:
    """The demo plan at the leg that leaves Mirrel."""
    return Desk(workspace=workspace, opened=opened, variant_id="a", leg=13, room="load")


def test_the_tape_has_every_leg_and_one_of_them_is_current(desk: Desk) -> None:
    shell = shell_of(desk, create_app(desk.workspace).state.rooms)
    ridden = desk.evaluation.ridden
    assert [knot.name for knot in shell.knots] == ["Start", *(stop.name for stop in ridden.way.stops), "Finish"]
    assert [knot.is_current for knot in shell.knots].index(True) == 13
    fullest = float(ridden.provisions.water.leaving.max())
    for k, knot in enumerate(shell.knots[:-1]):
        assert knot.water is not None
        assert knot.water.carried == pytest.approx(100.0 * float(ridden.provisions.water.leaving[k]) / fullest)
        assert knot.water.is_short == (float(ridden.provisions.water.short[k]) > 1e-6)


def test_a_stop_not_to_be_missed_says_how_far_it_is_dry(desk: Desk) -> None:
    shell = shell_of(desk, create_app(desk.workspace).state.rooms)
    ridden = desk.evaluation.ridden
    musts = [k for k, knot in enumerate(shell.knots) if knot.must]
    assert musts
    for k in musts:
        # a stop that is shut on arrival is no water: the next that is open counts
        dry = next(
            (j for j in range(k + 1, len(ridden.timetable.legs)) if ridden.provisions.water.refilled[j]),
            len(ridden.timetable.legs),
        )
        end = ridden.timetable.legs[dry].start if dry < len(ridden.timetable.legs) else ridden.way.profile.length
        kilometres = (end - ridden.timetable.legs[k].start) / 1000
        assert shell.knots[k].must.startswith(f"not to be missed: dry for {kilometres:.0f} km")
    # the same stops stand in the Line room, with why
    named = [must.name for must in line_view(desk).musts if must.what == "water"]
    assert named == [shell.knots[k].name for k in musts]


def test_the_ledgers_bars_are_in_proportion(desk: Desk) -> None:
    ledger = shell_of(desk, create_app(desk.workspace).state.rooms).ledger
    longest = max(ledger.bars, key=lambda bar: bar.minutes)
    assert longest.share == 100.0
    for bar in ledger.bars:
        assert bar.share / 100.0 == pytest.approx(bar.minutes / longest.minutes)
    parts = sum(bar.minutes for bar in ledger.bars) + ledger.riding + ledger.nights
    assert parts * 60 == pytest.approx(ledger.total)
    assert len(ledger.open_checks) + len(ledger.elsewhere) + len(ledger.fine_checks) == len(desk.evaluation.findings)


def test_a_carriers_price_is_its_mass_and_its_wind(desk: Desk) -> None:
    ridden = desk.evaluation.ridden
    states = {state.carrier.id: state for state in ridden.film[13].carriers}
    for row in rig_view(desk).rows:
        state = states[row.carrier.id]
        drag = row.carrier.drag + row.carrier.drag_fill * state.volume
        wind = drag / DRAG_STEP * ridden.ledger.prices.per_drag
        assert row.minutes == pytest.approx(row.carrier.mass * ridden.ledger.prices.per_kg + wind)
    scenario = make_scenario(desk.opened.plan, desk.variant, ridden.way.profile)
    view = rig_view(desk)
    whole = sum(row.drag for row in view.rows) + view.fixed_drag + scenario.bare_drag[scenario.leg_of == 13].mean()
    assert whole == pytest.approx(ridden.film[13].drag_area)


def test_letters_are_one_to_one_and_never_h(desk: Desk) -> None:
    letters = carrier_letters(desk.variant.carriers)
    assert len(set(letters.values())) == len(letters) and "h" not in letters.values()


def test_the_kits_sums_are_those_of_its_rows(desk: Desk) -> None:
    view = things_view(desk)
    carried = [row for row in view.rows.rows if not row.is_home]
    assert view.totals.carried == len(carried)
    assert view.totals.mass == pytest.approx(sum(row.item.mass_now * row.item.quantity for row in carried))
    ledger = desk.evaluation.ridden.ledger
    alone = sum(row.price.weight + row.price.wind + row.price.body + row.price.mishap for row in carried)
    assert view.totals.minutes == pytest.approx(alone + ledger.minutes("reach"))
    # what several things share is in nobody's own price
    assert sum(row.price.reaching for row in carried) < ledger.minutes("reach")
    on_body = sum(row.price.body for row in carried)
    assert on_body == pytest.approx(ledger.minutes("body"), rel=0.02, abs=0.05)
    prices = [row.price.total for row in carried]
    assert prices == sorted(prices, reverse=True)
    home = {row.item.id for row in view.rows.rows if row.is_home}
    assert home == {key for key, place in desk.variant.places.items() if place == HOME}


@pytest.mark.parametrize("order", ["mass", "volume", "name", "kind"])
def test_the_kit_is_put_in_order(desk: Desk, order: str) -> None:
    ordered = things_view(Desk(**{**desk.__dict__, "look": Look(sort=order)})).rows.rows
    carried = [row for row in ordered if not row.is_home]
    keys = {
        "mass": [-row.item.total_mass for row in carried],
        "volume": [-row.item.total_volume for row in carried],
        "name": [row.item.name.lower() for row in ordered],
        "kind": [row.kind for row in ordered],
    }[order]
    assert keys == sorted(keys)  # type: ignore[type-var]


def test_what_rides_where_holds_every_thing_once(desk: Desk) -> None:
    view = bike_view(desk)
    listed = [entry.item.id for place in view.places for entry in place.items]
    listed += [item.id for item in view.outside]
    assert sorted(listed) == sorted(item.id for item in desk.evaluation.ridden.kit.items)
    assert {"helmet", "front-light"} <= {item.id for item in view.outside}
    assert view.loose == ()
    assert sum(place.water for place in view.places) == pytest.approx(
        float(desk.evaluation.ridden.provisions.water.leaving[13])
    )


def test_the_heaviest_leg_is_named(desk: Desk) -> None:
    view = supply_view(desk)
    assert max(view.rows.rows, key=lambda row: row.mass) == view.heaviest


def test_darkness_on_the_chart_is_what_is_ridden_in_the_dark(desk: Desk) -> None:
    ridden = desk.evaluation.ridden
    kilometres = sum(end - start for start, end in dark_spans(desk))
    assert kilometres * 1000 == pytest.approx(float(ridden.way.profile.lengths[ridden.ride.dark].sum()))


def test_gaps_are_given_by_this_riders_clock(desk: Desk) -> None:
    for gap in line_view(desk).gaps:
        legs = [leg for leg in desk.evaluation.ridden.timetable.legs if gap.gap.start - 1 < leg.start < gap.gap.end - 1]
        assert gap.hours == pytest.approx((legs[-1].arrives - legs[0].leaves).total_seconds())
        assert gap.ascent == pytest.approx(sum(leg.ascent for leg in legs))


def test_the_cards_say_what_the_plan_says(desk: Desk, workspace: Workspace) -> None:
    ridden, variant = desk.evaluation.ridden, desk.variant
    listed = packing_list("Plan", variant, ridden)
    on_list = [item for bag in listed.bags for item in bag.items] + [*listed.worn, *listed.fixed, *listed.loose]
    assert sorted(item.id for item in on_list) == sorted(item.id for item in ridden.kit.items)
    water, food = float(ridden.provisions.water.leaving[0]), float(ridden.provisions.food.leaving[0])
    carried = sum(item.total_mass for item in ridden.kit.items)
    assert listed.mass == pytest.approx(carried + water + food / float(ridden.provisions.larder.density[0]))
    strip = bar_strip("Plan", variant, ridden)
    assert [row.name for row in strip.rows] == [visit.name for visit in ridden.timetable.visits]
    cut_offs = [row.cut_off for row in strip.rows if row.cut_off]
    assert cut_offs[:2] == [f"{s.cutoff:%a %H:%M}" for s in ridden.way.stops if s.cutoff is not None]
    assert len(cut_offs) == 3  # and the time limit at the finish
    assert sum(row.leg_km for row in strip.rows) == pytest.approx(ridden.way.profile.length / 1000)
    loose = moving.move_items(workspace, desk.opened, "a", revision=desk.opened.revision, places={"phone": ""})
    after = Desk(**{**desk.__dict__, "opened": loose})
    assert [i.id for i in packing_list("Plan", after.variant, after.evaluation.ridden).loose] == ["phone"]


def test_why_a_stop_cannot_be_missed_is_the_sum_between_its_neighbours(desk: Desk) -> None:
    ridden = desk.evaluation.ridden
    musts = [must for must in line_view(desk).musts if must.what == "water"]
    assert musts
    for must in musts:
        k = next(k for k, leg in enumerate(ridden.timetable.legs) if leg.start_name == must.name)
        before = max(j for j in range(k) if ridden.provisions.water.refilled[j])
        after = next(
            (j for j in range(k + 1, len(ridden.timetable.legs)) if ridden.provisions.water.refilled[j]),
            len(ridden.timetable.legs),
        )
        need = sum(float(ridden.provisions.water.needs[j]) for j in range(before, after))
        kilometres = sum(leg.end - leg.start for leg in ridden.timetable.legs[before:after]) / 1000
        assert need > ridden.provisions.capacity
        assert f"{kilometres:.0f} km" in must.why and f"need {need:,.1f} l" in must.why
        assert f"carry is {ridden.provisions.capacity:,.1f} l" in must.why


def test_the_air_at_a_place_and_time_is_that_of_the_core(desk: Desk) -> None:
    ridden = desk.evaluation.ridden
    moment = ridden.way.start.replace(tzinfo=None) + timedelta(hours=20)
    shown = air_view(desk, "226 km", f"{moment:%Y-%m-%d %H:%M}")
    assert shown.error == "" and shown.words.startswith(f"{air_temperature(ridden, 226_000.0, 20 * 3600.0):.0f} °C")
    for km, at, sentence in (
        ("x", "2027-09-25 03:00", "is not a number"),
        ("2000", "2027-09-25 03:00", "is not on the course"),
        ("9", "soon", "is no day and time"),
        ("9", "2026-09-25 03:00", "has no weather here"),
    ):
        wrong = air_view(desk, km, at)
        assert wrong.words == "" and sentence in wrong.error


def test_days_beyond_the_forms_own_are_kept(desk: Desk) -> None:
    day = desk.opened.plan.line.weather.days[0]
    known = Weather(days=tuple(replace(day, temp_low=float(-k)) for k in range(25)))
    values = weather_values(known, 20)
    shown = start_values(weather_form(20), values)
    form = bind(weather_form(20), {view.name: view.value for view in shown.fields})
    assert form.value is not None and form.value.to_core(known).days == known.days


def test_why_tells_the_minutes_of_a_place_by_cause_and_they_add_up(desk: Desk) -> None:
    view = why_view(Desk(**{**desk.__dict__, "look": Look(tab="why", open="rain-jacket")}))
    by_name = {carrier.id: (entry.minutes, dict(causes)) for carrier, entry, _, causes in view.reasons}
    for minutes, causes in by_name.values():
        assert sum(causes.values()) == pytest.approx(minutes, abs=0.2)  # what is not felt is not told
    assert "on the body" in by_name["jersey"][1] and "on the body" not in by_name["frame"][1]
    assert by_name["pouch"][1]["late or lost"] > 0.0  # a pouch may lose what is in it
    assert "late or lost" not in by_name["frame"][1]
