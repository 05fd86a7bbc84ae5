"""What stands around every answer: headers that keep a page to itself, refusal of what comes from elsewhere, is too
large or too slow, and a count of what was kept on behalf of the request."""

import asyncio
import time
from urllib.parse import urlsplit

from fastapi import Request
from fastapi.responses import Response
from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from stonechat.services.workspace import COMMITS, Commits
from stonechat.web.errors import answer_error

_HEADERS = {
    "Content-Security-Policy": "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; manifest-src 'self'; form-action 'self'; base-uri 'none'; "
    "frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}
_LOCAL_HOSTS = frozenset({"127.0.0.1", "localhost", "[::1]"})
_FORM_BYTES = 7_000_000  # what a request without a file may hold: a table of 2 MB pasted, as a form writes it
_MOST_DROPPED = 300_000_000  # bytes
_SLACK = 100_000  # bytes of wrapping around a file
_SILENCE_S = 15.0  # between two pieces of what is sent
_SLOWEST = 20_000  # bytes a second, over all of what is sent
_GRACE_S = 15.0


class Guard:
    """Wraps the whole program, so that its headers are on every answer, also where the program fails."""

    def __init__(self, app: ASGIApp, *, upload_limit: float) -> None:
        self._app = app
        self._upload_limit = upload_limit  # bytes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        COMMITS.set(Commits())
        body = _PatientReceive(receive)

        async def send_with_headers(message: Message) -> None:
            if body.is_given_up:
                return  # the program's word about a request cut short; ours follows
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers.setdefault(name, value)
            await send(message)

        refusal = _refusal(Request(scope), self._upload_limit)
        if refusal is None:
            await self._app(scope, body, send_with_headers)
            if body.is_given_up:
                body.is_given_up = False
                await _too_slow(Request(scope))(scope, body, send_with_headers)
            return
        if refusal.status_code != _MALFORMED:
            await _let_go_by(body)
        await refusal(scope, body, send_with_headers)


_MALFORMED = 400


class _PatientReceive:
    """Takes in what a client sends; one that keeps silent, or sends next to nothing for long, is given up.

    To the program that looks as if the client had left.
    """

    def __init__(self, receive: Receive) -> None:
        self._receive = receive
        self._began = time.monotonic()
        self._bytes = 0
        self._is_whole = False
        self.is_given_up = False

    async def __call__(self) -> Message:
        if self._is_whole:  # from here on one waits for the client to leave, for as long as the answer takes
            return await self._receive()
        allowed = _GRACE_S + self._bytes / _SLOWEST - (time.monotonic() - self._began)
        try:
            message = await asyncio.wait_for(self._receive(), max(0.01, min(_SILENCE_S, allowed)))
        except TimeoutError:
            self._is_whole = self.is_given_up = True
            return {"type": "http.disconnect"}
        self._bytes += len(message.get("body", b""))
        self._is_whole = not message.get("more_body", False)
        return message


async def _let_go_by(receive: Receive) -> None:
    """Take in what is still being sent and drop it, so that the browser reads the answer; give up past a limit."""
    seen, more = 0, True
    while more and seen <= _MOST_DROPPED:
        message = await receive()
        seen += len(message.get("body", b""))
        more = message.get("more_body", False)


def _too_slow(request: Request) -> Response:
    sentence = "What was sent came too slowly and was given up; nothing was changed. Send it again."
    answer = answer_error(request, status=408, sentence=sentence)
    answer.headers["Connection"] = "close"
    return answer


def _refusal(request: Request, upload_limit: float) -> Response | None:
    """Return why a request is not let in, or None."""
    name = request.headers.get("host", "").rsplit(":", 1)[0] or "none"
    if name not in _LOCAL_HOSTS:
        return answer_error(request, status=421, sentence=f"This program answers on loopback only, not as {name[:80]}.")
    if request.method in ("GET", "HEAD"):
        return None
    if not _is_from_our_pages(request):
        return answer_error(request, status=403, sentence="A change may only be sent by this program's own pages.")
    return _wrong_length(request, upload_limit)


def _is_from_our_pages(request: Request) -> bool:
    origin = request.headers.get("origin")
    if origin is not None and urlsplit(origin).netloc != request.headers.get("host", ""):
        return False
    return request.headers.get("sec-fetch-site", "same-origin") in ("same-origin", "none")


def _wrong_length(request: Request, upload_limit: float) -> Response | None:
    length = request.headers.get("content-length")
    if length is not None and "transfer-encoding" in request.headers:
        sentence = "The request tells its length in two ways that may disagree. Send it with one."
        refused = answer_error(request, status=_MALFORMED, sentence=sentence)
        refused.headers["Connection"] = "close"
        return refused
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
