"""Long tables: the rows around where the rider is, and the way to the others."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from stonechat.web.desk import Desk

T = TypeVar("T")
MOST = 80  # rows that are shown at once of a table longer than FEW
FEW = 110  # rows of a table that is shown whole


@dataclass(frozen=True, kw_only=True)
class Window(Generic[T]):
    """Some rows of a table."""

    rows: tuple[T, ...]
    before: int  # rows that are not shown, ahead of these
    after: int
    all_address: str  # shows every row; empty where every row is shown


def window(desk: Desk, rows: Sequence[T], here: int) -> Window[T]:
    """Return the rows around one of them, all where there are few or all are asked for."""
    if len(rows) <= FEW or desk.look.all:
        return Window(rows=tuple(rows), before=0, after=0, all_address="")
    first = max(0, min(here - MOST // 3, len(rows) - MOST))
    shown = tuple(rows[first : first + MOST])
    return Window(
        rows=shown,
        before=first,
        after=len(rows) - first - len(shown),
        all_address=desk.at(
            tab=desk.look.tab, sort=desk.look.sort, find=desk.look.find, show=desk.look.show, all="yes"
        ),
    )
