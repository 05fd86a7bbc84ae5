"""Units and clock as the reader has chosen them: kept in a cookie, in force for each answer."""

from collections.abc import Awaitable, Callable
from urllib.parse import urlsplit

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from stonechat.errors import InvalidInput
from stonechat.render.measures import Measures, reading_in
from stonechat.web.addresses import MEASURES, PLANS
from stonechat.web.rooms.common import SentForm

router = APIRouter()
_COOKIE, _TEN_YEARS = "stonechat_measures", 315_360_000  # s
_CHOICES = {"units": ("metric", "imperial"), "clock": ("24", "12")}


def chosen(request: Request) -> Measures:
    """Return what this reader has chosen; what is not understood counts as not chosen."""
    units, _, hours = request.cookies.get(_COOKIE, "").partition("-")
    return Measures(imperial=units == "imperial", twelve_hours=hours == "12")


async def in_chosen_measures(request: Request, proceed: Callable[[Request], Awaitable[Response]]) -> Response:
    """Answer in the reader's units and clock."""
    with reading_in(chosen(request)):
        return await proceed(request)


@router.post(MEASURES)
def choose(request: Request, sent: SentForm) -> Response:
    """Keep units and clock, and go back to the page that asked."""
    for name, keys in _CHOICES.items():
        if sent.text(name) not in keys:
            raise InvalidInput(f"{name}: one of {' or '.join(keys)} is needed.", subject=name)
    asked = urlsplit(request.headers.get("referer", ""))
    is_ours = asked.netloc == request.headers.get("host") and asked.path.startswith("/")
    back = f"{asked.path}?{asked.query}" if asked.query else asked.path
    response = RedirectResponse(back if is_ours else PLANS, status_code=303)
    value = f"{sent.text('units')}-{sent.text('clock')}"
    response.set_cookie(_COOKIE, value, max_age=_TEN_YEARS, httponly=True, samesite="strict")
    return response
