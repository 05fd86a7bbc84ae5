"""What may fail on a race, and what answers it."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from stonechat.core.mend.failures import Answer, Failure
from stonechat.core.mend.odds import Help, Outcome


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
