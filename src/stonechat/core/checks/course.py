"""Checks of the course and its clock: what cannot be true, and what the plan does not see."""

from collections.abc import Iterator

import numpy as np

from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.numerics.findings import Finding, State

WALL = 0.35  # 1, grade that no way has for so long, stairs aside (estimate)
WALL_LENGTH = 60.0  # m
SAME_CLOCK = 1.5 * 3600.0  # s by which a rider's clock may differ from that of the place before it is asked about


def walls(ridden: Ridden) -> Iterator[Finding]:
    """Stretches so steep that their heights are in doubt."""
    profile = ridden.way.profile
    starts = profile.distances[profile.distances <= profile.length - WALL_LENGTH]
    heights = np.interp(starts, profile.distances, profile.heights)
    rises = np.interp(starts + WALL_LENGTH, profile.distances, profile.heights) - heights
    worst = int(np.argmax(np.abs(rises)))
    rise = float(rises[worst])
    if abs(rise) <= WALL * WALL_LENGTH:
        return
    yield Finding(
        code="wall",
        state=State.TIGHT,
        title=f"A wall at km {starts[worst] / 1000:.1f}",
        sentence=f"The course {'rises' if rise > 0 else 'falls'} {abs(rise):.0f} m over {WALL_LENGTH:.0f} m, "
        f"{100 * abs(rise) / WALL_LENGTH:.0f} %. Is it so? Else the heights there are wrong: bring the course in with "
        "others, or smooth it more.",
        margin=0.0,
        unit="m",
        room="line",
    )


def seen_to_the_end(ridden: Ridden) -> Iterator[Finding]:
    """Whether nights, doors and weather are looked at to the end."""
    days = int(ridden.timetable.clock.sky.wet.size)
    over = (ridden.timetable.clock.start_of_day + ridden.ledger.finish) / DAY - days
    if over > 0.0:
        yield Finding(
            code="long",
            state=State.BROKEN,
            title="Longer than is looked at",
            sentence=f"Nights and doors are looked at for {days} days; this ride takes {over:.0f} more, which are "
            "ridden without sleep. Ride more a day, or split the plan.",
            margin=-over,
            unit="d",
            room="rhythm",
        )


def clock_of_the_place(ridden: Ridden) -> Iterator[Finding]:
    """Whether the rider's clock is that of the place."""
    if abs(ridden.way.clock_off) > SAME_CLOCK:
        yield Finding(
            code="zone",
            state=State.TIGHT,
            title="Clock of another place",
            sentence=f"Your start is given in {ridden.way.start.tzinfo}; the clocks where the course begins are "
            f"{abs(ridden.way.clock_off) / 3600:.3g} h {'ahead of' if ridden.way.clock_off > 0 else 'behind'} that. "
            "Set the time zone of the place, if it is not meant so.",
            margin=0.0,
            unit="h",
            room="rhythm",
        )


CHECKS = (
    Check(code="long", title="Seen to the end", reason="What is not looked at is not planned.", run=seen_to_the_end),
    Check(code="wall", title="Walls", reason="One wrong height is a climb that nobody rides.", run=walls),
    Check(
        code="zone",
        title="Clock of the place",
        reason="A plan by another place's clock meets every door at the wrong hour.",
        run=clock_of_the_place,
    ),
)
