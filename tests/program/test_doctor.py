"""The doctor says what is wrong and changes nothing."""

import shutil
import subprocess
from pathlib import Path

import pytest

from stonechat.cluster import running_cluster
from stonechat.program.doctor import look_over
from tests.programs import reachable


def told(folder: Path) -> dict[str, tuple[bool, str]]:
    return {finding.what: (finding.fine, finding.sentence) for finding in look_over(folder, "")}


@pytest.fixture
def kept(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A stopped cluster."""
    made = reachable(tmp_path_factory.mktemp("doctor"))
    with running_cluster(made / "data", durable=False):
        pass
    return made / "data"


def test_a_sound_one_is_fine_stopped_and_running(kept: Path) -> None:
    assert all(fine for fine, _ in told(kept).values())
    assert told(kept)["database"] == (True, "It does not run; a start runs it.")
    with running_cluster(kept, durable=False):
        assert told(kept)["database"][0]
        assert told(kept)["tables"] == (True, "Its tables are in state none; this program knows up to 0009.")


def test_what_is_wrong_is_said_and_left(kept: Path) -> None:
    kept.chmod(0o755)
    assert not told(kept)["data folder"][0] and kept.stat().st_mode & 0o777 == 0o755
    kept.chmod(0o700)
    (kept / "database" / "PG_VERSION").unlink()
    assert told(kept)["files"][0] is False and "PG_VERSION is gone" in told(kept)["files"][1]
    shutil.rmtree(kept / "database" / "base")
    assert "stonechat restore FILE" in told(kept)["files"][1]
    before = subprocess.run(["ls", "-lR", str(kept)], capture_output=True, check=True).stdout
    told(kept)
    assert subprocess.run(["ls", "-lR", str(kept)], capture_output=True, check=True).stdout == before


def test_a_folder_that_is_not_there_is_no_fault(tmp_path: Path) -> None:
    assert told(tmp_path / "none")["data folder"] == (
        True,
        f"{tmp_path / 'none'} is not there yet; the first start makes it.",
    )
    assert not (tmp_path / "none").exists()


def test_a_folder_of_somebody_else_is_called_so(tmp_path: Path) -> None:
    (tmp_path / "letters.txt").write_text("mine")
    fine, words = told(tmp_path)["data folder"]
    assert not fine and "did not make (letters.txt); a start refuses it" in words
