"""Openings, steps, food at hand and the body, each against a sum or a closed form of its own."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from stonechat.core.kit.item import Item, Pouch, Reaches
from stonechat.core.kit.occasions import uses_of
from stonechat.core.kit.reach import Often, reaches_a_day
from stonechat.core.load.body import body_minutes
from stonechat.core.load.eating import FETCH_TIME, fetching, halts_for_food
from stonechat.core.load.judge import judge
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.reaching import Placed, marginal_seconds, reaching_seconds, things_in_carriers
from stonechat.core.load.steps import in_order
from stonechat.core.rig.carrier import Carrier
from tests.strategies import random_problem

OFTEN = Often(wet=0.4, cold=0.6, nights=1.0, punctures=0.3, gloved=0.2)
SEAT = Carrier(id="seat", name="seat", place="seat", capacity=0.01, load_limit=4, mass=0.4, longest=0.4, open_time=12.0)
TUBE = Carrier(id="tube", name="tube", place="top_tube_front", capacity=0.001, load_limit=1, mass=0.1, longest=0.2,
               access="riding", open_time=1.0)  # fmt: skip


def thing(key: str, **changes: object) -> Item:
    return replace(Item(id=key, name=key, mass=0.2, volume=0.0005), **changes)


def test_a_camp_in_one_bag_by_hand() -> None:
    """Once a day: 10 s to get at the bag, 12 s of closure, three grips of 5 s; in two bags one opening more."""
    camp = [thing(k, category="sleep", access="camp", reaches=Reaches(per_day=1.0)) for k in "abc"]
    plain = Often()
    together = sum(reaching_seconds([Placed(parts=(i,), carrier=SEAT) for i in camp], plain).values())
    assert together == pytest.approx(10.0 + 12.0 + 3 * 5.0 + 3 * 0.7 * 2.0)
    other = replace(SEAT, id="roll", open_time=8.0)
    apart = [Placed(parts=(i,), carrier=c) for i, c in zip(camp, (SEAT, SEAT, other), strict=True)]
    assert sum(reaching_seconds(apart, plain).values()) == pytest.approx(together + 10.0 + 8.0)


def test_a_rain_jacket_and_trousers_halt_once() -> None:
    """A foot goes down for the jacket; for the trousers one gets off, as often as they are wanted."""
    jacket = thing("j", category="clothes", access="foot", reaches=Reaches(rain=4.0))
    trousers = thing("t", category="clothes", access="off", reaches=Reaches(rain=2.0))
    wet = Often(wet=0.5)
    both = reaching_seconds([Placed(parts=(jacket,), carrier=TUBE), Placed(parts=(trousers,), carrier=TUBE)], wet)
    opening = 3.0 + 1.0
    assert both["rain"] == pytest.approx(2.0 * opening + 0.7 * 22.0 * 2.0 + 0.7 * 13.0 * 1.0)


@given(
    st.builds(Reaches, **{k: st.floats(0, 5) for k in ("per_day", "rain", "cold", "night", "puncture")}),
    st.sampled_from(["riding", "foot", "off", "camp", "last"]), st.sampled_from(["clothes", "tools", "papers", "food"]),
)  # fmt: skip
def test_uses_add_up_to_the_reaches(reaches: Reaches, access: str, category: str) -> None:
    item = thing("t", reaches=reaches, access=access, category=category)
    assert sum(use.often for use in uses_of(item, OFTEN)) == pytest.approx(reaches_a_day(item, OFTEN))


@pytest.mark.parametrize("seed", range(6))
def test_what_a_thing_adds_is_what_reaching_is_less_without_it(seed: int) -> None:
    random = np.random.default_rng(seed)
    items = tuple(
        thing(
            f"t{k}", category=str(random.choice(["clothes", "tools", "sleep", "papers"])),
            access=str(random.choice(["foot", "off", "camp", "riding"])),
            container="pouch" if k < 3 else "",
            reaches=Reaches(per_day=float(random.choice([0.0, 0.2, 2.0])), rain=float(random.choice([0.0, 3.0]))),
        )
        for k in range(9)
    )  # fmt: skip
    items = (thing("pouch", pouch=Pouch()), *items)
    places = {item.id: str(random.choice(["seat", "tube"])) for item in items}
    places |= dict.fromkeys(("t0", "t1", "t2"), places["pouch"])

    def total(left: tuple[Item, ...]) -> float:
        return sum(reaching_seconds(things_in_carriers(left, places, (SEAT, TUBE)), OFTEN).values())

    adds = marginal_seconds(things_in_carriers(items, places, (SEAT, TUBE)), OFTEN)
    for item in items[1:]:
        less = total(items) - total(tuple(other for other in items if other is not item))
        assert adds[item.id] == pytest.approx(less, abs=1e-9)


def random_places(problem: PackingProblem, seed: int) -> dict[str, str]:
    random = np.random.default_rng(seed)
    rows = (np.flatnonzero(row) for row in problem.allowed)
    return {
        item.id: problem.carriers[int(random.choice(row))].id
        for item, row in zip(problem.items, rows, strict=True)
        if row.size
    }


@pytest.mark.parametrize("seed", range(4))
def test_what_is_added_beside_others_and_the_gains_of_steps_are_the_judges_differences(seed: int) -> None:
    problem = random_problem(seed, 30)
    problem = replace(problem, provisions=replace(problem.provisions, food_volume=0.0, food_mass=0.0))
    now, then = random_places(problem, seed), random_places(problem, seed + 100)

    def minutes(places: dict[str, str]) -> float:
        return judge(problem, places).minutes

    at = problem.columns(now)
    for i, item in enumerate(problem.items[:12]):
        if item.id not in now:
            continue
        here, beside = at[i], problem.beside(i, at)
        for c in np.flatnonzero(problem.allowed[i])[:4]:
            moved = minutes({**now, item.id: problem.carriers[c].id}) - minutes(now)
            assert beside[c] - beside[here] == pytest.approx(moved, abs=1e-9)
    steps = in_order(problem, now, then)
    assert sum(step.gain for step in steps) == pytest.approx(minutes(now) - minutes(then), abs=1e-9)
    assert len({step.row for step in steps}) == len(steps) == sum(now[k] != then[k] for k in now)


@given(st.lists(st.floats(0.0, 0.006), min_size=1, max_size=12), st.floats(0.0, 0.01))
@settings(max_examples=200)
def test_halts_for_food_lie_under_the_plain_count_and_never_grow_with_more_at_hand(
    eaten: list[float], at_hand: float
) -> None:
    """On each leg what is not at hand is fetched, as much at once as there is room for at hand."""
    lines = fetching(eaten)
    plain = sum(max(0.0, leg - at_hand) for leg in eaten) / min(max(at_hand, 1e-4), 6e-4) * FETCH_TIME / 60.0
    told = halts_for_food(at_hand, lines)
    assert told <= 1.12 * plain + 0.05
    assert halts_for_food(at_hand + 0.0005, lines) <= told + 1e-9
    if at_hand >= max(eaten):
        assert told == pytest.approx(0.0, abs=0.05)


def test_without_any_at_hand_all_is_fetched_a_mouthful_at_a_time() -> None:
    assert halts_for_food(0.0, fetching([0.002, 0.001])) == pytest.approx(30.0 * FETCH_TIME / 60.0)


def test_oil_on_the_body_costs_more_than_a_bank_and_that_more_than_a_gilet() -> None:
    pocket = replace(TUBE, id="pocket", place="body")
    oil, bank, gilet = thing("o", leaks=True), thing("b", category="power"), thing("g", category="clothes", spoils=True)
    one = 40.0 * (0.25 * 0.2 + 0.05 * 0.5)
    costs = [body_minutes((item,), pocket, 40.0) for item in (gilet, bank, oil)]
    assert costs == pytest.approx([one, 2.0 * one, 6.0 * one])
    assert body_minutes((bank,), TUBE, 40.0) == 0.0
