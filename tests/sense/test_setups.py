"""Every set-up is packed as a seasoned rider would expect, nearly all of the time."""

from dataclasses import replace
from datetime import datetime
from functools import cache

import pytest

from stonechat.core.line.weather import Weather
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.solve import PackingResult, solve_packing
from stonechat.core.plan.beginning import Spoken, begin_plan
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan
from stonechat.core.rig.bike import usual_bike
from stonechat.core.rig.stock import fitting_carriers
from stonechat.formats.kit_columns import guess_mapping
from stonechat.formats.kit_table import read_kit
from stonechat.formats.table_file import read_grid
from tests.kept.make import stops, track
from tests.sense.setups import SETUPS, Setup

AT_LEAST = 0.95  # 1, share of all expectations that hold


def plan_of(setup: Setup) -> Plan:
    """The set-up as a new rider would begin it: a course, a stock bike, a table of the kit."""
    grid = read_grid(f"thing,g\n{setup.kit}\n".encode())
    items = read_kit(grid, guess_mapping(grid)).items
    bike = usual_bike(setup.bike, "m", None)
    spoken = Spoken(start=datetime(2027, 6, 5, 6, 0), mass=75, power=170, bike=bike, items=items)
    plan = begin_plan(
        name=setup.name, track=track(setup.length_km, hills=setup.hills), surface="smooth_gravel",
        stops=stops(setup.length_km, setup.every_km), spoken=spoken, today=datetime(2027, 4, 1, 12, 0),
    )  # fmt: skip
    if setup.days:
        plan = replace(plan, line=replace(plan.line, weather=Weather(days=setup.days)))
    variant = plan.variants[0]
    hung = fitting_carriers(bike, setup.carriers, variant.rider.position)
    rhythm = replace(variant.rhythm, school=setup.school)
    return plan.with_variant(replace(variant, carriers=hung, places={}, rhythm=rhythm))


@cache
def packed(setup: Setup) -> tuple[PackingProblem, PackingResult]:
    plan = plan_of(setup)
    variant = plan.variants[0]
    problem = packing_problem(plan, variant, evaluate(plan, variant.id).ridden)
    return problem, solve_packing(problem, tolerance=2.0, time_limit=12.0)


def missed(setup: Setup) -> list[str]:
    """What a rider would not expect."""
    problem, result = packed(setup)
    by_id = {carrier.id: carrier for carrier in problem.carriers}
    at = {item.name: by_id[result.places[item.id]] for item in problem.items}
    found = []
    for things in setup.together:
        bags = {at[name].name for name in things if name in at}
        found += [f"{', '.join(things)} lie in {', '.join(sorted(bags))}"] if len(bags) > 1 else []
    found += [f"{name} in {at[name].name}" for name, places in setup.never if name in at and at[name].place in places]
    found += [
        f"{name} in {at[name].name}" for name, places in setup.within if name in at and at[name].place not in places
    ]
    return found


@pytest.mark.parametrize("setup", SETUPS, ids=lambda setup: setup.name)
def test_a_kit_just_brought_in_is_packed(setup: Setup) -> None:
    problem, result = packed(setup)
    assert result.places, result.reasons
    assert result.status in ("proven", "stopped") and result.gap < 0.05
    names = {item.name for item in problem.items}
    assert not names & {"helmet", "cycling shoes", "bib shorts", "jersey"}  # worn things are in no bag
    asked = {name for things in setup.together for name in things} | {name for name, _ in (*setup.never, *setup.within)}
    assert asked <= names


def test_nearly_all_is_where_a_seasoned_rider_expects_it() -> None:
    told = {setup.name: missed(setup) for setup in SETUPS}
    asked = sum(len(setup.together) + len(setup.never) + len(setup.within) for setup in SETUPS)
    assert sum(map(len, told.values())) <= (1.0 - AT_LEAST) * asked, told
