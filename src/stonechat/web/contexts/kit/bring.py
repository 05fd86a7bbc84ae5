"""What bringing a table in shows: its columns and what they are taken for, what comes, what stays aside."""

from dataclasses import dataclass, replace
from uuid import UUID

from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.errors import NotFound
from stonechat.formats.kit_columns import Column
from stonechat.formats.kit_fields import FIELDS
from stonechat.formats.kit_table import Aside, KitTable
from stonechat.formats.numbers import UNITS
from stonechat.services.kit.bring import SAME_NAME, Choices, Row, look_over
from stonechat.services.kit.sorting import ListedBag, NamedBag
from stonechat.web.desk import Desk


@dataclass(frozen=True, kw_only=True)
class BringView:
    """Bringing a table in."""

    send_address: str
    look_address: str = ""
    aside_address: str = ""
    csv_address: str
    xlsx_address: str
    own_csv_address: str  # in the columns of the rider's own table; empty where none was brought in
    own_xlsx_address: str
    name: str = ""  # of the table that is looked over; empty where none is
    columns: tuple[Column, ...] = ()
    fields: tuple[tuple[str, str], ...]
    units: tuple[str, ...]
    header_row: int = 0
    fault: str = ""
    notes: tuple[str, ...] = ()
    coming: int = 0
    rows: tuple[Row, ...] = ()
    asked: tuple[Row, ...] = ()
    kinds: tuple[tuple[str, str], ...] = ()  # all that there are, for rows that are not known
    bags: tuple[NamedBag, ...] = ()
    listed: tuple[ListedBag, ...] = ()
    carriers: tuple[tuple[str, str], ...] = ()
    sums: tuple[str, ...] = ()
    estimated: tuple[str, ...] = ()
    doubtful: tuple[tuple[int, Item, str], ...] = ()
    believed: frozenset[int] = frozenset()
    aside: tuple[Aside, ...] = ()
    merged: tuple[str, ...] = ()
    known: tuple[str, ...] = ()
    same_name: str = "update"
    same_names: tuple[tuple[str, str], ...]
    replace_kit: bool = False


def bring_view(desk: Desk) -> BringView:
    """Return what bringing a table in shows."""
    upload = _upload(desk.look.open)
    choices: Choices = desk.carry.get("choices") or Choices()
    empty = BringView(
        send_address=desk.do("kit"),
        csv_address=desk.do("kit.csv"),
        xlsx_address=desk.do("kit.xlsx"),
        own_csv_address=desk.do("kit-own.csv") if desk.opened.plan.sheet else "",
        own_xlsx_address=desk.do("kit-own.xlsx") if desk.opened.plan.sheet else "",
        fields=(("", "skip it"), *((field.key, field.title) for field in FIELDS)),
        units=tuple(dict.fromkeys(unit for field in ("g", "ml", "mm") for unit in UNITS[field])),
        same_names=tuple(SAME_NAME.items()),
    )
    return empty if upload is None else _looked_over(desk, upload, choices, empty)


def _looked_over(desk: Desk, upload: UUID, choices: Choices, empty: BringView) -> BringView:
    """Return the same with the table that is looked over."""
    look = look_over(desk.workspace, desk.opened, desk.variant_id, upload, choices)
    table = look.table or KitTable()
    return replace(
        empty,
        look_address=desk.do("kit", str(upload)),
        aside_address=desk.do("kit", f"{upload}.csv"),
        name=look.name,
        columns=look.mapping.columns,
        header_row=look.mapping.header_row,
        fault=look.fault,
        notes=look.grid.notes,
        coming=len(table.items),
        rows=look.rows,
        asked=tuple(row for row in look.rows if row.is_asked),
        kinds=tuple(sorted(((kind.key, kind.title) for kind in KINDS.values()), key=lambda entry: entry[1])),
        bags=look.bags,
        listed=look.listed,
        carriers=tuple((c.id, c.name) for c in desk.variant.bags),
        sums=table.sums,
        estimated=tuple(row.item.name for row in look.rows if row.is_estimated),
        doubtful=table.doubtful,
        believed=choices.doubtful,
        aside=table.aside,
        merged=table.merged,
        known=look.known,
        same_name=choices.same_name,
        replace_kit=choices.replace_kit,
    )


def _upload(wanted: str) -> UUID | None:
    if not wanted:
        return None
    try:
        return UUID(wanted)
    except ValueError as exc:
        raise NotFound("There is no such table. Bring it in again.") from exc
