"""A room that is shown in parts: one tab each, the first where none is asked for."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from stonechat.web.desk import Desk

Part = tuple[str, Callable[[Desk], object]]  # name, empty where another part leads to it, and what it shows


@dataclass(frozen=True, kw_only=True)
class TabbedView:
    """One part of a room, and the way to the others."""

    tab: str
    tabs: tuple[tuple[str, str, bool], ...]  # name, address, whether it is this one
    template: str
    part: object


def tabbed(desk: Desk, room: str, parts: Mapping[str, Part]) -> TabbedView:
    """Return the part that is asked for."""
    first = next(iter(parts))
    tab = desk.look.tab if desk.look.tab in parts else first
    return TabbedView(
        tab=tab,
        tabs=tuple(
            (name, desk.at(tab="" if key == first else key), key == tab) for key, (name, _) in parts.items() if name
        ),
        template=f"{room}/_{tab}.html",
        part=parts[tab][1](desk),
    )
