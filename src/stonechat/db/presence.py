"""Who is at work, told by locks that the database lets go by itself when a worker's connection ends.

Such a lock is a heartbeat without a clock: a worker that was killed is known to be gone at once, and one that computes
for a long time without writing a row is not taken for dead.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

_WORKERS = 0x57_0E_C4
_RUNS = 0x57_0E_C5


@contextmanager
def worker_present(engine: Engine) -> Iterator[Callable[[], None]]:
    """Be known as a worker meanwhile; calling what is given fails when the database has forgotten."""
    with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("select pg_advisory_lock_shared(:c, 0)"), {"c": _WORKERS})
        try:
            yield lambda: connection.execute(text("select 1")).close()
        finally:
            connection.invalidate()  # the session's end lets the lock go, whatever state it is in


@contextmanager
def at_work_on(engine: Engine, run_id: int) -> Iterator[bool]:
    """Be known to work on a run meanwhile; False where somebody else does."""
    with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        got = connection.execute(text("select pg_try_advisory_lock(:c, :r)"), {"c": _RUNS, "r": run_id}).scalar_one()
        try:
            yield bool(got)
        finally:
            connection.invalidate()


def workers(session: Session) -> int:
    """Return how many workers are there."""
    return int(session.execute(_HELD, {"c": _WORKERS, "o": 0}).scalar_one())


def is_worked_on(session: Session, run_id: int) -> bool:
    """Tell whether a living worker works on a run."""
    return bool(session.execute(_HELD, {"c": _RUNS, "o": run_id}).scalar_one())


_HELD = text(
    "select count(*) from pg_locks where locktype = 'advisory' and granted and objsubid = 2 "
    "and database = (select oid from pg_database where datname = current_database()) "
    "and classid = :c and objid = :o"
)
