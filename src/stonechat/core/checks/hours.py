"""Checks of hours awake, and of riding through the small hours."""

from collections.abc import Iterator

import numpy as np

from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.numerics.findings import Finding, State, state_of

AWAKE_TIGHT = 17 * 3600.0  # s, performance as with 0.05 % of alcohol in the blood [Dawson1997]
LOW_FROM, LOW_TO = 2 * 3600.0, 6 * 3600.0  # s after midnight, the body clock's low [Akerstedt1990]
LOW_AWAKE = 16 * 3600.0  # s awake from which riding through it is tight
LATE = 1_800.0  # s after the latest arrival from which a room counts as lost (estimate)
AWAKE_MOST = 24 * 3600.0  # s, as with about 0.10 % [Dawson1997]


def hours_awake(ridden: Ridden) -> Iterator[Finding]:
    """Longest time awake."""
    segment = int(ridden.ride.awake.argmax())
    awake = float(ridden.ride.awake[segment])
    margin = (AWAKE_MOST - awake) / 3600.0
    km = float(ridden.way.profile.distances[segment]) / 1000.0
    caution = " Stop when you are drowsy; sleep before you ride on." if awake >= AWAKE_TIGHT else ""
    yield Finding(
        code="awake",
        state=state_of(margin, (AWAKE_MOST - AWAKE_TIGHT) / 3600.0),
        title="Hours awake",
        sentence=f"{awake / 3600:.1f} h awake at km {km:.0f}; past 17 h a rider is as slow to react as after "
        f"drink.{caution}",
        margin=margin,
        unit="h",
        room="rhythm",
    )


def small_hours(ridden: Ridden) -> Iterator[Finding]:
    """Riding through the body clock's low after a long day."""
    ride = ridden.ride
    time_of_day = (ridden.timetable.clock.start_of_day + ride.clocks[:-1]) % DAY
    tired = (time_of_day >= LOW_FROM) & (time_of_day < LOW_TO) & (ride.awake > LOW_AWAKE)
    hours = float(ride.times[tired].sum()) / 3600.0
    where = f" First at km {float(ridden.way.profile.distances[int(tired.argmax())]) / 1000:.0f}." if hours else ""
    yield Finding(
        code="small-hours",
        state=State.TIGHT if hours > 0.25 else State.FINE,
        title="Small hours",
        sentence=f"{hours:.1f} h ridden between 02:00 and 06:00 after more than 16 h awake.{where}"
        + (" Sleep first: this is when riders fall asleep on the bike." if hours > 0.25 else ""),
        margin=max(0.0, 0.25 - hours),
        unit="h",
        room="rhythm",
    )


def rooms_reached(ridden: Ridden) -> Iterator[Finding]:
    """Whether rooms are reached before their latest arrival."""
    halts, ride = ridden.timetable.clock.halts, ridden.ride
    late = []
    for k in np.flatnonzero(halts.is_room & (ride.stop_rests > 0.0)).tolist():
        begins = ridden.timetable.clock.start_of_day + float(ride.departures[k] - ride.stop_rests[k])
        ends = begins + float(ride.stop_rests[k])
        evenings = halts.latest_times[halts.latest_times < ends]
        if evenings.size and begins > float(evenings[-1]):
            late.append((begins - float(evenings[-1]), k))
    if not halts.is_room.any():
        return
    if not late:
        yield Finding(
            code="rooms",
            state=State.FINE,
            title="Rooms",
            sentence=f"{int((halts.is_room & (ride.stop_rests > 0.0)).sum())} rooms, each reached in time.",
            margin=0.0,
            unit="h",
            room="rhythm",
        )
        return
    over, k = max(late)
    yield Finding(
        code="rooms",
        state=State.BROKEN if over > LATE else State.TIGHT,
        title=f"Room at {ridden.way.stops[k].name}",
        sentence=f"You reach it on {ridden.timetable.visits[k].arrives:%a %H:%M}, "
        f"{over / 3600:.1f} h after your latest arrival. Tell them, start earlier, or take the room before it.",
        margin=-over / 3600.0 if over > LATE else 0.0,
        unit="h",
        subject=ridden.way.stops[k].id,
        room="rhythm",
    )


CHECKS = (
    Check(
        code="awake",
        title="Hours awake",
        reason="Sleep loss makes crashes; the tool warns, it does not trade them for minutes.",
        run=hours_awake,
    ),
    Check(
        code="small-hours",
        title="Small hours",
        reason="Sleepiness peaks before dawn, most of all after a long day.",
        run=small_hours,
    ),
    Check(
        code="rooms",
        title="Rooms reached in time",
        reason="A door that is shut at night is a night outside without a bed.",
        run=rooms_reached,
    ),
)
