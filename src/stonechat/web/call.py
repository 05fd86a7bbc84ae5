"""What an endpoint of a room works on: one dependency with workspace, plan, variant, what was sent, and the answers."""

from collections.abc import Awaitable, Callable, Mapping
from functools import cached_property
from typing import Annotated, Any
from uuid import UUID

from fastapi import Depends, Request
from fastapi.responses import Response

from stonechat.services.history import OpenPlan, Revision, open_plan
from stonechat.services.workspace import Workspace
from stonechat.web.desk import Desk, Forms, Look, open_desk, workspace_of
from stonechat.web.respond import after_change, part, show, wants_fragment
from stonechat.web.rooms.common import Sent, read_sent

_PLAIN = Look()


class Call:
    """One request in a room of a plan."""

    def __init__(self, request: Request, room: str, plan_id: UUID, variant_id: str, leg: int) -> None:
        self.request, self.room, self.plan_id, self.variant_id, self.leg = request, room, plan_id, variant_id, leg

    @property
    def workspace(self) -> Workspace:
        """The workspace of the running program."""
        return workspace_of(self.request)

    @cached_property
    def opened(self) -> OpenPlan:
        """The plan as it was when the request came."""
        return open_plan(self.workspace, self.plan_id)

    @property
    def wants_fragment(self) -> bool:
        """Whether the page's script asks for a part."""
        return wants_fragment(self.request.headers)

    def desk(
        self,
        opened: OpenPlan | None = None,
        *,
        room: str = "",
        variant_id: str = "",
        look: Look = _PLAIN,
        note: str = "",
        forms: Forms | None = None,
        carry: Mapping[str, Any] | None = None,
    ) -> Desk:
        """Return the desk to answer on: this room unless another is named."""
        return open_desk(
            self.workspace,
            opened or self.opened,
            variant_id or self.variant_id,
            room or self.room,
            leg=self.leg,
            look=look,
        ).with_said(note=note, forms=forms, carry=carry)

    def show(self, desk: Desk | None = None, *, status: int = 200) -> Response:
        """Show a room."""
        return show(self.request, desk or self.desk(), status=status)

    def part(self, desk: Desk, template: str, **context: Any) -> Response:
        """Give a part of the room to its script, to anybody else the room itself."""
        if not self.wants_fragment:
            return self.show(desk)
        return part(template, revision=desk.opened.revision, leg=desk.leg, **context)

    def answer(self, opened: OpenPlan | None = None, *, note: str = "", **more: Any) -> Response:
        """Answer a change: the parts that changed for the script, else the way back to the room's page."""
        return after_change(self.request, self.desk(opened, **more), note)

    def refuse(self, **more: Any) -> Response:
        """Show the room with a form that is wrong."""
        return show(self.request, self.desk(**more), status=422)


class Change(Call):
    """One request that changes something, with its form."""

    def __init__(self, request: Request, room: str, plan_id: UUID, variant_id: str, sent: Sent) -> None:
        super().__init__(request, room, plan_id, variant_id, sent.leg)
        self.sent = sent

    @property
    def revision(self) -> Revision:
        """The revision that the page was made from."""
        return self.sent.revision

    @property
    def look(self) -> Look:
        """What of the room was looked at when the form was sent."""
        return self.sent.look

    @property
    def fields(self) -> Mapping[str, str]:
        """The fields of the form."""
        return self.sent.fields

    def text(self, name: str) -> str:
        """Return one field, empty where it is missing."""
        return self.sent.text(name)

    def texts(self, name: str) -> tuple[str, ...]:
        """Return a field that may be sent several times."""
        return self.sent.texts(name)

    def has_file(self, name: str) -> bool:
        """Tell whether a file came along."""
        return self.sent.has_file(name)

    def file(self, name: str) -> bytes:
        """Return the bytes of a file that came along."""
        return self.sent.file(name)


def reading(room: str) -> Callable[[Request, UUID, str, int], Call]:
    """Return the dependency of endpoints that only read."""

    def made(request: Request, plan_id: UUID, variant_id: str, leg: int = 0) -> Call:
        return Call(request, room, plan_id, variant_id, leg)

    return made


def changing(room: str) -> Callable[[Request, UUID, str, Sent], Awaitable[Change]]:
    """Return the dependency of endpoints that change something."""

    async def made(
        request: Request, plan_id: UUID, variant_id: str, sent: Annotated[Sent, Depends(read_sent)]
    ) -> Change:
        return Change(request, room, plan_id, variant_id, sent)

    return made
