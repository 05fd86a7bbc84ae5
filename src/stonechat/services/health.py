"""Whether the program can serve: the database answers, a worker is there."""

from dataclasses import dataclass

from sqlalchemy import Engine, select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlalchemy.orm import Session

from stonechat.db import presence


@dataclass(frozen=True, kw_only=True)
class Readiness:
    """What answers, and a sentence for people."""

    database: bool
    workers: int
    sentence: str


def readiness(engine: Engine) -> Readiness:
    """Ask the database; the engine's patience is how long that may take."""
    try:
        with Session(engine) as session:
            session.execute(select(1))
            there = presence.workers(session)
    except (DBAPIError, PoolTimeout):
        return Readiness(database=False, workers=0, sentence="The database does not answer.")
    words = "The database answers." if there else "The database answers; no worker is there, so packings wait."
    return Readiness(database=True, workers=there, sentence=words)
