"""One segment: ridden with the speed carried into it, walked, or partly both. Every way of riding goes through here.

Between riding and walking there is no jump: as riding gets slower than can be balanced, or than walking is, a growing
share of the segment is walked. So moving time is smooth in mass, drag and power.
"""

import math
from typing import NamedTuple

from numba import njit

from stonechat.core.physics.momentum import roll_on
from stonechat.core.physics.power_balance import Push, steady_speed, walking_speed
from stonechat.core.rhythm.inputs import RiderNumbers

STARTING_SPEED = 1.5  # m/s, rolling off from a standstill or after walking (estimate)
CHANGE_COST = 6.0  # s, getting off the bike, and on again (estimate)
STOP_COST = 10.0  # s, to brake for a full stop and get going, where steady speed does not show it
BLUR = 0.05  # 1, how sharply riders tell the speed at which they get off (estimate)
_CERTAIN = 20.0  # 1, from here on a share is 0 or 1 to double precision's half


class Ground(NamedTuple):
    """What a segment is like for this rider now. Plain figures: arrays are dear to hand over in compiled code."""

    length: float  # m
    grade_most: float  # 1, steepest ridden
    speed_least: float  # m/s, slowest ridden
    cap: float  # m/s
    walk_power: float  # W, metabolic
    from_rest: bool


class Passage(NamedTuple):
    """How a segment was passed."""

    time: float  # s, getting off and on included
    speed: float  # m/s on leaving
    on_foot: float  # 1, share walked
    entered: float  # m/s
    steady: float  # m/s, 0 where it was not looked for
    riding: float  # s, all of it ridden; 0 where that cannot be
    leaving: float  # m/s, on leaving it riding
    walking: float  # s, all of it walked


@njit(cache=True)
def _share_on_foot(mean: float, slowest: float) -> float:
    """Return the share that is walked when riding would go at a mean speed. [1]"""
    z = (slowest - mean) / (BLUR * slowest)
    if z <= -_CERTAIN:
        return 0.0
    return 1.0 if z >= _CERTAIN else 1.0 / (1.0 + math.exp(-z))


@njit(cache=True)
def pass_segment(ground: Ground, rider: RiderNumbers, push: Push, entered: float, before: float) -> Passage:
    """Pass a segment, riding or walking.

    Parameters
    ----------
    ground : Ground
        The segment.
    rider : RiderNumbers
        The rider.
    push : Push
        What moves, drives and resists there.
    entered : float
        Speed on entering. [m/s]
    before : float
        Share of the segment before that was walked. [1]

    Returns
    -------
    passage : Passage
        Time and speed on leaving.

    Notes
    -----
    Walked where the surface or the grade says so, where riding is slower than can be balanced, and where walking is
    faster. Getting off, and on again, cost time in proportion to the share that changes.

    Examples
    --------
    >>> from stonechat.core.rhythm.inputs import Legs
    >>> rider = RiderNumbers(70.0, Legs(150.0))
    >>> flat = Push(144.0, 95.0, 1.5, 0.0, 0.01, 0.36, 1.2, 0.0, 0.0, 0.0)
    >>> passage = pass_segment(Ground(100.0, 0.2, 1.0, 15.0, 600.0, False), rider, flat, 7.0872, 0.0)
    >>> round(passage.time, 2), passage.on_foot
    (14.11, 0.0)
    """
    length = ground.length
    foot = walking_speed(
        ground.walk_power,
        rider.body_mass,
        push.mass - rider.body_mass,
        push.grade,
        push.rolling,
        rider.on_foot.walk_factor,
        rider.on_foot.push_efficiency,
    )
    walking = length / foot
    entered = STARTING_SPEED if ground.from_rest else max(entered, STARTING_SPEED)
    steady = 0.0
    if push.grade <= ground.grade_most:
        steady = steady_speed(push, entered)
    if steady <= 0.0:
        return Passage(walking + CHANGE_COST * (1.0 - before), foot, 1.0, entered, 0.0, 0.0, foot, walking)
    if rider.momentum:
        riding, leaving = roll_on(entered, steady, ground.cap, length, push)
    else:
        leaving = min(steady, ground.cap)
        riding = length / leaving
    share = _share_on_foot(length / riding, max(ground.speed_least, foot))
    time = riding + share * (walking - riding) + CHANGE_COST * abs(share - before)
    return Passage(time, leaving + share * (foot - leaving), share, entered, steady, riding, leaving, walking)
