"""The private database cluster: made, used by several, taken over, refused."""

import os
import subprocess
from pathlib import Path

import psycopg
import pytest

from stonechat.cluster import Cluster, programs, running_cluster
from stonechat.cluster import folder as folders
from stonechat.errors import Unavailable


def answer(url: str, query: str) -> object:
    with psycopg.connect(url) as connection:
        row = connection.execute(query).fetchone()  # type: ignore[call-overload]
        return row[0] if row else None


def test_what_is_written_is_there_the_next_time(folder: Path) -> None:
    with running_cluster(folder, durable=False) as url, psycopg.connect(url) as connection:
        connection.execute("create table kept as select 42 as n")
    with running_cluster(folder, durable=False) as url:
        assert answer(url, "select n from kept") == 42
        assert answer(url, "show listen_addresses") == ""  # a socket only, no port
    assert not Cluster(folder).serving()


def test_whoever_leaves_last_stops_it(folder: Path) -> None:
    with running_cluster(folder, durable=False) as first:
        with running_cluster(folder, durable=False) as second:
            assert first == second
        assert answer(first, "select 1") == 1  # the other one left; this one still works
    assert not Cluster(folder).serving()


def test_a_cluster_left_running_is_taken_over_and_stopped(folder: Path) -> None:
    left = Cluster(folder, durable=False)
    left.start()
    with running_cluster(folder, durable=False) as url:
        assert answer(url, "select 1") == 1
    assert not left.serving()


def test_the_folder_is_its_owners_alone(folder: Path) -> None:
    with running_cluster(folder, durable=False):
        assert folder.stat().st_mode & 0o777 == 0o700


def test_a_long_path_gets_a_short_socket(folder: Path) -> None:
    deep = folder / ("x" * 60) / ("y" * 60)
    with running_cluster(deep, durable=False) as url:
        assert answer(url, "select 1") == 1
        socket_folder = Path(url.partition("host=")[2].partition("&")[0])
    assert len(str(socket_folder)) <= 90
    assert socket_folder.stat().st_mode & 0o777 == 0o700
    with running_cluster(deep, durable=False) as again:
        assert again == url  # the next program finds it by what the folder notes
    socket_folder.rmdir()


def test_a_folder_that_cannot_be_made_is_said(tmp_path: Path) -> None:
    blocked = tmp_path / "file"
    blocked.write_text("in the way")
    with pytest.raises(Unavailable, match=r"cannot be used: .* STONECHAT_DATA_DIR"):
        Cluster(blocked / "data").folder.prepare()


def test_a_missing_server_is_one_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(programs, "_INSTALLED", Path("/nonexistent"))
    monkeypatch.setenv("PATH", "/nonexistent")
    with pytest.raises(Unavailable, match=r"PostgreSQL's server is missing\. Install it"):
        programs.newest_programs()


def test_root_and_others_have_their_usual_folders(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "geteuid", lambda: 0)
    assert folders.default_data_dir() == Path("/var/lib/stonechat")
    monkeypatch.setattr(os, "geteuid", lambda: 1000)
    monkeypatch.setenv("XDG_DATA_HOME", "/home/rider/data")
    assert folders.default_data_dir() == Path("/home/rider/data/stonechat")


def test_the_start_script_passes_its_own_check() -> None:
    root = Path(__file__).parent.parent.parent
    for script in ("stonechat", ".ci/run"):
        assert subprocess.run(["bash", "-n", str(root / script)], check=False).returncode == 0
    assert os.access(root / "stonechat", os.X_OK)
