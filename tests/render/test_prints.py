"""Prints: every letter has a face or is named, no row is cut, no page is blank."""

import io

import pytest
from pypdf import PdfReader

from stonechat.render.documents import faces
from stonechat.render.documents.cards import BarStrip, StripRow, strip_pdf

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
        cut_off="",
        rest=0.0,
    )


def printed(*names: str) -> PdfReader:
    rows = tuple(row(k, name) for k, name in enumerate(names))
    card = BarStrip(plan="Long", variant="A", start="Fri", leave_water=1.0, leave_food=2000.0, rows=rows)
    return PdfReader(io.BytesIO(strip_pdf(card)))


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
    assert len(faces.covered()) > 7_000
    assert all(f'url("{name}")' in faces.style() for name in faces.files())
