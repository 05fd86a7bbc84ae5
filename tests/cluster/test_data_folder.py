"""What can happen to a data folder: nothing of somebody's is removed, and each state ends in work or in a sentence."""

import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import psycopg
import pytest

from stonechat.cluster import Cluster, programs, revive, running_cluster, stop_if_unused
from stonechat.errors import Unavailable

AS_ROOT = pytest.mark.skipif(os.geteuid() != 0, reason="another user can be taken on by root alone")


def kept_value(url: str) -> object:
    with psycopg.connect(url) as connection:
        row = connection.execute("select n from kept").fetchone()
        return row[0] if row else None


def tree(folder: Path) -> dict[str, tuple[int, int, bytes]]:
    """Everything in a folder: owner, mode, content."""
    return {
        str(path.relative_to(folder)): (
            path.stat().st_uid,
            path.stat().st_mode,
            path.read_bytes() if path.is_file() else b"",
        )
        for path in sorted(folder.rglob("*"))
    }


def test_a_folder_with_other_things_is_refused_and_left_alone(folder: Path) -> None:
    (folder / "database").mkdir(parents=True)
    (folder / "database" / "thesis.txt").write_text("five years of work")
    (folder / "photo.raw").write_bytes(b"\x00\x01")
    before, owner = tree(folder), folder.stat()
    with pytest.raises(Unavailable, match=r"holds things that Stonechat did not make .*STONECHAT_DATA_DIR"):
        Cluster(folder).start()
    assert tree(folder) == before
    assert (folder.stat().st_uid, folder.stat().st_mode) == (owner.st_uid, owner.st_mode)


def test_an_empty_folder_is_taken_and_closed(folder: Path) -> None:
    folder.mkdir(mode=0o755)
    with running_cluster(folder, durable=False) as url:
        assert folder.stat().st_mode & 0o777 == 0o700
        with psycopg.connect(url) as connection:
            assert connection.execute("select 1").fetchone() == (1,)


def test_a_mark_that_was_cut_off_while_it_was_written_is_no_stranger(folder: Path) -> None:
    folder.mkdir(mode=0o700)
    (folder / ".mark-half").write_text('{"made_')
    with running_cluster(folder, durable=False) as url, psycopg.connect(url) as connection:
        assert connection.execute("select 1").fetchone() == (1,)


@AS_ROOT
def test_a_folder_of_somebody_else_is_refused(folder: Path) -> None:
    folder.mkdir()
    os.chown(folder, 65534, 65534)
    with pytest.raises(Unavailable, match="belongs to nobody, not to postgres"):
        Cluster(folder).start()
    assert folder.stat().st_uid == 65534


@AS_ROOT
def test_a_folder_below_one_that_is_shut_is_refused_with_what_opens_it(folder: Path) -> None:
    folder.parent.chmod(0o700)
    with pytest.raises(Unavailable, match="is closed to postgres") as refused:
        Cluster(folder, durable=False).start()
    command = refused.value.message.partition("for passing through: ")[2].rstrip(".")
    assert command == f"chmod o+x {folder.parent}"
    subprocess.run(command.split(), check=True)
    with running_cluster(folder, durable=False) as url, psycopg.connect(url) as connection:
        assert connection.execute("select 1").fetchone() == (1,)


def test_a_folder_from_before_marks_still_opens_and_is_closed_to_others(kept: Path) -> None:
    (kept / "stonechat.json").unlink()
    (kept / "database" / "pg_hba.conf").write_text("local all all trust\n")
    with running_cluster(kept, durable=False) as url:
        assert kept_value(url) == 42
    assert "trust" not in (kept / "database" / "pg_hba.conf").read_text()


@pytest.mark.parametrize("seconds", [0.05, 0.3, 0.7, 1.2, 2.0])
def test_a_first_start_that_is_cut_off_can_start_again(folder: Path, seconds: float) -> None:
    code = (
        "import sys, pathlib; from stonechat.cluster import running_cluster\n"
        "print('go', flush=True)\n"
        "with running_cluster(pathlib.Path(sys.argv[1]), durable=False): input()\n"
    )
    cut = subprocess.Popen(
        [sys.executable, "-c", code, str(folder)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, start_new_session=True
    )
    assert cut.stdout is not None and cut.stdout.readline()
    time.sleep(seconds)
    os.killpg(cut.pid, signal.SIGKILL)
    cut.communicate()
    said: list[str] = []
    with running_cluster(folder, durable=False, say=said.append) as url, psycopg.connect(url) as connection:
        assert connection.execute("select 1").fetchone() == (1,)
    assert all("set aside" in sentence or "taken over" in sentence for sentence in said)


def test_one_that_an_older_version_left_half_made_is_set_aside(kept: Path) -> None:
    (kept / "stonechat.json").unlink()
    shutil.rmtree(kept / "database" / "global")
    for inner in sorted((kept / "database" / "base").iterdir())[1:]:
        shutil.rmtree(inner)
    said: list[str] = []
    with running_cluster(kept, durable=False, say=said.append) as url, psycopg.connect(url) as connection:
        assert connection.execute("select 1").fetchone() == (1,)
    assert "set aside" in said[0]
    (aside,) = (kept / "set-aside").iterdir()
    assert (aside / "PG_VERSION").exists()  # moved, not removed


def test_a_lost_version_is_a_sentence_that_mends_it(kept: Path) -> None:
    (kept / "database" / "PG_VERSION").unlink()
    with pytest.raises(Unavailable, match=r"Put the file back: echo \d+ > ") as refused:
        Cluster(kept, durable=False).start()
    subprocess.run(["sh", "-c", refused.value.message.partition("Put the file back: ")[2]], check=True)
    shutil.chown(kept / "database" / "PG_VERSION", (kept / "database").stat().st_uid, (kept / "database").stat().st_gid)
    with running_cluster(kept, durable=False) as url:
        assert kept_value(url) == 42


def test_a_damaged_one_is_left_as_it_is(kept: Path) -> None:
    shutil.rmtree(kept / "database" / "base")
    before = tree(kept / "database")
    with pytest.raises(Unavailable, match=r"Parts of the database .* stonechat restore FILE"):
        Cluster(kept, durable=False).start()
    assert tree(kept / "database") == before


def test_a_cluster_of_another_version_is_a_sentence(kept: Path) -> None:
    (kept / "database" / "PG_VERSION").write_text("9\n")
    with pytest.raises(
        Unavailable, match=r"made by PostgreSQL 9, which is not installed .*apt-get install postgresql-9"
    ):
        Cluster(kept, durable=False).start()


def test_the_programs_of_the_clusters_own_version_are_chosen(
    kept: Path, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    tmp_path = folder.parent / "programs"
    version, real = programs.newest_programs()
    (tmp_path / str(version)).mkdir(parents=True)
    (tmp_path / str(version) / "bin").symlink_to(real)
    newer = tmp_path / str(version + 1) / "bin"
    newer.mkdir(parents=True)
    for name in ("initdb", "pg_ctl", "postgres", "createdb"):
        (newer / name).write_text("#!/bin/sh\nexit 9\n")
        (newer / name).chmod(0o755)
    monkeypatch.setattr(programs, "_INSTALLED", tmp_path)
    assert programs.newest_programs()[0] == version + 1
    with running_cluster(kept, durable=False) as url:
        assert kept_value(url) == 42


@pytest.mark.parametrize(
    "text", [f"{os.getpid()}\n/elsewhere\n1\n5432\n", "1\n", "", "nonsense\n"], ids=["ours", "init", "empty", "junk"]
)
def test_a_stale_lock_is_no_hindrance(kept: Path, text: str) -> None:
    lock = kept / "database" / "postmaster.pid"
    lock.write_text(text)
    shutil.chown(lock, (kept / "database").stat().st_uid, (kept / "database").stat().st_gid)
    lock.chmod(0o600)
    with running_cluster(kept, durable=False) as url:
        assert kept_value(url) == 42


def test_a_stale_socket_is_no_hindrance(kept: Path) -> None:
    (kept / "run" / ".s.PGSQL.5432").write_text("")
    (kept / "run" / ".s.PGSQL.5432.lock").write_text(f"{os.getpid()}\n")
    with running_cluster(kept, durable=False) as url:
        assert kept_value(url) == 42


@AS_ROOT
def test_a_copy_made_by_root_is_a_sentence_that_mends_it(model_folder: Path, folder: Path) -> None:
    subprocess.run(["cp", "-r", str(model_folder), str(folder)], check=True)
    with pytest.raises(Unavailable, match=r"as root: chown -R postgres: ") as refused:
        Cluster(folder, durable=False).start()
    subprocess.run(["sh", "-c", refused.value.message.partition("as root: ")[2]], check=True)
    with running_cluster(folder, durable=False) as url:
        assert kept_value(url) == 42


@AS_ROOT
def test_another_user_cannot_connect(kept: Path) -> None:
    with running_cluster(kept, durable=False) as url:
        ask = [str(programs.newest_programs()[1] / "psql"), url, "-c", "select n from kept"]
        outsider = {"user": 65534, "group": 65534, "extra_groups": [], "capture_output": True, "text": True}
        closed = subprocess.run(ask, check=False, **outsider)
        assert closed.returncode != 0
        # not even where every door to the socket stands open
        for path in (kept, kept / "run", kept / "run" / ".s.PGSQL.5432"):
            path.chmod(0o777)
        refused = subprocess.run(ask, check=False, **outsider)
        assert refused.returncode != 0
        assert "Peer authentication failed" in refused.stderr
        assert kept_value(url) == 42
    with running_cluster(kept, durable=False):
        assert kept.stat().st_mode & 0o777 == 0o700  # closed again by the next start
        assert (kept / "run").stat().st_mode & 0o777 == 0o700


def test_a_server_that_is_killed_is_started_again_with_what_was_kept(kept: Path) -> None:
    with running_cluster(kept) as url:
        assert not revive(kept)
        os.kill(Cluster(kept).serving(), signal.SIGKILL)
        end = time.monotonic() + 30.0
        while not revive(kept):  # it takes a moment to die
            assert time.monotonic() < end
            time.sleep(0.05)
        assert kept_value(url) == 42


@pytest.fixture
def killed_program(kept: Path) -> Iterator[Callable[[], None]]:
    """A program that was killed and left its server running."""
    code = (
        "import sys, pathlib; from stonechat.cluster import running_cluster\n"
        "with running_cluster(pathlib.Path(sys.argv[1])): print('up', flush=True); input()"
    )
    program = subprocess.Popen([sys.executable, "-c", code, str(kept)], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    assert program.stdout is not None and program.stdout.readline() == b"up\n"
    program.kill()
    program.communicate()
    yield lambda: None


@pytest.mark.usefixtures("killed_program")
def test_what_a_killed_program_left_is_taken_over_in_words(kept: Path) -> None:
    said: list[str] = []
    with running_cluster(kept, say=said.append) as url:
        assert kept_value(url) == 42
    assert said == ["The database was left running by a program that was killed; it is taken over."]
    assert not Cluster(kept).serving()


@pytest.mark.usefixtures("killed_program")
def test_what_a_killed_program_left_can_be_stopped_by_its_child(kept: Path) -> None:
    stop_if_unused(kept)
    assert not Cluster(kept).serving()


def test_it_is_not_stopped_while_it_is_used(kept: Path) -> None:
    with running_cluster(kept, durable=False) as url:
        stop_if_unused(kept)
        assert kept_value(url) == 42


def test_many_come_and_go_at_once(kept: Path) -> None:
    failures: list[BaseException] = []

    def visit() -> None:
        try:
            for _ in range(3):
                with running_cluster(kept, durable=False) as url:
                    assert kept_value(url) == 42
        except BaseException as exc:  # told to the test
            failures.append(exc)

    visitors = [threading.Thread(target=visit) for _ in range(3)]
    for visitor in visitors:
        visitor.start()
    for visitor in visitors:
        visitor.join()
    assert failures == []
    assert not Cluster(kept).serving()
