"""Sustained power, and how it fades and comes back, from what was pedalled hour by hour.

Power on the flat is told by what was pedalled over what this rider pedals on such ground at such an hour, so that
hills and nights do not look like tiredness. Without figures that are held near their usual values, endurance and fade
time cannot be told apart: both are pulled there, as strongly as their spread among riders says.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numba import njit
from scipy.optimize import least_squares

from stonechat.core.diary.record import MOVING, RideRecord
from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.core.physics.air import air_density, standard_pressure
from stonechat.core.physics.constants import GRAVITY
from stonechat.core.rhythm.rider import Rider

BLOCK_TIME = 3600.0  # s
_STEP = 60.0  # s of the run of tiredness
_FEWEST_MOVING = 1_200.0  # s pedalled of a block that counts
SLEEP = 2.0 * 3600.0  # s standing from which one sleeps
LONG_ENOUGH = 40.0 * 3600.0  # s from which fading can be told
_ON_FOOT = 1.9  # m/s, below which the bike may be pushed, which no power meter sees
_ODD = 1.5  # sd from which an hour weighs less and less, as one spent behind others or on a ferry
_ROLLS, _PEDALLED = -0.01, 20.0  # 1, slope below which one may roll; W that are pedalled on purpose (estimates)
_CLIMB = 0.035  # 1, slope from which weight outdoes wind and ground, so that speed alone tells power
# usual figures and their spread among riders: endurance, log of fade time, log of recovery time (estimates)
_SPREAD = np.array([0.15, 0.7, 0.7])
_SPEED_ONLY = 0.06  # 1, how wrong power from speed on climbs may be, one sd: mass, ground, wind (estimate)
_METER = 0.015  # 1, of a power meter, one sd
_NOISE = 0.06  # 1, of an hour's power about what is held, until the hours tell it (estimate)
_LEAST_NOISE = 0.015  # 1, of an hour's power: no rider is steadier (estimate)
_ROUNDS = 3  # fits, each with the scatter that the one before told


@dataclass(frozen=True, kw_only=True)
class PowerFit:
    """What a ride tells, each figure with the half width of its 95 % band; None where it cannot tell it."""

    power: float  # W on the flat, fresh
    power_band: float
    endurance: float | None
    endurance_band: float
    fade_time: float | None  # s
    fade_factor: float  # 1, the 95 % band is the figure over and times this
    recovery_time: float | None  # s
    recovery_factor: float  # 1
    hours: FloatArray  # s since the start, of the middle of each block
    measured: FloatArray  # W on the flat, by block
    fitted: FloatArray  # W
    from_speed: bool  # without a power meter
    why_not: str  # why fading cannot be told, empty where it is


@dataclass(frozen=True, kw_only=True)
class _Blocks:
    """Hour by hour."""

    at: FloatArray  # minute of the middle
    values: FloatArray  # W on the flat
    weights: FloatArray  # 1, share of the block that was pedalled
    moving: BoolArray  # by minute
    asleep: BoolArray  # by minute


def fit_power(
    record: RideRecord, rider: Rider, *, mass: float, local_offset: float, rolling: float, drag_area: float
) -> PowerFit | str:
    """Return sustained power and fading, or why a ride tells nothing of them.

    Parameters
    ----------
    record : RideRecord
        The good part of a ride.
    rider : Rider
        As planned: pace by slope, night dip, and what figures are held near.
    mass : float
        All that rolled. [kg]
    local_offset : float
        Clock of the place against UTC. [s]
    rolling, drag_area : float
        Used where there is no power meter. [1], [m²]

    Returns
    -------
    fit : PowerFit or str
        Or a sentence.
    """
    from_speed = not record.has_power
    if from_speed and not record.has_heights:
        return "The ride has neither power nor heights: nothing of power can be told."
    slopes = _slopes(record)
    powers = record.powers if not from_speed else _climbing(record, rider, slopes, mass, rolling, drag_area)
    blocks = _blocked(record, rider, slopes, powers, local_offset, only_climbs=from_speed)
    if blocks.values.size < 3:
        return f"Only {blocks.values.size} hours have twenty minutes of pedalling{' on climbs' if from_speed else ''}."
    return _fitted(blocks, rider, from_speed=from_speed, length=record.length)


def _slopes(record: RideRecord) -> FloatArray:
    """Return slopes over some half a minute, none where nothing was measured. [1]"""
    if not record.has_heights:
        return np.zeros(record.times.size)
    heights = np.where(np.isfinite(record.heights), record.heights, np.nanmedian(record.heights))
    way = np.cumsum(np.nan_to_num(record.speeds) * record.steps)
    before = np.maximum(np.searchsorted(record.times, record.times - 15.0), 0)
    after = np.minimum(np.searchsorted(record.times, record.times + 15.0), record.times.size - 1)
    run = way[after] - way[before]
    return np.clip(np.where(run > 5.0, (heights[after] - heights[before]) / np.maximum(run, 5.0), 0.0), -0.35, 0.35)


def _climbing(
    record: RideRecord, rider: Rider, slopes: FloatArray, mass: float, rolling: float, drag_area: float
) -> FloatArray:
    """Return the power that speed on climbs implies, NaN elsewhere. [W]"""
    v = record.speeds
    rho = air_density(standard_pressure(float(np.nanmean(record.heights))), 15.0, 0.6)
    watts = v * (mass * GRAVITY * (slopes + rolling) + 0.5 * rho * drag_area * v**2) / rider.drivetrain
    return np.where((slopes > _CLIMB) & (v > 1.5), watts, np.nan)


def _pace(rider: Rider, slopes: FloatArray) -> FloatArray:
    rate = np.where(slopes >= 0.0, rider.pace_uphill, rider.pace_downhill)
    return np.clip(1.0 + rate * slopes, 0.0, rider.pace_most)


def _blocked(
    record: RideRecord, rider: Rider, slopes: FloatArray, powers: FloatArray, local_offset: float, *, only_climbs: bool
) -> _Blocks:
    elapsed = record.times - record.times[0]
    steps = record.steps
    hour = ((record.times + local_offset) / 3600.0) % 24.0
    night = 1.0 - rider.night_dip * np.maximum(0.0, np.cos(math.pi * ((hour - 4.0 + 12.0) % 24.0 - 12.0) / 12.0))
    still = 0.0 if only_climbs else rider.coasting * (slopes >= _ROLLS)  # on level and rising ground
    usual = _pace(rider, slopes) * night * (1.0 - still)
    rolls = (slopes < _ROLLS) & (np.nan_to_num(powers) < _PEDALLED)  # feet are still where the road does the work
    counts = np.isfinite(powers) & (np.nan_to_num(record.speeds) > _ON_FOOT) & (usual > 0.3) & ~rolls
    numbers = (elapsed // BLOCK_TIME).astype(np.int64)
    size = int(numbers[-1]) + 1
    work = np.bincount(numbers, np.where(counts, np.nan_to_num(powers) * steps, 0.0), size)
    base = np.bincount(numbers, np.where(counts, usual * steps, 0.0), size)
    time = np.bincount(numbers, np.where(counts, steps, 0.0), size)
    good = time >= (_FEWEST_MOVING / 2.0 if only_climbs else _FEWEST_MOVING)
    minutes = int(elapsed[-1] // _STEP) + 2
    moving = np.bincount(
        (elapsed // _STEP).astype(np.int64), np.where(np.nan_to_num(record.speeds) > MOVING, steps, 0.0), minutes
    ) > 0.5 * _STEP  # fmt: skip
    return _Blocks(
        at=np.asarray((np.flatnonzero(good) + 0.5) * BLOCK_TIME / _STEP, dtype=np.float64),
        values=work[good] / np.maximum(base[good], 1e-9),
        weights=np.sqrt(time[good] / BLOCK_TIME),
        moving=moving,
        asleep=_long_rests(moving),
    )


def _long_rests(moving: BoolArray) -> BoolArray:
    """Return the minutes of rests that are long enough to be slept."""
    asleep = np.zeros(moving.size, dtype=np.bool_)
    edges = np.flatnonzero(np.diff(np.concatenate(([True], moving, [True])).astype(np.int8)))
    for begin, end in zip(edges[::2], edges[1::2], strict=True):
        asleep[begin:end] = (end - begin) * _STEP >= SLEEP
    return asleep


@njit(cache=True)
def _tired(moving: BoolArray, asleep: BoolArray, fade_time: float, recovery_time: float) -> FloatArray:
    """Return tiredness minute by minute. [1]"""
    out = np.empty(moving.size)
    f = 0.0
    ride, sleep, idle = (
        math.exp(-60.0 / fade_time), math.exp(-60.0 / recovery_time), math.exp(-60.0 / (3.0 * recovery_time)),
    )  # fmt: skip
    for k in range(moving.size):
        if moving[k]:
            f = 1.0 - (1.0 - f) * ride
        else:
            f *= sleep if asleep[k] else idle
        out[k] = f
    return out


def _fitted(blocks: _Blocks, rider: Rider, *, from_speed: bool, length: float) -> PowerFit:
    usual = np.array([rider.endurance, math.log(rider.fade_time), math.log(rider.recovery_time)])
    index = np.minimum(blocks.at.astype(np.int64), blocks.moving.size - 1)
    told = length >= LONG_ENOUGH and blocks.values.size >= 12

    def shares(figures: FloatArray) -> FloatArray:
        tired = _tired(blocks.moving, blocks.asleep, math.exp(float(figures[1])), math.exp(float(figures[2])))
        return np.asarray(1.0 - (1.0 - figures[0]) * tired[index])

    def held(given: FloatArray) -> FloatArray:
        return np.concatenate((given, usual[given.size - 1 :]))

    def misfit(given: FloatArray, noise: float) -> FloatArray:
        full = held(given)
        left = (blocks.values / (full[0] * shares(full[1:])) - 1.0) * blocks.weights / noise
        return np.concatenate((left, (given[1:] - usual[: given.size - 1]) / _SPREAD[: given.size - 1]))

    first = float(np.median(blocks.values / shares(usual)))
    start = np.concatenate(([first], usual)) if told else np.array([first])
    low = np.array([20.0, 0.2, math.log(3_600.0), math.log(1_800.0)])[: start.size]
    high = np.array([600.0, 1.0, math.log(4e6), math.log(4e5)])[: start.size]
    scale, noise = np.array([50.0, 0.1, 0.5, 0.5])[: start.size], _NOISE
    for _ in range(_ROUNDS):
        # how much hours scatter is told by themselves: steady ones outweigh what is usual
        found = least_squares(
            misfit, start, bounds=(low, high), x_scale=scale, loss="soft_l1", f_scale=_ODD, args=(noise,)
        )
        left = misfit(found.x, 1.0)[: blocks.values.size]
        start = np.clip(found.x, low + 1e-6, high - 1e-6)
        if blocks.values.size >= 12:
            noise = max(1.4826 * float(np.median(np.abs(left))), _LEAST_NOISE)
    jacobian = np.asarray(found.jac)
    sds = np.sqrt(np.diag(np.linalg.inv(jacobian.T @ jacobian)))
    full = held(found.x)
    systematic = _SPEED_ONLY if from_speed else _METER
    # what is not told of fading keeps its usual spread, and moves the fresh power with it
    unknown = 0.0 if told else _unknown(shares, usual)
    power_sd = math.hypot(float(sds[0]) / full[0], unknown, systematic) * full[0]
    return PowerFit(
        power=float(full[0]),
        power_band=1.96 * power_sd,
        endurance=float(full[1]) if told else None,
        endurance_band=1.96 * float(sds[1]) if told else math.nan,
        fade_time=math.exp(full[2]) if told else None,
        fade_factor=math.exp(1.96 * float(sds[2])) if told else math.nan,
        recovery_time=math.exp(full[3]) if told else None,
        recovery_factor=math.exp(1.96 * float(sds[3])) if told else math.nan,
        hours=blocks.at * _STEP,
        measured=blocks.values,
        fitted=full[0] * shares(full[1:]),
        from_speed=from_speed,
        why_not="" if told else "Fading and recovery want a ride of two days or more with a night in it.",
    )


def _unknown(shares: Callable[[FloatArray], FloatArray], usual: FloatArray) -> float:
    """Return how far fresh power moves where fading is not as usual, one sd. [1]"""
    base, moved = float(np.mean(shares(usual))), 0.0
    for k in range(usual.size):
        other = usual.copy()
        other[k] += _SPREAD[k]
        moved += (float(np.mean(shares(other))) / base - 1.0) ** 2
    return math.sqrt(moved)
