"""What to leave each stop with, and where it runs out."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from stonechat.core.numerics.arrays import BoolArray, FloatArray, frozen


@dataclass(frozen=True, kw_only=True)
class Levels:
    """One provision along the legs, each array of shape (l,); same unit as the needs."""

    needs: FloatArray  # used up on the leg
    leaving: FloatArray  # aboard at its start
    arriving: FloatArray  # aboard at its end
    short: FloatArray  # wanted and not aboard
    until: FloatArray  # needed from its start to the next refill, with the reserve
    refilled: BoolArray  # filled up at its start

    @property
    def taken(self) -> FloatArray:
        """What is taken on at the start of each leg; what was aboard at the first start too, shape (l,)."""
        return np.asarray(self.leaving - np.concatenate(([0.0], self.arriving[:-1])), dtype=np.float64)


def carry_levels(
    *,
    needs: FloatArray,
    refills: BoolArray,
    capacity: FloatArray | float,
    reserve: float,
    wanted: tuple[float | None, ...],
    least: Sequence[float] = (),
) -> Levels:
    """Return how much is aboard when each leg starts and ends.

    Parameters
    ----------
    needs : ndarray, shape (l,)
        What each leg uses up, in any unit of amount. [1]
    refills : ndarray, shape (l,)
        Whether the stop before each leg fills up; the start always does. [1]
    capacity : float or ndarray, shape (l,)
        Most that can be aboard at the start of a leg, in the same unit. [1]
    reserve : float
        What should be left on reaching a refill. [1]
    wanted : tuple of float or None
        What the rider asks to leave each stop with; None: what is needed until the next refill. [1]
    least : sequence of float
        What each is left with at least where nothing is asked, as more is bought by hand; none where it is empty. [1]

    Returns
    -------
    levels : Levels
        Amounts by leg. [1]

    Examples
    --------
    >>> levels = carry_levels(needs=np.array([1.0, 2.0]), refills=np.array([True, False]), capacity=2.5,
    ...                       reserve=0.0, wanted=(None, None))
    >>> levels.short
    array([0. , 0.5])
    """
    count = needs.size
    most = np.broadcast_to(capacity, needs.shape)
    until = np.zeros(count)
    ahead = reserve
    for leg in range(count - 1, -1, -1):
        ahead = needs[leg] + (ahead if leg + 1 < count and not refills[leg + 1] else reserve)
        until[leg] = ahead
    leaving, arriving, short = np.zeros(count), np.zeros(count), np.zeros(count)
    filled = np.array(refills, dtype=bool)
    filled[0] = True
    level = 0.0
    for leg in range(count):
        if filled[leg]:
            asked = wanted[leg]
            enough = max(until[leg], least[leg] if least else 0.0)
            level = max(level, min(enough if asked is None else asked, float(most[leg])))
        leaving[leg] = level
        short[leg] = max(0.0, needs[leg] - level)
        level = max(0.0, level - needs[leg])
        arriving[leg] = level
    return Levels(
        needs=frozen(needs),
        leaving=frozen(leaving),
        arriving=frozen(arriving),
        short=frozen(short),
        until=frozen(until),
        refilled=frozen(filled, dtype=bool),
    )


def cannot_be_missed(levels: Levels, capacity: float, could: BoolArray | None = None) -> BoolArray:
    """Return at which legs' starts a refill must not be passed by: without it even full bottles run dry.

    Parameters
    ----------
    levels : Levels
        Amounts by leg.
    capacity : float
        Most that can be aboard, in the same unit. [1]
    could : ndarray of bool, shape (l,), optional
        Where it can be had, planned or not; where it is filled up where that is not given.

    Returns
    -------
    needed : ndarray, shape (l,)
        True where it is filled up, and the needs from the chance before to the chance after are more than can be
        carried. [1]

    Examples
    --------
    >>> levels = carry_levels(needs=np.array([2.0, 2.0]), refills=np.array([True, True]), capacity=3.0, reserve=0.0,
    ...                       wanted=(None, None))
    >>> cannot_be_missed(levels, 3.0)
    array([False,  True])
    """
    count = levels.needs.size
    chances = levels.refilled if could is None else levels.refilled | could
    refills = [leg for leg in range(count) if chances[leg]]
    needed = np.zeros(count, dtype=bool)
    for before, here, after in zip(refills, refills[1:], [*refills[2:], count], strict=False):
        needed[here] = levels.refilled[here] and float(levels.needs[before:after].sum()) > capacity + 1e-9
    needed.flags.writeable = False
    return needed
