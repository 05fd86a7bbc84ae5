"""Every check, broken on purpose."""

from collections.abc import Callable
from dataclasses import replace

import pytest

from stonechat.core.checks.registry import all_checks
from stonechat.core.numerics.findings import STATES, Finding
from stonechat.core.plan.evaluate import Evaluation, evaluate, with_places
from stonechat.core.plan.plan import Plan, Variant


def state_after(plan: Plan, change: Callable[[Variant], Variant], code: str) -> tuple[str, list[Finding]]:
    """Return the worst state of a check after a change of the first variant."""
    found = evaluate(plan.with_variant(change(plan.variants[0])), "a").findings
    mine = [finding for finding in found if finding.code == code]
    return min((f.state for f in mine), key=STATES.index, default="silent"), mine


def moved(thing: str, place: str) -> Callable[[Variant], Variant]:
    return lambda variant: with_places(variant, {thing: place})


def carrier(key: str, **changes: object) -> Callable[[Variant], Variant]:
    return lambda v: replace(v, carriers=tuple(replace(c, **changes) if c.id == key else c for c in v.carriers))


BREAKS: dict[str, Callable[[Variant], Variant]] = {
    "water": lambda v: replace(v, supply=replace(v.supply, water_by_stop={"mirrel": 0.5})),
    "food": lambda v: replace(v, supply=replace(v.supply, food_by_stop={"start": 100.0})),
    "food-room": lambda v: replace(v, supply=replace(v.supply, food_bulk=200.0, food_density=500.0)),
    "placed": lambda v: replace(v, places={k: p for k, p in v.places.items() if k != "rain-jacket"}),
    "volume": carrier("seat", capacity=0.001),
    "limit": carrier("seat", load_limit=0.3),
    "length": moved("mini-pump", "top-front"),
    "dry": moved("sleep-socks", "stem-left"),
    "leaks": moved("patches-and-glue", "seat"),
    "reachable": moved("rain-jacket", "seat"),
    "front-share": lambda v: replace(v, bike=replace(v.bike, wheelbase=1.40)),
    "left-right": carrier("fork-left", mass=9.0),
    "sway": carrier("seat", sway_lever=1.0, steadiness=1.0),
    "steering": carrier("bar", mass=40.0),
    "awake": lambda v: replace(v, rhythm=replace(v.rhythm, halt=v.rhythm.rise)),
}


@pytest.mark.parametrize("code", sorted(BREAKS))
def test_a_check_breaks_when_its_rule_is_broken(demo: Plan, code: str) -> None:
    state, found = state_after(demo, BREAKS[code], code)
    assert state == "broken", [f.sentence for f in found]
    worst = min(found, key=lambda f: f.margin)
    assert worst.margin < 0.0
    assert worst.sentence.endswith((".", "!"))


def test_every_check_is_broken_by_some_test_or_only_warns() -> None:
    assert {check.code for check in all_checks()} - set(BREAKS) == {"shut"}


def test_a_shut_door_is_told_with_the_hours_until_it_opens(demo_evaluation: Evaluation) -> None:
    shut = [f for f in demo_evaluation.findings if f.code == "shut"]
    by_visit = [v for v in demo_evaluation.ridden.visits if v.stop and not v.is_open]
    assert {f.subject for f in shut} == {v.stop.id for v in by_visit if v.stop}
    assert all("opens in" in f.sentence for f in shut)


def test_the_worst_comes_first(demo_evaluation: Evaluation) -> None:
    states = [STATES.index(finding.state) for finding in demo_evaluation.findings]
    assert states == sorted(states)


def test_a_check_that_is_switched_off_is_silent(demo: Plan) -> None:
    off = replace(demo.variants[0], checks_off=frozenset({"water", "awake"}))
    found = evaluate(demo.with_variant(off), "a").findings
    assert not {"water", "awake"} & {finding.code for finding in found}


def test_a_kilogram_over_the_limit_is_a_kilogram_in_the_margin(demo: Plan, demo_evaluation: Evaluation) -> None:
    film = demo_evaluation.ridden.film
    heaviest = max(state.mass for load in film for state in load.carriers if state.carrier.id == "seat")
    _, found = state_after(demo, carrier("seat", load_limit=heaviest - 1.0), "limit")
    assert min(f.margin for f in found) == pytest.approx(-1.0, abs=0.02)
