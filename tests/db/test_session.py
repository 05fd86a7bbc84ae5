"""How a transaction ends is told as it is: kept, not kept, or not known."""

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import pytest
from sqlalchemy import Engine, text

from stonechat.db.session import COMMITS, Commits, Store, make_engine, make_probe
from stonechat.errors import InvalidInput, NotKnown, Unavailable
from tests.faults.proxy import LosingProxy


@pytest.fixture
def notes(engine: Engine) -> Iterator[str]:
    """Name of a table to write into."""
    with engine.begin() as connection:
        connection.execute(text("create table if not exists noted (n int)"))
        connection.execute(text("truncate noted"))
    yield "noted"
    with engine.begin() as connection:
        connection.execute(text("drop table noted"))


@pytest.fixture
def proxy(cluster_url: str) -> Iterator[tuple[LosingProxy, Store]]:
    """A store that speaks to the database through a wire that can be cut."""
    with tempfile.TemporaryDirectory() as folder:
        server = Path(parse_qs(urlsplit(cluster_url).query)["host"][0])
        made = LosingProxy(Path(folder), server)
        engine = make_engine(f"postgresql:///stonechat?host={folder}&user=stonechat")
        yield made, Store(engine)
        engine.dispose()
        made.close()


def noted(engine: Engine) -> list[int]:
    with engine.connect() as connection:
        return list(connection.execute(text("select n from noted order by n")).scalars())


def test_a_commit_whose_answer_is_lost_after_it_was_done_counts_as_kept(
    proxy: tuple[LosingProxy, Store], engine: Engine, notes: str
) -> None:
    wire, store = proxy
    COMMITS.set(counted := Commits())
    wire.lose_next_commit("after")
    with store.transaction() as session:
        session.execute(text(f"insert into {notes} values (1)"))  # noqa: S608
    assert noted(engine) == [1]
    assert counted.count == 1


def test_a_commit_that_never_arrived_is_told_as_not_kept(
    proxy: tuple[LosingProxy, Store], engine: Engine, notes: str
) -> None:
    wire, store = proxy
    COMMITS.set(counted := Commits())
    wire.lose_next_commit("before")
    with pytest.raises(Unavailable) as told, store.transaction() as session:
        session.execute(text(f"insert into {notes} values (1)"))  # noqa: S608
    assert not isinstance(told.value, NotKnown)
    assert noted(engine) == [] and counted.count == 0


def test_where_nobody_can_tell_it_is_said_to_be_unknown(
    proxy: tuple[LosingProxy, Store], engine: Engine, notes: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("stonechat.db.session.SETTLE_S", 0.5)
    wire, store = proxy
    wire.lose_next_commit("after")
    with pytest.raises(NotKnown, match="whether it was kept is not known"), store.transaction() as session:
        session.execute(text(f"insert into {notes} values (1)"))  # noqa: S608
        wire.is_closed_to_new = True
    assert noted(engine) == [1]


def test_reading_leaves_no_mark_and_writing_leaves_one(engine: Engine, notes: str) -> None:
    def marks() -> int:
        with engine.connect() as connection:
            return int(connection.execute(text("select count(*) from commit_mark")).scalar_one())

    before = marks()
    with Store(engine).transaction() as session:
        session.execute(text("select 1"))
    assert marks() == before
    with Store(engine).transaction() as session:
        session.execute(text(f"insert into {notes} values (1)"))  # noqa: S608
    assert marks() == before + 1


def test_a_full_disk_is_called_by_its_name(engine: Engine) -> None:
    full = "do $$ begin raise exception 'could not extend file' using errcode = '53100'; end $$"
    with pytest.raises(Unavailable, match="The disk is full"), Store(engine).transaction() as session:
        session.execute(text(full))


def test_what_the_database_cannot_hold_is_the_askers_matter(engine: Engine) -> None:
    with pytest.raises(InvalidInput, match="cannot hold"), Store(engine).transaction() as session:
        session.execute(text("select 1 / 0"))


def test_a_silent_database_is_given_up(cluster_url: str) -> None:
    engine = make_engine(cluster_url, patience=0.3)
    began = time.monotonic()
    with pytest.raises(Unavailable, match="does not answer"), Store(engine).transaction() as session:
        session.execute(text("select pg_sleep(20)"))
    assert time.monotonic() - began < 10.0
    with Store(engine).transaction() as session:  # and the next one has a connection that works
        assert session.execute(text("select 1")).scalar_one() == 1
    probe = make_probe(engine)
    with probe.connect() as connection:
        assert connection.execute(text("select 1")).scalar_one() == 1
    engine.dispose()
