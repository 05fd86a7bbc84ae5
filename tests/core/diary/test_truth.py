"""Twenty riders whom an independent simulator knows: what their rides tell, what they are, and a race unseen."""

from dataclasses import dataclass, fields, replace

import numpy as np
import pytest

from stonechat.core.diary.combine import Estimate, combined
from stonechat.core.diary.drag_fit import DragFit, Refusal, Setting, fit_drag
from stonechat.core.diary.power_fit import PowerFit, fit_power
from stonechat.core.diary.record import RideRecord
from stonechat.core.rhythm.inputs import (
    Clock,
    Course,
    Doors,
    Halts,
    Legs,
    Nights,
    Pace,
    RiderNumbers,
    Sky,
    Stays,
)
from stonechat.core.rhythm.ride import ride_course
from stonechat.core.rhythm.rider import Rider
from tests.oracles.rides import Hills, Recorded, Truth, ride

RIDERS = 20
LOOP, LAPS = 3_000.0, 12
BY_TURNS = (0.6, 1.4)  # gently and hard, ten minutes each, as the program advises
DAY, DAYS = 260_000.0, 3


def record_of(ridden: Recorded) -> RideRecord:
    both = {part.name for part in fields(RideRecord)} & {part.name for part in fields(Recorded)}
    return RideRecord(**{name: getattr(ridden, name) for name in both})


@dataclass(frozen=True)
class Known:
    """One rider: the truth, and what two test rides and a race of three days tell."""

    truth: Truth
    drags: tuple[DragFit, ...]
    power: PowerFit
    end_told: float  # W on the flat in the last hour of the race, by the fit
    end_true: float


def rider(seed: int) -> Truth:
    draw = np.random.default_rng(4_000 + seed)
    return Truth(
        mass=draw.uniform(78.0, 110.0),
        crr=draw.uniform(0.0055, 0.009),
        cda=draw.uniform(0.28, 0.46),
        power=draw.uniform(120.0, 190.0),
        endurance=float(np.clip(draw.normal(0.65, 0.1), 0.45, 0.85)),
        fade_hours=float(np.exp(draw.normal(np.log(30.0), 0.4))),
        recovery_hours=float(np.exp(draw.normal(np.log(8.0), 0.4))),
    )


def on_a_day(truth: Truth, seed: int) -> Truth:
    draw = np.random.default_rng(9_000 + seed)
    return replace(truth, wind=(draw.uniform(-2, 2), draw.uniform(-2, 2)), gust=0.35, temp=draw.uniform(5.0, 28.0))


def drag_of(truth: Truth, seed: int) -> DragFit | Refusal:
    day = on_a_day(replace(truth, fade_hours=1e6), seed)
    ridden = ride(day, Hills.of(seed, LOOP * LAPS, turns=LAPS), seed, steps=BY_TURNS)
    return fit_drag(record_of(ridden), Setting(mass=truth.mass, efficiency=0.96, inertia=1.5))


def tired_by_minute(record: RideRecord, fade_hours: float, recovery_hours: float) -> np.ndarray:
    """Tiredness by another hand than the program's: step by step from what was ridden and slept."""
    minutes = ((record.times - record.times[0]) // 60).astype(int)
    moving = np.bincount(minutes, record.speeds > 0.8) > 30
    edges = np.flatnonzero(np.diff(moving.astype(int))) + 1
    out, f = [], 0.0
    for block in np.split(moving, edges):
        for _ in block:
            if block[0]:
                f += (1.0 - f) * (1.0 - np.exp(-1.0 / (60.0 * fade_hours)))
            else:
                f *= np.exp(-1.0 / (60.0 * recovery_hours * (1.0 if len(block) >= 120 else 3.0)))
            out.append(f)
    return np.array(out)


def known(seed: int) -> Known:
    truth = rider(seed)
    drags = tuple(fit for k in (0, 1) if isinstance(fit := drag_of(truth, 10 * seed + k), DragFit))
    halts = sorted(
        [(DAY * (k + 1) - 20e3, 5 * 3600.0) for k in range(DAYS - 1)] + [(DAY * k + 9e4, 900.0) for k in range(DAYS)]
    )
    raced = ride(on_a_day(truth, seed), Hills.of(seed, DAY * DAYS, turns=20.0), seed, halts=tuple(halts))
    record = record_of(raced)
    power = fit_power(
        record, Rider(power=150.0, coasting=0.0), mass=truth.mass, local_offset=0.0, rolling=0.007, drag_area=0.37
    )
    assert isinstance(power, PowerFit) and power.endurance and power.fade_time and power.recovery_time
    told = tired_by_minute(record, power.fade_time / 3600.0, power.recovery_time / 3600.0)[-60:].mean()
    true = tired_by_minute(record, truth.fade_hours, truth.recovery_hours)[-60:].mean()
    return Known(
        truth,
        drags,
        power,
        power.power * (1.0 - (1.0 - power.endurance) * told),
        truth.power * (1.0 - (1.0 - truth.endurance) * true),
    )


@pytest.fixture(scope="module")
def riders() -> list[Known]:
    return [known(seed) for seed in range(RIDERS)]


def test_drag_is_told_within_three_percent_and_its_band_is_honest(riders: list[Known]) -> None:
    errors, inside = [], []
    for one in riders:
        assert len(one.drags) == 2
        found = combined([Estimate(value=fit.drag_area, band=fit.drag_band) for fit in one.drags])
        errors.append(found.value / one.truth.cda - 1.0)
        inside += [abs(fit.drag_area - one.truth.cda) <= fit.drag_band for fit in one.drags]
        rolling = combined([Estimate(value=fit.rolling, band=fit.rolling_band) for fit in one.drags])
        assert rolling.value == pytest.approx(one.truth.crr, rel=0.2)
    assert np.max(np.abs(errors)) < 0.03, np.round(errors, 4)
    assert np.sqrt(np.mean(np.square(errors))) < 0.015 and abs(np.mean(errors)) < 0.01
    assert 0.85 <= np.mean(inside) <= 0.99  # of forty rides


def test_power_and_fading_are_told_within_three_percent(riders: list[Known]) -> None:
    for one in riders:
        assert one.power.power == pytest.approx(one.truth.power, rel=0.03)
        assert one.end_told == pytest.approx(one.end_true, rel=0.03)
    apart = np.array([one.end_told / one.end_true - 1.0 for one in riders])
    assert np.sqrt(np.mean(apart**2)) < 0.01
    inside = [abs(one.power.power - one.truth.power) <= one.power.power_band for one in riders]
    assert np.mean(inside) >= 0.85


def test_the_finish_of_an_unseen_race_is_told_within_three_percent(riders: list[Known]) -> None:
    """A race of one day on another course: the program's ride with what was told, against the simulator's."""
    errors = []
    for seed, one in enumerate(riders):
        hills = Hills.of(500 + seed, 240_000.0, turns=3.0)
        calm = replace(one.truth, wind=(0.0, 0.0), gust=0.0, temp=15.0)
        raced = ride(calm, hills, 500 + seed, night=0.0)
        drag = combined([Estimate(value=fit.drag_area, band=fit.drag_band) for fit in one.drags]).value
        rolling = combined([Estimate(value=fit.rolling, band=fit.rolling_band) for fit in one.drags]).value
        told = ride_with(hills, one, drag, rolling)
        errors.append(told / (raced.times[-1] - raced.times[0]) - 1.0)
    assert np.max(np.abs(errors)) < 0.03, np.round(errors, 3)


def ride_with(hills: Hills, one: Known, drag: float, rolling: float) -> float:
    """Return how long the program takes over a course with what rides told. [s]"""
    step = 100.0
    ends = np.arange(0.0, hills.length + step / 2, step)
    heights = hills.height(ends)
    n = ends.size - 1
    one_, none = np.ones(n), np.zeros(0)
    course = Course(
        step * one_, np.diff(heights) / step, (heights[1:] + heights[:-1]) / 2, rolling * one_, one_, 13.5 * one_,
        0.5 * one_, 0.3 * one_, 0 * one_, 0 * one_,
    )  # fmt: skip
    power = one.power
    assert power.endurance and power.fade_time and power.recovery_time
    legs = Legs(power.power, power.endurance, power.fade_time, power.recovery_time)
    rider = RiderNumbers(72.0, legs, Pace(1.5, 5.0, 1.15, 0.0), drivetrain=0.96)
    first, no = np.zeros(1, dtype=np.int64), none.astype(np.bool_)
    halts = Halts(first, none, no, no, none, np.zeros(n + 1), 0.0, 0.0, none)
    days = np.ones(5)
    sky = Sky(np.full((5, 1), 2e4), np.full((5, 1), 7e4), 15 * days, 15 * days, 0 * days, 0 * days, 0.5 * days,
              0 * days, hills.base, 1.0)  # fmt: skip
    stays, doors = Stays(none.astype(np.int64), none, none), Doors(first, none, none, no, none)
    clock = Clock(7 * 3600.0, 0.0, Nights(none, none, none, 0.0), stays, halts, doors, sky)
    return float(ride_course(course, rider, clock, one.truth.mass * one_, drag * one_).clocks[-1])


def test_a_ride_longer_than_what_is_looked_at_still_tells_drag() -> None:
    """Six hours without a halt are one piece, of which the first four are taken."""
    truth = replace(rider(2), fade_hours=1e6, wind=(0.5, 0.5), gust=0.2)
    ridden = ride(truth, Hills.of(2, 150_000.0, turns=50.0), 2, steps=(0.75, 1.25), cap=99.0, night=0.0)
    found = fit_drag(record_of(ridden), Setting(mass=truth.mass, efficiency=0.96, inertia=1.5))
    assert isinstance(found, DragFit) and found.minutes <= 251.0
    assert found.drag_area == pytest.approx(truth.cda, rel=0.05)


def test_without_heights_power_is_told_as_on_the_flat() -> None:
    ridden = ride(on_a_day(rider(7), 7), Hills.of(7, 150_000.0, steep=0.002), 7, night=0.0)
    record = replace(record_of(ridden), heights=np.full(ridden.times.size, np.nan))
    fit = fit_power(
        record, Rider(coasting=0.0, night_dip=0.0), mass=90.0, local_offset=0.0, rolling=0.007, drag_area=0.36
    )
    assert isinstance(fit, PowerFit) and fit.power == pytest.approx(rider(7).power, rel=0.08)


def test_without_a_power_meter_climbs_tell_power_with_a_wider_band() -> None:
    inside = []
    for seed in range(6):
        truth = on_a_day(rider(seed), seed)
        ridden = ride(truth, Hills.of(seed, 200_000.0, steep=0.09, turns=5.0), seed, night=0.0)
        record = replace(record_of(ridden), powers=np.full(ridden.times.size, np.nan))
        fit = fit_power(
            record, Rider(coasting=0.0, night_dip=0.0), mass=truth.mass, local_offset=0.0, rolling=0.007, drag_area=0.36
        )
        assert isinstance(fit, PowerFit) and fit.from_speed and fit.endurance is None
        assert fit.power_band > 0.08 * fit.power
        inside.append(abs(fit.power - truth.power) <= fit.power_band)
    assert all(inside)
    assert isinstance(fit_drag(record, Setting(mass=90.0, efficiency=0.96, inertia=1.5)), Refusal)


def test_a_meter_that_reads_high_makes_rolling_much_too_high() -> None:
    truth = rider(3)
    plain, high = drag_of(truth, 30), drag_of(replace(truth, meter=1.1), 30)
    assert isinstance(plain, DragFit) and isinstance(high, DragFit)
    assert high.rolling > 1.25 * plain.rolling and high.drag_area < plain.drag_area


@pytest.mark.parametrize(("laps", "steps", "steep", "says"), [
    (2, (1.0,), 0.035, "min of steady pedalling"),
    (LAPS, (1.0,), 0.0, "nearly one speed"),
])  # fmt: skip
def test_a_ride_that_cannot_tell_says_why_and_what_would(
    laps: int, steps: tuple[float, ...], steep: float, says: str
) -> None:
    truth = replace(rider(5), fade_hours=1e6, wind=(0.0, 0.0))
    ridden = ride(truth, Hills.of(5, LOOP * laps, steep=steep, turns=laps), 5, steps=steps, night=0.0)
    found = fit_drag(record_of(ridden), Setting(mass=truth.mass, efficiency=0.96, inertia=1.5))
    assert isinstance(found, Refusal) and says in found.reason and found.would
