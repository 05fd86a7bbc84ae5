"""Bar strips: pieces of the size that fits, set on sheets with marks where to cut and where to fold."""

import io
from dataclasses import dataclass

from pypdf import PdfReader, PdfWriter, Transformation

from stonechat.core.plan.printing import PAPERS, STRIPS, PrintRule
from stonechat.render.documents.cards import BarStrip, as_pdf

_HEAD = 24.0  # mm of a sheet for its heading
_POINTS = 72.0 / 25.4  # pt per mm


@dataclass(frozen=True, kw_only=True)
class Piece:
    """Where one piece is on its sheet, in mm from where the margins end at the upper left."""

    x: float
    y: float
    number: int  # from 1
    is_back: bool  # folded behind the piece to its left


@dataclass(frozen=True, kw_only=True)
class StripSheets:
    """A bar strip on its sheets."""

    card: BarStrip
    width: float  # mm of a piece
    length: float  # mm
    count: int
    folded: bool  # whether pieces come in pairs, front and back
    too_wide: bool  # whether pairs were asked for and do not fit the paper
    sheets: tuple[tuple[Piece, ...], ...]
    pieces: bytes  # PDF, a page each


@dataclass(frozen=True, kw_only=True)
class _Pieces:
    """What the pieces themselves are made from."""

    strip: BarStrip
    rule: PrintRule
    width: float
    length: float


def strip_sheets(card: BarStrip, rule: PrintRule) -> StripSheets:
    """Return a bar strip in pieces, and where each is on its sheet."""
    _, paper_width, paper_height = PAPERS[rule.paper]
    _, width, length = STRIPS[rule.strip]
    room = paper_width - 2.0 * rule.margin, paper_height - 2.0 * rule.margin - _HEAD
    width, length = min(width, room[0]), min(length, room[1])
    pieces = as_pdf("documents/strip.html", _Pieces(strip=card, rule=rule, width=width, length=length), tells=False)
    count = len(PdfReader(io.BytesIO(pieces)).pages)
    folded = rule.two_sided and 2.0 * width <= room[0] and count > 1
    across = int(room[0] // (2.0 * width)) * 2 if folded else int(room[0] // width)
    on_one = across * max(1, int(room[1] // length))
    spots = [
        Piece(x=k % on_one % across * width, y=_HEAD + k % on_one // across * length, number=k + 1,
              is_back=folded and k % 2 == 1)
        for k in range(count)
    ]  # fmt: skip
    return StripSheets(
        card=card,
        width=width,
        length=length,
        count=count,
        folded=folded,
        too_wide=rule.two_sided and not folded and count > 1,
        sheets=tuple(tuple(spots[k : k + on_one]) for k in range(0, count, on_one)),
        pieces=pieces,
    )


def with_pieces(pdf: bytes, strips: StripSheets, rule: PrintRule) -> bytes:
    """Return a print whose first sheets, set with the marks alone, have the pieces on them."""
    writer, pieces = PdfWriter(clone_from=io.BytesIO(pdf)), PdfReader(io.BytesIO(strips.pieces)).pages
    step = 2 if rule.two_sided else 1  # the back of each sheet of strips stays empty
    for k, sheet in enumerate(strips.sheets):
        page = writer.pages[k * step]
        height = float(page.mediabox.height)
        for piece in sheet:
            x = (rule.margin + piece.x) * _POINTS
            y = height - (rule.margin + piece.y + strips.length) * _POINTS
            page.merge_transformed_page(pieces[piece.number - 1], Transformation().translate(x, y))
    writer.compress_identical_objects()
    out = io.BytesIO()
    writer.write(out)
    return out.getvalue()
