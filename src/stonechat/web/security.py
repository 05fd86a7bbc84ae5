"""Headers that keep a page to itself, and refusal of what comes from elsewhere or is too large."""

from collections.abc import Awaitable, Callable

from fastapi import Request
from fastapi.responses import Response

from stonechat.web.errors import answer_error

_HEADERS = {
    "Content-Security-Policy": "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; manifest-src 'self'; form-action 'self'; base-uri 'none'; "
    "frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}
_LOCAL_HOSTS = frozenset({"127.0.0.1", "localhost", "[::1]", "testserver"})
_FORM_BYTES = 1_000_000  # what a request without a file may hold
_MOST_DROPPED = 300_000_000  # bytes
_SLACK = 100_000  # bytes of wrapping around a file


def guard(upload_limit: float) -> Callable[[Request, Callable[[Request], Awaitable[Response]]], Awaitable[Response]]:
    """Return the middleware; `upload_limit` is in bytes."""

    async def check(request: Request, proceed: Callable[[Request], Awaitable[Response]]) -> Response:
        refusal = _refusal(request, upload_limit)
        if refusal is not None:
            await _let_go_by(request)
        response = refusal or await proceed(request)
        for name, value in _HEADERS.items():
            response.headers.setdefault(name, value)
        return response

    return check


async def _let_go_by(request: Request) -> None:
    """Take in what is still being sent and drop it, so that the browser reads the answer; give up past a limit."""
    seen = 0
    async for chunk in request.stream():
        seen += len(chunk)
        if seen > _MOST_DROPPED:
            return


def _refusal(request: Request, upload_limit: float) -> Response | None:
    host = request.headers.get("host", "").rsplit(":", 1)[0] or "none"
    if host not in _LOCAL_HOSTS:
        return answer_error(request, status=421, sentence=f"This program answers on loopback only, not as {host}.")
    if request.method in ("GET", "HEAD"):
        return None
    if request.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        return answer_error(request, status=403, sentence="A change may only be sent by this program's own pages.")
    length = request.headers.get("content-length")
    if length is None or not length.isdigit():
        return answer_error(request, status=411, sentence="The request does not say how long it is.")
    is_file = request.headers.get("content-type", "").startswith("multipart/")
    most = upload_limit + _SLACK if is_file else _FORM_BYTES
    if int(length) > most:
        return answer_error(
            request,
            status=413,
            sentence=f"What was sent has {int(length) / 1e6:.1f} MB; {most / 1e6:.0f} MB is the most. Nothing was "
            "changed. Export the course with fewer points, or split the table.",
        )
    return None
