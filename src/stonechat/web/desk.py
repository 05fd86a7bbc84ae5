"""What one request works on: the plan as opened, one of its variants, the current leg, the room."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from fastapi import APIRouter, Request

from stonechat.core.plan.evaluate import Evaluation
from stonechat.core.plan.plan import Variant
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.workspace import Workspace
from stonechat.web.addresses import action_address, room_address
from stonechat.web.forms.binding import BoundForm, S, start_values

Forms = Mapping[str, BoundForm[Any]]


@dataclass(frozen=True, kw_only=True)
class Look:
    """What of a room is looked at, as its address tells it; each part by itself, so that no id is a reserved word."""

    tab: str = ""  # a part of the room, or a box of it; NEW: a form for something that is not there yet
    open: str = ""  # id of the thing, stop, carrier, night or table that is open or spoken of
    sort: str = ""  # order of a table
    all: bool = False  # whether a long table is shown whole
    find: str = ""  # words that its rows hold
    show: str = ""  # which of its rows


NEW = "new"  # the tab of such a form
UNNAMED = "-"  # in an address, what has no id yet; no id looks so
_PLAIN = Look()


@dataclass(frozen=True, kw_only=True)
class Room:
    """A room: its key and name, what fills its template `<key>/_stage.html`, and its endpoints."""

    key: str
    name: str
    letter: str  # `g` and this letter go there
    build: Callable[["Desk"], object]
    router: APIRouter
    seen: Callable[["Desk"], None] | None = None  # called when it is shown as a page
    opens: bool = False  # whether what a check speaks of is opened in it
    legs: bool = False  # whether what a check speaks of is a leg


@dataclass(frozen=True, kw_only=True)
class Desk:
    """One request's plan, variant, leg and room."""

    workspace: Workspace
    opened: OpenPlan
    variant_id: str
    leg: int
    room: str
    look: Look = Look()  # which part of the room is shown, and what is open in it
    note: str = ""  # one sentence to say once
    forms: Forms = field(default_factory=dict)  # forms that were sent and are wrong
    carry: Mapping[str, Any] = field(default_factory=dict)  # what the request brought along for one room's own use

    @property
    def variant(self) -> Variant:
        """The variant in hand."""
        return self.opened.plan.variant(self.variant_id)

    @property
    def evaluation(self) -> Evaluation:
        """The variant ridden and judged."""
        return evaluated(self.opened, self.variant_id)

    def at(self, room: str = "", **query: object) -> str:
        """Return the address of a room, this one by default, with the current leg."""
        return room_address(self.opened.id, self.variant_id, room or self.room, **{"leg": self.leg, **query})

    @property
    def here(self) -> str:
        """The address of what is shown now."""
        look = self.look
        return self.at(
            tab=look.tab,
            open=look.open,
            sort=look.sort,
            all="yes" if look.all else "",
            find=look.find,
            show=look.show,
        )

    def form(self, name: str, schema: type[S], values: Mapping[str, Any]) -> BoundForm[S]:
        """Return a form as it was sent where that is wrong, else with values."""
        return self.forms.get(name) or start_values(schema, values)

    def with_said(
        self, *, note: str = "", forms: Forms | None = None, carry: Mapping[str, Any] | None = None
    ) -> "Desk":
        """Return the same with a sentence to say, forms that are wrong, and what the request brought along."""
        return replace(self, note=note, forms=forms or {}, carry=carry or {})

    def do(self, *parts: str, **query: object) -> str:
        """Return the address of a change or a file."""
        return action_address(self.opened.id, self.variant_id, *parts, **query)


def look_at(id_: str) -> Look:
    """Return what is looked at while a form is filled in: the one that is open, or a new one."""
    return Look(tab=NEW) if id_ == UNNAMED else Look(open=id_)


def workspace_of(request: Request) -> Workspace:
    """Return the workspace of the running program."""
    workspace: Workspace = request.app.state.workspace
    return workspace


def open_desk(
    workspace: Workspace, opened: OpenPlan, variant_id: str, room: str, *, leg: int = 0, look: Look = _PLAIN
) -> Desk:
    """Return the desk of a request; a leg beyond the last is the last."""
    opened.plan.variant(variant_id)
    legs = len(evaluated(opened, variant_id).ridden.timetable.legs)
    return Desk(
        workspace=workspace,
        opened=opened,
        variant_id=variant_id,
        leg=max(0, min(leg, legs - 1)),
        room=room,
        look=look,
    )
