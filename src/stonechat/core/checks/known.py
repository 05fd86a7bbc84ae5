"""What the plan stands on that the rider has not said."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.findings import Finding, State


def taken_for_granted(ridden: Ridden) -> Iterator[Finding]:
    """Whether rider, start, nights, bike and weather are the rider's own."""
    if not ridden.said.assumed:
        return
    words = [words for _, words in ridden.said.assumed]
    listed = words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
    yield Finding(
        code="assumed",
        state=State.TIGHT,
        title="Taken for granted",
        sentence=f"Until you say otherwise the plan stands on {listed}. Every figure moves with them.",
        margin=0.0,
        unit="figures",
        room=ridden.said.assumed[0][0],
    )


def kit_named(ridden: Ridden) -> Iterator[Finding]:
    """Whether there is a kit at all."""
    if not ridden.kit.items:
        yield Finding(
            code="kit",
            state=State.TIGHT,
            title="No kit yet",
            sentence="Nothing goes along, so nothing is judged of warmth, light, power and repair. Bring a table in, "
            "or take things from the shelf.",
            margin=0.0,
            unit="things",
            room="kit",
        )


CHECKS = (
    Check(code="kit", title="A kit to judge", reason="Nothing can be said of what is not there.", run=kit_named),
    Check(
        code="assumed",
        title="Taken for granted",
        reason="A plan is worth what it stands on.",
        run=taken_for_granted,
    ),
)
