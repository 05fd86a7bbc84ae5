"""The kit as CSV: one row a thing, units in the header."""

import csv
import io
import re
from collections.abc import Iterator, Mapping

from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.plan.limits import LIMITS
from stonechat.core.rig.carrier import ACCESS_RANK
from stonechat.errors import InvalidInput, TooLarge, UnreadableFile
from stonechat.formats.numbers import parse_number
from stonechat.units import g_from_kg, kg_from_g, l_from_m3, m3_from_l, m_from_mm, mm_from_m

COLUMNS = (
    "name", "category", "mass_g", "volume_ml", "length_mm", "quantity", "keep_dry", "leaks", "spoils", "access",
    "reaches_per_day", "need", "worn", "weighed", "note",
)  # fmt: skip
_IGNORED = frozenset({"id", "place", "variants", "price_min"})  # ours, written for reading only
MOST_ROWS = 5_000
MOST_BYTES = 4_000_000
_YES = frozenset({"yes", "y", "true", "1", "x"})
_NO = frozenset({"", "no", "n", "false", "0", "-"})


def item_id(name: str, taken: set[str]) -> str:
    """Return a short id for a name that is not taken yet, and take it."""
    stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "thing"
    candidate, number = stem, 2
    while candidate in taken:
        candidate, number = f"{stem}-{number}", number + 1
    taken.add(candidate)
    return candidate


def read_kit_rows(data: bytes, *, taken: frozenset[str] = frozenset()) -> tuple[Item, ...]:
    """Return the things of a CSV file; the first bad cell is refused with its row and column."""
    ids = set(taken)
    return tuple(_item(number, row, ids) for number, row in _rows(data))


def _rows(data: bytes) -> Iterator[tuple[int, Mapping[str, str]]]:
    if len(data) > MOST_BYTES:
        raise TooLarge(f"The table has {len(data) / 1e6:.1f} MB; {MOST_BYTES / 1e6:.0f} MB is the most.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    if "\x00" in text or not text.strip():
        raise UnreadableFile("The table is empty or not text. Save it as CSV and bring it in again.")
    first = text.lstrip().splitlines()[0]
    delimiter = max(";\t,", key=first.count)
    reader = csv.reader(io.StringIO(text), delimiter=delimiter)
    header = [name.strip().lower() for name in next(reader)]
    unknown = [name for name in header if name and name not in COLUMNS and name not in _IGNORED]
    if unknown:
        raise UnreadableFile(
            f"Row 1: the column “{unknown[0]}” is not known. Known columns: {', '.join(COLUMNS)}.", subject=unknown[0]
        )
    for wanted in ("name", "mass_g"):
        if wanted not in header:
            raise UnreadableFile(f"Row 1: the column “{wanted}” is missing.", subject=wanted)
    try:
        for number, cells in enumerate(reader, start=2):
            if number > MOST_ROWS + 1:
                raise TooLarge(f"The table has more than {MOST_ROWS:,} rows. Split it.")
            if any(cell.strip() for cell in cells):
                yield number, dict(zip(header, cells, strict=False))
    except csv.Error as exc:
        raise UnreadableFile(f"Row {reader.line_num}: {exc}. Save the table as CSV again.") from exc


def _item(number: int, row: Mapping[str, str], ids: set[str]) -> Item:
    name = row.get("name", "").strip()[:80]
    if not name:
        raise UnreadableFile(f"Row {number}: the name is missing.", subject="name")
    category = _choice(number, row, "category", CATEGORIES, "other")
    mass = kg_from_g(_number(number, row, "mass_g", "g", "item_mass", 1000.0))
    litres_per_kg = CATEGORIES[category][1]
    given = row.get("volume_ml", "").strip()
    volume = (
        m3_from_l(_number(number, row, "volume_ml", "ml", "item_volume", 1e6) / 1000.0)
        if given
        else m3_from_l(round(mass * litres_per_kg, 3))
    )
    return Item(
        id=item_id(name, ids),
        name=name,
        category=category,
        mass=mass,
        volume=volume,
        length=m_from_mm(_number(number, row, "length_mm", "mm", "item_length", 1000.0, default=0.0)),
        quantity=int(_number(number, row, "quantity", "", "quantity", 1.0, default=1.0)),
        keep_dry=_flag(number, row, "keep_dry"),
        leaks=_flag(number, row, "leaks"),
        spoils=_flag(number, row, "spoils"),
        access=_choice(number, row, "access", ACCESS_RANK, "off"),
        reaches=_number(number, row, "reaches_per_day", "", "reaches", 1.0, default=0.0),
        need=_choice(number, row, "need", NEEDS, "want"),
        worn=_flag(number, row, "worn"),
        weighed=_flag(number, row, "weighed"),
        note=row.get("note", "").strip()[:200],
    )


def _number(
    number: int,
    row: Mapping[str, str],
    column: str,
    unit: str,
    limit: str,
    factor: float,
    *,
    default: float | None = None,
) -> float:
    text = row.get(column, "").strip()
    if not text and default is not None:
        return default
    try:
        value = parse_number(text, unit=unit)
    except InvalidInput as exc:
        raise UnreadableFile(f"Row {number}, column {column}: {exc.message}", subject=column) from exc
    low, high = (bound * factor for bound in LIMITS[limit])
    if not low <= value <= high:
        raise UnreadableFile(
            f"Row {number}, column {column}: {text} is outside {low:g} to {high:g} {unit}".rstrip()
            + f" ({row.get('name', '').strip()[:40]}). Check the unit.",
            subject=column,
        )
    return value


def _flag(number: int, row: Mapping[str, str], column: str) -> bool:
    text = row.get(column, "").strip().lower()
    if text in _YES:
        return True
    if text in _NO:
        return False
    raise UnreadableFile(f"Row {number}, column {column}: write yes or no, not “{text[:20]}”.", subject=column)


def _choice(number: int, row: Mapping[str, str], column: str, known: Mapping[str, object], default: str) -> str:
    text = row.get(column, "").strip().lower() or default
    if text not in known:
        raise UnreadableFile(
            f"Row {number}, column {column}: “{text[:20]}” is not one of {', '.join(known)}.", subject=column
        )
    return text


def write_kit_rows(items: tuple[Item, ...]) -> bytes:
    """Return the things as CSV; reading it again gives the same things."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for item in items:
        writer.writerow(
            (
                _guarded(item.name),
                item.category,
                _plain(g_from_kg(item.mass)),
                _plain(round(l_from_m3(item.volume) * 1000.0, 6)),
                _plain(mm_from_m(item.length)) if item.length else "",
                item.quantity,
                *("yes" if flag else "" for flag in (item.keep_dry, item.leaks, item.spoils)),
                item.access,
                _plain(item.reaches),
                item.need,
                *("yes" if flag else "" for flag in (item.worn, item.weighed)),
                _guarded(item.note),
            )
        )
    return out.getvalue().encode()


def _plain(value: float) -> str:
    return f"{value:.6f}".rstrip("0").rstrip(".")


def _guarded(text: str) -> str:
    """Keep a spreadsheet from taking a name for a formula."""
    return f" {text}" if text[:1] in "=+-@" else text
