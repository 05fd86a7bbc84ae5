"""A kit in the columns of the rider's own table: the same headers, order and units, with what has changed since."""

from collections.abc import Iterator, Mapping, Sequence

from stonechat.core.kit.facts import FACTS
from stonechat.core.kit.item import CATEGORIES, HOME, Item
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.kit.sheet import SheetColumn
from stonechat.core.rig.spots import SPOTS
from stonechat.formats.csv_table import write_table
from stonechat.formats.documents.kit import ItemDocument
from stonechat.formats.kit_fields import BY_KEY
from stonechat.formats.numbers import UNITS
from stonechat.formats.table_file import write_xlsx


def own_rows(
    items: Sequence[Item], sheet: Sequence[SheetColumn], bags: Mapping[str, str]
) -> Iterator[tuple[object, ...]]:
    """Yield the things as rows of a sheet; `bags` are the names of the places by thing."""
    counts = any(column.field == "quantity" for column in sheet)
    names = {item.id: item.name for item in items}
    for item in items:
        told = ItemDocument.of(item).model_dump()
        kept = dict(item.cells)
        yield tuple(_cell(column, item, told, kept, bags, names, counts=counts) for column in sheet)


def _cell(
    column: SheetColumn,
    item: Item,
    told: Mapping[str, object],
    kept: Mapping[str, str],
    bags: Mapping[str, str],
    names: Mapping[str, str],
    *,
    counts: bool,
) -> object:
    """Return what stands in one cell."""
    if not column.field:
        return kept.get(column.header, "")
    whole = item.total_mass if column.field == "mass_all_g" or not counts else item.mass
    mass = _in_unit(whole * 1e3, column)
    plain: dict[str, object] = {
        "name": item.name if counts or item.quantity == 1 else f"{item.quantity}x {item.name}",
        "category": CATEGORIES[item.category][0],
        "kind_of_thing": KINDS[item.kind].title if item.kind in KINDS else "",
        "place": bags.get(item.id, ""),
        "mass_g": mass,
        "mass_all_g": mass,
        "measured_g": mass if item.weighed else "",
        "claimed_g": _in_unit(item.claimed * 1e3, column) if item.claimed else "" if item.weighed else mass,
        "volume_ml": _in_unit(item.volume * 1e6, column),
        "room_ml": _in_unit(item.room * 1e6, column) or "",
        "left_pct": round(item.left * 100.0, 4) if item.content else "",
        "quantity": item.quantity,
        "worn": "yes" if item.worn else "no",
        "fixed": SPOTS[item.fixed].name if item.fixed else "no",
        "inside": names.get(item.container, ""),
        "roles": "; ".join(sorted(item.roles)),
        "tools": "; ".join(sorted(item.tools)),
        "note": item.note,
    }
    if column.field in plain:
        return plain[column.field]
    value = item.fact(column.field) if column.field in FACTS else told.get(column.field, "")
    if isinstance(value, int | float) and not isinstance(value, bool) and column.unit in UNITS.get(_unit(column), {}):
        value = _in_unit(float(value), column)
    return "" if value is None or (value == 0 and not isinstance(value, bool)) else value


def _unit(column: SheetColumn) -> str:
    return BY_KEY[column.field].unit if column.field in BY_KEY else ""


def _in_unit(value: float, column: SheetColumn) -> float:
    """Return a figure of a field's own unit in that of a column."""
    return round(value / UNITS.get(_unit(column), {}).get(column.unit, 1.0), 4)


def bag_names(items: Sequence[Item], places: Mapping[str, str], carriers: Mapping[str, str]) -> dict[str, str]:
    """Return by thing what a column of places says: bag, worn, on the bike, at home."""
    found = {}
    for item in items:
        place = places.get(item.id, "")
        outside = "worn" if item.worn else "on the bike" if not item.packed else ""
        found[item.id] = outside or ("at home" if place == HOME else carriers.get(place, ""))
    return found


def write_own_sheet(
    items: Sequence[Item], sheet: Sequence[SheetColumn], bags: Mapping[str, str], *, as_xlsx: bool
) -> bytes:
    """Return the kit in the columns of the rider's own table, as CSV or XLSX."""
    header = tuple(column.header or f"column {number}" for number, column in enumerate(sheet, start=1))
    rows = own_rows(items, sheet, bags)
    return write_xlsx("kit", header, rows) if as_xlsx else write_table(header, rows)
