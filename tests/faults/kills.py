"""Edits while program, database and worker are killed: what was acknowledged is there afterwards."""

import os
import random
import signal
import time
from collections.abc import Callable
from pathlib import Path

import httpx2 as httpx

from tests.programs import Program

_LATE_S = 60.0  # to come back; the machine may be busy


def storm_of_kills(folder: Path, *, kills: int, seed: int, tell: Callable[[str], None] = print) -> list[str]:
    """Edit a plan without pause, kill something now and then, and return what was lost."""
    chance, faults, acknowledged, sent = random.Random(seed), list[str](), 0, 0
    program = Program(folder)
    try:
        plan = _first_plan(program)
        for number in range(kills):
            for _ in range(chance.randint(5, 20)):
                sent += 1
                acknowledged = sent if _edit(program, plan, sent) else acknowledged
            what = chance.choice(("program", "database", "worker"))
            _kill(program, what)
            sent += 1  # one that is under way while it goes down
            acknowledged = sent if _edit(program, plan, sent) else acknowledged
            if what == "program":
                program.kill()
                program = Program(folder)
            seconds = _back(program)
            there = _edits_there(program, plan)
            if not acknowledged <= there <= sent:
                faults.append(
                    f"kill {number + 1} of the {what}: {acknowledged} acknowledged, {there} there, {sent} sent"
                )
            tell(
                f"kill {number + 1}, {what}: back after {seconds:.1f} s; {sent} edits sent, "
                f"{acknowledged} acknowledged, {there} there"
            )
            acknowledged = sent = there
    finally:
        program.kill()
    return faults


def _first_plan(program: Program) -> str:
    address = httpx.get(program.address + "/", timeout=60).headers["location"]
    return str(address).split("/")[2]


def _edit(program: Program, plan: str, number: int) -> bool:
    """Rename the plan; tell whether that was acknowledged."""
    try:
        listed = httpx.get(program.address + "/plans", timeout=60).text
        revision = listed.partition('name="revision" value="')[2].partition('"')[0]
        answer = httpx.post(
            f"{program.address}/plans/{plan}/rename", data={"revision": revision, "name": f"Edit {number}"}, timeout=60
        )
    except httpx.HTTPError:
        return False
    return bool(answer.status_code == 303)


def _kill(program: Program, what: str) -> None:
    pid = {"program": program.pid, "database": program.server(), "worker": program.worker()}[what]
    if pid:
        os.kill(pid, signal.SIGKILL)


def _back(program: Program) -> float:
    began = time.monotonic()
    while time.monotonic() - began < _LATE_S:
        try:
            status, told = program.ready()
            if status == 200 and told["workers"]:
                break
        except httpx.HTTPError:
            pass
        time.sleep(0.1)
    return time.monotonic() - began


def _edits_there(program: Program, plan: str) -> int:
    """Return the number of the last edit that is there."""
    listed = httpx.get(program.address + "/plans", timeout=60).text
    words = listed.partition(f'href="/plans/{plan}">')[2].partition("<")[0].split()
    return int(words[1]) if words[:1] == ["Edit"] else 0
