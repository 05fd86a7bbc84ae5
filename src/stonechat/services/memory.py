"""What earlier plans of the same rider know: rides, and what came of races."""

from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from uuid import UUID

from stonechat.core.diary.debrief import BagVerdict, Debrief
from stonechat.core.diary.rides import Ride
from stonechat.core.plan.plan import Plan, Variant
from stonechat.db import plans
from stonechat.errors import StonechatError
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.kept import Kept
from stonechat.services.workspace import Workspace

_MOST_PLANS = 60  # that are looked through, the newest first


@dataclass(frozen=True, kw_only=True)
class FromElsewhere:
    """Rides of another plan."""

    plan_id: UUID
    plan: str
    rides: tuple[Ride, ...]


@dataclass(frozen=True, kw_only=True)
class Memory:
    """What one earlier race left behind."""

    plan_id: UUID
    plan: str
    variant_id: str
    variant: str
    wished: tuple[str, ...]
    change: str
    worked: str
    bags: tuple[tuple[str, BagVerdict], ...]  # name of the bag, what was said
    time_by: Mapping[str, tuple[float, float]]  # s planned and in truth, by cause
    day: str  # when it was ridden, empty where nothing tells


_READ: Kept[tuple[OpenPlan, ...]] = Kept(8)


def _others(workspace: Workspace, opened: OpenPlan) -> tuple[OpenPlan, ...]:
    """Return the other plans of this rider, the newest first; demo plans know only each other."""
    with workspace.store.transaction() as session:
        heads = [head for head in plans.list_plans(session) if head.id != opened.id and head.demo == opened.demo]
    heads.sort(key=lambda head: head.changed_at, reverse=True)
    key = tuple((head.id, head.revision) for head in heads[:_MOST_PLANS])
    return _READ.of(key, lambda: tuple(_readable(workspace, heads[:_MOST_PLANS])))


def _readable(workspace: Workspace, heads: Iterable[plans.PlanHead]) -> Iterator[OpenPlan]:
    for head in heads:
        with suppress(StonechatError):  # one that cannot be read tells nothing
            yield open_plan(workspace, head.id)


def earlier_races(workspace: Workspace, opened: OpenPlan) -> tuple[tuple[OpenPlan, Variant], ...]:
    """Return the races that were ridden or debriefed and began before this plan's, the newest first.

    A copy of a plan, or another of its variants, tells of the same race: it counts once.
    """
    start = max(variant.rhythm.start for variant in opened.plan.variants)
    found, known = [], set[object]()
    for other in _others(workspace, opened):
        for variant in other.plan.variants:
            race = variant.race.id if variant.race is not None else (other.plan.name, variant.rhythm.start)
            told = variant.race is not None or variant.debrief != Debrief()
            if told and variant.rhythm.start < start and race not in known:
                known.add(race)
                found.append((other, variant))
    return tuple(sorted(found, key=lambda entry: entry[1].rhythm.start, reverse=True))


def rides_elsewhere(workspace: Workspace, opened: OpenPlan) -> tuple[FromElsewhere, ...]:
    """Return the rides of the rider's other plans that this one does not hold, each once."""
    known = {ride.id for ride in own_rides(opened)}
    found = []
    for other in _others(workspace, opened):
        told = {ride.id: ride for variant in other.plan.variants for ride in variant.rides if ride.figures}
        rides = tuple(ride for key, ride in told.items() if key not in known)
        known |= told.keys()
        if rides:
            found.append(FromElsewhere(plan_id=other.id, plan=other.plan.name, rides=rides))
    return tuple(found)


def own_rides(opened: OpenPlan) -> tuple[Ride, ...]:
    """Return the rides of a plan, whichever variant holds them: the rider is the same."""
    return tuple({ride.id: ride for variant in opened.plan.variants for ride in variant.rides}.values())


def rides_tell(workspace: Workspace, opened: OpenPlan) -> bool:
    """Tell whether any ride of this rider tells a figure."""
    return any(ride.figures for ride in own_rides(opened)) or bool(rides_elsewhere(workspace, opened))


def last_race(workspace: Workspace, opened: OpenPlan) -> tuple[Plan, Variant] | None:
    """Return the rider's last race before this plan's start, None where there is none."""
    earlier = earlier_races(workspace, opened)
    return (earlier[0][0].plan, earlier[0][1]) if earlier else None


def memories(workspace: Workspace, opened: OpenPlan) -> tuple[Memory, ...]:
    """Return what the rider's earlier races left behind, the newest first."""
    return tuple(_memory(*entry) for entry in earlier_races(workspace, opened))


def _memory(race: OpenPlan, variant: Variant) -> Memory:
    debrief = variant.debrief
    names = {carrier.id: carrier.name for carrier in variant.carriers}
    return Memory(
        plan_id=race.id,
        plan=race.plan.name,
        variant_id=variant.id,
        variant=variant.name,
        wished=debrief.wished,
        change=debrief.change,
        worked=debrief.worked,
        bags=tuple((names.get(key, key), one) for key, one in debrief.bags.items() if one.state in ("full", "over")),
        time_by=variant.race.time_by if variant.race is not None else {},
        day=f"{variant.race.start:%b %Y}" if variant.race is not None else "",
    )
