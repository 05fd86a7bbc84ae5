"""A running program whose parts are killed or asleep: it comes back by itself, and all of it ends together."""

import os
import signal
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx2 as httpx
import pytest

from tests.programs import Program

BACK_S = 10.0  # what the program promises on a quiet machine
BUSY = 4.0  # this one runs other tests beside it


@pytest.fixture(scope="module")
def program(data_dir: Callable[[str], Path]) -> Iterator[Program]:
    made = Program(data_dir("running"))
    yield made
    made.kill()
    wait_until(lambda: not made.server() and not made.worker())
    assert "Traceback" not in made.said()


def wait_until(is_so: Callable[[], bool], *, seconds: float = BACK_S * BUSY) -> float:
    """Wait for something, and return how long it took."""
    began = time.monotonic()
    while not is_so():
        assert time.monotonic() - began < seconds, "it did not come"
        time.sleep(0.1)
    return time.monotonic() - began


def is_whole(program: Program) -> bool:
    """The database answers and a worker is there."""
    status, told = program.ready()
    return status == 200 and told["workers"] >= 1


def test_a_worker_that_is_killed_comes_back(program: Program) -> None:
    wait_until(lambda: is_whole(program))
    old = program.worker()
    os.kill(old, signal.SIGKILL)
    wait_until(lambda: program.worker() not in (0, old) and is_whole(program))
    assert "The worker had stopped and was started again." in program.said()


def test_a_database_that_is_killed_comes_back_with_the_plan(program: Program) -> None:
    wait_until(lambda: is_whole(program))
    old = program.server()
    os.kill(old, signal.SIGKILL)
    wait_until(lambda: program.server() not in (0, old) and is_whole(program))
    page = httpx.get(program.address + "/", follow_redirects=True, timeout=60)
    assert page.status_code == 200 and "Corvane" in page.text
    assert "The database had stopped and was started again." in program.said()


def test_a_database_that_sleeps_is_told_and_readiness_says_no(program: Program) -> None:
    wait_until(lambda: is_whole(program))
    server = program.server()
    sessions = [int(word) for word in Path(f"/proc/{server}/task/{server}/children").read_text().split()]
    for pid in (server, *sessions):
        os.kill(pid, signal.SIGSTOP)
    try:
        assert program.ready()[0] == 503
        assert httpx.get(program.address + "/healthy").text == "yes"
        began = time.monotonic()
        page = httpx.get(program.address + "/plans", timeout=60)
        assert page.status_code == 503 and "The database does not answer." in page.text
        assert page.headers["retry-after"] == "2"
        assert time.monotonic() - began < 20.0 * BUSY
    finally:
        for pid in (*sessions, server):
            os.kill(pid, signal.SIGCONT)
    wait_until(lambda: program.ready()[0] == 200)
    assert httpx.get(program.address + "/plans", timeout=60).status_code == 200


def test_a_packing_goes_on_when_its_worker_is_killed(program: Program) -> None:
    wait_until(lambda: is_whole(program))
    with httpx.Client(base_url=program.address, follow_redirects=True, timeout=60) as client:
        load = str(client.get("/").url).replace("/line", "/load")
        plan = load.split("?")[0].removesuffix("/load")
        page = client.get(load, params={"tab": "pack"}).text
        revision = page.partition('data-revision="')[2].partition('"')[0]
        asked = client.post(f"{plan}/do/pack", data={"revision": revision, "leg": "0", "kind": "pack"})
        assert asked.status_code == 200, asked.text
        os.kill(program.worker(), signal.SIGKILL)
        wait_until(lambda: "every 1500ms" not in client.get(load).text, seconds=60.0 * BUSY)
        ended = client.get(load, params={"tab": "pack"}).text
    assert "moves" in ended and "cut off" not in ended


def test_when_the_program_ends_nothing_of_it_is_left(data_dir: Callable[[str], Path]) -> None:
    folder = data_dir("ended")
    for end in (Program.hang_up, Program.kill):
        program = Program(folder)
        wait_until(lambda: is_whole(program))  # noqa: B023  waited for here
        assert program.server() and program.worker()
        end(program)
        wait_until(lambda: not program.server() and not program.worker())  # noqa: B023  waited for here
