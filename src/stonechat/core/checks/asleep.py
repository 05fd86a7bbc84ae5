"""Checks of warmth asleep."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.night.report import Warmth, cold_words, degrees, margin_words
from stonechat.core.night.sleep import BAND
from stonechat.core.numerics.findings import Finding, State, state_of
from stonechat.text import listed


def warm_asleep(ridden: Ridden) -> Iterator[Finding]:
    """The rest outside with least warmth to spare."""
    outside = ridden.report(Warmth).outside
    if not outside or not ridden.kit.items:
        return
    rest = min(outside, key=lambda entry: entry.margin)
    at = f"km {rest.distance / 1000.0:.0f} at {rest.height:.0f} m"
    where = f"Night {rest.night + 1}, {at}, down to {degrees(rest.low)}"
    slept_in = f" in {listed(rest.bedding.things, 4)}" if rest.bedding.things else " in what you ride in"
    sentence = f"{where}{slept_in}: {margin_words(rest)}."
    if rest.is_danger:
        sentence += " Take more, sleep lower or in a bed: cold like that ends more than a race."
    elif rest.margin < 0.0:
        sentence += f" {cold_words(rest)}"
    if rest.damp.each > 0.0:
        sentence += " It may rain, and nothing keeps rain off what you sleep in."
    if rest.bedding.unsaid:
        sentence += f" Usual figures are taken for {listed(rest.bedding.unsaid, 3)}; give their labels in the Kit."
    if rest.bedding.unclear:
        sentence += (
            f" The label of {listed(rest.bedding.unclear, 2)} does not say which of its temperatures it tells; the "
        )
        sentence += "limit is taken, which is the colder night."
    brief = rest.margin < 0.0 and rest.hours >= rest.length / 3600.0
    yield Finding(
        code="asleep",
        state=State.TIGHT if brief else state_of(rest.margin, BAND),
        title="Warmth asleep",
        sentence=sentence,
        margin=rest.margin,
        unit="K",
        room="night",
    )


CHECKS = (
    Check(
        code="asleep",
        title="Warmth asleep",
        reason="A night too cold to sleep costs the next day, and can cost more.",
        run=warm_asleep,
    ),
)
