"""Things that went along race after race and were never used, and where on this course one could be bought instead."""

from dataclasses import dataclass
from itertools import pairwise

from stonechat.core.kit.item import HOME, Item
from stonechat.core.kit.jobs import JOBS, Demands
from stonechat.core.ledger.price import price_of
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.cutlist import is_protected

RACES = 2  # 1, in which a thing was carried before its record is spoken of
_WORTH_SAYING = 0.05  # min; what costs less on this course is let be


@dataclass(frozen=True, kw_only=True)
class NeverUsed:
    """One such thing."""

    item: Item
    minutes: float  # min that it costs on this course
    sold_at: str  # first stop that sells what does its jobs; empty: none does, or nobody knows what it is for
    sold_km: float  # km to it
    apart: float  # km, the longest way between two such places, start and finish among them
    may_end: bool  # whether its lack may end a ride: it is insurance, used or not


def never_used(ridden: Ridden) -> tuple[NeverUsed, ...]:
    """Return what is aboard, was carried before and never used, and must not be there.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    things : tuple of NeverUsed
        The dearest first. What a rule, the rider or a job that is never cut asks for is not among them.
    """
    demands, found = ridden.report(Demands), []
    for item in ridden.kit.items:
        record, place = item.record, ridden.kit.places.get(item.id)
        if record.carried < RACES or record.used or place == HOME or is_protected(item, ridden, demands):
            continue
        minutes = price_of(item, ridden).total
        if minutes >= _WORTH_SAYING:
            found.append(_one(item, minutes, ridden))
    return tuple(sorted(found, key=lambda one: -one.minutes))


def _one(item: Item, minutes: float, ridden: Ridden) -> NeverUsed:
    """Return one thing with the first place that sells what does all of its jobs."""
    jobs = [JOBS[key] for key in item.roles if key in JOBS]
    wanted = [job.bought for job in jobs]
    sellers = [
        stop for stop in ridden.way.stops
        if stop.used and wanted and all(want and want in stop.offers for want in wanted)
    ]  # fmt: skip
    at = sorted(stop.distance for stop in sellers)
    ends = [0.0, *at, ridden.way.profile.length]
    first = min(sellers, key=lambda stop: stop.distance, default=None)
    return NeverUsed(
        item=item,
        minutes=minutes,
        sold_at=first.name if first else "",
        sold_km=first.distance / 1e3 if first else 0.0,
        may_end=any(job.ends > 0.0 for job in jobs),
        apart=max(later - earlier for earlier, later in pairwise(ends)) / 1e3 if at else 0.0,
    )
