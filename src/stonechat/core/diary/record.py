"""A ride as its sensors wrote it, and what of it can be used."""

import re
from dataclasses import dataclass, fields, replace

import numpy as np

from stonechat.core.line.track import step_lengths
from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.errors import InvalidInput

MOST_GAP = 5.0  # s between two samples of one piece
_FASTEST = 35.0  # m/s; what is faster was no bicycle, or no position
_TOLD_GAP = 60.0  # s from which a gap is spoken of: some devices write only where something changes
MOVING = 0.8  # m/s, slower than walking is standing
MOST_STEP = 10.0  # s that one sample stands for at most
_GLANCE, _STOP = 10.0, 240.0  # s of a halt on the road: longer than a glance, shorter than a stop
_FEWEST = 60  # samples of a ride that says anything
_OTHER_SPORT = re.compile(
    r"(?<![a-z])(run|jog|walk|hik|swim|ski|snowboard|row|paddl|kayak|skat|sail|driv|motor|golf|gym|strength|horse)",
    re.I,
)


@dataclass(frozen=True, kw_only=True)
class RideRecord:
    """Samples in the order of time, arrays of shape (n,); NaN where a sensor wrote nothing."""

    times: FloatArray  # s since 1970
    latitudes: FloatArray  # °
    longitudes: FloatArray  # °
    heights: FloatArray  # m
    speeds: FloatArray  # m/s
    powers: FloatArray  # W
    temps: FloatArray  # °C
    sport: str = ""  # as the file says
    breaks_off: bool = False  # whether its file ends before it should

    @property
    def is_cycling(self) -> bool:
        """Whether nothing says that it was another sport."""
        return not _OTHER_SPORT.search(self.sport)

    @property
    def steps(self) -> FloatArray:
        """How long each sample stands for, from the one before it. [s]"""
        return np.minimum(np.diff(self.times, prepend=self.times[0]), MOST_STEP)

    @property
    def has_power(self) -> bool:
        """Whether a power meter wrote anything."""
        return bool(np.any(np.nan_to_num(self.powers) > 0.0))

    @property
    def has_heights(self) -> bool:
        """Whether more than half of it has heights."""
        return bool(np.isfinite(self.heights).mean() > 0.5)

    @property
    def length(self) -> float:
        """From the first sample to the last. [s]"""
        return float(self.times[-1] - self.times[0])


@dataclass(frozen=True, kw_only=True)
class Usable:
    """The good part of a ride."""

    record: RideRecord
    faults: tuple[str, ...]  # what was wrong, and what was done about it


def usable(record: RideRecord) -> Usable:
    """Return what of a ride can be used, with a sentence for all that was left out or mended.

    Parameters
    ----------
    record : RideRecord
        As it was read.

    Returns
    -------
    usable : Usable
        In order of time, without samples twice, jumps of the clock, places that nobody rides to, or another ride.

    Raises
    ------
    InvalidInput
        If fewer samples are left than a ride has.
    """
    faults = ["The file breaks off: what was written before is used."] if record.breaks_off else []
    record = _in_order(record, faults)
    record = _one_ride(record, faults)
    record = _with_speeds(record, faults)
    fast = np.nan_to_num(record.speeds) > _FASTEST
    if fast.any():
        faults.append(f"{int(fast.sum())} samples faster than {_FASTEST * 3.6:.0f} km/h are left out.")
        record = _only(record, ~fast)
    if record.times.size < _FEWEST:
        raise InvalidInput(f"Only {record.times.size} samples of the file are a ride. {' '.join(faults)}".strip())
    if not record.is_cycling:
        faults.append(f"The file says {record.sport[:30]}, not cycling: nothing of it counts for power or drag.")
    power = np.nan_to_num(record.powers)
    moving = np.nan_to_num(record.speeds) > MOVING
    if record.has_power and moving.any() and float((power[moving] > 0.0).mean()) < 0.3:
        faults.append(
            "The power meter wrote zero for most of the way: its battery, or another bike? Its power is left out."
        )
        record = replace(record, powers=np.full(power.size, np.nan))
    if not record.has_heights:
        faults.append("The file has hardly any heights: drag cannot be told from it.")
    gaps = np.diff(record.times) > _TOLD_GAP
    if gaps.any():
        lost = float(np.diff(record.times)[gaps].sum())
        faults.append(f"{int(gaps.sum())} gaps of {lost / 60.0:.0f} min together: what lies between is not reckoned.")
    return Usable(record=record, faults=tuple(faults))


def _only(record: RideRecord, keep: BoolArray) -> RideRecord:
    columns = [part.name for part in fields(record) if isinstance(getattr(record, part.name), np.ndarray)]
    kept: dict[str, FloatArray] = {name: getattr(record, name)[keep] for name in columns}
    return replace(record, **kept)  # type: ignore[arg-type]


def _in_order(record: RideRecord, faults: list[str]) -> RideRecord:
    """Leave out samples whose clock jumped: those that went back, or those that leapt ahead, whichever are fewer."""
    times = record.times
    ahead_of_all_before = np.concatenate(([True], times[1:] > np.maximum.accumulate(times)[:-1]))
    before_all_after = np.concatenate((times[:-1] < np.minimum.accumulate(times[::-1])[::-1][1:], [True]))
    keep = max(ahead_of_all_before, before_all_after, key=lambda kept: int(kept.sum()))
    if not keep.all():
        faults.append(f"The clock jumped or stood still at {int((~keep).sum())} samples, which are left out.")
    return _only(record, keep)


_ANOTHER_RIDE = 20.0 * 3600.0  # s without a sample after which it is another ride
_FAR = 3_000.0  # m that the place moved in the meantime
_LONGEST_PAUSE = 10.0 * 86_400.0  # s without a sample after which it is another ride wherever it goes on


def _one_ride(record: RideRecord, faults: list[str]) -> RideRecord:
    """Keep the longest of rides that lie in one file: far apart in time and place."""
    if record.times.size < 2:
        return record
    steps = step_lengths(np.nan_to_num(record.latitudes), np.nan_to_num(record.longitudes))
    pauses = np.diff(record.times)
    cuts = np.flatnonzero(((pauses > _ANOTHER_RIDE) & (steps > _FAR)) | (pauses > _LONGEST_PAUSE)) + 1
    if not cuts.size:
        return record
    parts = np.split(np.arange(record.times.size), cuts)
    longest = max(parts, key=len)
    keep = np.zeros(record.times.size, dtype=np.bool_)
    keep[longest] = True
    faults.append(f"{len(parts)} rides are in the file; the longest of them is taken.")
    return _only(record, keep)


def _with_speeds(record: RideRecord, faults: list[str]) -> RideRecord:
    """Fill speeds from positions where no sensor wrote them."""
    if record.times.size < 2 or np.isfinite(record.speeds).mean() > 0.5:
        return record
    steps = step_lengths(record.latitudes, record.longitudes)
    speeds = np.concatenate(([0.0], steps / np.maximum(np.diff(record.times), 1e-3)))
    faults.append("No speed sensor: speed is reckoned from positions, and drag with a wider band.")
    return replace(record, speeds=np.convolve(speeds, np.full(5, 0.2), "same"))


def pauses_of(record: RideRecord) -> tuple[float, ...]:
    """Return the short halts of a ride, whether its device wrote on through them or not.

    Parameters
    ----------
    record : RideRecord
        The good part of a ride.

    Returns
    -------
    pauses : tuple of float
        Of 10 s to 4 min: shorter ones are a glance, longer ones a stop. [s]

    Examples
    --------
    >>> nothing, clocks = np.full(8, np.nan), np.array([0.0, 1, 2, 3, 63, 64, 65, 66])
    >>> record = RideRecord(times=clocks, latitudes=np.full(8, 45.0), longitudes=np.zeros(8), heights=nothing,
    ...                     speeds=np.array([5.0, 5, 5, 0, 0, 5, 5, 5]), powers=nothing, temps=nothing)
    >>> pauses_of(record)
    (61.0,)
    """
    steps = np.diff(record.times, prepend=record.times[0])
    ways = np.append(0.0, step_lengths(record.latitudes, record.longitudes))
    # a device that writes nothing while it stands leaves a gap in which no way was made
    silent = (steps > _GLANCE) & (ways < MOVING * steps)
    stands = (np.nan_to_num(record.speeds) < MOVING) | silent
    turns = np.flatnonzero(np.diff(stands.astype(np.int8), prepend=0, append=0))
    lengths = [float(steps[first:end].sum()) for first, end in zip(turns[::2], turns[1::2], strict=True)]
    return tuple(length for length in lengths if _GLANCE <= length <= _STOP)
