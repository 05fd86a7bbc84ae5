"""How often things fail on a race, which answers are left then, and what that costs.

Failures are Poisson. What an answer uses up is a pool that several failures may draw on; those that come later find it
empty. Of a Poisson demand with mean M on a stock s, E[min(N, s)] is served; what is not served, and what does not hold,
goes on to the next answer, and its demand is taken for Poisson too.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from scipy.special import gammaln, xlogy

from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import ENDING
from stonechat.core.mend.failures import ALWAYS, STOCK, Answer, Failure

ROUNDS = 12  # passes of the fixed point between pools
_SETTLED = 1e-10  # 1, between two passes
HELPED = 0.2  # 1, of the chance that a failure ends the ride that is left where a shop is reached (estimate)


@dataclass(frozen=True, kw_only=True)
class Aboard:
    """What is aboard, as answers ask for it."""

    can: frozenset[str]  # kinds, jobs, and sizes that tools turn as `t:hex4`
    stock: Mapping[str, float]  # mends by pool

    def does(self, answer: Answer) -> bool:
        """Tell whether an answer can be given at all."""
        return not self.lacking(answer) and (not answer.pool or self.stock.get(answer.pool, 0.0) > 0.0)

    def lacking(self, answer: Answer) -> tuple[frozenset[str], ...]:
        """Return what it needs and nothing aboard is."""
        return tuple(one for one in answer.needs if not one & self.can)


def aboard_of(items: Iterable[Item]) -> Aboard:
    """Return what is aboard.

    Parameters
    ----------
    items : iterable of Item
        All that goes along.

    Returns
    -------
    aboard : Aboard
        Kinds, jobs and how many mends they are good for.
    """
    listed = list(items)
    can = {item.kind for item in listed if item.kind} | {role for item in listed for role in item.roles}
    can |= {f"t:{size}" for item in listed for size in item.tools}
    stock: dict[str, float] = {}
    for pool, kind, each in STOCK:
        for item in listed:
            if item.kind == kind:
                stock[pool] = stock.get(pool, 0.0) + each * item.quantity
    if stock.get("lead", 0.0) > 1.0:  # the first is in use
        stock["lead"] -= 1.0
        can.add("lead_spare")
    return Aboard(can=frozenset(can | {ALWAYS}), stock=stock)


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """What becomes of one failure over the race."""

    expected: float  # 1, how often
    served: tuple[float, ...]  # 1, how often each of its answers is given and holds
    tried: tuple[float, ...]  # 1, how often each is given
    unserved: float  # 1, how often none is left
    minutes: float  # min expected to be lost
    ending: float  # 1, chance that it ends the ride


@dataclass(frozen=True, kw_only=True)
class Help:
    """What help costs where nothing aboard answers a failure, the mean over where it happens."""

    reached: float  # 1, share of the race from which a shop is reached
    minutes: float  # min, way, door and work

    def loss(self, failure: Failure) -> tuple[float, float]:
        """Return minutes, and the chance that it ends the ride; nobody goes to a shop that costs more than it saves."""
        helped = self.minutes + ENDING * HELPED * failure.ends
        reached = self.reached if helped < failure.minutes + ENDING * failure.ends else 0.0
        return (
            reached * self.minutes + (1.0 - reached) * failure.minutes,
            (reached * HELPED + 1.0 - reached) * failure.ends,
        )


def outcomes(failures: Mapping[str, float], told: Mapping[str, Failure], aboard: Aboard,
             helps: Mapping[str, Help]) -> dict[str, Outcome]:  # fmt: skip
    """Return what becomes of failures over a race.

    Parameters
    ----------
    failures : mapping of str to float
        How often each is expected. [1]
    told : mapping of str to Failure
        What they are.
    aboard : Aboard
        What answers them.
    helps : mapping of str to Help
        What help costs each.

    Returns
    -------
    outcomes : dict of str to Outcome
        By failure. [min]
    """
    usable = {key: tuple(k for k, a in enumerate(told[key].answers) if aboard.does(a)) for key in failures}
    share = dict.fromkeys(aboard.stock, 1.0)
    answers = {key: [told[key].answers[k] for k in usable[key]] for key in failures}
    for _ in range(ROUNDS if share else 0):
        demand = dict.fromkeys(share, 0.0)
        for key, expected in failures.items():
            left = expected
            for answer in answers[key]:
                if answer.pool:
                    demand[answer.pool] += left
                left *= 1.0 - answer.holds * (share[answer.pool] if answer.pool else 1.0)
        before = share
        share = {pool: _share_served(demand[pool], aboard.stock[pool]) for pool in share}
        if max(abs(share[pool] - before[pool]) for pool in share) < _SETTLED:
            break
    return {key: _outcome(expected, told[key], usable[key], share, helps[key]) for key, expected in failures.items()}


def _share_served(mean: float, stock: float) -> float:
    """Return the share of a Poisson demand that finds something left. [1]"""
    if mean <= 1e-12:
        return 1.0
    term, below, served = math.exp(-mean), 0.0, 0.0
    for count in range(int(stock)):  # E[min(N, s)] = sum of P(N > k) for k < s
        below += term
        served += max(0.0, 1.0 - below)
        term *= mean / (count + 1)
    return served / mean


def _outcome(
    expected: float, failure: Failure, usable: tuple[int, ...], share: Mapping[str, float], help_: Help
) -> Outcome:
    left, minutes = expected, 0.0
    served, tried = [0.0] * len(failure.answers), [0.0] * len(failure.answers)
    for k in usable:
        answer = failure.answers[k]
        given = left * (share[answer.pool] if answer.pool else 1.0)
        held = given * answer.holds
        minutes += given * answer.minutes + held * answer.slower
        served[k], tried[k] = held, given
        left -= held
    lost, ends = help_.loss(failure)
    ending = -math.expm1(-left * ends)
    return Outcome(
        expected=expected,
        served=tuple(served),
        tried=tuple(tried),
        unserved=left,
        minutes=minutes + left * lost,
        ending=ending,
    )


def kit_enough(plugged: float, tubed: float, *, plugs: int, tubes: int, patches: int) -> float:
    """Return the chance that plugs, tubes and patches are enough: what finds no plug takes a tube.

    Parameters
    ----------
    plugged, tubed : float
        Expected holes that a plug closes, and that want a tube. [1]
    plugs, tubes, patches : int
        Aboard. [1]

    Returns
    -------
    chance : float
        Of the race. [1]

    Examples
    --------
    >>> round(kit_enough(0.2683, 0.0929, plugs=2, tubes=0, patches=0), 4)
    0.9089
    """
    count = np.arange(60)
    by_plug, by_tube = (np.exp(xlogy(count, mean) - mean - gammaln(count + 1.0)) for mean in (plugged, tubed))
    wants = np.maximum(0, count[:, None] - plugs) + count[None, :]
    return float((by_plug[:, None] * by_tube[None, :])[wants <= tubes + patches].sum())
