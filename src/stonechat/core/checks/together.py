"""Checks of how things ride together: those of the rules that the packing keeps, the rider's own order, and tasks."""

from collections.abc import Iterator

from stonechat.core.checks.check import Check
from stonechat.core.kit.item import Item
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.load.order import camp_order_kept
from stonechat.core.load.together import RULES
from stonechat.core.load.together.bags import CampTogether
from stonechat.core.load.together.places import STRANDS, FirstAnswer, NotLost
from stonechat.core.load.together.rule import Rule
from stonechat.core.load.together.sums import LightBars
from stonechat.core.numerics.findings import Finding, State
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.places import TURNING


def check_of(kind: type[Rule]) -> Check:
    """Return the check that judges a rule of riding together, with what is said beside it.

    Parameters
    ----------
    kind : type of Rule
        One of `RULES`.

    Returns
    -------
    check : Check
        Its findings on the loads of all legs, then those of its `BESIDE`.
    """

    def run(ridden: Ridden) -> Iterator[Finding]:
        said = tuple(kind.findings((rule for rule in ridden.riding.rules if isinstance(rule, kind)), ridden.riding))
        yield from said
        beside = BESIDE.get(kind)
        if beside is not None:
            yield from beside(ridden, said)

    return Check(code=kind.code, title=kind.title, reason=kind.reason, run=run)


def _own_order(ridden: Ridden, carrier_id: str) -> list[Item]:
    """Return what the rider has put in an order of their own in a carrier, from its mouth inwards."""
    by_id = {item.id: item for item in ridden.kit.items if ridden.kit.places.get(item.id) == carrier_id}
    return [by_id[key] for key in ridden.kit.orders.get(carrier_id, ()) if key in by_id]


def _tools_above(ridden: Ridden, item: Item, carrier: Carrier) -> list[Item]:
    """Return the tools that lie above a thing in an order of the rider's own."""
    order = _own_order(ridden, carrier.id)
    return [other for other in order[: order.index(item)] if other.category == "tools"] if item in order else []


def under_the_tools(ridden: Ridden, said: tuple[Finding, ...]) -> Iterator[Finding]:
    """Whether the first answer lies under the tools in an order of the rider's own."""
    if not said or said[0].state != State.FINE:
        return
    item = next((item for item in ridden.kit.items if item.id == said[0].subject), None)
    carrier = next((c for c in ridden.rig.carriers if item and c.id == ridden.kit.places.get(item.id)), None)
    above = _tools_above(ridden, item, carrier) if item and carrier else []
    if item and carrier and above:
        yield Finding(
            code=FirstAnswer.code,
            state=State.TIGHT,
            title="First puncture answer under the tools",
            sentence=f"{item.name} lies under {above[0].name} in {carrier.name}. Put it at the mouth.",
            margin=None,
            unit="things",
            subject=item.id,
        )


def camp_order(ridden: Ridden, said: tuple[Finding, ...]) -> Iterator[Finding]:
    """Whether the rider's own order brings shelter and mat out before the bed."""
    for carrier in ridden.rig.carriers:
        if not camp_order_kept(_own_order(ridden, carrier.id)):
            yield Finding(
                code=CampTogether.code,
                state=State.TIGHT,
                title=f"Camp order in {carrier.name}",
                sentence="In your order the bed comes out before shelter or mat. Raise what is needed first.",
                margin=None,
                unit="bag",
                subject=carrier.id,
            )


def may_be_lost(ridden: Ridden, said: tuple[Finding, ...]) -> Iterator[Finding]:
    """What rides where things get lost, though no race hangs on it."""
    by_id = {carrier.id: carrier for carrier in ridden.rig.carriers}
    for item in ridden.kit.items:
        carrier = by_id.get(ridden.kit.places.get(item.id, ""))
        ends = item.roles & STRANDS or item.need == "must"
        if carrier is not None and carrier.loss == "high" and not ends:
            yield Finding(
                code=NotLost.code,
                state=State.TIGHT,
                title=f"{item.name} may be lost",
                sentence=f"It rides in {carrier.name}, outside and held by {carrier.steadied_by or 'little'}. "
                "Give it a second strap, or count it as lost.",
                margin=None,
                unit="thing",
                subject=item.id,
            )


BESIDE = {FirstAnswer: under_the_tools, CampTogether: camp_order, NotLost: may_be_lost}  # said after a rule's findings


def cables_free(ridden: Ridden) -> Iterator[Finding]:
    """Whether cables and brake levers were tried with full bags on the bars."""
    hung = [carrier for carrier in ridden.rig.carriers if carrier.place in TURNING]
    words = "Full bags pull cables and stop levers: turn the bars from end to end loaded, pull both brakes"
    yield from _tried(ridden, "cables", hung, "Cables and brakes", words)


def straps_taped(ridden: Ridden) -> Iterator[Finding]:
    """Whether the frame is taped where straps rub."""
    held = [carrier for carrier in ridden.rig.carriers if carrier.strapped]
    words = "Straps rub paint and cables through within days: tape where they lie"
    if ridden.rig.bike.frame == "carbon":
        words = f"On carbon, straps and clamps only where the maker allows them. {words}"
    yield from _tried(ridden, "tape", held, "Tape under straps", words)


def _tried(ridden: Ridden, code: str, concerned: list[Carrier], title: str, words: str) -> Iterator[Finding]:
    if not concerned:
        return
    done = code in ridden.said.ticked
    names = ", ".join(carrier.name for carrier in concerned[:3])
    yield Finding(
        code=code,
        state=State.FINE if done else State.TIGHT,
        title=title,
        sentence=f"Done, by your countdown: {names}." if done else f"{words} ({names}), then tick it in the countdown.",
        margin=1.0 if done else 0.0,
        unit="task",
        room="kit",
    )


CABLES = Check(
    code="cables",
    title="Cables and brakes free",
    reason="A lever that meets a bag does not brake.",
    run=cables_free,
)
TAPE = Check(
    code="tape",
    title="Tape under straps",
    reason="A strap saws through paint, carbon and cables.",
    run=straps_taped,
)
CHECKS = (*(check_of(kind) for kind in RULES if kind.is_check and kind is not LightBars), CABLES, TAPE)
