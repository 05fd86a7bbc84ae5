"""Checks of how the loaded bike stands and steers."""

import math
from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.checks.together import check_of
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.load.together.sums import LightBars
from stonechat.core.numerics.findings import Finding, state_of


def front_share(ridden: Ridden) -> Iterator[Finding]:
    """Share of the weight on the front wheel, on the leg nearest to a limit."""
    low, high = ridden.rig.bands.front_low, ridden.rig.bands.front_high
    shares = [load.balance.front_share for load in ridden.film]
    leg = min(range(len(shares)), key=lambda k: min(shares[k] - low, high - shares[k]))
    margin = min(shares[leg] - low, high - shares[leg])
    yield Finding(
        code="front-share",
        state=state_of(margin, 0.01),
        title="Front and rear share",
        sentence=f"{100 * shares[leg]:.1f} % on the front wheel leaving {ridden.timetable.legs[leg].start_name}; "
        f"{100 * low:.0f} to {100 * high:.0f} % handles well here.",
        margin=100.0 * margin,
        unit="%",
    )


def left_right(ridden: Ridden) -> Iterator[Finding]:
    """Lean of the bike by uneven load."""
    leg = max(range(len(ridden.film)), key=lambda k: abs(ridden.film[k].balance.lean))
    lean = ridden.film[leg].balance.lean
    margin = math.degrees(ridden.rig.bands.lean - abs(lean))
    side = "left" if lean > 0 else "right"
    yield Finding(
        code="left-right",
        state=state_of(margin, 0.1),
        title="Left and right",
        sentence=f"{math.degrees(abs(lean)):.2f}° to the {side} leaving {ridden.timetable.legs[leg].start_name}; "
        f"{math.degrees(ridden.rig.bands.lean):.1f}° is the most.",
        margin=margin,
        unit="°",
    )


def sway(ridden: Ridden) -> Iterator[Finding]:
    """What hangs behind the saddle."""
    leg = max(range(len(ridden.film)), key=lambda k: ridden.film[k].sway)
    value = ridden.film[leg].sway
    yield Finding(
        code="sway",
        state=state_of(ridden.rig.bands.sway - value, 0.05),
        title="Sway behind the saddle",
        sentence=f"{value:.2f} of {ridden.rig.bands.sway:.2f} kg m leaving {ridden.timetable.legs[leg].start_name}.",
        margin=ridden.rig.bands.sway - value,
        unit="kg m",
    )


CHECKS = (
    Check(
        code="front-share",
        title="Front and rear share",
        reason="Too light in front wanders uphill, too heavy pitches downhill.",
        run=front_share,
    ),
    Check(code="left-right", title="Left and right", reason="A leaning bike tires hands and neck.", run=left_right),
    Check(code="sway", title="Sway of the seat pack", reason="What sways wears, and steers the rider.", run=sway),
    check_of(LightBars),
)
