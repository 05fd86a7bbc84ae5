"""The kit as CSV: one row a thing, units in the header."""

import re

from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.rig.carrier import ACCESS_RANK
from stonechat.errors import UnreadableFile
from stonechat.formats.csv_table import Row, cell, choice_cell, flag_cell, number_cell, read_table, write_table
from stonechat.units import g_from_kg, kg_from_g, l_from_m3, m3_from_l, m_from_mm, mm_from_m

COLUMNS = (
    "name", "category", "mass_g", "volume_ml", "length_mm", "quantity", "keep_dry", "leaks", "spoils", "access",
    "reaches_per_day", "need", "worn", "weighed", "note",
)  # fmt: skip
_IGNORED = frozenset({"id", "place", "variants", "price_min"})  # ours, written for reading only


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
    rows = read_table(data, columns=COLUMNS, needed=("name", "mass_g"), ignored=_IGNORED)
    return tuple(_item(number, row, ids) for number, row in rows)


def _item(number: int, row: Row, ids: set[str]) -> Item:
    name = cell(row, "name")[:80]
    if not name:
        raise UnreadableFile(f"Row {number}: the name is missing.", subject="name")
    category = choice_cell(number, row, "category", CATEGORIES, "other")
    mass = kg_from_g(number_cell(number, row, "mass_g", unit="g", limit="item_mass", factor=1000.0))
    volume = (
        m3_from_l(number_cell(number, row, "volume_ml", unit="ml", limit="item_volume", factor=1e6) / 1000.0)
        if cell(row, "volume_ml")
        else m3_from_l(round(mass * CATEGORIES[category][1], 3))
    )
    length = number_cell(number, row, "length_mm", unit="mm", limit="item_length", factor=1000.0, default=0.0)
    return Item(
        id=item_id(name, ids),
        name=name,
        category=category,
        mass=mass,
        volume=volume,
        length=m_from_mm(length),
        quantity=int(number_cell(number, row, "quantity", limit="quantity", default=1.0)),
        keep_dry=flag_cell(number, row, "keep_dry"),
        leaks=flag_cell(number, row, "leaks"),
        spoils=flag_cell(number, row, "spoils"),
        access=choice_cell(number, row, "access", ACCESS_RANK, "off"),
        reaches=number_cell(number, row, "reaches_per_day", limit="reaches", default=0.0),
        need=choice_cell(number, row, "need", NEEDS, "want"),
        worn=flag_cell(number, row, "worn"),
        weighed=flag_cell(number, row, "weighed"),
        note=cell(row, "note")[:200],
    )


def write_kit_rows(items: tuple[Item, ...]) -> bytes:
    """Return the things as CSV; reading it again gives the same things."""
    return write_table(
        COLUMNS,
        (
            (
                item.name,
                item.category,
                g_from_kg(item.mass),
                round(l_from_m3(item.volume) * 1000.0, 6),
                mm_from_m(item.length) if item.length else "",
                item.quantity,
                item.keep_dry,
                item.leaks,
                item.spoils,
                item.access,
                item.reaches,
                item.need,
                item.worn,
                item.weighed,
                item.note,
            )
            for item in items
        ),
    )
