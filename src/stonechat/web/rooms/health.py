"""Two questions of whoever watches the program: does it live, and can it serve."""

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from stonechat.services.health import readiness

router = APIRouter()


@router.get("/healthy")
def healthy() -> Response:
    """Say that the program answers, whatever its database does."""
    return Response("yes", media_type="text/plain")


@router.get("/ready")
def ready(request: Request) -> Response:
    """Say whether the database answers (else 503) and how many workers are there."""
    found = readiness(request.app.state.probe)
    content = {"ready": found.database, "workers": found.workers, "sentence": found.sentence}
    return JSONResponse(content, status_code=200 if found.database else 503, headers={"Cache-Control": "no-store"})
