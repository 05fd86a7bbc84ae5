"""What a check says to a person."""

from dataclasses import dataclass

STATES = ("broken", "tight", "fine")  # worst first


@dataclass(frozen=True, kw_only=True)
class Finding:
    """One sentence with its margin."""

    code: str  # the check that says it
    state: str  # one of STATES
    title: str  # a few words: what, and where
    sentence: str  # value, limit and what to do
    margin: float | None  # to where it is broken, in `unit`, negative beyond it; None where there is no figure
    unit: str
    subject: str = ""  # id of the item, carrier or stop it speaks of
    room: str = "load"  # where it is mended


def state_of(margin: float, tight_below: float) -> str:
    """Return the state that goes with a margin.

    Parameters
    ----------
    margin : float
        How far from the limit, in any unit; negative over it. [1]
    tight_below : float
        Margins below this are tight. [1]

    Returns
    -------
    state : str
        broken, tight or fine.

    Examples
    --------
    >>> state_of(-1.0, 0.5), state_of(0.2, 0.5), state_of(2.0, 0.5)
    ('broken', 'tight', 'fine')
    """
    if margin < 0.0:
        return "broken"
    return "tight" if margin < tight_below else "fine"
