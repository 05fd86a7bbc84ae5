"""What became of each thing, bag and stop, as the rider says afterwards; and what the next plan should know of it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

from stonechat.core.kit.item import Item

USES = {"": "not said", "no": "not used", "once": "used once", "some": "used on some days", "daily": "used every day"}
FATES = {"": "came home", "lost": "lost", "broken": "broken", "moved": "moved to another place"}
BAG_STATES = {"": "not said", "roomy": "never full", "full": "full on a day", "over": "too small"}


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """What the rider says of one thing."""

    use: str = ""  # key of USES
    fate: str = ""  # key of FATES


@dataclass(frozen=True, kw_only=True)
class BagVerdict:
    """What the rider says of one bag."""

    state: str = ""  # key of BAG_STATES
    day: int | None = None  # of the race, 1 the first, when it was full


@dataclass(frozen=True, kw_only=True)
class Debrief:
    """What the rider says of a race."""

    things: Mapping[str, Verdict] = field(default_factory=dict)  # by item
    bags: Mapping[str, BagVerdict] = field(default_factory=dict)  # by carrier
    wished: tuple[str, ...] = ()  # missing, or wished for
    worked: str = ""
    change: str = ""
    counted: frozenset[str] = frozenset()  # things whose records hold this race already

    @property
    def said(self) -> int:
        """How many things were spoken of."""
        return sum(1 for verdict in self.things.values() if verdict.use or verdict.fate)


def with_record(item: Item, verdict: Verdict) -> Item:
    """Return a thing with one race more in its record.

    Parameters
    ----------
    item : Item
        As it was.
    verdict : Verdict
        What became of it.

    Returns
    -------
    item : Item
        Carried once more; used, lost or broken as said.

    Examples
    --------
    >>> pump = Item(id="pump", name="pump", mass=0.1, volume=1e-4)
    >>> with_record(pump, Verdict(use="once", fate="lost")).record
    Record(carried=1, used=1, lost=1, broken=0)
    """
    record = item.record
    return replace(
        item,
        record=replace(
            record,
            carried=record.carried + 1,
            used=record.used + (verdict.use not in ("", "no")),
            lost=record.lost + (verdict.fate == "lost"),
            broken=record.broken + (verdict.fate == "broken"),
        ),
    )


def counted(items: Iterable[Item], debrief: Debrief) -> tuple[tuple[Item, ...], frozenset[str]]:
    """Return things with this race in their records, each once, and which of them hold it now.

    Parameters
    ----------
    items : iterable of Item
        Of the plan.
    debrief : Debrief
        What was said of them.

    Returns
    -------
    items : tuple of Item
        Those spoken of with a race more. [1]
    counted : frozenset of str
        Ids of all whose records hold the race.
    """
    found, done = list[Item](), set(debrief.counted)
    for item in items:
        verdict = debrief.things.get(item.id)
        if verdict is None or not (verdict.use or verdict.fate) or item.id in done:
            found.append(item)
            continue
        done.add(item.id)
        found.append(with_record(item, verdict))
    return tuple(found), frozenset(done)
