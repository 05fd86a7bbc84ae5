"""Data folders that the database's own user can reach, and a cluster with something kept in it, to be broken."""

import shutil
import subprocess
from pathlib import Path

import psycopg
import pytest

from stonechat.cluster import running_cluster
from tests.programs import reachable


@pytest.fixture
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder that is not made yet."""
    return reachable(tmp_path_factory.mktemp("data")) / "inner"


@pytest.fixture(scope="session")
def model_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A stopped cluster with 42 kept in it; copied by those who break it."""
    made = reachable(tmp_path_factory.mktemp("model")) / "data"
    with running_cluster(made, durable=False) as url, psycopg.connect(url) as connection:
        connection.execute("create table kept as select 42 as n")
    return made


@pytest.fixture
def kept(model_folder: Path, folder: Path) -> Path:
    """A copy of that cluster, owners and modes kept."""
    subprocess.run([shutil.which("cp") or "cp", "-a", str(model_folder), str(folder)], check=True)
    return folder
