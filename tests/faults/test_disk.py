"""A disk that is full is called by its name, reading goes on, and nothing is lost when there is room again."""

import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from stonechat.cluster import running_cluster
from stonechat.db.migrate import migrate
from stonechat.db.session import Store, make_engine
from stonechat.services import exchange
from stonechat.services.workspace import Workspace
from stonechat.settings import Settings
from stonechat.web.app import create_app
from tests.formats.test_gpx import course
from tests.programs import reachable


@pytest.fixture
def small_disk(tmp_path: Path) -> Iterator[Path]:
    """A disk of 75 MB."""
    disk = tmp_path / "disk"
    disk.mkdir()
    reachable(disk)
    mounted = (
        os.geteuid() == 0
        and not subprocess.run(
            ["mount", "-t", "tmpfs", "-o", "size=75m,mode=755", "tmpfs", str(disk)], capture_output=True, check=False
        ).returncode
    )
    if not mounted:
        pytest.skip("a small disk can be mounted by root alone")
    yield disk
    subprocess.run(["umount", "-l", str(disk)], check=True)


def fill(file: Path) -> None:
    with file.open("wb", buffering=0) as out:
        try:
            while True:
                out.write(b"x" * 50_000)
        except OSError:
            pass


def test_a_full_disk_is_told_and_nothing_is_lost(small_disk: Path) -> None:
    with running_cluster(small_disk / "data") as url:
        engine = make_engine(url)
        migrate(engine)
        workspace = Workspace(store=Store(engine), settings=Settings())
        plan = exchange.import_file(workspace, course()).plan_id
        client = TestClient(create_app(workspace), base_url="http://127.0.0.1", follow_redirects=False)

        def rename(name: str) -> tuple[int, str]:
            listed = client.get("/plans").text
            assert f'href="/plans/{plan}"' in listed  # reading goes on
            revision = listed.partition('name="revision" value="')[2].partition('"')[0]
            answer = client.post(f"/plans/{plan}/rename", data={"revision": revision, "name": name})
            return answer.status_code, answer.text

        assert rename("Before")[0] == 303
        fill(small_disk / "fill")
        told = next((text for k in range(300) if (text := rename(f"Full {k}")[1])), "")
        assert "The disk is full" in told and "Nothing was changed" in told
        kept = client.get("/plans").text
        (small_disk / "fill").unlink()
        assert client.get("/plans").text == kept
        assert rename("After")[0] == 303
        engine.dispose()
