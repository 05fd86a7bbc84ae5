"""Bring a database to the newest state."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, func, select, text
from sqlalchemy.exc import DBAPIError

from stonechat.db.session import patiently
from stonechat.errors import Unavailable

_FOLDER = Path(__file__).parent / "migrations"
_LONGEST = 600.0  # s
_LOCK = 0x57_0E_C4_A7
"""Key of the database's advisory lock that whoever migrates holds."""


def alembic_config(engine: Engine | None = None) -> Config:
    """Return the configuration of the migrations, bound to an engine."""
    config = Config()
    config.set_main_option("script_location", str(_FOLDER))
    config.attributes["engine"] = engine
    return config


def known_states() -> tuple[str, ...]:
    """Return every state that this program knows, the newest first."""
    return tuple(script.revision for script in ScriptDirectory.from_config(alembic_config()).walk_revisions())


def state_of(engine: Engine) -> str:
    """Return the state of a database, or nothing where it holds no tables yet."""
    with engine.connect() as connection:
        return MigrationContext.configure(connection).get_current_revision() or ""


def _refuse_newer(engine: Engine) -> None:
    state = state_of(engine)
    if state and state not in known_states():
        raise Unavailable(
            f"The database was written by a newer Stonechat (its state is {state}, this one knows up to "
            f"{known_states()[0]}); it was left as it is. Start the newer program, or name another folder in the "
            "setting STONECHAT_DATA_DIR."
        )


def migrate(engine: Engine, revision: str = "head") -> None:
    """Run the migrations that are missing, each in a transaction.

    The web server and workers start side by side on a database that may hold nothing yet: one of them migrates,
    the others wait for it here.
    """
    try:
        with engine.begin() as waiting:
            patiently(
                lambda: bool(waiting.scalar(select(func.pg_try_advisory_xact_lock(_LOCK)))),
                seconds=_LONGEST,
                sentence="Another program has been updating the database for ten minutes. Start again later.",
            )
            _refuse_newer(engine)
            command.upgrade(alembic_config(engine), revision)
        if revision == "head":
            with engine.begin() as tidying:
                tidying.execute(text("delete from commit_mark where made_at < now() - interval '1 day'"))
    except DBAPIError as exc:
        raise Unavailable(f"The database does not answer: {str(exc.orig).strip().splitlines()[-1]}") from exc
