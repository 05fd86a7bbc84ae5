"""Notes of a race as it went, and how far it was from the plan where they were made."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from stonechat.core.numerics.arrays import FloatArray

KINDS = {
    "eaten": "eaten", "drunk": "drunk", "bought": "bought", "slept": "slept", "lost": "lost", "broken": "broken",
    "moved": "moved", "cold": "cold", "warm": "warm", "note": "note",
}  # fmt: skip
MOST_NOTES = 2_000  # of a variant


@dataclass(frozen=True, kw_only=True)
class Note:
    """One note."""

    kind: str  # key of KINDS
    text: str = ""
    at: datetime | None = None  # with its zone; None: the clock was not noted
    distance: float  # m along the course


@dataclass(frozen=True, kw_only=True)
class Told:
    """A note beside the plan."""

    note: Note
    planned: float  # s since the start, when the plan is there
    late: float | None  # s after the plan, negative before; None: the clock was not noted


def beside_plan(
    notes: Iterable[Note], *, start: datetime, distances: FloatArray, clocks: FloatArray
) -> tuple[Told, ...]:
    """Return notes by distance, each with how late it was made.

    Parameters
    ----------
    notes : iterable of Note
        In any order.
    start : datetime
        With its zone.
    distances : ndarray, shape (n,)
        Along the course. [m]
    clocks : ndarray, shape (n,)
        When the plan is there. [s]

    Returns
    -------
    told : tuple of Told
        By distance, then by clock. [s]

    Examples
    --------
    >>> from datetime import UTC, timedelta
    >>> begins = datetime(2027, 9, 24, 7, tzinfo=UTC)
    >>> note = Note(kind="bought", distance=500.0, at=begins + timedelta(seconds=90))
    >>> ends = np.array([0.0, 1000.0]), np.array([0.0, 100.0])
    >>> [(one.planned, one.late) for one in beside_plan([note], start=begins, distances=ends[0], clocks=ends[1])]
    [(50.0, 40.0)]
    """
    found = []
    for note in notes:
        planned = float(np.interp(note.distance, distances, clocks))
        late = None if note.at is None else (note.at - start).total_seconds() - planned
        found.append(Told(note=note, planned=planned, late=late))
    return tuple(sorted(found, key=_order))


def _order(told: Told) -> tuple[float, float]:
    return told.note.distance, told.late if told.late is not None else 0.0


def merged(known: Sequence[Note], more: Iterable[Note]) -> tuple[Note, ...]:
    """Return notes with more of them, none twice.

    Parameters
    ----------
    known : sequence of Note
        Kept already.
    more : iterable of Note
        Brought in, perhaps for the second time.

    Returns
    -------
    notes : tuple of Note
        In the order in which they came. [1]
    """
    return tuple(dict.fromkeys((*known, *more)))
