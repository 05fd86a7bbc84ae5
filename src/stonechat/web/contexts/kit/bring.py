"""What bringing a table in shows: its columns and what they are taken for, what comes, what stays aside."""

from dataclasses import dataclass
from uuid import UUID

from stonechat.core.kit.item import Item
from stonechat.errors import NotFound
from stonechat.formats.kit_table import FIELDS, Aside, Column
from stonechat.formats.numbers import UNITS
from stonechat.services.kit.bring import SAME_NAME, Choices, look_over
from stonechat.web.desk import Desk

_SHOWN = 12


@dataclass(frozen=True, kw_only=True)
class BringView:
    """Bringing a table in."""

    send_address: str
    look_address: str
    aside_address: str
    csv_address: str
    xlsx_address: str
    name: str  # of the table that is looked over; empty where none is
    columns: tuple[Column, ...]
    fields: tuple[tuple[str, str], ...]
    units: tuple[str, ...]
    header_row: int
    fault: str
    notes: tuple[str, ...]
    coming: int
    sample: tuple[Item, ...]
    doubtful: tuple[tuple[int, Item, str], ...]
    believed: frozenset[int]
    aside: tuple[Aside, ...]
    merged: tuple[str, ...]
    known: tuple[str, ...]
    same_name: str
    same_names: tuple[tuple[str, str], ...]
    replace_kit: bool
    left_over: str  # what a table that was taken left aside


def bring_view(desk: Desk) -> BringView:
    """Return what bringing a table in shows."""
    upload = _upload(desk.look.open)
    shared = {
        "send_address": desk.do("kit"),
        "csv_address": desk.do("kit.csv"),
        "xlsx_address": desk.do("kit.xlsx"),
        "fields": (("", "skip it"), *((field.key, field.title) for field in FIELDS)),
        "units": tuple(dict.fromkeys(unit for field in ("g", "ml", "mm") for unit in UNITS[field])),
        "same_names": tuple(SAME_NAME.items()),
        "left_over": str(desk.carry.get("left_over", "")),
    }
    choices: Choices = desk.carry.get("choices") or Choices()
    if upload is None:
        return BringView(
            look_address="",
            aside_address="",
            name="",
            columns=(),
            header_row=0,
            fault="",
            notes=(),
            coming=0,
            sample=(),
            doubtful=(),
            believed=frozenset(),
            aside=(),
            merged=(),
            known=(),
            same_name="update",
            replace_kit=False,
            **shared,  # type: ignore[arg-type]
        )
    look = look_over(desk.workspace, desk.opened, upload, choices)
    table = look.table
    return BringView(
        look_address=desk.do("kit", str(upload)),
        aside_address=desk.do("kit", f"{upload}.csv"),
        name=look.name,
        columns=look.mapping.columns,
        header_row=look.mapping.header_row,
        fault=look.fault,
        notes=look.grid.notes,
        coming=len(table.items) if table else 0,
        sample=table.items[:_SHOWN] if table else (),
        doubtful=table.doubtful if table else (),
        believed=choices.doubtful,
        aside=table.aside if table else (),
        merged=table.merged if table else (),
        known=look.known,
        same_name=choices.same_name,
        replace_kit=choices.replace_kit,
        **shared,  # type: ignore[arg-type]
    )


def _upload(wanted: str) -> UUID | None:
    if not wanted:
        return None
    try:
        return UUID(wanted)
    except ValueError as exc:
        raise NotFound("There is no such table. Bring it in again.") from exc
