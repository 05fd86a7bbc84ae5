"""Checks of hours awake."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.ledger.state import Ridden
from stonechat.core.numerics.findings import Finding, state_of

AWAKE_TIGHT = 17 * 3600.0  # s, performance as with 0.05 % of alcohol in the blood [Dawson1997]
AWAKE_MOST = 24 * 3600.0  # s, as with about 0.10 % [Dawson1997]


def hours_awake(ridden: Ridden) -> Iterator[Finding]:
    """Longest time awake."""
    segment = int(ridden.ride.awake.argmax())
    awake = float(ridden.ride.awake[segment])
    margin = (AWAKE_MOST - awake) / 3600.0
    km = float(ridden.profile.distances[segment]) / 1000.0
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


CHECKS = (
    Check(
        code="awake",
        title="Hours awake",
        reason="Sleep loss makes crashes; the tool warns, it does not trade them for minutes.",
        run=hours_awake,
    ),
)
