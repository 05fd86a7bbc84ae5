"""What a check is."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.findings import Finding


@dataclass(frozen=True, kw_only=True)
class Check:
    """A rule: what it looks at, why it matters, and the function that judges."""

    code: str
    title: str
    reason: str
    run: Callable[[Ridden], Iterable[Finding]]
