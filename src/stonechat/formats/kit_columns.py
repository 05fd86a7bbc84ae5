"""What the columns of a kit table most likely mean: by the row that names them, else by what stands below."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from statistics import median

from stonechat.core.kit.lexicon.recognise import recognise
from stonechat.errors import InvalidInput
from stonechat.formats.kit_fields import BY_KEY, FIELDS, IGNORED, SKIP, UNIT_WORDS
from stonechat.formats.numbers import parse_number
from stonechat.formats.table_file import Grid

_LOOKED_AT = 12  # rows in which the names of the columns are looked for
_MASSES = frozenset({"mass_g", "measured_g", "mass_all_g", "claimed_g"})
_UNIT_CELL = re.compile(r"^[\[(]?(g|gr|grams?|kg|oz|lbs?|ml|l|mm|cm|in|pcs|#|%)[\])]?$", re.IGNORECASE)


@dataclass(frozen=True, kw_only=True)
class Column:
    """What one column is taken for."""

    index: int
    header: str
    field: str  # key of BY_KEY, or SKIP
    unit: str = ""
    sample: str = ""


@dataclass(frozen=True, kw_only=True)
class TableMapping:
    """How a table is read."""

    header_row: int  # number of the row that names the columns; 0: none does
    columns: tuple[Column, ...]


def guess_mapping(grid: Grid) -> TableMapping:
    """Return what the columns of a table most likely mean, from its header and what stands below it."""
    header = _header_row(grid)
    names = grid.rows[header - 1] if header else ()
    units: Sequence[str] = ()
    if header and header < len(grid.rows) and _is_unit_row(grid.rows[header]):
        units = grid.rows[header]
        header += 1
    width = max((len(row) for row in grid.rows), default=0)
    body = grid.rows[header:]
    taken: set[str] = set()
    columns = []
    for index in range(width):
        column = _by_header(index, *(row[index] if index < len(row) else "" for row in (names, units)), body=body)
        columns.append(replace(column, field=SKIP) if column.field in taken else column)
        taken |= {column.field} - {SKIP}
    if "name" not in taken or not taken & _MASSES:
        columns = _by_content(columns, body)
    return TableMapping(header_row=header, columns=tuple(_with_unit(column, body) for column in columns))


def _is_unit_row(row: Sequence[str]) -> bool:
    cells = [cell for cell in row if cell]
    return bool(cells) and all(_UNIT_CELL.match(cell) for cell in cells)


def _header_row(grid: Grid) -> int:
    """Return the number of the row that names the columns; of two such rows that follow one another, the second."""
    for number, row in enumerate(grid.rows[:_LOOKED_AT], start=1):
        if _is_header(row):
            following = grid.rows[number] if number < len(grid.rows) else ()
            return number + 1 if _is_header(following) else number
    return 0


def _is_header(row: Sequence[str]) -> bool:
    if any(re.match(r"^[\d.,]+$", cell) for cell in row):  # a row with figures in it holds things
        return False
    said = [field_of(cell) for cell in row if cell]
    known = set(said) - {SKIP}
    if len(said) == len(known) >= 2 and known & _MASSES:  # nothing above the names, but the rest is told
        return True
    return ("name" in known and len(known) >= 2) or len(known) >= 3


def plain_header(header: str) -> str:
    """Return a header in lower case without brackets and underscores."""
    return re.sub(r"[\[\](){}:*]", " ", header.lower().replace("_", " ")).strip()


def field_of(header: str) -> str:
    """Return the field that a header names, SKIP where it names none."""
    exact = header.strip().lower()
    if exact in BY_KEY:
        return exact
    if exact in IGNORED or len(exact) > 40:
        return SKIP
    plain = plain_header(header)
    return next((field.key for field in FIELDS if re.search(field.words, plain)), SKIP)


def _filled(body: Sequence[Sequence[str]], index: int) -> list[str]:
    """Return the cells of a column that hold something."""
    return [row[index] for row in body if index < len(row) and row[index]]


def _by_header(index: int, name: str, unit: str, *, body: Sequence[Sequence[str]]) -> Column:
    """Return a column by its name and the unit below it."""
    cells = _filled(body, index)
    return Column(
        index=index,
        header=f"{name} ({unit})" if name and unit else name or unit,
        field=field_of(f"{name} {unit}".strip()) if name or unit else SKIP,
        sample=cells[0] if cells else "",
    )


def _by_content(columns: list[Column], body: Sequence[Sequence[str]]) -> list[Column]:
    """Take for the name the column with most things that are known, for the mass the fullest of figures."""
    fields = {column.field for column in columns}
    cells = {column.index: _filled(body, column.index) for column in columns if column.field in (SKIP, "name")}
    figures = {index: sum(1 for cell in there if _is_figure(cell)) for index, there in cells.items()}
    found = list(columns)
    words = {k: there for k, there in cells.items() if there and figures[k] < 0.3 * len(there)}
    if "name" not in fields and words:
        best = max(words, key=lambda k: (_known_things(words[k]), -k))
        found[best] = replace(found[best], field="name")
    full = {k: n for k, n in figures.items() if n > 0.6 * len(cells[k]) and found[k].field == SKIP}
    if not fields & _MASSES and full:
        first = max(full, key=lambda k: (full[k] > 0.5 * max(full.values()), -k))
        found[first] = replace(found[first], field="mass_g")
    return found


def _known_things(cells: Sequence[str]) -> int:
    """Return how many of the first cells are things that are known."""
    return sum(recognise(cell[:80]).kind is not None for cell in cells[:200])


def _is_figure(cell: str) -> bool:
    return re.match(r"^(ca\.?|~|≈)?\s*[\d.,]+\s*\D{0,5}$", cell) is not None


# unit that figures without one are in where they are this small for the field's own (estimates)
_LARGER = {"g": ("kg", 1.5), "ml": ("l", 12.0)}


def _with_unit(column: Column, body: Sequence[Sequence[str]]) -> Column:
    """Return a column with its unit: by its header, else by what the figures are like."""
    field = BY_KEY.get(column.field)
    if field is None or field.unit not in UNIT_WORDS:
        return replace(column, unit=field.unit if field else "")
    plain = plain_header(column.header)
    named = next((unit for unit, words in UNIT_WORDS[field.unit] if re.search(words, plain)), None)
    if named is not None:
        return replace(column, unit=named)
    values = [_figure(row[column.index]) for row in body if column.index < len(row)]
    known = list(filter(None, values))
    larger, below = _LARGER.get(field.unit, (field.unit, 0.0))
    return replace(column, unit=larger if known and median(known) < below else field.unit)


def _figure(text: str) -> float | None:
    try:
        return parse_number(text) if text else None
    except InvalidInput:
        return None
