"""Stock carriers on stock bikes: delivered without a clearance broken, and what a bike is like is used."""

import math
from dataclasses import replace
from datetime import datetime

import numpy as np
import pytest

from stonechat.core.kit.jobs import JOBS, Demands
from stonechat.core.line.track import make_track
from stonechat.core.plan.beginning import BAG_SCHOOLS, Spoken, begin_plan
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.scenario import slowest_pedalled
from stonechat.core.rig.bike import BIKE_KINDS, SIZES, Bike, usual_bike
from stonechat.core.rig.catalogue import KINDS
from stonechat.core.rig.clearance import clearances
from stonechat.core.rig.fitting import fit_rig
from stonechat.core.rig.places import FRAME_PLACES
from stonechat.core.rig.stock import INSTEAD, fitting_carriers, parts_of


@pytest.mark.parametrize("kind", sorted(BIKE_KINDS))
@pytest.mark.parametrize("size", sorted(SIZES))
def test_every_school_of_bags_is_delivered_without_a_clearance_broken(kind: str, size: str) -> None:
    bike = usual_bike(kind, size)
    for school, (_, kinds) in BAG_SCHOOLS.items():
        hung = fitting_carriers(bike, kinds, "hoods")
        assert [c.sentence for c in clearances(bike, hung) if c.state == "broken"] == [], school
        assert not kinds or len(hung) >= 2
        assert len({part.id for part in hung}) == len(hung)


def test_what_stands_in_for_a_kind_is_in_the_catalogue_and_ends() -> None:
    for kind, other in INSTEAD.items():
        assert kind in KINDS and other in KINDS
        seen = {kind}
        while other in INSTEAD:
            assert other not in seen
            seen.add(other)
            other = INSTEAD[other]


def test_a_frame_bag_is_cut_out_for_its_bottles_and_gives_its_room_to_a_bladder() -> None:
    bike = usual_bike("drop_rigid", "l")
    bag, bottle, bladder = parts_of("frame_half")[0], parts_of("bottle_side")[0], parts_of("bladder")[0]
    beside = fit_rig(bike, (bag, bottle), "hoods")
    assert [c for c in clearances(bike, beside) if c.against == bag.name and c.state == "broken"] == []
    full = parts_of("frame_full")[0]
    alone, shared = fit_rig(bike, (full,), "hoods")[0], fit_rig(bike, (full, bladder), "hoods")[0]
    assert alone.capacity - shared.capacity == pytest.approx(bladder.capacity, abs=2e-6)
    # a bag whose volume the rider typed leaves out nothing, and is told of the bottle in it
    typed = tuple(replace(c, capacity_by_hand=True) if c.place in FRAME_PLACES else c for c in beside)
    inside = replace(bottle, shift=0.05)
    assert any(c.code == "frame" and c.state == "broken" for c in clearances(bike, (typed[0], inside)))


def short_plan(bike: Bike) -> Plan:
    track = make_track(np.linspace(45.0, 45.09, 101), np.full(101, 7.0), np.linspace(300.0, 1_300.0, 101))
    spoken = Spoken(bike=bike, start=datetime(2027, 6, 5, 7), mass=75.0, power=120.0)
    return begin_plan(name="Hill", track=track, surface="tarmac", stops=(), spoken=spoken, today=datetime(2027, 3, 1))


def test_a_rider_gets_off_where_the_smallest_gear_cannot_be_turned() -> None:
    # 10 % at 120 W is ridden at about 1.2 m/s; 40 turns a minute in 1:1 are 1.45 m/s, in 0.5:1 half of that
    bike = usual_bike("drop_rigid", "m")
    assert slowest_pedalled(bike) == pytest.approx(40 / 60 * 0.75 * 2 * math.pi * bike.wheel_radius)
    walked = [
        evaluate(short_plan(replace(bike, gear_least=gear)), "a").ridden.ledger.pushing for gear in (0.5, 1.0, 1.4)
    ]
    assert walked[0] < walked[1] <= walked[2] and walked[2] > 30.0


def test_tubes_puncture_more_and_want_tubes_where_sealant_wants_plugs() -> None:
    bike = usual_bike("drop_rigid", "m")
    with_tubes = evaluate(short_plan(replace(bike, tubeless=False)), "a").ridden
    assert with_tubes.way.punctures == pytest.approx(2.5 * evaluate(short_plan(bike), "a").ridden.way.punctures)
    tubes, sealant = Demands(tubeless=False), Demands(tubeless=True)
    assert JOBS["plug"].ask(tubes) is None and JOBS["sealant"].ask(tubes._replace(km=1_000.0)) is None
    assert JOBS["plug"].ask(sealant) is not None
    wanted = [JOBS["tube"].ask(demands) for demands in (tubes, sealant)]
    assert wanted[0] is not None and wanted[1] is not None and wanted[0].chance > 3 * wanted[1].chance


def test_straps_on_carbon_carry_the_caution() -> None:
    plan = short_plan(replace(usual_bike("drop_rigid", "m"), frame="carbon"))
    bags = fitting_carriers(plan.variants[0].bike, BAG_SCHOOLS["half_frame"][1], "hoods")
    found = evaluate(plan.with_variant(replace(plan.variants[0], carriers=bags)), "a").findings
    assert "maker allows" in next(f.sentence for f in found if f.code == "tape")


def test_a_half_litre_bottle_is_as_small_when_rolled_as_when_full() -> None:
    (bottle,) = parts_of("bottle_low")
    assert bottle.capacity == bottle.capacity_least == 0.0005
