"""What a check says to a person."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

from stonechat.text import listed


class State(StrEnum):
    """How a check stands; worst first."""

    BROKEN = "broken"
    TIGHT = "tight"  # within a band of where it breaks
    FINE = "fine"

    @property
    def rank(self) -> int:
        """Place in the order from worst to best. [1]"""
        return list(State).index(self)


@dataclass(frozen=True, kw_only=True)
class Finding:
    """One sentence with its margin."""

    code: str  # the check that says it
    state: State
    title: str  # a few words: what, and where
    sentence: str  # value, limit and what to do
    margin: float | None  # to where it is broken, in `unit`, negative beyond it; None where there is no figure
    unit: str
    subject: str = ""  # id of the item, carrier or stop it speaks of
    room: str = "load"  # where it is mended


def state_of(margin: float, tight_below: float) -> State:
    """Return the state that goes with a margin.

    Parameters
    ----------
    margin : float
        How far from the limit, in any unit; negative over it. [1]
    tight_below : float
        Margins below this are tight. [1]

    Returns
    -------
    state : State
        Broken below 0, tight below the other.

    Examples
    --------
    >>> [str(state_of(margin, 0.5)) for margin in (-1.0, 0.2, 2.0)]
    ['broken', 'tight', 'fine']
    """
    if margin < 0.0:
        return State.BROKEN
    return State.TIGHT if margin < tight_below else State.FINE


def gathered(findings: Iterable[Finding], name: Callable[[str], str]) -> Iterator[Finding]:
    """Yield one finding for each state, that names the subjects of the others: one cause, one line.

    Parameters
    ----------
    findings : iterable of Finding
        Of one check, about one thing each.
    name : callable
        Name of a subject.

    Yields
    ------
    finding : Finding
        The first of its state.

    Examples
    --------
    >>> wet = [Finding(code="dry", state=State.BROKEN, title=f"{k} in cage", sentence="Gets wet.", margin=-1.0,
    ...                unit="thing", subject=k) for k in ("down", "map", "phone")]
    >>> [(finding.title, finding.sentence) for finding in gathered(wet, str)]
    [('down in cage, and 2 more', 'Gets wet. The same holds for map, phone.')]
    """
    by_state: dict[State, list[Finding]] = {}
    for finding in findings:
        by_state.setdefault(finding.state, []).append(finding)
    for first, *others in by_state.values():
        if not others:
            yield first
            continue
        names = listed((name(other.subject) for other in others), 4)
        yield replace(
            first,
            title=f"{first.title}, and {len(others)} more",
            sentence=f"{first.sentence} The same holds for {names}.",
        )
