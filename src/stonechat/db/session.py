"""The engine and its sessions; one transaction each, and true sentences about how it ended."""

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any
from uuid import uuid4

import psycopg
from psycopg import errors as pg
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.exc import DBAPIError, IntegrityError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.pool import NullPool

from stonechat.errors import Clash, InvalidInput, NotKnown, StonechatError, Unavailable

PATIENCE_S = 10.0  # how long one statement may take before the database counts as asleep
CONNECT_S = 5  # and a new connection
_PROBE_S = 2  # for both, where one only asks whether it answers
SETTLE_S = 15.0  # how long to find out what became of a commit whose answer was lost

_SENTENCES = {
    "uq_run_active": "This is under way already. Wait for it, or stop it.",
}
# a transaction that wrote leaves a mark of its own, by which one can tell later whether it was kept
_LEAVE_MARK = text("insert into commit_mark (id) select :id where pg_current_xact_id_if_assigned() is not null")
_TRY_MARK = text("insert into commit_mark (id) values (:id) on conflict do nothing")


class Commits:
    """How many transactions that wrote were kept on behalf of one request."""

    def __init__(self) -> None:
        self.count = 0


COMMITS: ContextVar[Commits | None] = ContextVar("commits", default=None)


class PatientConnection(psycopg.Connection[Any]):
    """A connection that gives a silent server up after a while; the plain one waits for ever."""

    patience: float = PATIENCE_S

    def wait(self, gen: Any, interval: float = 0.1, timeout: float | None = None) -> Any:
        """Wait as the plain connection does, but not longer than `patience`."""
        limit = self.patience if timeout is None else timeout
        try:
            return super().wait(gen, interval, limit)
        except pg._WaitTimeout as exc:
            self.pgconn.finish()  # what the server still makes of it is not read by anybody
            raise psycopg.OperationalError(f"no answer within {limit:g} s") from exc


def make_engine(url: str, *, patience: float = PATIENCE_S) -> Engine:
    """Return an engine for a database address (`postgresql://…`); a statement may take `patience` seconds."""
    address = url.replace("postgresql://", "postgresql+psycopg://", 1)
    connect = _connector(url, patience, CONNECT_S)
    return create_engine(address, creator=connect, pool_pre_ping=True, pool_size=8, pool_timeout=PATIENCE_S)


def make_probe(engine: Engine) -> Engine:
    """Return an engine for the same database that connects anew each time and gives up soon."""
    address = engine.url.set(drivername="postgresql").render_as_string(hide_password=False)
    connect = _connector(address, _PROBE_S, _PROBE_S)
    return create_engine(engine.url, creator=connect, poolclass=NullPool)


def _connector(url: str, patience: float, connect_timeout: int) -> Callable[[], PatientConnection]:
    def connect() -> PatientConnection:
        made = PatientConnection.connect(url, connect_timeout=connect_timeout)
        made.patience = patience
        return made

    return connect


class Store:
    """Opens transactions and says in plain sentences why one failed."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._sessions = sessionmaker(engine, expire_on_commit=False)

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """Open one transaction: committed at the end, rolled back on any error.

        An error before the commit was sent leaves nothing behind. Where the answer to a commit is lost, the database
        is asked what became of it: one that was kept ends well here, one that was not is `Unavailable`, and where
        that cannot be found out in time it is `NotKnown`.
        """
        mark = uuid4()
        with self._sessions() as session:
            with _in_plain_words():
                yield session
                session.flush()
                wrote = session.execute(_LEAVE_MARK, {"id": mark}).rowcount == 1  # type: ignore[attr-defined]
            try:
                session.commit()
            except DBAPIError as exc:
                if not exc.connection_invalidated:
                    raise _sentence(exc) from exc
                if wrote and not self._was_kept(mark):
                    raise Unavailable("The database does not answer.") from exc
        if wrote and (commits := COMMITS.get()) is not None:
            commits.count += 1

    def _was_kept(self, mark: object) -> bool:
        """Find out whether a transaction whose answer was lost was kept.

        Trying its mark settles it: while the old session still works the database lets us wait for its end.
        """
        end = time.monotonic() + SETTLE_S
        while True:
            try:
                with self.engine.connect() as connection:
                    return connection.execute(_TRY_MARK, {"id": mark}).rowcount == 0
            except (DBAPIError, PoolTimeout) as exc:
                if time.monotonic() > end:
                    raise NotKnown(
                        "The database went away while a change was being kept; whether it was kept is not known. "
                        "Load the page again when the database is back: it shows what is there."
                    ) from exc
                time.sleep(0.3)


@contextmanager
def _in_plain_words() -> Iterator[None]:
    try:
        yield
    except DBAPIError as exc:
        raise _sentence(exc) from exc
    except PoolTimeout as exc:
        raise Unavailable("The database does not answer.") from exc


def _sentence(exc: DBAPIError) -> StonechatError:
    """Return what a fault that the database told means; nothing of the transaction was kept."""
    told = exc.orig
    if isinstance(exc, IntegrityError):
        name = getattr(getattr(told, "diag", None), "constraint_name", None) or ""
        if name in _SENTENCES:
            return Clash(_SENTENCES[name], subject=name)
        return InvalidInput("The database refused the change.", subject=name)
    if isinstance(told, pg.DiskFull):
        return Unavailable("The disk is full, so the database could not keep it. Free some space.")
    if isinstance(told, (pg.OutOfMemory, pg.TooManyConnections, pg.ConfigurationLimitExceeded)):
        return Unavailable("The database has more to do than it can. Wait a little.")
    if isinstance(told, psycopg.DataError):
        return InvalidInput("The database cannot hold a figure or a character of this.")
    return Unavailable("The database does not answer.")


def patiently(attempt: Callable[[], bool], *, seconds: float, sentence: str) -> None:
    """Try again and again until it succeeds; `Unavailable` with the sentence after so many seconds."""
    end = time.monotonic() + seconds
    while not attempt():
        if time.monotonic() > end:
            raise Unavailable(sentence)
        time.sleep(0.1)
