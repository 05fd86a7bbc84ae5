"""A race as it might go: the same by its number, otherwise than planned, and with nothing lost between the minutes."""

import numpy as np
import pytest

from stonechat.core.diary.trail import Trail
from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.played import halting_clock, played_race, time_by


def test_the_same_number_plays_the_same_race(demo_evaluation: Evaluation) -> None:
    one, again, other = (played_race(demo_evaluation.ridden, seed) for seed in (3, 3, 4))
    assert np.array_equal(one.distances, again.distances)
    assert one.elapsed[-1] != other.elapsed[-1]


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_minute_by_minute_it_is_one_way_from_start_to_finish(demo_evaluation: Evaluation, seed: int) -> None:
    race, length = played_race(demo_evaluation.ridden, seed), demo_evaluation.ridden.way.profile.length
    assert race.distances[0] == 0.0 and race.distances[-1] == pytest.approx(length)
    assert np.all(np.diff(race.distances) >= -1e-6)
    ridden = np.diff(race.distances) / np.diff(race.elapsed)
    # where speed says that one stands, the place stays; where one rides, speed is what the way says
    both = (race.speeds[:-1] > 0.5) & (race.speeds[1:] > 0.5)
    assert np.median(np.abs(ridden[both] / race.speeds[:-1][both] - 1.0)) < 0.15
    still = (race.speeds[:-1] == 0.0) & (race.speeds[1:] == 0.0)
    assert still.sum() > 60 and ridden[still].max() < 1e-6
    assert race.powers[race.speeds == 0.0].max() == 0.0
    assert 0.85 < race.elapsed[-1] / demo_evaluation.ridden.ledger.finish < 1.2


def test_a_plan_ridden_to_the_letter_differs_from_itself_in_nothing(demo_evaluation: Evaluation) -> None:
    ridden = demo_evaluation.ridden
    moments, places = halting_clock(ridden, ridden.ride)
    trail = Trail(elapsed=tuple(moments.tolist()), distances=tuple(places.tolist()))
    found = time_by(ridden, trail)
    assert all(planned == was for planned, was in found.values())
    assert sum(planned for planned, _ in found.values()) == pytest.approx(ridden.ledger.finish)
    slept = sum(visit.rested for visit in ridden.timetable.visits) + float(ridden.ride.rests.sum())
    assert found["nights"][0] >= 0.9 * slept
    assert time_by(ridden, Trail()) == {}
