"""The race by stretches, and the ladder over a ridden race."""

from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.kit.item import HOME
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.night.ladder import DESCENT, Ladder
from stonechat.core.night.report import Warmth
from stonechat.core.plan.camp import camp_order
from stonechat.core.plan.dressing import skin_area, spells_of
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.film import food_of
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.warm_ways import lighter_for, ways_for, wet_nights
from stonechat.core.plan.warm_worth import warm_worth_of


def without(plan: Plan, *ids: str) -> Plan:
    variant = plan.variants[0]
    return plan.with_variant(replace(variant, places={**variant.places, **dict.fromkeys(ids, HOME)}))


def test_stretches_cover_the_ride_once(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    spells = ridden.report(Ladder).spells
    assert spells.lengths.sum() == pytest.approx(ridden.ride.times.sum())
    np.testing.assert_allclose(spells.ends[:-1], spells.begins[1:])
    assert spells.begins[0] == 0.0 and spells.ends[-1] == pytest.approx(ridden.way.profile.length)
    assert (np.diff(spells.clocks) > 0.0).all()
    steady = ~spells.descends
    assert spells.lengths[steady].max() <= 2700.0 + ridden.ride.times.max()


def test_a_descent_loses_height_and_is_pedalled_softly(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    spells, profile = ridden.report(Ladder).spells, ridden.way.profile
    heights = [
        np.interp((a, b), profile.distances, profile.heights) for a, b in zip(spells.begins, spells.ends, strict=True)
    ]
    lost = np.array([first - last for first, last in heights])
    down = np.array([kind == DESCENT for kind in spells.kinds])
    assert down.sum() > 5 and (lost[down] > 0.0).mean() > 0.9 and lost[down].mean() > 50.0
    assert spells.going.heats[down].mean() < spells.going.heats[~down].mean()


def test_who_runs_cold_feels_the_air_colder(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    mine, cold = (spells_of(ridden, skin_area(72.0, None), 0.22, shift) for shift in (0.0, 2.5))
    np.testing.assert_allclose(cold.going.temps, mine.going.temps - 2.5)
    assert skin_area(75.0, 1.9) > skin_area(75.0, 1.7) > skin_area(60.0, 1.7)


def test_hours_and_changes_of_the_ladder_agree_with_one_another(demo_evaluation: Evaluation) -> None:
    ladder = demo_evaluation.ridden.report(Ladder)
    counted: dict[str, int] = {}
    for change in ladder.changes:
        for garment in (*change.on, *change.off):
            counted[garment.id] = counted.get(garment.id, 0) + 1
    for piece in ladder.pieces:
        assert piece.changes == counted.get(piece.garment.id, 0), piece.garment.name
        assert (
            0.0 <= piece.only <= piece.hours + 1e-6
            or piece.garment.is_on
            or piece.only <= ladder.spells.lengths.sum() / 3600
        )
        assert piece.hours <= ladder.spells.lengths.sum() / 3600.0 + 1e-6


def test_clothes_and_sleep_kit_are_worth_what_their_lack_costs(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    worth, items = warm_worth_of(ridden), ridden.kit.items
    by_kind = {item.kind: item for item in items}
    # the cut list once proposed long gloves with frost ahead because mitts exist, and a dry shirt for spare socks
    gloves, shirt = worth.worth(by_kind["gloves_long"], items), worth.worth(by_kind["sleep_shirt"], items)
    assert gloves.minutes > 10.0 and shirt.minutes > 0.5
    quilt = worth.worth(by_kind["quilt"], items)
    assert quilt.minutes > 100.0 and quilt.ending > 0.1
    left = [item for item in items if item.kind != "gloves_rain"]
    assert worth.worth(by_kind["gloves_long"], left).minutes > gloves.minutes
    total = worth.loss(items).minutes
    for item in items:
        fewer = worth.loss([other for other in items if other.id != item.id])
        assert fewer.minutes >= total - 1e-9, item.name
    assert "only answer" in worth.words(by_kind["gloves_long"], items)[0]


def test_what_is_worn_in_the_day_is_no_dry_change_at_night(demo: Plan) -> None:
    shirt = next(item for item in demo.items if item.kind == "sleep_shirt")
    plan = without(demo, shirt.id, "light-down-jacket", "arm-warmers", "wind-gilet")
    packed = tuple(replace(i, worn=False) if i.kind == "base_layer" else i for i in plan.items)
    variant = plan.variants[0]
    base = next(item for item in packed if item.kind == "base_layer")
    plan = replace(plan, items=packed).with_variant(replace(variant, places={**variant.places, base.id: "seat"}))
    ridden = evaluate(plan, "a").ridden
    rest = ridden.report(Warmth).outside[0]
    worn = next(piece for piece in ridden.report(Ladder).pieces if piece.garment.id == base.id)
    assert worn.hours > 1.0 and base.id in rest.ridden_in and base.name not in rest.bedding.things


def test_every_way_to_sleep_warmer_gives_what_it_says(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    for rest in ridden.report(Warmth).outside:
        ways = ways_for(ridden, rest)
        assert ways and all(way.margin is None or way.margin > rest.margin for way in ways)
        lacks = [way.margin is not None and way.margin < 0.0 for way in ways]
        assert lacks == sorted(lacks)
        mat = next(way for way in ways if "mat" in way.words)
        assert mat.minutes == pytest.approx(mat.grams / 1000.0 * ridden.ledger.prices.per_kg)
        wet = {entry.words: entry.margin for entry in wet_nights(rest)}
        assert all(margin < rest.margin for margin in wet.values()) and "worn out and unfed" in wet
        assert any("soaked" in words for words in wet)


def test_a_mild_race_says_what_of_the_bag_could_go(demo: Plan) -> None:
    days = tuple(replace(day, temp_low=14.0, temp_high=26.0) for day in demo.line.weather.days)
    warm = replace(demo, line=replace(demo.line, weather=replace(demo.line.weather, days=days)))
    ridden = evaluate(warm, "a").ridden
    lighter = lighter_for(ridden)
    assert lighter is not None and lighter.grams > 50.0 and lighter.minutes > 0.0 and "quilt" in lighter.words
    assert lighter_for(evaluate(demo, "a").ridden) is None  # a night below the limit leaves nothing to give away


def test_camp_begins_with_warmth_and_says_where_things_lie(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    evening, morning = camp_order(ridden, ridden.report(Warmth).outside[0])
    assert "warm" in evening[0].words and any(name == "light down jacket" for name, _ in evening[0].things)
    named = [name for step in evening for name, _ in step.things]
    assert {"quilt comfort 3 °C", "inflatable mat", "bivvy bag"} <= set(named)
    bags = {carrier.name for carrier in ridden.rig.carriers}
    assert {bag for step in evening for _, bag in step.things} <= bags | {""}
    assert 10.0 < sum(step.minutes for step in evening) < 45.0 and morning


def test_what_is_worn_all_along_a_leg_takes_no_room_and_the_rider_bears_it(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    ladder, seen = ridden.report(Ladder), 0
    for leg, load in zip(ridden.timetable.legs, ridden.film, strict=True):
        inside = (ladder.spells.begins < leg.end - 1.0) & (ladder.spells.ends > leg.start + 1.0)
        for state in load.carriers:
            things = sum(item.total_volume for item in state.items if not item.worn and item.id not in state.worn)
            assert state.volume - state.food <= things + 1e-9
            for key in state.worn:
                garment = next(g for g in ladder.garments if g.id == key)
                assert ladder.zones[garment.cut.zone].worn(key)[inside].all()
                seen += 1
        carried = sum(state.mass + state.carrier.mass for state in load.carriers)
        assert load.mass > carried  # with rider and bike
    assert seen > 5
    bare = film_masses(ridden)
    assert [load.mass for load in ridden.film] == pytest.approx(bare)


def film_masses(ridden: Ridden) -> list[float]:
    """Return rider, bike and all that is aboard by leg, added up from the things themselves."""
    found = []
    for leg, load in enumerate(ridden.film):
        things = sum(item.total_mass for item in ridden.aboard_on(leg))
        rig = ridden.rig.bike.mass + sum(carrier.mass for carrier in ridden.rig.carriers)
        volume, food = food_of(ridden.provisions, leg)
        left = sum(item.total_mass * (1.0 - ridden.provisions.rations.left[item.id][leg])
                   for item in ridden.aboard_on(leg) if item.id in ridden.provisions.rations.left)  # fmt: skip
        found.append(ridden.body.mass + rig + things - left + food + float(ridden.provisions.water.leaving[leg]))
        assert volume >= 0.0 and load.mass > 0.0
    return found


def test_who_sleeps_in_the_rain_without_a_shelter_sleeps_wet(demo: Plan) -> None:
    days = tuple(replace(day, rain=9.0) for day in demo.line.weather.days)
    rainy = replace(demo, line=replace(demo.line, weather=replace(demo.line.weather, days=days)))
    under, open_ = (evaluate(plan, "a").ridden.report(Warmth).outside for plan in (rainy, without(rainy, "bivvy-bag")))
    assert all(rest.damp.each == 0.0 for rest in under) and all(rest.damp.each > 0.0 for rest in open_)
    assert all(wet.margin < dry.margin - 3.0 for wet, dry in zip(open_, under, strict=True))


def test_deep_winter_lies_on_snow(demo: Plan, demo_evaluation: Evaluation) -> None:
    days = tuple(replace(day, temp_low=-20.0, temp_high=-8.0) for day in demo.line.weather.days)
    winter = replace(demo, line=replace(demo.line, weather=replace(demo.line.weather, days=days)))
    rests = evaluate(winter, "a").ridden.report(Warmth).outside
    assert all(rest.on_snow and rest.low < rest.ground <= 0.0 for rest in rests)
    assert not any(rest.on_snow for rest in demo_evaluation.ridden.report(Warmth).outside)
