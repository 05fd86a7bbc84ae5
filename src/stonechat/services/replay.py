"""The race as tracker and computer tell it: simulated ones replay it, and the rest is planned from where one is."""

from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from itertools import count
from threading import Lock
from time import monotonic
from uuid import UUID

import numpy as np

from stonechat.core.diary.rides import Ride
from stonechat.core.diary.trail import Trail, match_trail
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.from_here import Here, awake_after, plan_from, tired_after
from stonechat.db import plans
from stonechat.errors import InvalidInput, NotFound
from stonechat.outside.bike_computer import (
    BikeComputer,
    SimulatedComputer,
    SimulatedTracker,
    Tracker,
    TrueRace,
    true_race,
)
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, store_new
from stonechat.services.rides import AskedRide, ReadIn, add_ride, keep_ride
from stonechat.services.workspace import Workspace

SPEEDS = {60: "a minute in a second", 600: "ten minutes in a second", 3_600: "an hour in a second"}
_MOST_REPLAYS = 16
_LOCK = Lock()


class Replay:
    """A race that is being replayed, by a clock of its own that runs so many times as fast."""

    def __init__(self, race: TrueRace, seed: int, speed: int) -> None:
        self.tracker: Tracker = SimulatedTracker(race, seed)
        self.computer: BikeComputer = SimulatedComputer(race, seed)
        self.start, self.length = race.start, float(race.elapsed[-1])
        self._speed, self._begun, self._at = speed, monotonic(), 0.0

    @property
    def speed(self) -> int:
        """How many times as fast as the world it runs; 0 while it stands still."""
        return self._speed

    @property
    def elapsed(self) -> float:
        """How far it has come. [s]"""
        return min(self._at + (monotonic() - self._begun) * self._speed, self.length)

    @property
    def now(self) -> datetime:
        """Its clock."""
        return self.start + timedelta(seconds=self.elapsed)

    @property
    def is_over(self) -> bool:
        """Whether the finish is reached."""
        return self.elapsed >= self.length

    def run(self, speed: int) -> None:
        """Go on at another speed."""
        self._at, self._begun, self._speed = self.elapsed, monotonic(), speed

    def go_to(self, elapsed: float) -> None:
        """Go to another moment."""
        self._at, self._begun = max(0.0, min(elapsed, self.length)), monotonic()


_REPLAYS: dict[tuple[UUID, str], Replay] = {}


def start_replay(opened: OpenPlan, variant_id: str, *, speed: int, seed: int) -> Replay:
    """Replay a race of a variant, drawn by a seed."""
    if speed not in SPEEDS:
        raise InvalidInput("Choose one of the speeds.", subject="speed")
    ridden = evaluated(opened, variant_id).ridden
    replay = Replay(true_race(ridden, seed), seed, speed)
    with _LOCK:
        _REPLAYS.pop((opened.id, variant_id), None)
        while len(_REPLAYS) >= _MOST_REPLAYS:
            _REPLAYS.pop(next(iter(_REPLAYS)))
        _REPLAYS[opened.id, variant_id] = replay
    return replay


def replay_of(plan_id: UUID, variant_id: str) -> Replay | None:
    """Return the replay beside a variant."""
    with _LOCK:
        return _REPLAYS.get((plan_id, variant_id))


def end_replay(plan_id: UUID, variant_id: str) -> None:
    """End the replay beside a variant."""
    with _LOCK:
        _REPLAYS.pop((plan_id, variant_id), None)


def running(plan_id: UUID, variant_id: str) -> Replay:
    """Return the replay beside a variant; refused where there is none."""
    replay = replay_of(plan_id, variant_id)
    if replay is None:
        raise NotFound("No race is being replayed. Start one.", subject=variant_id)
    return replay


def trail_now(ridden: Ridden, replay: Replay) -> Trail:
    """Return where the tracker has seen the rider so far."""
    reports = replay.tracker.reports(replay.now)
    if len(reports) < 2:
        return Trail()
    elapsed = np.array([(report.at - ridden.way.start).total_seconds() for report in reports])
    places = np.array([(report.latitude, report.longitude) for report in reports])
    return match_trail(elapsed, places[:, 0], places[:, 1], ridden.way.profile).trail


def trail_known(opened: OpenPlan, variant_id: str) -> Trail:
    """Return where one was when, from the planned start on: by the replay that runs, else as it was kept."""
    replay, kept = replay_of(opened.id, variant_id), opened.plan.variant(variant_id).race
    ridden = evaluated(opened, variant_id).ridden
    if replay is not None:
        return trail_now(ridden, replay)
    return Trail() if kept is None else kept.trail.later((kept.start - ridden.way.start).total_seconds())


def keep_trail(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int) -> ReadIn:
    """Keep what the tracker told as the race."""
    replay, ridden = running(opened.id, variant_id), evaluated(opened, variant_id).ridden
    trail = trail_now(ridden, replay)
    if trail.is_empty:
        raise InvalidInput("The tracker has not sent two positions on the course yet. Wait a little.")
    ride = Ride(
        id=f"tracker-{replay.start:%Y%m%d}",
        name="tracker",
        purpose="race",
        start=(replay.start + timedelta(seconds=trail.elapsed[0])).astimezone(UTC),
        length=trail.elapsed[-1] - trail.elapsed[0],
        moving=0.0,
        distance=trail.distances[-1] - trail.distances[0],
        mass=ridden.film[0].mass,
        trail=trail.later(-trail.elapsed[0]),
    )
    return keep_ride(workspace, opened, variant_id, revision=revision, ride=ride)


def keep_file(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int) -> ReadIn:
    """Read in the bike computer's file as it stands."""
    replay = running(opened.id, variant_id)
    asked = AskedRide(name="bike computer", purpose="race", mass=None, surface="")
    data = replay.computer.file(replay.now)
    return add_ride(workspace, opened, variant_id, revision=revision, data=data, asked=asked)


@dataclass(frozen=True, kw_only=True)
class Aboard:
    """What is left aboard, as the rider says."""

    distance: float  # m
    elapsed: float  # s since the planned start
    water: float  # l
    food: float  # kcal
    gone: frozenset[str]


def plan_rest(workspace: Workspace, opened: OpenPlan, variant_id: str, aboard: Aboard, *, trail: Trail) -> UUID:
    """Make a plan of the rest of the race, from where one is; return it. The plan of the whole stays as it is."""
    variant = opened.plan.variant(variant_id)
    name = f"{opened.plan.name[:52]} from km {aboard.distance / 1e3:.0f}"
    here = Here(
        distance=aboard.distance,
        elapsed=aboard.elapsed,
        tired=round(tired_after(_until(trail, aboard), variant.rider), 4),
        awake=round(awake_after(_until(trail, aboard), variant.rider)),
        water=aboard.water,
        food=aboard.food,
        gone=aboard.gone,
    )
    rest = plan_from(opened.plan, variant_id, here, name=name)
    with workspace.store.transaction() as session:
        taken = {head.name for head in plans.list_plans(session)}
        free = next(one for k in count(1) if (one := name if k == 1 else f"{name}, {k}") not in taken)
        return store_new(session, replace(rest, name=free), f"planned the rest of {opened.plan.name}"[:200])


def _until(trail: Trail, aboard: Aboard) -> Trail:
    """Return a trail to where one is; without one, as if ridden evenly."""
    if trail.is_empty:
        return Trail(elapsed=(0.0, aboard.elapsed), distances=(0.0, aboard.distance))
    pairs = [(t, d) for t, d in zip(trail.elapsed, trail.distances, strict=True) if t <= aboard.elapsed]
    pairs.append((aboard.elapsed, max(aboard.distance, pairs[-1][1] if pairs else 0.0)))
    return Trail(elapsed=tuple(t for t, _ in pairs), distances=tuple(d for _, d in pairs))
