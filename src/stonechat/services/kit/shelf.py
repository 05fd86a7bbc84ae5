"""The shelf: what the rider owns. Every change of a thing in a plan is kept here too; plans take things from it.

A thing is known by its name and mass, so the same thing of two plans lies there once. What the demo brought lies on a
shelf of its own.
"""

from dataclasses import replace

from pydantic import ValidationError
from sqlalchemy.orm import Session

from stonechat.core.kit.item import Item
from stonechat.db import shelf
from stonechat.errors import NotFound
from stonechat.formats.documents.kit import ItemDocument, upgraded_item
from stonechat.formats.kit_csv import item_id
from stonechat.formats.plan_json import VERSION
from stonechat.services.workspace import Workspace

MOST_ON_SHELF = 5_000
Mark = tuple[str, int]


def mark_of(item: Item) -> Mark:
    """Return what a thing is known by: its name, and its mass to a tenth of a gram."""
    return item.name.strip().lower(), round(item.mass * 1e4)


def keep_items(session: Session, items: tuple[Item, ...], *, before: tuple[Item, ...] = (), demo: bool = False) -> None:
    """Keep the things of a plan that are new or were changed, in the transaction that changed them.

    `before` holds the plan's things as they were: a thing that was weighed or renamed is the same thing on the shelf.
    """
    was = {item.id: item for item in before}
    changed = [item for item in items if was.get(item.id) != item]
    if not changed:
        return
    there = {mark_of(item): item for item in _read(session, demo=demo)}
    ids = {item.id for item in there.values()}
    found: dict[str, Item] = {}
    for item in changed:
        known = there.get(mark_of(was.get(item.id, item))) or there.get(mark_of(item))
        is_new = item.id not in was
        # brought in, what lies on the shelf is as good; where that is full, the plan holds it all the same
        if is_new if known is not None else len(there) >= MOST_ON_SHELF:
            continue
        kept = replace(item, id=known.id if known is not None else item_id(item.name, ids))
        there[mark_of(kept)] = found[kept.id] = kept
    bodies = ({**ItemDocument.of(item).model_dump(mode="json"), "version": VERSION} for item in found.values())
    shelf.keep_things(session, bodies, demo=demo)


def _read(session: Session, *, demo: bool) -> list[Item]:
    """Return the things of a shelf; one that cannot be read any more is left out."""
    found = []
    for body in shelf.read_things(session, demo=demo):
        version = body.get("version", VERSION)
        plain = {key: value for key, value in body.items() if key != "version"}
        try:
            found.append(ItemDocument.model_validate(upgraded_item(plain) if version == 1 else plain).core())
        except (ValidationError, KeyError):
            continue
    return found


def shelf_items(workspace: Workspace, *, demo: bool = False) -> tuple[Item, ...]:
    """Return all things on a shelf, by name."""
    with workspace.store.transaction() as session:
        found = _read(session, demo=demo)
    return tuple(sorted(found, key=lambda item: item.name.lower()))


def shelf_item(workspace: Workspace, thing_id: str, *, demo: bool = False) -> Item:
    """Return a thing of a shelf, out of any pouch."""
    for item in shelf_items(workspace, demo=demo):
        if item.id == thing_id:
            return replace(item, container="")
    raise NotFound(f"There is no thing “{thing_id[:60]}” on the shelf.", subject=thing_id)


def take_onto_shelf(workspace: Workspace, items: tuple[Item, ...], *, demo: bool = False) -> int:
    """Put the things of a plan onto the shelf, those that lie there already aside; return how many came."""
    with workspace.store.transaction() as session:
        before = len(_read(session, demo=demo))
        keep_items(session, items, demo=demo)
        return len(_read(session, demo=demo)) - before


def drop_from_shelf(workspace: Workspace, thing_id: str, *, demo: bool = False) -> None:
    """Take a thing off a shelf for good; plans that hold it keep it."""
    with workspace.store.transaction() as session:
        if not shelf.drop_thing(session, thing_id, demo=demo):
            raise NotFound(f"There is no thing “{thing_id[:60]}” on the shelf.", subject=thing_id)
