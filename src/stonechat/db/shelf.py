"""The shelf: all things that the rider owns, whatever plan they go into."""

from collections.abc import Iterable
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from stonechat.db.rows import ShelfRow


def keep_things(session: Session, bodies: Iterable[dict[str, Any]], *, update: bool = True) -> None:
    """Keep things by their id; one that is there already is updated, or left as it is."""
    rows = [{"id": body["id"], "body": body} for body in bodies]
    if not rows:
        return
    statement = insert(ShelfRow).values(rows)
    if update:
        statement = statement.on_conflict_do_update(
            index_elements=[ShelfRow.id], set_={"body": statement.excluded.body, "changed_at": func.now()}
        )
    else:
        statement = statement.on_conflict_do_nothing()
    session.execute(statement)


def read_things(session: Session) -> tuple[dict[str, Any], ...]:
    """Return all things on the shelf, by id."""
    return tuple(session.scalars(select(ShelfRow.body).order_by(ShelfRow.id)))


def drop_thing(session: Session, thing_id: str) -> bool:
    """Take a thing off the shelf; say whether it was there."""
    dropped = session.scalar(delete(ShelfRow).where(ShelfRow.id == thing_id).returning(ShelfRow.id))
    return dropped is not None
