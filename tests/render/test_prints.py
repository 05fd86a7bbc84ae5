"""Prints: every letter has a face or is named, no row is cut, no page is blank."""

import io
import re
from itertools import pairwise

import pytest
from pypdf import PageObject, PdfReader

from stonechat.core.plan.printing import PAPERS, STRIPS, PrintRule
from stonechat.render.documents import faces
from stonechat.render.documents.cards import BarStrip, StripRow
from stonechat.render.documents.print_set import PrintSet, set_pdf
from stonechat.render.documents.strips import strip_sheets

# a name in each script, and the face that must be in the print for it
NAMES = {
    "Polish": ("Wrocław – Łódź", "ext"),
    "Czech": ("Žďár", "ext"),
    "Greek": ("Αθήνα", "other-sans-greek"),
    "Cyrillic": ("Београд", "other-sans-cyrillic"),
    "Hebrew": ("ירושלים", "other-sans-hebrew-hebrew"),
    "Arabic": ("القاهرة", "other-sans-arabic-arabic"),
    "Thai": ("กรุงเทพ", "other-sans-thai-thai"),
    "Georgian": ("თბილისი", "other-sans-georgian-georgian"),
    "Armenian": ("Երևան", "other-sans-armenian-armenian"),
    "Devanagari": ("नमस्ते", "other-sans-devanagari"),
    "Vietnamese": ("Đà Nẵng", "other-sans-vietnamese"),
    "emoji": ("🚰 tap 🏪 ⛺ ☕", "other-emoji-emoji"),
    "symbols": ("✚ ⚠ ★ ♨ ☎ → ½ °", "other-sans-symbols-2-symbols"),
}
JOINED = {"Arabic", "Devanagari", "Thai"}  # letters that melt into shapes; a reader of the print sees the shapes only


def row(number: int, name: str) -> StripRow:
    return StripRow(
        name=name,
        km=12.3 * number,
        leg_km=12.3,
        climb=211.0,
        when=f"D{number:03d} 12:30",
        hours=3600.0,
        offers="water, meal, shop, bed, socket, toilet",
        leave_water=1.2,
        leave_food=1234.0,
        must=number % 7 == 0,
        dark=number % 5 == 0,
        shut=number % 11 == 0,
        door="till 20:00",
        cut_off="",
        rest=0.0,
    )


def strip_pdf(card: BarStrip, rule: PrintRule = PrintRule()) -> bytes:  # noqa: B008
    made = PrintSet(plan=card.plan, variant=card.variant, rule=rule, strips=strip_sheets(card, rule),
                    maps=(), packing=None, sheets=(), first="strip")  # fmt: skip
    return set_pdf(made)


def printed(*names: str) -> PdfReader:
    rows = tuple(row(k, name) for k, name in enumerate(names))
    card = BarStrip(plan="Long", variant="A", start="Fri", leave_water=1.0, leave_food=2000.0, rows=rows)
    return PdfReader(io.BytesIO(strip_pdf(card)))


MM = 72.0 / 25.4  # pt


def words_at(page: PageObject) -> list[tuple[str, float, float]]:
    """Words of a page, with mm from its left and its upper end."""
    found: list[tuple[str, float, float]] = []
    height = float(page.mediabox.height)

    def seen(text: str, outer: list[float], inner: list[float], *_: object) -> None:
        x = inner[4] * outer[0] + inner[5] * outer[2] + outer[4]
        y = inner[4] * outer[1] + inner[5] * outer[3] + outer[5]
        if text.strip():
            found.append((text.strip(), x / MM, (height - y) / MM))

    page.extract_text(visitor_text=seen)
    return found


@pytest.mark.parametrize(("paper", "strip", "two_sided"), [
    ("A4", "bar", True), ("A4", "stem", False), ("A5", "aero", True), ("letter", "top_tube", True), ("A5", "bar", True),
])  # fmt: skip
def test_every_piece_of_a_strip_lies_inside_its_marks(paper: str, strip: str, two_sided: bool) -> None:
    rows = tuple(row(k, f"Stop number {k}") for k in range(60))
    card = BarStrip(plan="Long", variant="A", start="Fri", leave_water=1.0, leave_food=2000.0, rows=rows)
    rule = PrintRule(paper=paper, strip=strip, two_sided=two_sided)
    sheets = strip_sheets(card, rule)
    reader = PdfReader(io.BytesIO(strip_pdf(card, rule)))
    _, width, length = STRIPS[strip]
    assert (sheets.width, sheets.length) == (width, length)
    step, told = (2 if two_sided else 1), set()
    for k, sheet in enumerate(sheets.sheets):
        words = words_at(reader.pages[k * step])
        for piece in sheet:
            left, top = rule.margin + piece.x, rule.margin + piece.y
            inside = [w for w, x, y in words if left <= x < left + width and top < y <= top + length]
            told |= set(re.findall(r"D\d{3} 12:30", " ".join(inside)))
            assert any(f"{piece.number} of {sheets.count}" in w for w in inside)
            right, bottom = left + width, top + length
            _, paper_width, paper_height = PAPERS[paper]
            assert right <= paper_width - rule.margin + 0.1 and bottom <= paper_height - rule.margin + 0.1
    assert len(told) == 60
    # a back lies beside its front, so that a fold between them makes the piece
    for sheet in sheets.sheets:
        for front, back in pairwise(sheet):
            if back.is_back:
                assert (back.x - front.x, back.y) == pytest.approx((width, front.y))
    if paper == "A5" and strip == "aero":
        assert sheets.too_wide and "too wide for this paper" in " ".join(reader.pages[0].extract_text().split())


def used_faces(reader: PdfReader) -> set[str]:
    """Names of the faces that are in a print."""
    found = set()
    for page in reader.pages:
        for entry in page["/Resources"]["/Font"].values():  # type: ignore[index]
            found.add(str(entry.get_object()["/BaseFont"]).partition("+")[2])
    return found


@pytest.fixture(scope="module")
def worldwide() -> PdfReader:
    """A strip with all those names."""
    return printed(*(name for name, _ in NAMES.values()))


@pytest.mark.parametrize("script", sorted(NAMES))
def test_every_script_that_ships_is_set_in_a_face_that_ships(worldwide: PdfReader, script: str) -> None:
    name, face = NAMES[script]
    assert faces.missing([name]) == ""
    ours = {file.removesuffix(".woff2") for file in faces.files()}
    used = used_faces(worldwide)
    assert all(f in ours or f.startswith(("text", "figures")) for f in used)  # none of this machine's own
    assert any(face in f for f in used)
    text = "".join(page.extract_text() for page in worldwide.pages)
    assert "No face that ships" not in text
    if script not in JOINED:
        assert set(name.replace(" ", "")) <= set(text)


def test_what_no_face_holds_is_named_in_the_print() -> None:
    text = printed("漢 tap").pages[0].extract_text()
    assert "漢" not in text
    assert "U+6F22 (cjk unified ideograph-6f22)" in " ".join(text.split())


def test_a_long_strip_begins_on_its_first_page_and_cuts_no_row() -> None:
    reader = printed(*(f"Stop number {k} {'with a long name ' * (k % 4)}" for k in range(300)))
    pages = [" ".join(page.extract_text().split()) for page in reader.pages]
    assert "Stop number 0 " in pages[0] and len(pages) > 4
    for number in range(300):
        on = [k for k, page in enumerate(pages) if f"D{number:03d} 12:30" in page]
        named = [k for k, page in enumerate(pages) if f"Stop number {number} " in page]
        assert on == named and len(on) == 1


def test_the_faces_are_known_to_the_style() -> None:
    assert len(frozenset().union(*map(faces.held_by, faces.files()))) > 7_000
    assert all(f'url("{name}")' in faces.style(faces.files()) for name in faces.files())


@pytest.mark.parametrize("script", sorted(NAMES))
def test_a_print_reads_the_faces_that_hold_its_words_and_no_others(script: str) -> None:
    name, face = NAMES[script]
    plain = faces.needed(["Ford – 12 °C, half a mile"])
    assert all(file.startswith(("text-", "figures-")) for file in plain) and len(plain) == 4
    asked = faces.needed([name])
    assert set(plain) < set(asked) < set(faces.files()) and any(face in file for file in asked)
    held = frozenset().union(*map(faces.held_by, asked))
    assert {ord(mark) for mark in name if ord(mark) > 0x7E} <= held
