"""Races with failures, played one by one: every event in turn takes the first answer that is left and holds."""

from collections.abc import Mapping

import numpy as np

from stonechat.core.mend.failures import Answer, Failure
from stonechat.core.mend.odds import Aboard


def simulated(
    failures: Mapping[str, float], told: Mapping[str, Failure], aboard: Aboard, *, races: int, seed: int
) -> dict[str, float]:
    """Return how often each failure finds no answer, by playing races.

    Parameters
    ----------
    failures : mapping of str to float
        How often each is expected. [1]
    told : mapping of str to Failure
        What they are.
    aboard : Aboard
        What answers them.
    races : int
        How many are played. [1]
    seed : int
        The same draws the same. [1]

    Returns
    -------
    unserved : dict of str to float
        The mean over the races. [1]
    """
    random = np.random.default_rng(seed)
    keys = list(failures)
    rates = np.array([failures[key] for key in keys])
    found = dict.fromkeys(keys, 0.0)
    usable = {key: tuple(a for a in told[key].answers if aboard.does(a)) for key in keys}
    for counts in random.poisson(rates, size=(races, rates.size)):
        stock = {pool: int(value) for pool, value in aboard.stock.items()}
        events = np.repeat(np.arange(rates.size), counts)
        random.shuffle(events)
        for k in events.tolist():
            found[keys[k]] += not _mended(usable[keys[k]], stock, random)
    return {key: value / races for key, value in found.items()}


def _mended(usable: tuple[Answer, ...], stock: dict[str, int], random: np.random.Generator) -> bool:
    for answer in usable:
        if answer.pool:
            if stock[answer.pool] <= 0:
                continue
            stock[answer.pool] -= 1
        if random.random() < answer.holds:
            return True
    return False
