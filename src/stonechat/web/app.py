"""The program: middleware, error answers, static files, rooms."""

from fastapi import FastAPI, Request
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import Response

from stonechat.services.workspace import Workspace
from stonechat.web import reading
from stonechat.web.errors import add_handlers
from stonechat.web.rooms import cards, kit, line, load, manual, plans, rhythm, rig, room, supply
from stonechat.web.security import guard
from stonechat.web.static_files import FOLDER, HashedStatic

_ROOMS = (line, rhythm, rig, kit, load, supply, cards)


def create_app(workspace: Workspace) -> FastAPI:
    """Return the program over a workspace."""
    app = FastAPI(title="Stonechat", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.workspace = workspace
    app.state.rooms = tuple(module.ROOM for module in _ROOMS)
    add_handlers(app)
    app.add_middleware(GZipMiddleware, minimum_size=1_000, compresslevel=3)
    app.middleware("http")(reading.in_chosen_measures)
    app.middleware("http")(guard(workspace.settings.upload_limit_mb * 1e6))
    app.mount("/static", HashedStatic(directory=str(FOLDER)), name="static")
    app.include_router(plans.router)
    app.include_router(manual.router)
    app.include_router(reading.router)
    for module in (*_ROOMS, room):
        app.include_router(module.router)

    @app.get("/healthy")
    def healthy(request: Request) -> Response:
        """Say that the program answers."""
        return Response("yes", media_type="text/plain")

    return app
