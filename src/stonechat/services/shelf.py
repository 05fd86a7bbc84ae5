"""The shelf: what the rider owns. Every change of a thing in a plan is kept here too; plans take things from it."""

from dataclasses import replace

from pydantic import ValidationError
from sqlalchemy.orm import Session

from stonechat.core.kit.item import Item
from stonechat.core.plan.plan import Plan
from stonechat.db import shelf
from stonechat.errors import NotFound
from stonechat.formats.documents.kit import ItemDocument, upgraded_item
from stonechat.formats.plan_json import VERSION
from stonechat.services.workspace import Workspace


def keep_items(session: Session, items: tuple[Item, ...], *, update: bool = True) -> None:
    """Keep things on the shelf, in the same transaction as the change that made them; pouches are named, not nested."""
    bodies = ({**ItemDocument.of(item).model_dump(mode="json"), "version": VERSION} for item in items)
    shelf.keep_things(session, bodies, update=update)


def changed_items(before: Plan, after: Plan) -> tuple[Item, ...]:
    """Return the things of a plan that are new or were changed."""
    known = {item.id: item for item in before.items}
    return tuple(item for item in after.items if known.get(item.id) != item)


def shelf_items(workspace: Workspace) -> tuple[Item, ...]:
    """Return all things on the shelf, by name; one that cannot be read any more is left out."""
    with workspace.store.transaction() as session:
        bodies = shelf.read_things(session)
    found = []
    for body in bodies:
        version = body.get("version", VERSION)
        plain = {key: value for key, value in body.items() if key != "version"}
        try:
            found.append(ItemDocument.model_validate(upgraded_item(plain) if version == 1 else plain).core())
        except (ValidationError, KeyError):
            continue
    return tuple(sorted(found, key=lambda item: item.name.lower()))


def shelf_item(workspace: Workspace, item_id: str) -> Item:
    """Return a thing of the shelf, out of any pouch."""
    for item in shelf_items(workspace):
        if item.id == item_id:
            return replace(item, container="")
    raise NotFound(f"There is no thing “{item_id[:60]}” on the shelf.", subject=item_id)


def drop_from_shelf(workspace: Workspace, item_id: str) -> None:
    """Take a thing off the shelf for good; plans that hold it keep it."""
    with workspace.store.transaction() as session:
        if not shelf.drop_thing(session, item_id):
            raise NotFound(f"There is no thing “{item_id[:60]}” on the shelf.", subject=item_id)
