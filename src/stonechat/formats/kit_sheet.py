"""A kit in the columns of the rider's own table: the same headers, order and units, with what has changed since."""

from collections.abc import Iterator, Mapping, Sequence

from stonechat.core.kit.item import CATEGORIES, HOME, Item
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.kit.sheet import SheetColumn
from stonechat.core.rig.spots import SPOTS
from stonechat.formats.csv_table import write_table
from stonechat.formats.documents.kit import ItemDocument
from stonechat.formats.kit_fields import BY_KEY
from stonechat.formats.numbers import UNITS
from stonechat.formats.table_file import write_xlsx

_TOLD_AT_ZERO = frozenset({"mass_g", "mass_all_g", "volume_ml"})


def own_rows(
    items: Sequence[Item], sheet: Sequence[SheetColumn], bags: Mapping[str, str]
) -> Iterator[tuple[object, ...]]:
    """Yield the things as rows of a sheet; `bags` are the names of the places by thing."""
    counts = any(column.field == "quantity" for column in sheet)
    names = {item.id: item.name for item in items}
    for item in items:
        said = _said(item, counts=counts)
        said |= {"place": bags.get(item.id, ""), "inside": names.get(item.container, "")}
        kept = dict(item.cells)
        yield tuple(_cell(column, said) if column.field else kept.get(column.header, "") for column in sheet)


def _said(item: Item, *, counts: bool) -> dict[str, object]:
    """Return what is said of a thing by field, in the unit of each; without a column of counts for all of it."""
    kind = KINDS.get(item.kind)
    return {
        **ItemDocument.of(item).model_dump(),
        **dict(item.facts),
        **_masses(item, counts=counts),
        "name": item.name if counts or item.quantity == 1 else f"{item.quantity}x {item.name}",
        "category": CATEGORIES[item.category][0],
        "kind_of_thing": kind.title if kind else "",
        "volume_ml": item.volume * 1e6,
        "room_ml": item.room * 1e6,
        "left_pct": item.left * 100.0 if item.content else "",
        "worn": "yes" if item.worn else "no",
        "fixed": SPOTS[item.fixed].name if item.fixed else "no",
        "roles": "; ".join(sorted(item.roles)),
        "tools": "; ".join(sorted(item.tools)),
    }


def _masses(item: Item, *, counts: bool) -> dict[str, object]:
    """Return the masses of a thing, each or together, measured or claimed. [g]"""
    mass = 1e3 * (item.mass if counts else item.total_mass)
    claimed = item.claimed * 1e3 or ("" if item.weighed else mass)
    measured = mass if item.weighed else ""
    return {"mass_g": mass, "mass_all_g": 1e3 * item.total_mass, "measured_g": measured, "claimed_g": claimed}


def _cell(column: SheetColumn, said: Mapping[str, object]) -> object:
    """Return what stands in one cell."""
    value = said.get(column.field, "")
    if isinstance(value, bool) or not isinstance(value, int | float):
        return value
    if value == 0 and column.field not in _TOLD_AT_ZERO:
        return ""
    return _in_unit(float(value), column) if column.unit in UNITS.get(_unit(column), {}) else value


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
