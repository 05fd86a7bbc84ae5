"""Checks of what fails: an answer for what is likely, two for what ends the ride, enough of what is used up."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.kit.bolts import TOOLS
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.mend.odds import kit_enough
from stonechat.core.mend.report import FAR, FailureLine, Mend, Places, Wearing
from stonechat.core.numerics.findings import Finding, State
from stonechat.text import capital, listed

NOTHING = "an answer"  # what lacks where nobody knows one
_GRAVE = 2.5  # 1, by how much a failure without any answer may pass the rider's limit before the check is broken
_ENDS, _LIKELY = 0.3, 0.01  # 1, of a failure that ends rides; 1, chance from which it wants two answers
_BODY, _TROUBLE = 0.10, 60.0  # 1, min: chance and loss from which a trouble of the body is asked for
_GONE, _REACHED, _RARE = 0.2, 0.2, 0.005  # 1, ends; help reached; chance: of failures that want their part aboard
_HOLDS = 0.85  # 1, chance to hold from which a mend is for good
_ENOUGH = 0.95  # 1, chance that plugs, tubes and patches last below which they are few


def answered(ridden: Ridden) -> Iterator[Finding]:
    """Whether what is likely to fail has an answer aboard."""
    mend = ridden.report(Mend)
    bike = [line for line in mend.lines if line.failure.part != "rider"]
    if not ridden.kit.items or not bike:
        return
    worst = max(bike, key=lambda line: line.outcome.unserved)
    limit = ridden.said.mending.accepted
    bare = [line for line in bike if not line.answers and line.chance >= limit]
    chance = worst.outcome.unserved
    state = State.BROKEN if chance >= _GRAVE * limit or bare else State.TIGHT if chance >= limit else State.FINE
    if state is State.FINE:
        yield Finding(
            code="repair", state=state, title="Repair", margin=100.0 * (limit - chance), unit="%", room="mend",
            sentence=f"Every failure that {100.0 * limit:.3g} % of such races see has an answer aboard.",
        )  # fmt: skip
        return
    first = max(bare, key=lambda line: line.chance, default=worst)
    lacks = lacking_words(first)
    why = "nothing is known to answer it" if lacks == NOTHING else f"lacking is {lacks}"
    why = "what answers it is used up, or does not hold" if first.answers else why
    yield Finding(
        code="repair",
        state=state,
        title=f"Repair: {first.failure.name}",
        sentence=f"{capital(first.failure.name)}: {100.0 * first.chance:.0f} % likely, and {why}.",
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
        sentence=f"{capital(names)}: one answer aboard at most, and on most of this route no shop."
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
        sentence=f"{plugs} plugs, {tubes} tubes and {patches} patches are enough in "
        f"{100.0 * enough:.1f} % of such races.",
        margin=100.0 * (enough - _ENOUGH) if enough >= _ENOUGH else 0.0,
        unit="%",
        room="mend",
    )


def the_body(ridden: Ridden) -> Iterator[Finding]:
    """Whether what the body is likely to ask for is aboard."""
    lines = [line for line in ridden.report(Mend).lines if _is_trouble(line)]
    if not ridden.kit.items or not lines:
        return
    bare = [line for line in lines if not any(answer.needs for answer in line.answers) and _carried(line)]
    names = listed([f"{line.failure.name} ({100.0 * line.chance:.0f} % likely)" for line in bare], 3)
    yield Finding(
        code="troubles",
        state=State.TIGHT if bare else State.FINE,
        title="What the body asks for",
        sentence=f"Nothing aboard but rest answers {names}. Riders carry {lacking_words(bare[0])} for the first."
        if bare
        else f"What {len(lines)} likely troubles of the body ask for is aboard. A professional comes first.",
        margin=0.0 if bare else float(len(lines)),
        unit="troubles",
        room="mend",
    )


def _is_trouble(line: FailureLine) -> bool:
    """Tell whether it is a likely trouble of the body that costs more than a little."""
    return line.failure.part == "rider" and line.chance >= _BODY and line.failure.minutes >= _TROUBLE


def _carried(line: FailureLine) -> bool:
    """Tell whether riders carry anything for it."""
    return any(answer.needs for answer in line.failure.answers)


def no_shop_has_it(ridden: Ridden) -> Iterator[Finding]:
    """Whether parts that no shop in reach has are aboard, where their lack ends rides."""
    grave = [
        line
        for line in ridden.report(Mend).lines
        if line.failure.ends >= _GONE
        and line.help.reached < _REACHED
        and line.chance >= _RARE
        and line.failure.part != "rider"
        and (line.answers or line.chance < ridden.said.mending.accepted)  # else the check of repair says it
    ]
    if not ridden.kit.items or not grave:
        return
    bare = [line for line in grave if not any(answer.holds >= _HOLDS for answer in line.answers)]
    worst = max(bare or grave, key=lambda line: line.chance)
    yield Finding(
        code="own-parts",
        state=State.TIGHT if bare else State.FINE,
        title="Parts that no shop has",
        sentence=f"{capital(worst.failure.name)}: {100.0 * worst.chance:.1f} % likely, no shop in "
        f"reach has the part, and nothing aboard mends it for good. Lacking is {_for_good(worst)}."
        if bare
        else f"Of {len(grave)} kinds of failure that no shop in reach mends, each has an answer aboard that holds.",
        margin=0.0 if bare else float(len(grave)),
        unit="failures",
        room="mend",
    )


def _for_good(line: FailureLine) -> str:
    """Say what the first answer that holds lacks."""
    pairs = zip(line.failure.answers, line.lacking, strict=True)
    return next((_words(lacking) for answer, lacking in pairs if answer.holds >= _HOLDS and lacking), "a part of it")


def at_hand(ridden: Ridden) -> Iterator[Finding]:
    """Whether first answers are got at soon."""
    first = [place for place in ridden.report(Places).things if place.rank == "first" and place.carrier]
    if not first:
        return
    far = max(first, key=lambda place: (place.is_far, place.seconds))
    yield Finding(
        code="first-answers",
        state=State.TIGHT if far.is_far else State.FINE,
        title="First answers at hand",
        sentence=f"{capital(far.item.name)} is wanted {far.uses:.1f} times on such a race, and "
        f"rides in {far.carrier} with {far.above} other things: {far.seconds:.0f} s each time. Bring it up."
        if far.is_far
        else f"Each of {len(first)} things that mend what is likely is got at within {far.seconds:.0f} s.",
        margin=0.0 if far.is_far else max(0.0, FAR - far.seconds),
        unit="s",
        room="mend",
    )


def worn(ridden: Ridden) -> Iterator[Finding]:
    """Whether what wears lasts to the finish, or a new one waits before it is worn."""
    wearing = ridden.report(Wearing)
    pairs = zip(wearing.lines, wearing.swaps, strict=True)
    swaps = [
        (line, swap)
        for line, swap in pairs
        if swap is not None and (ridden.said.mending.pads or "pads" not in line.key)
    ]
    bare = [(line, swap) for line, swap in swaps if not (swap.aboard or swap.boxed or swap.shop)]
    if not bare:
        shortest = max(wearing.lines, key=lambda line: line.before + line.used)
        yield Finding(
            code="wears", state=State.FINE, title="What wears", unit="%", room="mend",
            margin=max(0.0, 100.0 * (1.0 - shortest.before - shortest.used)),
            sentence="What wears lasts to the finish, or a new one is to be had before it is worn.",
        )  # fmt: skip
        return
    line, swap = max(bare, key=lambda pair: pair[0].chance)
    yield Finding(
        code="wears",
        state=State.TIGHT,
        title=f"What wears: {line.name}",
        sentence=f"{capital(line.name)} may be worn from {swap.at:.0f} km on, and none is aboard, "
        "in a drop box or in a bike shop before. Start with a new one, or post one ahead.",
        margin=0.0,
        unit="%",
        room="mend",
    )


def lacking_words(line: FailureLine) -> str:
    """Say what the first answer of a failure lacks."""
    return _words(next((lacking for lacking in line.lacking if lacking), ())) or NOTHING


def _words(lacking: tuple[frozenset[str], ...]) -> str:
    return listed([" or ".join(sorted({word_of(word) for word in one})) for one in lacking], 3)


def word_of(word: str) -> str:
    """Say a kind, a job or a size as riders do."""
    if word in KINDS:
        return KINDS[word].title
    return TOOLS.get(word.removeprefix("t:"), word.replace("_", " "))


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
    Check(code="troubles", title="What the body asks for", reason="Sores end more rides than chains.", run=the_body),
    Check(
        code="own-parts",
        title="Parts that no shop has",
        reason="Every frame has its own hanger, and no shop on the way has it.",
        run=no_shop_has_it,
    ),
    Check(
        code="first-answers",
        title="First answers at hand",
        reason="What is wanted in the rain at night is not under the tools.",
        run=at_hand,
    ),
    Check(
        code="wears",
        title="What wears",
        reason="A worn part is a failure with a date.",
        run=worn,
    ),
)
