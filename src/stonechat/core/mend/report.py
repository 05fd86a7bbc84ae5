"""What may fail on a race, and what answers it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from stonechat.core.kit.item import Item
from stonechat.core.line.stops import Stop
from stonechat.core.mend.failures import Answer, Failure
from stonechat.core.mend.odds import Help, Outcome
from stonechat.core.mend.wear import WearLine

FIRST, LAST = 0.15, 0.03  # 1, uses a race from which a thing is a first answer, and below which a last one (estimates)
# what many multitools do, by names that hide it
ON_TOOLS = {"chain_tool": "opens chains", "t:spoke": "turns spokes"}
FAR, STRAPPED = 60.0, 10.0  # s: to get at it, or of a closure alone, from which a first answer is far (estimates)


@dataclass(frozen=True, kw_only=True)
class FailureLine:
    """One failure over the race."""

    failure: Failure
    outcome: Outcome
    help: Help
    lacking: tuple[tuple[frozenset[str], ...], ...]  # by answer what it needs that nothing aboard is

    @property
    def answers(self) -> tuple[Answer, ...]:
        """The answers that can be given, first, second, last."""
        return tuple(
            answer for answer, given in zip(self.failure.answers, self.outcome.tried, strict=True) if given > 0.0
        )

    @property
    def chance(self) -> float:
        """Chance that it happens at all. [1]"""
        return 1.0 - float(np.exp(-self.outcome.expected))


def may_do(line: FailureLine, items: Iterable[Item]) -> tuple[tuple[Item, str], ...]:
    """Return what an answer lacks and a multitool aboard may well do: the rider is asked.

    Parameters
    ----------
    line : FailureLine
        The failure.
    items : iterable of Item
        All that goes along.

    Returns
    -------
    asked : tuple of (Item, str)
        A multitool, and a key of ON_TOOLS.
    """
    lacked = {word for answer in line.lacking for need in answer for word in need}
    tools = [item for item in items if item.kind == "multi_tool"]
    return tuple((tool, word) for word in ON_TOOLS if word in lacked for tool in tools)


def doing(item: Item, word: str) -> Item:
    """Return a tool that also does what a key of ON_TOOLS says.

    Parameters
    ----------
    item : Item
        The tool.
    word : str
        A key of ON_TOOLS: a job, or a size after `t:`.

    Returns
    -------
    item : Item
        With the job among its jobs, or the size among those that it turns.
    """
    if word.startswith("t:"):
        return replace(item, tools=item.tools | {word.removeprefix("t:")})
    return replace(item, roles=item.roles | {word})


@dataclass(frozen=True, kw_only=True)
class Mend:
    """All that may fail on a race."""

    lines: tuple[FailureLine, ...]  # what costs most first
    stock: Mapping[str, float]  # mends by pool

    @property
    def minutes(self) -> float:
        """Expected to be lost, ended rides not in it. [min]"""
        return sum(line.outcome.minutes for line in self.lines)

    @property
    def ending(self) -> float:
        """Chance that a failure ends the ride. [1]"""
        return 1.0 - float(np.prod([1.0 - line.outcome.ending for line in self.lines]))


@dataclass(frozen=True, kw_only=True)
class AnswerPlace:
    """A thing that answers failures, and where it rides."""

    item: Item
    uses: float  # 1, expected over the race
    counted: float  # 1, times that Load has it reached for over the race
    carrier: str  # name; empty: worn, fixed or on the floor
    seconds: float  # s to get at it; 0 where it is in no carrier
    above: int  # things beside it in that carrier
    closure: float  # s to open that carrier

    @property
    def rank(self) -> str:
        """First, last, or between."""
        return "first" if self.uses >= FIRST else "last" if self.uses < LAST else "between"

    @property
    def is_far(self) -> bool:
        """Whether it is a first answer that takes long to get at."""
        return self.rank == "first" and (self.seconds > FAR or self.closure >= STRAPPED)


@dataclass(frozen=True, kw_only=True)
class Places:
    """Where the answers ride."""

    things: tuple[AnswerPlace, ...]  # the most wanted first


@dataclass(frozen=True, kw_only=True)
class Swap:
    """Where a part is swapped, and where the new one is by then."""

    at: float  # km, before it is worn
    aboard: tuple[Item, ...]  # new ones on the bike there
    boxed: tuple[tuple[Item, Stop], ...]  # new ones in drop boxes before
    shop: Stop | None  # last bike shop before
    needless: bool  # new at the start it would last


@dataclass(frozen=True, kw_only=True)
class Wearing:
    """What wears over a race."""

    lines: tuple[WearLine, ...]  # what lasts shortest first
    swaps: tuple[Swap | None, ...]  # of each line; None where it lasts
