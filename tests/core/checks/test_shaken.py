"""The loaded ride: never ridden, too short, not rough, ridden, findings open and ticked off."""

from dataclasses import replace
from datetime import date

import pytest

from stonechat.core.diary.shakedown import Shakedown, Shaken
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.plan import Plan

DAY = date(2027, 9, 11)


def found(plan: Plan, shakedown: Shakedown, ticked: frozenset[str] = frozenset()) -> Finding | None:
    variant = replace(plan.variants[0], shakedown=shakedown, ticked=ticked)
    return next((f for f in evaluate(plan.with_variant(variant), variant.id).findings if f.code == "shaken"), None)


@pytest.mark.parametrize(("shakedown", "state", "says"), [
    (Shakedown(), "tight", "never ridden"),
    (Shakedown(day=DAY, km=10.0, rough_km=5.0), "tight", "never ridden"),
    (Shakedown(day=DAY, km=60.0), "tight", "no rough ground"),
    (Shakedown(day=DAY, km=60.0, rough_km=12.0), "fine", "nothing"),
    (Shakedown(day=DAY, km=60.0, rough_km=12.0, findings=(Shaken(trouble="rubs"),)), "tight", "rubs"),
    (Shakedown(day=DAY, km=60.0, rough_km=12.0, findings=(Shaken(trouble="rubs", done=True),)), "fine", "nothing"),
])  # fmt: skip
def test_a_load_is_ridden_before_it_is_raced(demo: Plan, shakedown: Shakedown, state: str, says: str) -> None:
    finding = found(demo, shakedown)
    assert finding is not None and finding.state == state and says in finding.sentence


def test_the_countdown_tick_counts_and_an_empty_bike_is_not_asked(demo: Plan) -> None:
    ticked = found(demo, Shakedown(), frozenset({"loaded"}))
    assert ticked is not None and ticked.state == "fine"
    assert found(replace(demo, items=()), Shakedown()) is None
