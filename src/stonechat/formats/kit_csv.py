"""The kit as CSV and XLSX: one row a thing, units in the header; read back it is the same kit."""

from collections.abc import Iterator

from stonechat.core.kit.facts import FACTS
from stonechat.core.kit.item import Item
from stonechat.errors import UnreadableFile
from stonechat.formats.csv_table import refuse_header, write_table
from stonechat.formats.documents.kit import ItemDocument, usual_of
from stonechat.formats.kit_columns import guess_mapping
from stonechat.formats.kit_fields import BY_KEY, FIELDS, IGNORED, NONE
from stonechat.formats.kit_table import item_id, read_kit
from stonechat.formats.table_file import read_grid, write_xlsx

__all__ = ["COLUMNS", "item_id", "read_kit_rows", "write_kit_rows", "write_kit_sheet"]
_FIRST = ("name", "category", "mass_g")
_NOT_WRITTEN = frozenset({"mass_all_g", "measured_g", "place"})  # said by mass_g and weighed; a place is the variant's
COLUMNS = (*_FIRST, *(field.key for field in FIELDS if field.key not in {*_FIRST, *_NOT_WRITTEN}))


def read_kit_rows(data: bytes, *, taken: frozenset[str] = frozenset()) -> tuple[Item, ...]:
    """Return the things of a table of our own columns; the first bad cell is refused with its row and column."""
    grid = read_grid(data)
    header = [name.strip().lower() for name in grid.rows[0]]
    refuse_header(header, columns=COLUMNS, needed=("name", "mass_g"), ignored=(*BY_KEY, *IGNORED))
    table = read_kit(grid, guess_mapping(grid), taken=taken, merge=False)
    if table.aside:
        raise UnreadableFile(table.aside[0].sentence, subject=f"row {table.aside[0].number}")
    by_row = {**dict(zip(table.numbers, table.items, strict=True)), **{n: item for n, item, _ in table.doubtful}}
    return tuple(by_row[number] for number in sorted(by_row))


def _yes_no(value: bool) -> str:
    return "yes" if value else "no"


def _rows(items: tuple[Item, ...]) -> Iterator[tuple[object, ...]]:
    names = {item.id: item.name for item in items}
    for item in items:
        told = ItemDocument.of(item).model_dump()
        usual = usual_of(item)
        values = {
            **{key: _or_empty(value, usual.get(key)) for key, value in told.items()},
            **dict.fromkeys(FACTS, ""),
            **told["facts"],
            "kind_of_thing": told["kind"] or "none",
            "fixed": told["fixed"] or "no",
            "worn": _yes_no(told["worn"]),
            "mass_g": told["mass_g"],
            "reaches_per_day": told["reaches_per_day"],
            "left_pct": round(told["left"] * 100.0, 4) if told["content_g"] else "",
            "volume_ml": round(told["volume_l"] * 1000.0, 6),
            "room_ml": round(told["room_l"] * 1000.0, 6) or "",
            **{key: "; ".join(told[key]) or (NONE if usual[key] else "") for key in ("roles", "tools")},
            "inside": names.get(item.container, ""),
        }
        yield tuple(values[key] for key in COLUMNS)


def _or_empty(value: object, usual: object) -> object:
    """Leave out what is nothing, unless something is usual and would be guessed."""
    return "" if value == 0 and not usual and not isinstance(value, bool) else value


def write_kit_rows(items: tuple[Item, ...]) -> bytes:
    """Return the things as CSV; reading it again gives the same things."""
    return write_table(COLUMNS, _rows(items))


def write_kit_sheet(items: tuple[Item, ...]) -> bytes:
    """Return the things as XLSX; reading it again gives the same things."""
    return write_xlsx("kit", COLUMNS, _rows(items))
