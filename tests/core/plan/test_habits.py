"""What a ridden race tells of its rider: told back as it was put in, and nothing where it was not ridden."""

from dataclasses import replace
from datetime import UTC, timedelta

import numpy as np
import pytest

from stonechat.core.diary.habits import Habit
from stonechat.core.diary.notes import Note
from stonechat.core.diary.rides import Ride
from stonechat.core.diary.trail import Trail
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.charging import charge_of
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.habits import drunk_by_warmth, habits_of
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.played import halting_clock, time_by
from stonechat.core.plan.providing import loss_riding


@pytest.fixture(scope="module")
def ridden(demo: Plan) -> Ridden:
    return evaluate(demo, "a").ridden


def raced(demo: Plan, ridden: Ridden, notes: tuple[Note, ...] = (), *, longer: float = 1.0) -> Variant:
    """Return the variant with a race exactly as planned, its halts under two hours `longer` times as long."""
    moments, places = halting_clock(ridden, ridden.ride)
    spans = np.diff(moments)
    halts = (np.diff(places) == 0.0) & (spans < 7_200.0)
    elapsed = np.concatenate(([0.0], np.cumsum(np.where(halts, longer * spans, spans))))
    trail = Trail(elapsed=tuple(elapsed.tolist()), distances=tuple(places.tolist()))
    ride = Ride(
        id="race", name="race", purpose="race", start=ridden.way.start.astimezone(UTC), length=float(elapsed[-1]),
        moving=1.0, distance=float(places[-1]), mass=90.0, trail=trail,
    )  # fmt: skip
    return replace(demo.variant("a"), rides=(replace(ride, time_by=time_by(ridden, trail)),), diary=notes)


def at(ridden: Ridden, share: float) -> tuple[float, float]:
    """Return place and moment of a share of the way. [m], [s]"""
    distance = share * ridden.way.profile.length
    ends = ridden.way.profile.distances[: ridden.ride.clocks.size]
    return distance, float(np.interp(distance, ends, ridden.ride.clocks))


def note(ridden: Ridden, kind: str, share: float, text: str) -> Note:
    distance, moment = at(ridden, share)
    return Note(kind=kind, text=text, distance=distance, at=ridden.way.start + timedelta(seconds=moment))


def by_key(habits: tuple[Habit, ...]) -> dict[str, Habit]:
    return {habit.id: habit for habit in habits}


def test_a_race_as_planned_tells_the_plan(demo: Plan, ridden: Ridden) -> None:
    told = by_key(habits_of(ridden, raced(demo, ridden)))
    rhythm = demo.variant("a").rhythm
    assert told["halt"].told.value == pytest.approx(rhythm.halt / 3600.0, abs=0.3)
    assert told["rise"].told.value == pytest.approx(rhythm.rise / 3600.0, abs=0.1)
    kinds = {key: habit for key, habit in told.items() if key.startswith("dawdle:")}
    assert len(kinds) >= 3
    for habit in kinds.values():
        planned = [
            ((visit.leaves - visit.arrives).total_seconds() - visit.stop.detour / 4.5) / 60.0
            for visit in ridden.timetable.visits
            if visit.stop is not None
            and visit.stop.kind == habit.of
            and not visit.passed
            and not visit.rested
            and not visit.waited
        ]
        assert habit.told.value == pytest.approx(np.mean(planned), rel=0.35, abs=3.0)


def test_longer_stays_are_told_longer(demo: Plan, ridden: Ridden) -> None:
    usual = by_key(habits_of(ridden, raced(demo, ridden)))
    twice = by_key(habits_of(ridden, raced(demo, ridden, longer=2.0)))
    for key in (key for key in usual if key.startswith("dawdle:")):
        assert 1.25 * usual[key].told.value < twice[key].told.value <= 3.2 * usual[key].told.value


def test_nothing_is_told_of_a_race_that_was_not_ridden(demo: Plan, ridden: Ridden) -> None:
    assert habits_of(ridden, demo.variant("a")) == ()
    assert drunk_by_warmth(ridden, demo.variant("a")) == ()


def test_water_that_was_drunk_as_planned_is_the_usual_sweat(demo: Plan, ridden: Ridden) -> None:
    needs = float(ridden.provisions.water.needs.sum())
    notes = tuple(note(ridden, "drunk", 0.12 * k, f"{needs / 8.0:.3f} l") for k in range(1, 9))
    told = by_key(habits_of(ridden, raced(demo, ridden, notes)))["sweat"].told
    assert told.value == pytest.approx(demo.variant("a").rider.sweat, abs=0.1)
    more = tuple(replace(one, text=f"{1.2 * needs / 8.0:.3f} l") for one in notes)
    assert by_key(habits_of(ridden, raced(demo, ridden, more)))["sweat"].told.value > told.value + 0.1
    rows = drunk_by_warmth(ridden, raced(demo, ridden, notes))
    assert rows and all(0.0 < drunk < 3.0 and 0.0 < planned <= 0.8 for _, drunk, planned in rows)


def test_sleep_that_was_noted_tells_what_else_a_night_takes(demo: Plan, ridden: Ridden) -> None:
    variant = raced(demo, ridden)
    rests = [
        (float(ridden.way.profile.distances[k]), float(ridden.ride.rests[k]))
        for k in np.flatnonzero(ridden.ride.rests > 7_200.0)
    ]
    notes = tuple(
        Note(kind="slept", text=f"{length / 3600.0 - 1.0:.2f} h", distance=distance) for distance, length in rests
    )
    told = by_key(habits_of(ridden, replace(variant, diary=notes)))
    assert told["camp"].told.value == pytest.approx(60.0, abs=6.0)


def test_being_cold_where_the_plan_is_warm_enough_tells_a_cold_rider_and_cold_hands_tell_none(
    demo: Plan, ridden: Ridden
) -> None:
    cold = tuple(note(ridden, "cold", share, "shivering") for share in (0.05, 0.1, 0.15, 0.3))
    warm = tuple(replace(one, kind="warm", text="jacket off, too warm") for one in cold)
    assert by_key(habits_of(ridden, raced(demo, ridden, cold)))["runs_cold"].told.value > 0.0
    assert by_key(habits_of(ridden, raced(demo, ridden, warm)))["runs_cold"].told.value <= 0.0
    hands = tuple(replace(one, text="hands") for one in cold)
    assert "runs_cold" not in by_key(habits_of(ridden, raced(demo, ridden, hands)))


def test_a_battery_that_falls_twice_as_fast_draws_twice_as_much(demo: Plan, ridden: Ridden) -> None:
    charge = charge_of(ridden)
    column = next(k for k, one in enumerate(charge.electrics.devices) if one.role == "navigation")
    device, steps = charge.electrics.devices[column], charge.steps
    (here, first), (_, second) = at(ridden, 0.02), at(ridden, 0.06)
    inside = (steps.begins >= first) & (steps.begins < second)
    planned = float((charge.loads[inside, column] * steps.lengths[inside]).sum()) / 3600.0
    fall = 2.0 * planned / device.capacity
    assert 0.1 < fall < 0.9
    notes = (
        note(ridden, "note", 0.02, f"{device.name} 95 %"),
        note(ridden, "note", 0.06, f"{device.name} {round(95 - 100 * fall)} %"),
    )
    told = by_key(habits_of(ridden, raced(demo, ridden, notes)))[f"draw:{device.name}"].told
    assert told.value == pytest.approx(2.0 * (device.riding + device.always), rel=0.05)
    assert here > 0.0


def test_short_halts_tell_the_time_at_bags_only_where_there_are_enough(demo: Plan, ridden: Ridden) -> None:
    variant = raced(demo, ridden)
    reaching, eating = (60.0 * ridden.ledger.minutes(key) for key in ("reach", "eating"))

    def with_pauses(count: int, seconds: float) -> Variant:
        return replace(variant, rides=(replace(variant.rides[0], pauses=count, paused=seconds),))

    told = by_key(habits_of(ridden, with_pauses(90, 1.5 * reaching + eating)))["handling"].told
    assert told.value == pytest.approx(1.5 * variant.rider.handling, rel=0.02)
    assert "handling" not in by_key(habits_of(ridden, with_pauses(5, 900.0)))


def test_what_was_taken_is_told_again(demo: Plan, ridden: Ridden) -> None:
    """Each way is told against what is usual: a plan that has taken it is told the same."""
    cold = tuple(note(ridden, "cold", share, "shivering") for share in (0.05, 0.1, 0.15, 0.3))
    variant = raced(demo, ridden, (*cold, note(ridden, "broken", 0.4, "puncture, plugged")))
    variant = replace(variant, rides=(replace(variant.rides[0], pauses=200, paused=9_000.0),))
    told = by_key(habits_of(ridden, variant))
    for key in ("punctures", "runs_cold", "handling"):
        rider = replace(variant.rider, **{key: told[key].told.value})  # type: ignore[arg-type]
        taken = replace(variant, rider=rider)
        again = by_key(habits_of(evaluate(demo.with_variant(taken), "a").ridden, taken))
        assert again[key].told.value == pytest.approx(told[key].told.value, rel=0.05), key


def test_own_figures_move_what_they_are_of_and_by_as_much(demo: Plan, ridden: Ridden) -> None:
    def with_rider(**own: float) -> Ridden:
        variant = demo.variant("a")
        return evaluate(demo.with_variant(replace(variant, rider=replace(variant.rider, **own))), "a").ridden  # type: ignore[arg-type]

    assert with_rider(handling=2.0).ledger.minutes("reach") == pytest.approx(
        2 * ridden.ledger.minutes("reach"), rel=0.05
    )
    slow = with_rider(handling=2.0).reaching
    assert sum(slow.values()) == pytest.approx(2.0 * sum(ridden.reaching.values()), rel=0.05)
    assert with_rider(punctures=3.0).way.punctures == pytest.approx(3.0 * ridden.way.punctures)
    # where less is lost than can be drunk, what is drunk besides stays as it is
    rider, ride = demo.variant("a").rider, ridden.ride
    usual = loss_riding(ride, ridden.timetable.clock, power=rider.power, method=demo.variant("a").supply.sweat)
    less, more = (float(with_rider(sweat=own).provisions.water.needs.sum()) for own in (0.3, 0.6))
    assert more - less == pytest.approx(0.3 * float((usual * ride.times).sum()) / 3600.0, rel=0.02)
