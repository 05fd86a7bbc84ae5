"""Bring a database to the newest state."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, func, select
from sqlalchemy.exc import OperationalError

from stonechat.errors import Unavailable

_FOLDER = Path(__file__).parent / "migrations"
_LOCK = 0x57_0E_C4_A7
"""Key of the database's advisory lock that whoever migrates holds."""


def alembic_config(engine: Engine | None = None) -> Config:
    """Return the configuration of the migrations, bound to an engine."""
    config = Config()
    config.set_main_option("script_location", str(_FOLDER))
    config.attributes["engine"] = engine
    return config


def migrate(engine: Engine, revision: str = "head") -> None:
    """Run the migrations that are missing, each in a transaction.

    The web server and workers start side by side on a database that may hold nothing yet: one of them migrates,
    the others wait for it here.
    """
    try:
        with engine.begin() as waiting:
            waiting.execute(select(func.pg_advisory_xact_lock(_LOCK)))
            command.upgrade(alembic_config(engine), revision)
    except OperationalError as exc:
        raise Unavailable(f"The database does not answer: {str(exc.orig).strip().splitlines()[-1]}") from exc
