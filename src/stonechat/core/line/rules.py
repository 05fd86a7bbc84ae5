"""What the race asks of a rider."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, kw_only=True)
class Rules:
    """Rules of a race. Cut-offs stand at the stops."""

    start: datetime | None = None  # local clock of the earliest start
    time_limit: float | None = None  # s from the race's start, else from the rider's
    drop_boxes: bool = False  # whether things may be sent ahead
    compulsory: tuple[str, ...] = ()  # words that name each thing every rider must carry


def missing_things(rules: Rules, names: Iterable[str]) -> tuple[str, ...]:
    """Return which compulsory things no name answers.

    Parameters
    ----------
    rules : Rules
        The rules.
    names : iterable of str
        Names of what is carried.

    Returns
    -------
    missing : tuple of str
        Entries whose words do not all stand in one name.

    Examples
    --------
    >>> missing_things(Rules(compulsory=("rear light", "whistle")), ["Light, rear", "spare tube"])
    ('whistle',)
    """
    carried = [name.lower() for name in names]
    return tuple(
        entry
        for entry in rules.compulsory
        if not any(all(word in name for word in entry.lower().split()) for name in carried)
    )
