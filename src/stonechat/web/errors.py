"""One handler for every error: a page, a fragment in the message area, or JSON, by what was asked."""

import logging
import secrets

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse, JSONResponse, Response
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

from stonechat.errors import (
    Clash,
    ConvergenceError,
    InvalidInput,
    NotFound,
    NotKnown,
    StonechatError,
    TooLarge,
    Unavailable,
)
from stonechat.services.workspace import COMMITS
from stonechat.web.respond import render, wants_fragment

_STATUS: dict[type[StonechatError], int] = {
    InvalidInput: 422,
    TooLarge: 413,
    NotFound: 404,
    Clash: 409,
    ConvergenceError: 500,
    Unavailable: 503,
}
_TITLES = {
    404: "Not here",
    405: "Not possible here",
    408: "Too slow",
    409: "Changed meanwhile",
    413: "Too large",
    422: "This cannot be used",
    503: "Not reachable",
}
_log = logging.getLogger("stonechat.web")


def status_of(error: StonechatError) -> int:
    """Return the status that goes with an error, by its nearest class."""
    return next((_STATUS[kind] for kind in type(error).__mro__ if kind in _STATUS), 500)


def add_handlers(app: FastAPI) -> None:
    """Let the program answer errors in its own words."""
    app.add_exception_handler(StonechatError, _ours)
    app.add_exception_handler(HTTPException, _frameworks)
    app.add_exception_handler(RequestValidationError, _malformed)
    app.add_exception_handler(ClientDisconnect, _went_away)
    app.add_exception_handler(Exception, _unexpected)


def answer_error(
    request: Request, *, status: int, sentence: str, subject: str = "", reference: str = "", waits: bool = False
) -> Response:
    """Return the answer to an error in the form that was asked for."""
    title = _TITLES.get(status, "This went wrong")
    if "application/json" in request.headers.get("accept", ""):
        return JSONResponse({"error": sentence, "subject": subject, "reference": reference}, status_code=status)
    context = {"title": title, "sentence": sentence, "reference": reference, "status": status, "waits": waits}
    if wants_fragment(request.headers):
        headers = {"HX-Retarget": "#messages", "HX-Reswap": "innerHTML", "HX-Push-Url": "false"}
        return HTMLResponse(render("shell/_message.html", **context), status_code=status, headers=headers)
    return HTMLResponse(render("error.html", **context), status_code=status)


def _ours(request: Request, error: Exception) -> Response:
    if not isinstance(error, StonechatError):
        raise error
    if isinstance(error, Unavailable):
        return _unavailable(request, error)
    return answer_error(request, status=status_of(error), sentence=error.message, subject=error.subject)


def _unavailable(request: Request, error: Unavailable) -> Response:
    """Say what became of what was asked, as far as that is known; the page's script goes on from there."""
    if request.method in ("GET", "HEAD"):
        became, more = "asked", "This page goes on by itself as soon as that is over."
    elif isinstance(error, NotKnown):
        became, more = "unknown", ""
    elif _kept_something():
        became, more = "kept", "What you changed was kept; load the page again to see it."
    else:
        became, more = "not", "Nothing was changed. It can be sent again as soon as that is over."
    sentence = f"{error.message} {more}".strip()
    answer = answer_error(request, status=503, sentence=sentence, subject=error.subject, waits=became == "asked")
    answer.headers["Retry-After"] = "2"
    answer.headers["X-Kept"] = became
    return answer


def _kept_something() -> bool:
    commits = COMMITS.get()
    return commits is not None and commits.count > 0


def _went_away(request: Request, error: Exception) -> Response:
    """Nobody reads the answer to a client that has left, and its leaving is no failure of ours."""
    return Response(status_code=400)


def _frameworks(request: Request, error: Exception) -> Response:
    if not isinstance(error, HTTPException):
        raise error
    sentences = {
        404: "There is no such page. Choose a plan from the list.",
        405: "This address takes no such request. Go back to the page and use its buttons.",
        413: "What was sent is too large.",
    }
    sentence = sentences.get(error.status_code, str(error.detail))
    return answer_error(request, status=error.status_code, sentence=sentence)


def _malformed(request: Request, error: Exception) -> Response:
    if not isinstance(error, RequestValidationError):
        raise error
    first = error.errors()[0]
    field = str(first["loc"][-1])
    if first["loc"][0] == "path":
        return answer_error(request, status=404, sentence="There is no such page. Choose a plan from the list.")
    return answer_error(
        request,
        status=422,
        sentence=f"The request's field “{field}” cannot be read. Load the page again and repeat what you did.",
        subject=field,
    )


def _unexpected(request: Request, error: Exception) -> Response:
    reference = secrets.token_hex(4)
    kept = "What you changed was kept." if _kept_something() else "Nothing that was kept is lost."
    _log.error("failed %s %s reference=%s", request.method, request.url.path, reference, exc_info=error)
    return answer_error(
        request,
        status=500,
        sentence=f"The fault is ours. {kept} Load the page again.",
        reference=reference,
    )
