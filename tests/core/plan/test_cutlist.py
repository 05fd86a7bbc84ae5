"""The cut list: exact steps, protected things, no job counted twice; the countdown; things that join or leave."""

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest

from stonechat.core.kit.item import HOME, Item, Record
from stonechat.core.kit.jobs import BUYING, ENDING, JOBS, Demands
from stonechat.core.ledger.price import price_of
from stonechat.core.plan.countdown import countdown
from stonechat.core.plan.cutlist import CLEAR, UNLIKE, CutList, cut_list, halts_of, worth_of
from stonechat.core.plan.evaluate import Evaluation, evaluate
from stonechat.core.plan.margin_worth import margins_of
from stonechat.core.plan.plan import Plan
from stonechat.core.rig.bike import usual_bike
from stonechat.formats.documents.kit import told_item


def test_what_a_race_asks_comes_from_the_ride(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden, asked = demo_evaluation.ridden, demo_evaluation.ridden.report(Demands)
    assert asked.km == pytest.approx(1_140.0, abs=1.0) and asked.electronic
    assert asked.dark_hours * 3600 == pytest.approx(ridden.ride.times[ridden.ride.dark].sum())
    assert asked.low == pytest.approx(ridden.ride.temps.min())
    doubtful = [s for s in ridden.way.stops if "doubtful_water" in s.offers and "water" not in s.offers]
    assert asked.doubtful_water == len(doubtful) and asked.nights_out <= asked.nights <= 6


def test_each_cut_is_the_greatest_gain_given_those_before_it(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden, variant = demo_evaluation.ridden, demo.variants[0]
    asked, found = ridden.report(Demands), cut_list(ridden, variant)
    left, mass, margins = list(ridden.kit.items), 0.0, margins_of(ridden)
    savings = {item.id: price_of(item, ridden).total for item in left}
    offered = {cut.item.id for cut in found.cuts}
    for cut in found.cuts[:20]:
        gains = {
            item.id: price_of(item, ridden).total
            - worth_of(item, tuple(left), asked, reaching=halts_of(item, ridden), margins=margins).minutes
            for item in left
            if item.id in offered
        }
        clear = {key: gain for key, gain in gains.items() if gain > CLEAR * savings[key]}
        assert cut.net == pytest.approx(max((clear or gains).values())) == pytest.approx(gains[cut.item.id])
        assert cut.is_clear == bool(clear)
        left = [item for item in left if item.id != cut.item.id]
        offered.discard(cut.item.id)
        mass += cut.item.total_mass
        assert cut.mass_total == pytest.approx(mass)


def test_compulsory_things_medicine_and_needed_light_are_never_offered(demo: Plan) -> None:
    # even where the rider marks nothing as must
    easy = replace(demo, items=tuple(replace(item, need="maybe") for item in demo.items))
    ridden = evaluate(easy, "a").ridden
    found = cut_list(ridden, easy.variants[0])
    kept = {item.name: reason for item, reason in found.kept}
    for name in ("foil blanket", "first aid kit", "own medicine", "front light", "helmet", "identity papers"):
        assert name in kept, name
    lights = [item for item in ridden.kit.items if "rear_light" in item.roles]
    assert len(lights) == 2 and sum(item.name in kept for item in lights) >= 1
    assert kept["wash pouch"] == "it holds other things"
    assert set(kept).isdisjoint({cut.item.name for cut in found.cuts})


def test_a_job_done_twice_is_worth_nothing_until_the_other_is_gone(demo_evaluation: Evaluation) -> None:
    asked = demo_evaluation.ridden.report(Demands)
    one, two = (Item(id=k, name="oil", mass=0.1, volume=0.0, roles=frozenset({"lube"})) for k in "ab")
    assert worth_of(one, (one, two), asked).minutes == 0.0
    alone, chance = worth_of(one, (one,), asked), JOBS["lube"].ask(asked)
    assert chance is not None
    # a shop on the way sells it: the less is lost
    loss = BUYING["bike_shop"] * (JOBS["lube"].minutes + JOBS["lube"].ends * ENDING)
    assert alone.minutes == pytest.approx(chance.chance * loss)
    assert alone.ending == pytest.approx(chance.chance * JOBS["lube"].ends)


def test_leaving_the_first_cut_at_home_saves_what_was_said(demo: Plan, demo_evaluation: Evaluation) -> None:
    variant = demo.variants[0]
    cut = cut_list(demo_evaluation.ridden, variant).cuts[0]
    lighter = replace(variant, places={**variant.places, cut.item.id: HOME})
    after = evaluate(demo.with_variant(lighter), "a").ridden.ledger
    # food takes the room it leaves, so wind may move a little elsewhere
    assert demo_evaluation.ridden.ledger.carried - after.carried == pytest.approx(cut.saving, abs=0.6)


def test_the_next_step_stops_at_its_mass_and_gains(demo: Plan, demo_evaluation: Evaluation) -> None:
    found = cut_list(demo_evaluation.ridden, demo.variants[0])
    step = found.next_step(0.1)
    assert step[-1].mass_total >= 0.1 > step[-2].mass_total
    # where there is not so much to leave, it ends with the last clear one
    assert found.next_step(50.0) == tuple(cut for cut in found.cuts if cut.is_clear)
    assert all(cut.net > CLEAR * cut.saving for cut in found.next_step(50.0))


def test_a_thing_that_joins_late_pays_for_the_legs_it_is_aboard(demo: Plan, demo_evaluation: Evaluation) -> None:
    ridden, variant = demo_evaluation.ridden, demo.variants[0]
    half = ridden.way.stops[13]
    late = replace(variant, joins={"power-bank-10-ah": half.id})
    found = evaluate(demo.with_variant(late), "a").ridden
    per_kg = np.array([leg.minutes_per_kg for leg in found.timetable.legs])
    assert found.share_aboard("power-bank-10-ah") == pytest.approx(per_kg[14:].sum() / per_kg.sum())
    item = next(item for item in found.kit.items if item.id == "power-bank-10-ah")
    masses = [load.mass - before.mass for load, before in zip(found.film, ridden.film, strict=True)]
    # water and food move a little with the hours; the bank itself is missing on the first fourteen legs
    assert np.mean(masses[:14]) == pytest.approx(-item.total_mass, abs=0.05)
    assert np.mean(masses[14:]) == pytest.approx(0.0, abs=0.05)
    saved = ridden.ledger.minutes("load") - found.ledger.minutes("load")
    expected = item.total_mass * ridden.ledger.prices.per_kg * (1.0 - found.share_aboard(item.id))
    assert saved == pytest.approx(expected, abs=0.5)


def test_a_thing_posted_home_is_gone_from_there_on(demo: Plan) -> None:
    variant = demo.variants[0]
    ridden = evaluate(demo.with_variant(replace(variant, posts={"light-down-jacket": "tazzle"})), "a").ridden
    after = next(k for k, stop in enumerate(ridden.way.stops) if stop.id == "tazzle") + 1
    aboard = [any(i.id == "light-down-jacket" for s in load.carriers for i in s.items) for load in ridden.film]
    assert all(aboard[:after]) and not any(aboard[after:])


def test_jobs_of_the_demo_name_what_is_missing(demo: Plan, demo_evaluation: Evaluation) -> None:
    states = {entry.job.key: entry.state for entry in demo_evaluation.ridden.coverage}
    assert states["lube"] in ("once", "several") and states["read"] == "once"
    bare = replace(demo, items=tuple(i for i in demo.items if not i.roles & {"lube", "read"}))
    states = {e.job.key: e.state for e in evaluate(bare, "a").ridden.coverage}
    # only the rider knows whether small print needs glasses: that is never said to be lacking
    assert states["lube"] == "missing" and "read" not in states


def test_the_countdown_follows_plan_and_rig(demo: Plan, demo_evaluation: Evaluation) -> None:
    variant, asked = demo.variants[0], demo_evaluation.ridden.report(Demands)
    tasks = {task.key: task for task in countdown(demo, variant, asked)}
    assert {"fit", "tape", "loaded", "charge", "maps", "papers", "weigh", "compulsory", "shifting"} <= set(tasks)
    assert "air" not in tasks and "dynamo" not in tasks and "boxes" not in tasks
    soft = replace(variant, bike=replace(usual_bike("full", "m"), dynamo=True), joins={"spoon": "tazzle"})
    more = {task.key for task in countdown(demo, soft, asked)}
    assert {"air", "dynamo", "boxes"} <= more and "shifting" not in more
    assert tasks["charge"].due == variant.rhythm.start.date() - timedelta(days=1)
    dues = [task.due for task in countdown(demo, variant, asked)]
    assert dues == sorted(dues)
    ticked = countdown(demo, replace(variant, ticked=frozenset({"fit"})), asked)
    assert [task.key for task in ticked if task.done] == ["fit"]


def thing(name: str, **more: object) -> Item:
    """A thing as it comes in by its name."""
    return replace(told_item({"name": name, "mass_g": 150.0}, name.replace(" ", "-")).core(), **more)  # type: ignore[arg-type]


def judged(demo: Plan, *items: Item) -> CutList:
    plan = replace(demo, items=(*demo.items, *items))
    return cut_list(evaluate(plan, "a").ridden, plan.variants[0])


def test_what_is_not_known_is_not_judged_and_what_is_ridden_in_is_never_offered(demo: Plan) -> None:
    found = judged(demo, thing("Regenjacke"), thing("second jersey", worn=True), thing("riding shoes", worn=True))
    offered = {cut.item.name for cut in found.cuts}
    assert "Regenjacke" in {item.name for item in found.unjudged} and "Regenjacke" not in offered
    kept = {item.name: why for item, why in found.kept}
    assert not offered & {"second jersey", "riding shoes"} and kept["second jersey"] == "you ride in it"
    margins = margins_of(evaluate(demo, "a").ridden)
    unknown = [cut.item for cut in found.cuts if not cut.item.roles and cut.item.record.carried < 3]
    assert all(any(margin.judges(item) for margin in margins) for item in unknown)


def test_a_record_of_use_judges_what_has_no_job(demo: Plan) -> None:
    used, unused = thing("zorb", record=Record(carried=4, used=3)), thing("blorp", record=Record(carried=4))
    found = judged(demo, used, unused)
    assert {item.name: why for item, why in found.kept}["zorb"] == "used in 3 of 4 races"
    (cut,) = (cut for cut in found.cuts if cut.item.name == "blorp")
    assert cut.worth.reasons == ("no job is known; used in 0 of 4 races",) and cut.net > 0.0


def test_a_thing_of_another_kind_does_part_of_a_job_and_one_of_its_own_all_of_it() -> None:
    asked = Demands()
    shirt, socks, more = thing("T-shirt"), thing("spare socks"), replace(thing("T-shirt"), id="more")
    alone = worth_of(shirt, (shirt,), asked).minutes
    assert alone > 0.0 and worth_of(shirt, (shirt, more), asked).minutes == 0.0
    assert worth_of(shirt, (shirt, socks), asked).minutes == pytest.approx(UNLIKE * alone)
    lamp, other = thing("front light"), thing("dynamo light")  # a light is a light, whatever feeds it
    assert worth_of(lamp, (lamp, other), asked).minutes == 0.0


def test_what_is_reached_for_is_worth_its_halts() -> None:
    camera = thing("camera")
    assert worth_of(camera, (camera,), Demands()).minutes == 0.0
    assert worth_of(camera, (camera,), Demands(), reaching=7.5).minutes == 7.5
