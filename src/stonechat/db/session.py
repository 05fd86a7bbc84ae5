"""The engine and its sessions; one transaction each."""

from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy import Engine, create_engine
from sqlalchemy.exc import IntegrityError, OperationalError
from sqlalchemy.orm import Session, sessionmaker

from stonechat.errors import Conflict, InvalidInput, Unavailable

_SENTENCES = {
    "uq_pack_run_active": "This variant is being packed already. Wait for it, or stop it.",
}


def make_engine(url: str) -> Engine:
    """Return an engine for a database address (`postgresql://…`)."""
    return create_engine(url.replace("postgresql://", "postgresql+psycopg://", 1), pool_pre_ping=True, pool_size=8)


class Store:
    """Opens transactions and says in plain sentences why one failed."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine
        self._sessions = sessionmaker(engine, expire_on_commit=False)

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """Open one transaction: committed at the end, rolled back on any error."""
        try:
            with self._sessions.begin() as session:
                yield session
        except IntegrityError as exc:
            name = getattr(getattr(exc.orig, "diag", None), "constraint_name", None) or ""
            if name in _SENTENCES:
                raise Conflict(_SENTENCES[name], subject=name) from exc
            raise InvalidInput("The database refused the change; nothing was kept of it.", subject=name) from exc
        except OperationalError as exc:
            raise Unavailable("The database does not answer. Nothing was changed; try again.") from exc
