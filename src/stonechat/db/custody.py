"""How much is held, and deleting all of it."""

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from stonechat.db.rows import ShelfRow

_ALL = "plan, plan_step, share, run, course, upload, shelf_item, procrastinate_jobs"


def things(session: Session) -> int:
    """Return how many things of the rider's own lie on the shelf."""
    return session.scalar(select(func.count()).where(ShelfRow.demo.is_(False))) or 0


def database_bytes(session: Session) -> int:
    """Return the size of the database. [bytes]"""
    return int(session.execute(text("select pg_database_size(current_database())")).scalar_one())


def delete_everything(session: Session) -> None:
    """Empty every table that holds something of a person; their files are given back to the disk."""
    session.execute(text(f"truncate {_ALL} cascade"))
