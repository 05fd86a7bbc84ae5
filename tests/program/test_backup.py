"""A backup and the way back: whole or not at all, nothing replaced unasked, nothing newer taken."""

import json
import zipfile
from pathlib import Path
from uuid import UUID

import pytest
from sqlalchemy import text

from stonechat.db import plans as rows
from stonechat.db.migrate import migrate
from stonechat.db.session import Store, make_engine
from stonechat.errors import Clash, UnreadableFile
from stonechat.formats.plan_json import write_plan
from stonechat.program.backup import read_manifest, restore_backup, write_backup
from stonechat.services import exchange, plans
from stonechat.services.history import open_plan, undo
from stonechat.services.workspace import Workspace
from stonechat.settings import Settings


@pytest.fixture
def url(own_database: str) -> str:
    """Address of a database with tables, which may be replaced."""
    engine = make_engine(own_database)
    migrate(engine)
    engine.dispose()
    return own_database


def opened(url: str) -> Workspace:
    return Workspace(store=Store(make_engine(url)), settings=Settings())


def plan_in(workspace: Workspace, demo_json: bytes) -> UUID:
    made = exchange.import_file(workspace, demo_json).plan_id
    plans.rename_plan(workspace, made, revision=1, name="Mine")
    return made


@pytest.fixture(scope="module")
def demo_json() -> bytes:
    from stonechat.demo.corvane import demo_plan

    return write_plan(demo_plan())


def close(workspace: Workspace) -> None:
    workspace.store.engine.dispose()


def test_what_was_kept_comes_back_with_its_history(url: str, tmp_path: Path, demo_json: bytes) -> None:
    workspace, file = opened(url), tmp_path / "kept.zip"
    plan_id = plan_in(workspace, demo_json)
    before = open_plan(workspace, plan_id)
    made = write_backup(url, file)
    assert made.plans == 1 and file.stat().st_mode & 0o777 == 0o600
    plans.rename_plan(workspace, plan_id, revision=before.revision, name="Changed after")
    close(workspace)
    with pytest.raises(Clash, match="would be replaced; nothing was changed"):
        restore_backup(url, file, replace=False)
    restore_backup(url, file, replace=True)
    workspace = opened(url)
    after = open_plan(workspace, plan_id)
    assert after == before
    assert undo(workspace, plan_id, revision=after.revision).plan.name != "Mine"  # the steps came along
    close(workspace)


def test_it_comes_back_into_an_empty_database_unasked(url: str, tmp_path: Path, demo_json: bytes) -> None:
    workspace, file = opened(url), tmp_path / "kept.zip"
    plan_id = plan_in(workspace, demo_json)
    write_backup(url, file)
    with workspace.store.transaction() as session:
        rows.forget_plan(session, plan_id)
    close(workspace)
    restore_backup(url, file, replace=False)
    workspace = opened(url)
    assert [head.name for head in plans.list_plans(workspace)] == ["Mine"]
    close(workspace)


def test_a_file_that_is_there_is_not_written_over(url: str, tmp_path: Path) -> None:
    file = tmp_path / "kept.zip"
    file.write_bytes(b"mine")
    with pytest.raises(Clash, match="is there already"):
        write_backup(url, file)
    assert file.read_bytes() == b"mine" and list(tmp_path.iterdir()) == [file]


@pytest.fixture
def backup(url: str, tmp_path: Path, demo_json: bytes) -> Path:
    """A backup of one plan, which is still in the database."""
    workspace = opened(url)
    plan_in(workspace, demo_json)
    close(workspace)
    write_backup(url, tmp_path / "kept.zip")
    return tmp_path / "kept.zip"


def rewritten(file: Path, **changes: object) -> Path:
    """The same backup with other words of itself."""
    with zipfile.ZipFile(file) as archive:
        told, dump = json.loads(archive.read("manifest.json")), archive.read("database.dump")
    other = file.with_name("other.zip")
    with zipfile.ZipFile(other, "w") as archive:
        archive.writestr("manifest.json", json.dumps({**told, **changes}))
        archive.writestr("database.dump", dump)
    return other


def test_a_newer_state_is_refused(backup: Path) -> None:
    with pytest.raises(UnreadableFile, match=r"written by a newer Stonechat \(state 9999"):
        read_manifest(rewritten(backup, state="9999"))


def names(url: str) -> list[str]:
    workspace = opened(url)
    try:
        return [head.name for head in plans.list_plans(workspace)]
    finally:
        close(workspace)


@pytest.mark.parametrize(
    "changes", [{"sha256": "0" * 64}, {"plans": 7}], ids=["another check sum", "another number of plans"]
)
def test_one_that_is_not_what_it_says_changes_nothing(url: str, backup: Path, changes: dict[str, object]) -> None:
    with pytest.raises(UnreadableFile, match=r"[Nn]othing was changed"):
        restore_backup(url, rewritten(backup, **changes), replace=True)
    assert names(url) == ["Mine"]


def test_a_cut_or_bent_file_changes_nothing(url: str, backup: Path) -> None:
    whole = backup.read_bytes()
    for part in (whole[: len(whole) // 2], whole[:100], b"", whole[:5000] + bytes([whole[5000] ^ 255]) + whole[5001:]):
        backup.write_bytes(part)
        with pytest.raises(UnreadableFile):
            restore_backup(url, backup, replace=True)
    assert names(url) == ["Mine"]


def test_a_backup_of_an_older_state_is_brought_up_to_date(url: str, tmp_path: Path, demo_json: bytes) -> None:
    engine = make_engine(url)
    with engine.begin() as connection:
        connection.execute(text("drop schema public cascade"))
        connection.execute(text("create schema public"))
    migrate(engine, "0005")
    engine.dispose()
    file = tmp_path / "old.zip"
    assert write_backup(url, file).state == "0005"
    restore_backup(url, file, replace=False)
    workspace = opened(url)
    plan_in(workspace, demo_json)  # the newest tables are there
    close(workspace)
