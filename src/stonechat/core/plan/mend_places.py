"""Where answers to failures ride: how often each is wanted, and how long it takes to get at it."""

from collections.abc import Mapping

from stonechat.core.kit.item import Item
from stonechat.core.kit.reach import reach_seconds, reaches_a_day
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.load.reaching import LINER_TIME, SEARCH_TIME, Placed
from stonechat.core.mend.report import AnswerPlace, Mend, Places

TYRES = "tyres"


def uses_expected(ridden: Ridden) -> Mapping[str, float]:
    """Return how often each thing is expected to be used to mend something.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    uses : dict of str to float
        By thing, over the race. Where several things do the same, the first of them is taken. [1]
    """
    uses: dict[str, float] = {}
    items = ridden.kit.items
    for line in ridden.report(Mend).lines:
        for answer, tried in zip(line.failure.answers, line.outcome.tried, strict=True):
            for wanted in answer.needs if tried > 0.0 else ():
                item = _first(items, wanted)
                if item is not None:
                    uses[item.id] = uses.get(item.id, 0.0) + tried
    return uses


def _first(items: tuple[Item, ...], wanted: frozenset[str]) -> Item | None:
    """Return the first thing that is of a kind or does a job of some."""
    return next((item for item in items if item.kind in wanted or item.roles & wanted), None)


def answer_places(ridden: Ridden) -> Places:
    """Return where the answers ride, the most wanted first.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    places : Places
        Every thing that mends something likely.
    """
    uses, prices = uses_expected(ridden), ridden.ledger.prices
    placed = {part.id: entry for entry in ridden.placed for part in entry.parts}
    beside: dict[str, int] = {}
    for entry in ridden.placed:
        beside[entry.carrier.id] = beside.get(entry.carrier.id, 0) + 1
    found = []
    for item in ridden.kit.items:
        if item.id in uses:
            ride = placed.get(item.id)
            above = beside[ride.carrier.id] - 1 if ride else 0
            found.append(
                AnswerPlace(
                    item=item,
                    uses=uses[item.id],
                    counted=reaches_a_day(item, prices.often) * prices.days,
                    carrier=ride.carrier.name if ride else "",
                    seconds=_seconds(item, ride, above) if ride else 0.0,
                    above=above,
                    closure=ride.carrier.open_time if ride else 0.0,
                )
            )
    return Places(things=tuple(sorted(found, key=lambda one: -one.uses)))


def _seconds(item: Item, entry: Placed, above: int) -> float:
    lined = LINER_TIME if entry.lined else 0.0
    return reach_seconds(item.access, entry.carrier.access, entry.carrier.open_time) + SEARCH_TIME * above + lined


def tyre_set(ridden: Ridden) -> dict[str, tuple[str, ...]]:
    """Return what a hole in a tyre wants first, by the carrier it rides in.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    places : dict of str to tuple of str
        Names of things by name of carrier; more than one carrier means two bags open in the rain.
    """
    lines = [line for line in ridden.report(Mend).lines if line.failure.part == TYRES and line.answers]
    if not lines:
        return {}
    first = max(lines, key=lambda line: line.outcome.expected)
    wanted = [one for answer in first.answers[:2] for one in answer.needs]
    things = {item.id: item for one in wanted if (item := _first(ridden.kit.items, one)) is not None}
    found: dict[str, tuple[str, ...]] = {}
    for place in ridden.report(Places).things:
        if place.item.id in things and place.carrier:
            found[place.carrier] = (*found.get(place.carrier, ()), place.item.name)
    return found
