"""What the race asks of a rider."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, kw_only=True)
class RaceRules:
    """RaceRules of a race. Cut-offs stand at the stops."""

    start: datetime | None = None  # local clock of the earliest start
    time_limit: float | None = None  # s from the race's start, else from the rider's
    drop_boxes: bool = False  # whether things may be sent ahead
    compulsory: tuple[str, ...] = ()  # words that name each thing every rider must carry
    forbidden: tuple[str, ...] = ()  # words that name what nobody may carry
    ways: tuple[str, ...] = ()  # rules that no thing breaks, such as no help from outside; told, not judged
    box_volume: float | None = None  # m³ that a drop box may hold; None: not said
    box_mass: float | None = None  # kg that it may weigh


def forbidden_things(rules: RaceRules, names: Iterable[str]) -> tuple[str, ...]:
    """Return which things are named by what the rules forbid.

    Parameters
    ----------
    rules : RaceRules
        The rules.
    names : iterable of str
        Names of what is carried.

    Returns
    -------
    found : tuple of str
        Names in which all words of an entry stand, as words or beginnings of words.

    Examples
    --------
    >>> forbidden_things(RaceRules(forbidden=("navigation unit",)), ["Navigation unit, small", "wall map"])
    ('Navigation unit, small',)
    """
    return tuple(name for name in names if any(_is_named(entry, name) for entry in rules.forbidden))


# stricter than for what must be carried: a ban on “light” is none on a highlighter
def _is_named(entry: str, name: str) -> bool:
    words = re.findall(r"\w+", name.lower())
    return all(any(word.startswith(part) for word in words) for part in re.findall(r"\w+", entry.lower()))


def missing_things(rules: RaceRules, names: Iterable[str]) -> tuple[str, ...]:
    """Return which compulsory things no name answers.

    Parameters
    ----------
    rules : RaceRules
        The rules.
    names : iterable of str
        Names of what is carried.

    Returns
    -------
    missing : tuple of str
        Entries whose words do not all stand in one name.

    Examples
    --------
    >>> missing_things(RaceRules(compulsory=("rear light", "whistle")), ["Light, rear", "spare tube"])
    ('whistle',)
    """
    carried = [name.lower() for name in names]
    return tuple(
        entry
        for entry in rules.compulsory
        if not any(all(word in name for word in entry.lower().split()) for name in carried)
    )
