"""Files as they come: gaps, jumps, zeros, another sport, two rides in one."""

from dataclasses import replace

import numpy as np
import pytest

from stonechat.core.diary.record import RideRecord, usable
from stonechat.errors import InvalidInput


def plain(seconds: int = 4_000) -> RideRecord:
    at = np.arange(seconds, dtype=float)
    return RideRecord(
        times=1.8e9 + at, latitudes=46.0 + at * 6.0 / 111_200.0, longitudes=np.full(seconds, 8.0),
        heights=300.0 + 5.0 * np.sin(at / 90.0), speeds=np.full(seconds, 6.0), powers=np.full(seconds, 150.0),
        temps=np.full(seconds, 15.0),
    )  # fmt: skip


def cut(record: RideRecord, keep: np.ndarray) -> RideRecord:
    names = ("times", "latitudes", "longitudes", "heights", "speeds", "powers", "temps")
    return replace(record, **{name: getattr(record, name)[keep] for name in names})


def test_a_good_file_has_no_faults() -> None:
    assert usable(plain()).faults == ()


def test_gaps_are_told_and_what_is_good_is_kept() -> None:
    keep = np.ones(4_000, dtype=bool)
    keep[1_000:1_600] = keep[2_000:2_300] = False
    found = usable(cut(plain(), keep))
    assert found.record.times.size == 3_100 and "2 gaps of 15 min" in found.faults[0]


def test_a_clock_that_jumps_back_loses_only_what_came_twice() -> None:
    ride = plain()
    times = ride.times.copy()
    times[2_000:] -= 500.0
    found = usable(replace(ride, times=times))
    assert np.all(np.diff(found.record.times) > 0) and found.record.times.size == 3_500
    assert "clock jumped" in found.faults[0]


@pytest.mark.parametrize("ahead", [3_600.0, 5e8])
def test_one_sample_that_leapt_ahead_does_not_cost_the_rest(ahead: float) -> None:
    times = plain().times.copy()
    times[1_000:1_003] += ahead
    found = usable(replace(plain(), times=times))
    assert found.record.times.size == 3_997 and found.record.length == pytest.approx(3_999.0)


def test_a_clock_that_was_set_on_the_way_leaves_the_longer_part() -> None:
    """Some devices begin in another year and learn the time when they see the sky."""
    times = plain().times.copy()
    times[:700] -= 1.2e9
    found = usable(replace(plain(), times=times))
    assert found.record.times.size == 3_300 and found.record.length < 4_000.0


def test_a_file_of_nonsense_is_told_and_no_fault_of_the_program() -> None:
    with pytest.raises(InvalidInput, match="faster than"):
        usable(replace(plain(), speeds=np.full(4_000, 90.0)))
    assert "breaks off" in usable(replace(plain(), breaks_off=True)).faults[0]


def test_devices_that_write_only_changes_have_no_gaps() -> None:
    found = usable(cut(plain(), np.arange(4_000) % 13 == 0))
    assert found.faults == ()


@pytest.mark.parametrize(
    "sport", ["", "cycling", "Biking", "gravel_cycling", "Ride", "1", "e-bike", "virtual_activity"]
)
def test_what_is_not_said_to_be_another_sport_counts(sport: str) -> None:
    assert replace(plain(), sport=sport).is_cycling


@pytest.mark.parametrize("sport", ["running", "Running", "trail run", "walking", "Hiking", "alpine_skiing", "rowing"])
def test_other_sports_are_known_by_their_words(sport: str) -> None:
    assert not replace(plain(), sport=sport).is_cycling


def test_a_meter_that_wrote_zero_is_left_out() -> None:
    powers = np.zeros(4_000)
    powers[:400] = 150.0
    found = usable(replace(plain(), powers=powers))
    assert not found.record.has_power and any("zero for most" in fault for fault in found.faults)


def test_another_sport_is_told() -> None:
    assert any("not cycling" in fault for fault in usable(replace(plain(), sport="running")).faults)
    assert usable(replace(plain(), sport="Biking")).faults == ()


def test_the_longer_of_two_rides_in_one_file_is_taken() -> None:
    ride = plain()
    times, lats = ride.times.copy(), ride.latitudes.copy()
    times[1_500:] += 3 * 86_400.0
    lats[1_500:] += 1.0
    found = usable(replace(ride, times=times, latitudes=lats))
    assert found.record.times.size == 2_500 and any("2 rides" in fault for fault in found.faults)
    # a long night in one place is no other ride
    times = ride.times.copy()
    times[1_500:] += 30 * 3_600.0
    assert usable(replace(ride, times=times)).record.times.size == 4_000


def test_speeds_come_from_positions_where_no_sensor_was() -> None:
    found = usable(replace(plain(), speeds=np.full(4_000, np.nan)))
    assert np.median(found.record.speeds) == pytest.approx(6.0, rel=0.01)
    assert any("No speed sensor" in fault for fault in found.faults)


def test_leaps_of_the_place_are_left_out() -> None:
    speeds = plain().speeds.copy()
    speeds[[10, 500]] = 90.0
    assert usable(replace(plain(), speeds=speeds)).record.times.size == 3_998
