"""Tables as CSV: what every one of them shares. Units in the header; the first bad cell is named by row and column."""

import csv
import io
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence

from stonechat.core.plan.limits import LIMITS
from stonechat.errors import InvalidInput, TooLarge, UnreadableFile
from stonechat.formats.numbers import parse_number
from stonechat.text import clean_lines

MOST_ROWS = 5_000
MOST_BYTES = 4_000_000
_YES = frozenset({"yes", "y", "true", "1", "x"})
_NO = frozenset({"", "no", "n", "false", "0", "-"})
_FORMULA_MARKS = ("=", "+", "-", "@", "＝", "＋", "－", "＠")  # also behind blanks, tabs and returns
Row = Mapping[str, str]


def read_table(
    data: bytes, *, columns: Sequence[str], needed: Sequence[str], ignored: Collection[str] = (),
    most_rows: int = MOST_ROWS,
) -> Iterator[tuple[int, Row]]:  # fmt: skip
    """Yield the rows of a CSV table with their numbers, the header being row 1; commas, semicolons or tabs."""
    if len(data) > MOST_BYTES:
        raise TooLarge(f"The table has {len(data) / 1e6:.1f} MB; {MOST_BYTES / 1e6:.0f} MB is the most.")
    text = table_text(data)
    if not text.strip():
        raise UnreadableFile("The table is empty. Save it as CSV and bring it in again.")
    reader = csv.reader(io.StringIO(text), delimiter=sniffed_delimiter(text))
    header = [name.strip().lower() for name in next(reader)]
    refuse_header(header, columns=columns, needed=needed, ignored=ignored)
    try:
        for number, cells in enumerate(reader, start=2):
            if number > most_rows + 1:
                raise TooLarge(f"The table has more than {most_rows:,} rows. Split it.")
            if any(cell.strip() for cell in cells):
                yield number, dict(zip(header, cells, strict=False))
    except csv.Error as exc:
        raise UnreadableFile(f"Row {reader.line_num}: {exc}. Save the table as CSV again.") from exc


def table_text(data: bytes) -> str:
    """Return the text of a table: UTF-8, UTF-16 by its mark, else the usual Western code page; lines end one way."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        text = data.decode("utf-16", errors="replace")
    else:
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError:
            text = data.decode("cp1252", errors="replace")
    if "\x00" in text:
        raise UnreadableFile("The table is not text. Save it as CSV or XLSX and bring it in again.")
    return clean_lines(text)


def sniffed_delimiter(text: str) -> str:
    """Return the semicolon, tab or comma that parts most cells in the first lines; commas may also be decimal."""
    lines = text.strip().splitlines()[:30]
    return max(";\t,", key=lambda mark: sum(line.count(mark) for line in lines))


def cell(row: Row, column: str) -> str:
    """Return a cell without the blanks around it; empty where it is missing."""
    return row.get(column, "").strip()


def number_cell(
    number: int,
    row: Row,
    column: str,
    *,
    unit: str = "",
    limit: str,
    factor: float = 1.0,
    default: float | None = None,
) -> float:
    """Return a figure within its limits, in the column's unit."""
    text = cell(row, column)
    if not text and default is not None:
        return default
    try:
        value = parse_number(text, unit=unit)
    except InvalidInput as exc:
        raise UnreadableFile(f"Row {number}, column {column}: {exc.message}", subject=column) from exc
    low, high = (bound * factor for bound in LIMITS[limit])
    if not low <= value <= high:
        named = f" ({cell(row, 'name')[:40]})" if cell(row, "name") else ""
        raise UnreadableFile(
            f"Row {number}, column {column}: {text} is outside {low:g} to {high:g} {unit}".rstrip()
            + f"{named}. Check the unit.",
            subject=column,
        )
    return value


def flag_cell(number: int, row: Row, column: str, *, default: bool = False) -> bool:
    """Return yes or no."""
    text = cell(row, column).lower()
    if not text and default:
        return True
    if text in _YES:
        return True
    if text in _NO:
        return False
    raise UnreadableFile(f"Row {number}, column {column}: write yes or no, not “{text[:20]}”.", subject=column)


def choice_cell(number: int, row: Row, column: str, known: Collection[str], default: str = "") -> str:
    """Return one of several words."""
    text = cell(row, column).lower() or default
    if text not in known:
        raise UnreadableFile(
            f"Row {number}, column {column}: “{text[:20]}” is not one of {', '.join(known)}.", subject=column
        )
    return text


def write_table(columns: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """Return a CSV table; texts that a spreadsheet would take for a formula are kept from it."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(columns)
    writer.writerows([plain_cell(value) for value in row] for row in rows)
    return out.getvalue().encode()


def plain_cell(value: object) -> object:
    """Return a value as a table holds it: yes or empty, plain decimals, no text that looks like a formula."""
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, float):
        return f"{value:.6f}".rstrip("0").rstrip(".")
    if isinstance(value, str) and value.lstrip()[:1] in _FORMULA_MARKS:
        return f" {value}"
    return value


def refuse_header(
    header: Sequence[str], *, columns: Sequence[str], needed: Sequence[str], ignored: Collection[str]
) -> None:
    """Refuse a header with a column that is not known, or without one that is needed."""
    for name in header:
        if name and name not in columns and name not in ignored:
            raise UnreadableFile(
                f"Row 1: the column “{name[:40]}” is not known. Known columns: {', '.join(columns)}.", subject=name
            )
    for wanted in needed:
        if wanted not in header:
            raise UnreadableFile(f"Row 1: the column “{wanted}” is missing.", subject=wanted)
