"""Checks of batteries: what goes flat on the way, and when."""

from collections.abc import Iterator

from stonechat.core.charge.report import VITAL, BatteryLine, Charge
from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.findings import Finding, State
from stonechat.text import listed

_SPARE = 0.15  # 1, of all that is stored, below which what is left is within what a battery may be off


def nothing_flat(ridden: Ridden) -> Iterator[Finding]:
    """Whether lights, navigation and gears have power to the finish."""
    if not ridden.kit.items:
        return
    charge = ridden.report(Charge)
    vital = [line for line in charge.flat if line.thing.role in VITAL]
    if not any(line.thing.role in VITAL for line in charge.lines):
        return
    guessed = [line.thing.name for line in charge.lines if not line.thing.is_told and line.thing.role in VITAL]
    asks = f" Usual figures stand for {listed(guessed, 3)}; give mAh, Wh or hours in the Kit." if guessed else ""
    if vital:
        first = vital[0]
        others = listed([line.thing.name for line in charge.flat if line is not first], 3)
        known = any(line.thing.is_told for line in vital)  # what stands on usual figures alone is a question
        yield Finding(
            code="flat",
            state=State.BROKEN if known else State.TIGHT,
            title=f"Flat: {first.thing.name}",
            sentence=f"{flat_words(first)} {charge.dark_hours:.0f} h are ridden in the dark; all batteries hold "
            f"{charge.stored:.0f} Wh, sockets can give {charge.wall:.0f}."
            + (f" Flat too: {others}." if others else "")
            + " Take a bigger bank, charge longer, dim the light."
            + asks,
            margin=-sum(line.unmet for line in vital) if known else 0.0,
            unit="Wh",
            room="charge",
        )
        return
    yield Finding(
        code="flat",
        state=State.TIGHT if charge.spare < _SPARE * charge.stored else State.FINE,
        title="Batteries",
        sentence=f"Nothing that matters goes flat; {charge.spare:.0f} of {charge.stored:.0f} Wh are left at least."
        + asks,
        margin=charge.spare,
        unit="Wh",
        room="charge",
    )


def flat_words(line: BatteryLine) -> str:
    """Say where a thing goes flat and what it lacks."""
    at = 0.0 if line.flat_km is None else line.flat_km / 1e3
    return f"{line.thing.name} is flat from km {at:.0f}; it lacks {line.unmet:.0f} Wh over the race."


CHECKS = (
    Check(
        code="flat",
        title="Batteries",
        reason="A flat light ends a night, and flat gears end the climbing.",
        run=nothing_flat,
    ),
)
