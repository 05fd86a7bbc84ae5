"""Checks of what fails: an answer for what is likely, two for what ends the ride, enough of what is used up."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.mend.odds import kit_enough
from stonechat.core.mend.report import FailureLine, Mend
from stonechat.core.numerics.findings import Finding, State
from stonechat.text import listed

UNANSWERED, GRAVE = 0.02, 0.05  # 1, chance of a failure without any answer from which it is told, and is broken
_ENDS, _LIKELY = 0.3, 0.01  # 1, of a failure that ends rides; 1, chance from which it wants two answers
_ENOUGH = 0.95  # 1, chance that plugs, tubes and patches last below which they are few


def answered(ridden: Ridden) -> Iterator[Finding]:
    """Whether what is likely to fail has an answer aboard."""
    mend = ridden.report(Mend)
    bike = [line for line in mend.lines if line.failure.part != "rider"]
    if not ridden.kit.items or not bike:
        return
    worst = max(bike, key=lambda line: line.outcome.unserved)
    bare = [line for line in bike if not line.answers and line.chance >= UNANSWERED]
    chance = worst.outcome.unserved
    state = State.BROKEN if chance >= GRAVE or bare else State.TIGHT if chance >= UNANSWERED else State.FINE
    if state is State.FINE:
        yield Finding(
            code="repair", state=state, title="Repair", margin=100.0 * (UNANSWERED - chance), unit="%", room="mend",
            sentence=f"Every failure that {UNANSWERED:.0%} of such races see has an answer aboard.",
        )  # fmt: skip
        return
    first = max(bare, key=lambda line: line.chance, default=worst)
    why = "what answers it is used up, or does not hold" if first.answers else f"lacking is {lacking_words(first)}"
    yield Finding(
        code="repair",
        state=state,
        title=f"Repair: {first.failure.name}",
        sentence=f"{first.failure.name[:1].upper()}{first.failure.name[1:]}: {first.chance:.0%} likely, and {why}.",
        margin=-100.0 * max(chance, first.outcome.unserved) if state is State.BROKEN else 0.0,
        unit="%",
        room="mend",
    )


def two_answers(ridden: Ridden) -> Iterator[Finding]:
    """Whether what ends a ride has two answers, or a shop in time."""
    mend = ridden.report(Mend)
    grave = [
        line
        for line in mend.lines
        if line.failure.ends >= _ENDS and line.chance >= _LIKELY and line.failure.part != "rider"
    ]
    if not ridden.kit.items or not grave:
        return
    single = [line for line in grave if len(line.answers) < 2 and line.help.reached < 0.5]
    names = listed([line.failure.name for line in single], 4)
    yield Finding(
        code="second-answer",
        state=State.TIGHT if single else State.FINE,
        title="A second answer to what ends rides",
        sentence=f"{names[:1].upper()}{names[1:]}: one answer aboard at most, and on most of this route no shop."
        if single
        else f"All {len(grave)} failures that end rides have two answers, or a shop in time.",
        margin=0.0 if single else float(len(grave)),
        unit="failures",
        room="mend",
    )


def tyres_last(ridden: Ridden) -> Iterator[Finding]:
    """Whether plugs, tubes and patches last."""
    mend = ridden.report(Mend)
    expected = {line.failure.key: line.outcome.expected for line in mend.lines}
    plugged = expected.get("thorn_plugged", 0.0)
    tubed = sum(expected.get(key, 0.0) for key in ("thorn", "pinch", "cut", "sidewall", "burp", "valve"))
    if not ridden.kit.items or plugged + tubed <= 0.0:
        return
    stock = mend.stock
    plugs, tubes, patches = (int(stock.get(pool, 0.0)) for pool in ("plug", "tube", "patch"))
    enough = kit_enough(plugged, tubed, plugs=plugs, tubes=tubes, patches=patches if tubes else 0)
    yield Finding(
        code="tyres-last",
        state=State.FINE if enough >= _ENOUGH else State.TIGHT,
        title="Plugs, tubes and patches",
        sentence=f"{plugs} plugs, {tubes} tubes and {patches} patches are enough in {enough:.1%} of such races.",
        margin=100.0 * (enough - _ENOUGH) if enough >= _ENOUGH else 0.0,
        unit="%",
        room="mend",
    )


def lacking_words(line: FailureLine) -> str:
    """Say what the first answer of a failure lacks."""
    from_first = next((lacking for lacking in line.lacking if lacking), ())
    return listed([" or ".join(sorted(word.replace("_", " ") for word in one)) for one in from_first], 3) or "an answer"


CHECKS = (
    Check(code="repair", title="Repair", reason="A failure without an answer is a walk.", run=answered),
    Check(
        code="second-answer",
        title="A second answer to what ends rides",
        reason="You never need it, but when you need it, you really need it.",
        run=two_answers,
    ),
    Check(
        code="tyres-last",
        title="Plugs, tubes and patches",
        reason="The second hole comes when the only tube is used.",
        run=tyres_last,
    ),
)
