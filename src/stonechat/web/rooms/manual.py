"""The manual: the pages for riders, shipped with the program."""

import re
from functools import cache
from importlib import resources

from fastapi import APIRouter
from fastapi.responses import Response
from markdown_it import MarkdownIt
from markupsafe import Markup

from stonechat.errors import NotFound
from stonechat.web.addresses import MANUAL, manual_address
from stonechat.web.respond import page

router = APIRouter()
_FOLDER = resources.files("stonechat").joinpath("manual")
FIRST = "README"


@cache
def pages() -> tuple[tuple[str, str, Markup], ...]:
    """Return every page: its key, its title and its text as HTML, the first one ahead."""
    names = sorted(entry.name.removesuffix(".md") for entry in _FOLDER.iterdir() if entry.name.endswith(".md"))
    names.remove(FIRST)
    return tuple(_page(name) for name in (FIRST, *names))


def _page(name: str) -> tuple[str, str, Markup]:
    text = _FOLDER.joinpath(f"{name}.md").read_text("utf-8")
    title = text.splitlines()[0].lstrip("# ").strip()
    text = re.sub(r"^!\[[^]]*\]\([^)]*\)\n+", "", text, flags=re.MULTILINE)  # who reads it here has the room itself
    html = MarkdownIt("commonmark", {"html": False}).enable("table").render(text)
    # pages name one another as files; here they are addresses
    html = re.sub(r'href="(\w[\w-]*)\.md(#[\w-]*)?"', lambda m: f'href="{manual_address(m[1])}{m[2] or ""}"', html)
    html = re.sub(r'<a href="\.\./[^"]*">(.*?)</a>', r"\1", html)  # what is for builders is not shipped
    return name, title, Markup(html)  # noqa: S704  our own pages, and HTML in them is not passed on


@router.get(MANUAL)
def contents() -> Response:
    """Show the first page."""
    return manual_page(FIRST)


@router.get(MANUAL + "/{name}")
def manual_page(name: str) -> Response:
    """Show a page."""
    found = next((entry for entry in pages() if entry[0] == name), None)
    if found is None:
        raise NotFound(f"The manual has no page “{name[:40]}”. Choose one from its contents at {MANUAL}.")
    entries = tuple((title, manual_address(key), key == name) for key, title, _ in pages())
    return page("manual/page.html", title=found[1], html=found[2], entries=entries)
