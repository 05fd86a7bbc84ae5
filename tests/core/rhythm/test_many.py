"""Many races: each is the ride with that luck; the spread follows the power's band."""

import numpy as np
import pytest

from stonechat.core.rhythm.many import Luck, draw_luck, ride_many
from stonechat.core.rhythm.ride import ride_course
from tests.core.rhythm.test_ride import TIRED, WINDOW, changed, clock_of, rolling_course


def test_each_race_is_the_ride_with_its_own_luck() -> None:
    course, clock = rolling_course(900), clock_of(WINDOW, stops=((300, 600.0),), wind_speeds=np.full(30, 3.0))
    masses, drags = np.full(900, 95.0), np.full(900, 0.36)
    luck = draw_luck(6, 4, power_band=0.05)
    finishes, arrivals = ride_many(course, TIRED, clock, masses=masses, drag_areas=drags, luck=luck)
    for r in range(6):
        sky = clock.sky
        days = changed(
            clock, lows=sky.lows + luck.warmth[r], highs=sky.highs + luck.warmth[r],
            wind_speeds=sky.wind_speeds * luck.wind[r],
        )  # fmt: skip
        alone = ride_course(course, changed(TIRED, power=TIRED.legs.power * luck.power[r]), days, masses, drags)
        assert finishes[r] == alone.clocks[-1] and arrivals[r, 0] == alone.arrivals[0]


def test_the_same_seed_draws_the_same_and_the_power_keeps_its_band() -> None:
    one, other = draw_luck(20_000, 7, power_band=0.05), draw_luck(20_000, 7, power_band=0.05)
    assert all(np.array_equal(a, b) for a, b in zip(one, other, strict=True))
    assert np.quantile(one.power, [0.05, 0.95]) == pytest.approx([0.95, 1.05], abs=2e-3)
    assert np.median(one.wind) == pytest.approx(1.0, abs=0.02) and one.warmth.std() == pytest.approx(3.0, abs=0.1)


def test_without_luck_every_race_is_alike() -> None:
    course, one = rolling_course(300), np.ones(3)
    masses, drags, luck = np.full(300, 95.0), np.full(300, 0.36), Luck(one, one, 0 * one)
    finishes, _ = ride_many(course, TIRED, clock_of(), masses=masses, drag_areas=drags, luck=luck)
    assert finishes[0] == finishes[1] == finishes[2]
