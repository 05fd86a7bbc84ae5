"""The shelf: all things that the rider owns, whatever plan they go into. The demo has a shelf of its own."""

from collections.abc import Iterable
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from stonechat.db.rows import ShelfRow


def keep_things(session: Session, bodies: Iterable[dict[str, Any]], *, demo: bool) -> None:
    """Keep things by their id, each given once; one that is there already is updated."""
    rows = [{"demo": demo, "id": body["id"], "body": body} for body in bodies]
    if not rows:
        return
    statement = insert(ShelfRow).values(rows)
    session.execute(
        statement.on_conflict_do_update(
            index_elements=[ShelfRow.demo, ShelfRow.id],
            set_={"body": statement.excluded.body, "changed_at": func.now()},
        )
    )


def read_things(session: Session, *, demo: bool) -> tuple[dict[str, Any], ...]:
    """Return all things on a shelf, by id."""
    return tuple(session.scalars(select(ShelfRow.body).where(ShelfRow.demo == demo).order_by(ShelfRow.id)))


def drop_thing(session: Session, thing_id: str, *, demo: bool) -> bool:
    """Take a thing off a shelf; say whether it was there."""
    dropped = session.scalar(
        delete(ShelfRow).where(ShelfRow.id == thing_id, ShelfRow.demo == demo).returning(ShelfRow.id)
    )
    return dropped is not None
