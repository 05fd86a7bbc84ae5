"""The program: middleware, error answers, static files, rooms."""

from functools import partial

from fastapi import FastAPI
from fastapi.middleware.gzip import GZipMiddleware
from starlette.types import Receive, Scope, Send

from stonechat.services.workspace import Workspace, make_probe
from stonechat.web import reading
from stonechat.web.desk import Room
from stonechat.web.errors import add_handlers
from stonechat.web.rooms import (
    cards,
    charge,
    data,
    diary,
    health,
    kit,
    line,
    load,
    manual,
    mend,
    night,
    patterns,
    plans,
    rhythm,
    rig,
    room,
    shared,
    supply,
)
from stonechat.web.security import Guard
from stonechat.web.static_files import FOLDER, HashedStatic

ROOMS = tuple(module.ROOM for module in (line, rhythm, rig, kit, load, supply, night, charge, mend, cards, diary))


class Program(FastAPI):
    """The program behind its guard."""

    guard: Guard

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request."""
        await self.guard(scope, receive, send)


def create_app(workspace: Workspace, rooms: tuple[Room, ...] = ROOMS) -> Program:
    """Return the program over a workspace."""
    app = Program(title="Stonechat", docs_url=None, redoc_url=None, openapi_url=None)
    app.guard = Guard(partial(FastAPI.__call__, app), upload_limit=workspace.settings.upload_limit_mb * 1e6)
    app.state.workspace = workspace
    app.state.probe = make_probe(workspace.store.engine)
    app.state.rooms = rooms
    add_handlers(app)
    app.add_middleware(GZipMiddleware, minimum_size=1_000, compresslevel=3)
    app.middleware("http")(reading.in_chosen_measures)
    app.mount("/static", HashedStatic(directory=str(FOLDER)), name="static")
    app.include_router(plans.router)
    app.include_router(manual.router)
    app.include_router(patterns.router)
    app.include_router(data.router)
    app.include_router(shared.router)
    app.include_router(reading.router)
    for entry in rooms:
        app.include_router(entry.router)
    app.include_router(room.router)
    app.include_router(health.router)
    return app
