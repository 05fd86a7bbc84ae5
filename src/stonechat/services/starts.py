"""Other starts: the same race begun some hours earlier or later, which moves heat, night and doors along the route."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.plan import Variant
from stonechat.services.evaluation import evaluated, summed_up_as
from stonechat.services.history import OpenPlan
from stonechat.services.kept import Kept

SHIFTS = (-9, -6, -3, 3, 6, 9)  # h by which the start is moved
_FOUND: Kept[tuple["OtherStart", ...]] = Kept(32)


@dataclass(frozen=True, kw_only=True)
class OtherStart:
    """What another start comes to."""

    start: datetime  # by the rider's clock
    minutes: float  # min that the race takes more than as planned, from start to finish
    water_short: float  # l wanted and not aboard, over all legs
    shut: int  # stops that are shut when one comes by
    dark: float  # 1, share of the riding in the dark


def other_starts(opened: OpenPlan, variant_id: str) -> tuple[OtherStart, ...]:
    """Return the start as it is, and what it comes to some hours earlier or later, in order of time."""
    return _FOUND.of((opened.content, variant_id), lambda: _starts(opened, variant_id))


def _starts(opened: OpenPlan, variant_id: str) -> tuple["OtherStart", ...]:
    variant, ridden = opened.plan.variant(variant_id), evaluated(opened, variant_id).ridden
    moved = [(hours, _at(variant, hours)) for hours in SHIFTS]
    others = [_told(other, summed_up_as(opened, other), ridden) for _, other in moved]
    return tuple(sorted((*others, _told(variant, ridden, ridden)), key=lambda entry: entry.start))


def _at(variant: Variant, hours: int) -> Variant:
    start = variant.rhythm.start + timedelta(hours=hours)
    return replace(variant, rhythm=replace(variant.rhythm, start=start))


def _told(variant: Variant, ridden: Ridden, now: Ridden) -> OtherStart:
    ride, visits = ridden.ride, ridden.timetable.visits[:-1]
    return OtherStart(
        start=variant.rhythm.start,
        minutes=(ridden.ledger.finish - now.ledger.finish) / 60.0,
        water_short=float(ridden.provisions.water.short.sum()),
        shut=sum(not visit.passed and not visit.is_open for visit in visits),
        dark=float(ride.times[ride.dark].sum() / max(ride.times.sum(), 1e-9)),
    )
