"""Simulated tracker and bike computer: a race that is known comes out of both, late, thin, noisy, but true."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from stonechat.formats.ride_file import read_ride
from stonechat.outside.bike_computer import EVERY, SimulatedComputer, SimulatedTracker, TrueRace

START = datetime(2027, 9, 24, 7, tzinfo=UTC)


def race(hours: float = 30.0) -> TrueRace:
    """Due north at 6 m/s, an hour's halt after ten hours."""
    elapsed = np.arange(0.0, hours * 3600.0 + 1.0, 60.0)
    moving = np.where((elapsed >= 36_000.0) & (elapsed < 39_600.0), 0.0, 6.0)
    way = np.concatenate(([0.0], np.cumsum(moving[:-1] * 60.0)))
    return TrueRace(
        start=START, elapsed=elapsed, latitudes=45.0 + way / 111_200.0, longitudes=np.full(elapsed.size, 8.0),
        heights=300.0 + way / 1_000.0, speeds=moving, powers=np.where(moving > 0.0, 150.0, 0.0),
        temps=np.full(elapsed.size, 12.0),
    )  # fmt: skip


def at(hours: float) -> datetime:
    return START + timedelta(hours=hours)


def test_the_tracker_says_where_one_is_with_silences() -> None:
    true = race()
    sent = SimulatedTracker(true, seed=4).reports(at(99))
    apart = np.diff([report.at.timestamp() for report in sent])
    assert apart.min() <= EVERY and 2.0 * EVERY <= apart.max() <= 6.0 * EVERY
    for report in sent[::20]:
        lat = np.interp((report.at - START).total_seconds(), true.elapsed, true.latitudes)
        assert abs(report.latitude - lat) * 111_200.0 < 60.0


def test_what_is_not_sent_yet_is_not_told_and_nothing_told_is_taken_back() -> None:
    tracker = SimulatedTracker(race(), seed=4)
    early, late = tracker.reports(at(5)), tracker.reports(at(20))
    assert early == late[: len(early)] and all(report.at <= at(5) for report in early)
    assert tracker.reports(at(-1)) == ()
    assert SimulatedTracker(race(), seed=5).reports(at(20)) != late


@pytest.mark.parametrize("hours", [2.0, 11.0, 30.0])
def test_the_computers_file_grows_and_reads_as_the_race_was(hours: float) -> None:
    true = race()
    ride = read_ride(SimulatedComputer(true, seed=2).file(at(hours)))
    assert ride.length == pytest.approx(hours * 3600.0, abs=6.0) and ride.sport == "cycling"
    elapsed = ride.times - START.timestamp()
    assert ride.latitudes == pytest.approx(np.interp(elapsed, true.elapsed, true.latitudes), abs=2e-6)
    assert ride.speeds.mean() == pytest.approx(np.interp(elapsed, true.elapsed, true.speeds).mean(), rel=0.01)
    pedalled = ride.powers[np.interp(elapsed, true.elapsed, true.speeds) > 5.9]
    assert pedalled.mean() == pytest.approx(150.0, rel=0.01) and 4.0 < pedalled.std() < 12.0


def test_a_file_asked_for_before_the_start_or_after_the_finish_is_one_all_the_same() -> None:
    computer = SimulatedComputer(race(), seed=2)
    assert computer.file(at(-3)).count(b"<trkpt") == 1
    assert computer.file(at(500)) == computer.file(at(30))
