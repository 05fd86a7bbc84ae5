"""What the Cards room shows."""

from dataclasses import dataclass

from fastapi.responses import JSONResponse, Response

from stonechat.errors import NotFound
from stonechat.render.documents.pack import PackPage, manifest, pack_data, pack_page, service_worker
from stonechat.render.documents.print_set import MOST_PAGES, page_count, print_set, set_pdf
from stonechat.render.filters import percent
from stonechat.services.kept import Kept
from stonechat.services.late import late_of, late_run
from stonechat.services.sharing import shares_of
from stonechat.services.work import RunState
from stonechat.web.addresses import SHARED
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm, FieldView
from stonechat.web.forms.cards import EmergencyForm, PrintForm, print_values
from stonechat.web.static_files import FOLDER

EMERGENCY, FILES, PACK = "emergency", "files", "pack"
_TABS = (("", "Print"), (EMERGENCY, "Emergency page"), (FILES, "Files"), (PACK, "On the phone"))
_HOW = ("strip_for", "paper", "type_size", "margin", "two_sided", "bold")
_PRINTS: Kept[bytes] = Kept(16)
_PACKS: Kept[PackPage] = Kept(8)


@dataclass(frozen=True, kw_only=True)
class FileLink:
    """A file that is given out."""

    name: str
    address: str
    words: str


@dataclass(frozen=True, kw_only=True)
class ShareRow:
    """A link that was given out."""

    address: str
    made: str
    back_address: str


@dataclass(frozen=True, kw_only=True)
class CardsView:
    """The Cards room."""

    tab: str
    tabs: tuple[tuple[str, str, bool], ...]
    form: BoundForm[PrintForm]
    which: tuple[FieldView, ...]
    how: tuple[FieldView, ...]
    form_address: str
    pdf_address: str
    pages_address: str
    emergency: BoundForm[EmergencyForm]
    emergency_address: str
    lacks_emergency: bool
    files: tuple[FileLink, ...]
    pack: "PackMaking | None"
    shares: tuple[ShareRow, ...]
    share_address: str


@dataclass(frozen=True, kw_only=True)
class PackMaking:
    """The pack, or how far its making is."""

    page_address: str
    file_address: str
    make_address: str
    watch_address: str
    is_made: bool
    share: str  # how much of it is done, empty where it is not being made
    waits_for_worker: bool
    failed: str  # why there is none


def pack_making(desk: Desk) -> PackMaking:
    """Return where the pack of a variant stands."""
    run = late_run(desk.workspace, desk.opened, desk.variant_id)
    active = run is not None and run.is_active
    reasons = (run.result or {}).get("reasons", ()) if run is not None and run.state == RunState.FAILED else ()
    share = run.figure("share") if run is not None else 0.0
    return PackMaking(
        page_address=desk.do("pack", ""),
        file_address=desk.do("pack.html"),
        make_address=desk.do("pack-make"),
        watch_address=desk.do("pack-making", leg=desk.leg),
        is_made=(desk.opened.content, desk.variant_id) in _PACKS or (run is not None and run.state == RunState.DONE),
        share=percent(share if share == share else 0.0) if active else "",
        waits_for_worker=run is not None and run.waits_for_worker,
        failed=" ".join(reasons),
    )


def printed(desk: Desk) -> bytes:
    """Return the print of a variant as PDF, kept while the plan stands so."""
    key = (desk.opened.content, desk.variant_id)
    return _PRINTS.of(key, lambda: set_pdf(print_set(desk.opened.plan, desk.variant, desk.evaluation.ridden)))


def pack_of(desk: Desk) -> PackPage:
    """Return the offline pack of a variant, kept while the plan stands so."""

    def made() -> PackPage:
        ridden = desk.evaluation.ridden
        late = late_of(desk.workspace, desk.opened, desk.variant_id, ridden)
        return pack_page(pack_data(desk.opened.plan, desk.variant, ridden, late))

    return _PACKS.of((desk.opened.content, desk.variant_id), made)


def cards_view(desk: Desk) -> CardsView:
    """Return what the Cards room shows."""
    tab = desk.look.tab if desk.look.tab in dict(_TABS) else ""
    form = desk.form("print", PrintForm, print_values(desk.variant.printing))
    fields = form.fields
    return CardsView(
        tab=tab,
        tabs=tuple((name, desk.at(tab=key), key == tab) for key, name in _TABS),
        form=form,
        which=tuple(entry for entry in fields if entry.name not in _HOW),
        how=form.named(*_HOW),
        form_address=desk.do("cards-print"),
        pdf_address=desk.do("cards.pdf"),
        pages_address=desk.do("cards-pages"),
        emergency=desk.form("emergency", EmergencyForm, desk.opened.plan.emergency),
        emergency_address=desk.do("cards-emergency"),
        lacks_emergency="emergency" in desk.variant.printing.cards and not desk.opened.plan.emergency,
        files=_files(desk),
        pack=pack_making(desk) if tab == PACK else None,
        shares=_shares(desk) if tab == PACK else (),
        share_address=desk.do("cards-share"),
    )


def pack_answer(desk: Desk) -> Response:
    """Answer with the pack as a page that may run its own script, and nothing else."""
    page = pack_of(desk)
    headers = {"Content-Security-Policy": page.policy, "Cache-Control": "no-cache"}
    return Response(page.html, media_type="text/html; charset=utf-8", headers=headers)


def pack_neighbour(part: str, name: str) -> Response:
    """Answer with what the pack's page asks for beside itself: its worker, its manifest, its mark."""
    if part == "worker.js":
        return Response(service_worker(), media_type="text/javascript", headers={"Cache-Control": "no-cache"})
    if part == "manifest.webmanifest":
        return JSONResponse(manifest(name), media_type="application/manifest+json")
    if part == "mark.svg":
        return Response((FOLDER / "mark.svg").read_bytes(), media_type="image/svg+xml")
    raise NotFound(f"The pack has no part “{part[:40]}”.", subject=part)


def pages_of(desk: Desk) -> tuple[tuple[str, ...], int]:
    """Return the addresses of the pictures of a print, and how many pages more there are."""
    count = page_count(printed(desk))
    shown = range(min(count, MOST_PAGES))
    return tuple(desk.do("cards-page", str(k + 1), at=desk.opened.content[:12]) for k in shown), count - len(shown)


def _shares(desk: Desk) -> tuple[ShareRow, ...]:
    return tuple(
        ShareRow(
            address=f"{SHARED}/{share.token}/",
            made=f"{share.made_at:%d %b %Y}",
            back_address=desk.do("cards-share", share.token, "back"),
        )
        for share in shares_of(desk.workspace, desk.opened.id, desk.variant_id)
    )


def _files(desk: Desk) -> tuple[FileLink, ...]:
    return (
        FileLink(name="Course for a device, FIT", address=desk.do("course.fit"),
                 words="course points for every stop, so that the device warns of it"),
        FileLink(name="Course for a device, TCX", address=desk.do("course.tcx"), words="the same, for older devices"),
        FileLink(name="Course and stops, GPX", address=desk.do("course.gpx"),
                 words="the recorded line, stops with hours and what to leave them with"),
        FileLink(name="Course, GeoJSON", address=desk.do("course.geojson"), words="for maps"),
        FileLink(name="Timetable, iCalendar", address=desk.do("timetable.ics"), words="stops, rests, cut-offs"),
        FileLink(name="All tables, XLSX", address=desk.do("tables.xlsx"),
                 words="timetable, stops, surfaces, weather, profile, kit"),
        FileLink(name="Kit, CSV", address=desk.do("kit.csv"), words="every column"),
        FileLink(name="Plan, JSON", address=desk.do("plan.json"), words="all of it; it can be brought in again"),
        FileLink(name="Schema of the plan file", address="/schema/plan.json", words="what its fields mean"),
    )  # fmt: skip
