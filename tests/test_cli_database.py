"""The command line with a database of its own: plans in, plans out, the program and its worker side by side."""

import json
import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from socket import create_connection
from urllib.request import urlopen

import pytest

from stonechat.cluster import running_cluster
from stonechat.core.kit.item import Item
from stonechat.core.plan.beginning import Spoken, begin_plan
from stonechat.formats.gpx import read_gpx
from stonechat.formats.plan_json import write_plan
from stonechat.program.serving import loopback_socket
from stonechat.settings import Settings
from tests.formats.test_gpx import course
from tests.programs import reachable
from tests.test_cli import run as run_here


@pytest.fixture(scope="module")
def environment(tmp_path_factory: pytest.TempPathFactory) -> Iterator[dict[str, str]]:
    """The environment of a command over a database that holds nothing yet."""
    folder = reachable(tmp_path_factory.mktemp("cli"))
    with running_cluster(folder / "data", durable=False) as url:
        yield {**os.environ, "STONECHAT_DATABASE_URL": url, "PYTHONUNBUFFERED": "1"}


def run(environment: dict[str, str], *arguments: str) -> subprocess.CompletedProcess[str]:
    return run_here(*arguments, **environment)


def test_a_course_comes_in_and_goes_out_as_a_plan(environment: dict[str, str], tmp_path: Path) -> None:
    file = tmp_path / "course.gpx"
    file.write_bytes(course(300))
    came = run(environment, "import", str(file), "--surface", "track")
    assert came.returncode == 0, came.stderr
    plan_id = came.stdout.split()[0]
    assert "15.0 km with" in came.stdout
    by_id, by_name = run(environment, "export", plan_id), run(environment, "export", "North line")
    assert by_id.stdout == by_name.stdout
    document = json.loads(by_id.stdout)
    assert document["line"]["default_surface"] == "track" and document["format"] == "stonechat-plan"
    back = tmp_path / "plan.json"
    back.write_text(by_id.stdout)
    assert "North line is here." in run(environment, "import", str(back)).stdout
    assert json.loads(run(environment, "ride", str(back), "--json").stdout)["length_km"] == pytest.approx(
        15.0, rel=0.01
    )


def test_what_is_not_there_or_not_usable_is_one_sentence(environment: dict[str, str], tmp_path: Path) -> None:
    missing = run(environment, "export", "Nowhere")
    assert missing.returncode == 1 and "There is no plan “Nowhere”" in missing.stderr
    bad = tmp_path / "bad.gpx"
    bad.write_text("not a course")
    refused = run(environment, "import", str(bad))
    assert refused.returncode == 2 and "not readable as XML" in refused.stderr and refused.stdout == ""
    lava = run(environment, "import", str(bad), "--surface", "lava")
    assert lava.returncode == 2 and "no surface" in lava.stderr


def test_migrating_twice_is_no_harm(environment: dict[str, str]) -> None:
    for _ in range(2):
        assert run(environment, "migrate").stdout == "The database is up to date.\n"


class Demo:
    """A `demo` that was started and not yet waited for."""

    def __init__(self, folder: Path, port: int) -> None:
        self._errors = (folder.parent / f"demo-{id(self)}.err").open("w+")
        self._process = subprocess.Popen(
            [sys.executable, "-m", "stonechat", "demo", "--port", str(port)],
            stdout=subprocess.PIPE, stderr=self._errors, text=True,
            env={**os.environ, "STONECHAT_DATA_DIR": str(folder), "PYTHONUNBUFFERED": "1"},
        )  # fmt: skip

    def address(self) -> str:
        """Wait for the address."""
        assert self._process.stdout is not None
        line = self._process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:\d+/", line)
        self._errors.seek(0)
        assert found, line + self._errors.read()
        return found[0]

    def end(self) -> int:
        """End it politely."""
        self._process.terminate()
        code = self._process.wait(timeout=90)
        assert self._process.stdout is not None
        self._process.stdout.close()
        self._errors.close()
        return code


def test_two_demos_of_the_same_second_both_start(tmp_path_factory: pytest.TempPathFactory) -> None:
    folder = reachable(tmp_path_factory.mktemp("two"))
    with loopback_socket(0) as probe:
        wanted = probe.getsockname()[1]
    both = [Demo(folder / "data", wanted) for _ in range(2)]
    try:
        addresses = [demo.address() for demo in both]
        assert len(set(addresses)) == 2
        assert f"http://127.0.0.1:{wanted}/" in addresses
        for address in addresses:
            with urlopen(address + "plans", timeout=90) as answer:  # noqa: S310  an address of our own
                assert answer.read().decode().count(">The Corvane Round</a>") == 1
    finally:
        codes = [demo.end() for demo in both]
    assert codes == [0, 0]


def test_a_port_is_bound_once_and_any_port_is_not_the_usual_one() -> None:
    with loopback_socket(0) as first:
        port = first.getsockname()[1]
        assert port not in (0, Settings().port)
        with loopback_socket(port) as second:  # taken, so another one
            assert second.getsockname()[1] not in (0, port)
            with create_connection(("127.0.0.1", port), timeout=5) as connection:  # it listens already
                assert connection.getpeername()[1] == port


def test_the_program_serves_without_demo_data_and_a_worker_packs(environment: dict[str, str], tmp_path: Path) -> None:
    serving = subprocess.Popen(
        [sys.executable, "-m", "stonechat", "serve", "--port", "0"],
        stdout=subprocess.PIPE, text=True, env=environment,
    )  # fmt: skip
    working = subprocess.Popen([sys.executable, "-m", "stonechat", "work"], env=environment, stdout=subprocess.DEVNULL)
    try:
        assert serving.stdout is not None
        found = re.search(r"http://\S+/", serving.stdout.readline())
        assert found
        with urlopen(found[0] + "plans", timeout=90) as answer:  # noqa: S310  an address of our own
            assert answer.status == 200
        file = tmp_path / "plan.json"
        bottle_and_bag = Spoken(bags="road", items=(Item(id="tube", name="inner tube", mass=0.1, volume=2e-4),))
        track = read_gpx(course(200)).track
        new = begin_plan(
            name="Short", track=track, surface="tarmac", stops=(), spoken=bottle_and_bag, today=datetime(2027, 3, 1)
        )
        file.write_bytes(write_plan(new))
        plan_id = run(environment, "import", str(file)).stdout.split()[0]
        page = urlopen(f"{found[0]}plans/{plan_id}/a/load", timeout=90).read().decode()  # noqa: S310
        revision = re.search(r'name="revision" value="(\d+)"', page)
        assert revision
        body = f"revision={revision[1]}&leg=0".encode()
        urlopen(f"{found[0]}plans/{plan_id}/a/do/pack", body, timeout=90).close()  # noqa: S310
        for _ in range(60):
            page = urlopen(f"{found[0]}plans/{plan_id}/a/load", timeout=90).read().decode()  # noqa: S310
            if "none can be better than" in page and "Take the ticked moves" in page:
                break
            time.sleep(1.0)
        else:
            pytest.fail("nobody packed it")
    finally:
        for process in (serving, working):
            process.send_signal(signal.SIGTERM)
        codes = [process.wait(timeout=90) for process in (serving, working)]
        assert serving.stdout is not None
        serving.stdout.close()
    assert codes == [0, 0]
