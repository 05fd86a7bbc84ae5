"""Tables as people have them: CSV, pasted cells, or XLSX; read as text, never run."""

import csv
import io
import zipfile
import zlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any

from openpyxl import Workbook, load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from stonechat.core.kit.sheet import MOST_COLUMNS
from stonechat.errors import StonechatError, TooLarge, UnreadableFile
from stonechat.formats.csv_table import MOST_BYTES, plain_cell, sniffed_delimiter, table_text
from stonechat.text import clean_lines

MOST_ROWS = 5_000
MOST_LOOKED_AT = 50_000  # rows, empty ones too: a far cell of a spreadsheet may lie a million rows down
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
    text = table_text(data)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=sniffed_delimiter(text))
    rows = _Rows()
    try:
        for cells in reader:
            if not rows.take(tuple(cell.strip() for cell in cells[:MOST_COLUMNS])):
                break
    except csv.Error as exc:
        raise UnreadableFile(f"Row {reader.line_num}: {exc}. Save the table as CSV again.") from exc
    return Grid(rows=rows.whole())


class _Rows:
    """Rows as they are read: empty ones keep the numbers of the others, but count for nothing."""

    def __init__(self) -> None:
        self._rows: list[tuple[str, ...]] = []
        self._last = 0  # number of the last row that says something
        self._said = 0

    def take(self, cells: tuple[str, ...]) -> bool:
        """Take a row; False where nothing more is to be read."""
        if any(cells):
            if self._said == MOST_ROWS:
                raise TooLarge(f"The table has more than {MOST_ROWS:,} rows. Split it, or delete what is no kit.")
            self._said += 1
            self._last = len(self._rows) + 1
        self._rows.append(cells if any(cells) else ())
        return len(self._rows) < MOST_LOOKED_AT

    def whole(self) -> tuple[tuple[str, ...], ...]:
        """Return all rows to the last that says something."""
        return tuple(self._rows[: self._last])


def _read_xlsx(data: bytes) -> Grid:
    notes = _looked_into(data)
    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True, keep_links=False)
        sheets = [sheet for sheet in book.worksheets if (sheet.max_row or 1) > 0]
        rows = _sheet_rows(sheets[0], notes) if sheets else _Rows()
        if sheets and len(book.worksheets) > 1:
            more = len(book.worksheets) - 1
            notes.append(f"The first sheet, “{sheets[0].title[:40]}”, is read; {more} more are not.")
        book.close()
    except _DAMAGE as exc:
        if isinstance(exc, StonechatError):
            raise
        raise UnreadableFile("The file is no XLSX that can be read. Save it as XLSX or CSV again.") from exc
    return Grid(rows=rows.whole(), notes=tuple(notes))


def _sheet_rows(sheet: Any, notes: list[str]) -> _Rows:
    """Return the rows of a sheet; what is too far down is noted."""
    rows = _Rows()
    sheet.reset_dimensions()
    for cells in sheet.iter_rows(max_col=MOST_COLUMNS, values_only=True):
        if not rows.take(tuple(_text_of(cell) for cell in cells)):
            notes.append(f"What stands below row {MOST_LOOKED_AT:,} is not read.")
            break
    return rows


def _looked_into(data: bytes) -> list[str]:
    """Refuse a packed trap before anything is unpacked; return what should be said about the rest."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            _refuse_trap(packed.infolist(), len(data))
            return _noted(packed)
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
    return clean_lines(str(value)).strip()


def write_xlsx(title: str, header: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """Return a table as XLSX."""
    return write_book({title: (header, *rows)})


def write_book(sheets: Mapping[str, Iterable[Sequence[object]]]) -> bytes:
    """Return tables as the sheets of one XLSX workbook; a text that looks like a formula stays a text."""
    book = Workbook(write_only=True)
    for title, rows in sheets.items():
        sheet = book.create_sheet(title[:30])
        for row in rows:
            sheet.append([value if isinstance(value, float) else plain_cell(value) for value in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _refuse_trap(entries: list[zipfile.ZipInfo], size: int) -> None:
    """Refuse what unpacks to more than a kit list has, and what is no workbook."""
    total = sum(entry.file_size for entry in entries)
    if total > MOST_UNPACKED or total > MOST_PACKING * max(size, 50_000) or len(entries) > 2_000:
        raise TooLarge(
            f"The XLSX unpacks to {total / 1e6:.0f} MB, which no kit list has. Save the sheet as CSV instead."
        )
    if "xl/workbook.xml" not in {entry.filename for entry in entries}:
        raise UnreadableFile("The file is packed, but is no XLSX workbook. Save it as XLSX or CSV.")


def _noted(packed: zipfile.ZipFile) -> list[str]:
    """Return what should be said about macros and formulas."""
    names = set(packed.namelist())
    notes = []
    if any(name.endswith("vbaProject.bin") for name in names):
        notes.append("Its macros are not run and not kept.")
    sheets = [packed.read(name) for name in names if name.startswith("xl/worksheets/sheet")]
    if any(b"<f>" in sheet or b"<f " in sheet for sheet in sheets):
        notes.append("Formulas are taken by the values last computed; a cell never computed is empty.")
    return notes
