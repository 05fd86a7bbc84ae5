"""Longest ways without something, and the stops that cannot be missed."""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

from stonechat.core.line.stops import Stop


@dataclass(frozen=True, kw_only=True)
class Gap:
    """A way between two places that both give what is asked (or start and finish)."""

    start: float  # m
    end: float  # m
    start_name: str
    end_name: str

    @property
    def length(self) -> float:
        """Length of the way. [m]"""
        return self.end - self.start


def gaps(
    stops: tuple[Stop, ...],
    offers: frozenset[str],
    length: float,
    given: Mapping[str, frozenset[str]] | None = None,
) -> tuple[Gap, ...]:
    """Return the ways between neighbouring used stops that give one of the offers.

    Parameters
    ----------
    stops : tuple of Stop
        In order of distance; only used ones count.
    offers : frozenset of str
        What is asked, any of them.
    length : float
        Length of the course. [m]
    given : mapping of str to frozenset of str, optional
        What each stop gives as the rider passes; all that it offers where this is not given.

    Returns
    -------
    gaps : tuple of Gap
        From start to finish, in order; start and finish count as giving everything. [m]

    Examples
    --------
    >>> [gap.length for gap in gaps((), frozenset({"water"}), 1000.0)]
    [1000.0]
    """
    marks = [(0.0, "Start")]
    found = {stop.id: stop.offers for stop in stops} if given is None else given
    marks += [(s.distance, s.name) for s in stops if s.used and found.get(s.id, frozenset()) & offers]
    marks.append((length, "Finish"))
    pairs = pairwise(marks)
    return tuple(Gap(start=a[0], end=b[0], start_name=a[1], end_name=b[1]) for a, b in pairs)


def longest_gap(
    stops: tuple[Stop, ...],
    offers: frozenset[str],
    length: float,
    given: Mapping[str, frozenset[str]] | None = None,
) -> Gap:
    """Return the longest of `gaps`.

    Parameters
    ----------
    stops : tuple of Stop
        In order of distance.
    offers : frozenset of str
        What is asked.
    length : float
        Length of the course. [m]
    given : mapping of str to frozenset of str, optional
        What each stop gives as the rider passes; all that it offers where this is not given.

    Returns
    -------
    gap : Gap
        The longest way without. [m]

    Examples
    --------
    >>> longest_gap((), frozenset({"water"}), 1000.0).end_name
    'Finish'
    """
    return max(gaps(stops, offers, length, given), key=lambda gap: gap.length)
