"""Checks of what is fixed on bike and helmet: room in its spot, and whether it sees what it must see there."""

from collections.abc import Iterator
from dataclasses import replace

from stonechat.core.checks.check import Check
from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.kinds import marks_of
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.findings import Finding, State
from stonechat.core.rig.spots import SPOTS


def _blind(item: Item) -> str:
    """Say what a thing does not have in its spot; empty where it has all that it needs."""
    marks, spot = marks_of(item.kind), SPOTS[item.fixed]
    if "sight" in marks and not spot.sight:
        return "is not seen while riding there"
    if "sky" in marks and not spot.sky:
        return "does not see the sky there"
    return ""


def _amiss(key: str, things: list[Item]) -> Iterator[str]:
    """Say what is wrong in a spot."""
    spot, count = SPOTS[key], sum(item.quantity for item in things)
    if count > spot.room:
        names = ", ".join(item.name for item in things)
        yield f"{count} things are {spot.name} ({names}), where {spot.room} usually have room."
    for item in things:
        if words := _blind(item):
            yield f"{item.name} is {spot.name} and {words}."


def spots_fit(ridden: Ridden) -> Iterator[Finding]:
    """Whether what is fixed has room in its spot, and sky and sight where it needs them."""
    by_spot: dict[str, list[Item]] = {}
    for item in ridden.kit.items:
        if item.fixed:
            by_spot.setdefault(item.fixed, []).append(item)
    if not by_spot:
        return
    wrong = [words for key, things in sorted(by_spot.items()) for words in _amiss(key, things)]
    left = [SPOTS[key].room - sum(item.quantity for item in things) for key, things in by_spot.items()]
    fine = Finding(
        code="spots",
        state=State.FINE,
        title="Room for fixed things",
        sentence="What is fixed on bike and helmet has room there, and sees the sky where it must.",
        margin=float(min(left)),
        unit="things",
        room="kit",
    )
    amiss = f"{' '.join(wrong)} Choose another spot in Kit, or pack it."
    title = "Fixed things: no room or no sight"
    yield replace(fine, state=State.TIGHT, title=title, sentence=amiss, margin=0.0) if wrong else fine


CHECKS = (
    Check(
        code="spots",
        title="Room for fixed things",
        reason="Bars are short: lamps, unit and bags want the same breadth, and a unit without sky finds no way.",
        run=spots_fit,
    ),
)
