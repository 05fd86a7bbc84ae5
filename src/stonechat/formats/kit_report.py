"""What a kit table is taken for, row by row, as JSON: for the command line and for looking an import over."""

from typing import Any

from stonechat.core.kit.along import goes_along
from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.kit.lexicon.recognise import recognise
from stonechat.formats.documents.kit import ItemDocument
from stonechat.formats.kit_columns import guess_mapping
from stonechat.formats.kit_table import read_kit
from stonechat.formats.table_file import read_grid


def taken_for(item: Item) -> dict[str, Any]:
    """Return what a thing is taken for by its name: kind, how sure, what else it may be."""
    told = recognise(item.name)
    kind = KINDS.get(item.kind)
    return {
        "kind": item.kind or None,
        "title": kind.title if kind else None,
        "sure": round(told.sure, 3),
        "runners_up": [
            {"kind": guess.kind.key, "title": guess.kind.title, "score": round(guess.score, 3)}
            for guess in told.guesses
            if guess.kind.key != item.kind
        ],
    }


def kit_report(data: bytes) -> dict[str, Any]:
    """Return what a CSV or XLSX file of kit comes to: each row and what it is taken for, and what stays aside."""
    grid = read_grid(data)
    mapping = guess_mapping(grid)
    table = read_kit(grid, mapping)
    rows = sorted(
        [(n, item, "") for n, item in zip(table.numbers, table.items, strict=True)] + list(table.doubtful),
        key=lambda entry: entry[0],
    )
    return {
        "header_row": mapping.header_row,
        "columns": [{"header": c.header, "field": c.field or None, "unit": c.unit or None} for c in mapping.columns],
        "rows": [
            {
                "row": number,
                **ItemDocument.of(item).model_dump(),
                "taken_for": taken_for(item),
                "goes_along": goes_along(item),
                "place": table.places.get(item.id),
                "mass_estimated": item.id in table.estimated,
                "doubt": doubt or None,
            }
            for number, item, doubt in rows
        ],
        "bags": [{"name": bag.name, "mass_g": round(bag.total_mass * 1e3, 3), "kind": bag.kind} for bag in table.bags],
        "merged": list(table.merged),
        "sums": list(table.sums),
        "aside": [{"row": a.number, "cells": list(a.cells), "reason": a.sentence} for a in table.aside],
        "notes": list(grid.notes),
    }


def _row_sentence(row: dict[str, Any]) -> str:
    """Return what a row was taken for, in one line."""
    taken = row["taken_for"]
    what = taken["title"] or "not known"
    others = ", ".join(entry["title"] for entry in taken["runners_up"][:3])
    extra = f"; or {others}" if others and not taken["kind"] else ""
    place = f" [{row['place']}]" if row["place"] else ""
    many = f" ×{row['quantity']}" if row["quantity"] > 1 else ""
    does = f"; {', '.join(row['roles'])}" if row["roles"] else ""
    mass = f"{'~' if row['mass_estimated'] else ''}{row['mass_g']:g} g"
    return f"{row['row']:>4}  {row['name']}{many}: {mass}, {what}{extra}; {row['goes_along']}{place}{does}"


def report_sentences(report: dict[str, Any]) -> list[str]:
    """Return a kit report in lines for reading."""
    lines = [_row_sentence(row) for row in report["rows"]]
    lines += [f"      bag: {bag['name']}, {bag['mass_g']:g} g; its mass belongs to a carrier" for bag in report["bags"]]
    lines += [f"{entry['row']:>4}  aside: {entry['reason']}" for entry in report["aside"]]
    return [*lines, *report["sums"], *report["notes"]]
