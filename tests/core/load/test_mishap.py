"""What is far in a hurry, or may be lost, by sums of their own."""

from dataclasses import replace

import pytest

from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import ENDING, JOBS
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.kit.reach import Often
from stonechat.core.load.mishap import URGENT, loss_minutes, seconds_until_in_hand, stake, urgency_minutes
from stonechat.core.rig.carrier import Carrier

POCKET = Carrier(id="j", name="j", place="body", capacity=0.001, load_limit=1.0, mass=0.0, longest=0.2,
                 access="riding", open_time=0.0, loss="some")  # fmt: skip
TAIL = replace(POCKET, id="s", place="seat", access="off", open_time=12.0, loss="high")
SPRAY = Item(id="b", name="spray", kind="bear_spray", mass=0.3, volume=0.0004)
PLUG = Item(id="p", name="plugs", category="tools", roles=frozenset({"plug"}), mass=0.03, volume=0.00002)


def test_seconds_are_halt_closure_and_grip() -> None:
    assert seconds_until_in_hand(POCKET) == 3.0 + 5.0
    assert seconds_until_in_hand(TAIL) == 25.0 + 6.0 + 12.0 + 5.0


def test_a_plug_in_the_tail_costs_air_at_every_third_puncture() -> None:
    often = Often(punctures=0.5)
    by_hand = 4.0 * 0.5 * 0.3 * 48.0 * 0.1  # days, punctures, those that a plug stops, seconds, minutes for each
    assert urgency_minutes((PLUG,), TAIL, 4.0, often) == pytest.approx(by_hand)
    assert urgency_minutes((PLUG,), TAIL, 4.0, Often()) == 0.0
    assert urgency_minutes((SPRAY,), TAIL, 4.0, often) > 5.0 * urgency_minutes((SPRAY,), POCKET, 4.0, often)


def test_what_is_lost_costs_its_weightiest_job_for_half_of_the_race() -> None:
    jacket = Item(id="r", name="jacket", roles=frozenset({"rain_top", "wind"}), mass=0.2, volume=0.001)
    assert stake(jacket) == pytest.approx(0.5 * (JOBS["rain_top"].minutes + JOBS["rain_top"].ends * ENDING))
    assert stake(replace(jacket, category="tools")) == pytest.approx(0.1 * stake(jacket))
    assert stake(Item(id="x", name="x", mass=0.1, volume=0.0)) == 5.0


def test_rough_ground_shakes_things_from_the_bike_but_not_from_the_clothes() -> None:
    smooth, rough = (loss_minutes((SPRAY,), TAIL, 60.0, loose) for loose in (0.0, 1.0))
    assert rough == pytest.approx(3.0 * smooth) and smooth == pytest.approx(60.0 * 5e-4 * stake(SPRAY))
    assert loss_minutes((SPRAY,), POCKET, 60.0, 1.0) == pytest.approx(60.0 * 3e-5 * stake(SPRAY))
    assert loss_minutes((SPRAY,), replace(TAIL, loss="low"), 60.0, 1.0) == 0.0


def test_what_is_urgent_is_a_known_kind_with_a_chance_and_a_price() -> None:
    assert set(URGENT) <= set(KINDS)
    assert all(0.0 < chance < 0.2 and price > 0.0 for chance, price in URGENT.values())
