"""Tables as people have them: CSV, pasted cells, or XLSX; read as text, never run."""

import csv
import io
import zipfile
import zlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

from openpyxl import Workbook, load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from stonechat.errors import StonechatError, TooLarge, UnreadableFile
from stonechat.formats.csv_table import MOST_BYTES, plain_cell, sniffed_delimiter

MOST_ROWS = 5_000
MOST_COLUMNS = 60
MOST_UNPACKED = 60_000_000  # bytes of an XLSX once unpacked
# what the readers of packed XML raise on damaged files; malformed XML is a SyntaxError to all of them
_DAMAGE = (
    InvalidFileException, zipfile.BadZipFile, zlib.error, SyntaxError, LookupError, ValueError, TypeError,
    AttributeError, OSError, EOFError, NotImplementedError, RuntimeError, OverflowError,
)  # fmt: skip
MOST_PACKING = 200.0  # 1, unpacked for packed; more is a trap


@dataclass(frozen=True, kw_only=True)
class Grid:
    """Cells as text; the first row has number 1."""

    rows: tuple[tuple[str, ...], ...]
    notes: tuple[str, ...] = ()  # what should be said about the file


def read_grid(data: bytes) -> Grid:
    """Return the cells of a CSV, a paste or an XLSX file."""
    if len(data) > MOST_BYTES:
        raise TooLarge(f"The table has {len(data) / 1e6:.1f} MB; {MOST_BYTES / 1e6:.0f} MB is the most. Split it.")
    grid = _read_xlsx(data) if data[:4] == b"PK\x03\x04" else _read_text(data)
    width = max((n for row in grid.rows for n, cell in enumerate(row, start=1) if cell), default=0)
    if not width:
        raise UnreadableFile("The table is empty. Put a name and a mass in each row and bring it in again.")
    return replace(grid, rows=tuple(row[:width] for row in grid.rows))


def _read_text(data: bytes) -> Grid:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    if "\x00" in text:
        raise UnreadableFile("The table is not text. Save it as CSV or XLSX and bring it in again.")
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=sniffed_delimiter(text))
    rows: list[tuple[str, ...]] = []
    try:
        for cells in reader:
            _refuse_many(len(rows))
            rows.append(tuple(cell.strip() for cell in cells[:MOST_COLUMNS]))
    except csv.Error as exc:
        raise UnreadableFile(f"Row {reader.line_num}: {exc}. Save the table as CSV again.") from exc
    return Grid(rows=tuple(rows))


def _refuse_many(count: int) -> None:
    if count >= MOST_ROWS:
        raise TooLarge(f"The table has more than {MOST_ROWS:,} rows. Split it, or delete what is no kit.")


def _read_xlsx(data: bytes) -> Grid:
    notes = _looked_into(data)
    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True, keep_links=False)
        sheet = next((s for s in book.worksheets if (s.max_row or 1) > 0), None)
        rows: list[tuple[str, ...]] = []
        if sheet is not None:
            sheet.reset_dimensions()
            for cells in sheet.iter_rows(max_col=MOST_COLUMNS, values_only=True):
                _refuse_many(len(rows))
                rows.append(tuple(_text_of(cell) for cell in cells))
            if len(book.worksheets) > 1:
                notes.append(
                    f"The first sheet, “{sheet.title[:40]}”, is read; {len(book.worksheets) - 1} more are not."
                )
        book.close()
    except _DAMAGE as exc:
        if isinstance(exc, StonechatError):
            raise
        raise UnreadableFile("The file is no XLSX that can be read. Save it as XLSX or CSV again.") from exc
    return Grid(rows=tuple(rows), notes=tuple(notes))


def _looked_into(data: bytes) -> list[str]:
    """Refuse a packed trap before anything is unpacked; return what should be said about the rest."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            entries = packed.infolist()
            total = sum(entry.file_size for entry in entries)
            if total > MOST_UNPACKED or total > MOST_PACKING * max(len(data), 50_000) or len(entries) > 2_000:
                raise TooLarge(
                    f"The XLSX unpacks to {total / 1e6:.0f} MB, which no kit list has. Save the sheet as CSV instead."
                )
            names = {entry.filename for entry in entries}
            if "xl/workbook.xml" not in names:
                raise UnreadableFile("The file is packed, but is no XLSX workbook. Save it as XLSX or CSV.")
            notes = []
            if any(name.endswith("vbaProject.bin") for name in names):
                notes.append("Its macros are not run and not kept.")
            sheets = [name for name in names if name.startswith("xl/worksheets/sheet")]
            if any(b"<f>" in packed.read(name) or b"<f " in packed.read(name) for name in sheets):
                notes.append("Formulas are taken by the values last computed; a cell never computed is empty.")
            return notes
    except _DAMAGE as exc:
        if isinstance(exc, StonechatError):
            raise
        raise UnreadableFile("The XLSX is damaged. Save it again and bring it in.") from exc


def _text_of(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.9g}"
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value).strip()


def write_xlsx(title: str, header: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """Return a table as XLSX; a text that looks like a formula stays a text."""
    book = Workbook(write_only=True)
    sheet = book.create_sheet(title[:30])
    sheet.append(list(header))
    for row in rows:
        sheet.append([plain_cell(value) for value in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
