"""The long form of the storm: `python -m tests.faults --files 5000 --forms 5000 --kills 15`; prints what came of it.

It makes a database of its own in a temporary folder, and leaves status 1 behind where anything was at fault.
"""

import argparse
import logging
import random
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

from fastapi.testclient import TestClient

from stonechat.cluster import running_cluster
from stonechat.core.line.track import trimmed_track
from stonechat.db.migrate import migrate
from stonechat.db.session import Store, make_engine
from stonechat.demo.corvane import demo_plan
from stonechat.services import exchange
from stonechat.services.history import open_plan
from stonechat.services.workspace import Workspace
from stonechat.settings import Settings
from stonechat.web.app import create_app
from tests.faults.kills import storm_of_kills
from tests.faults.seeds import seeds
from tests.faults.storm import Outcome, every_form, print_of, send_file, storm_of_forms


def tell(words: str) -> None:
    """Print at once."""
    print(words, flush=True)


def storm_of_files(workspace: Workspace, client: TestClient, each: int, seed: int) -> list[str]:
    """Send so many damaged files of each format, and return the faults."""
    faults: list[str] = []
    engine = workspace.store.engine
    plan_id = exchange.ensure_demo(workspace)
    demo = demo_plan()
    short = replace(demo, line=replace(demo.line, track=trimmed_track(demo.line.track, 0.0, 20_000.0)))
    for kind, (address, field, data, ways) in seeds(short).items():
        chance, began = random.Random(f"{seed} {kind}"), time.monotonic()
        outcome = Outcome(engine, kept=print_of(engine))
        to, more = address.format(plan=plan_id, variant="a"), {"leg": "0", "surface": "tarmac", "mode": "merge"}
        status = 0
        for _ in range(each):
            if status < 400:  # something was kept
                more["revision"] = str(open_plan(workspace, plan_id).revision)
            status = send_file(client, to, field, chance.choice(ways)(data, chance), outcome, **more)
        seconds = time.monotonic() - began
        tell(
            f"{kind}: {each} files in {seconds:.0f} s, {dict(sorted(outcome.statuses.items()))}, "
            f"{len(outcome.faults)} faults"
        )
        faults += outcome.faults
    return faults


def main() -> int:
    """Run the storm."""
    asked = argparse.ArgumentParser(prog="python -m tests.faults", description=__doc__)
    asked.add_argument("--files", type=int, default=5_000, help="damaged files of each format")
    asked.add_argument("--forms", type=int, default=5_000, help="damaged forms")
    asked.add_argument("--kills", type=int, default=15, help="kills under a running program")
    asked.add_argument("--seed", type=int, default=1)
    given = asked.parse_args()
    logging.getLogger("stonechat.web").setLevel(logging.CRITICAL)
    faults: list[str] = []
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        with running_cluster(Path(folder) / "data", durable=False) as url:
            engine = make_engine(url)
            migrate(engine)
            workspace = Workspace(store=Store(engine), settings=Settings())
            client = TestClient(
                create_app(workspace),
                base_url="http://127.0.0.1",
                raise_server_exceptions=False,
                follow_redirects=False,
            )
            if given.files:
                faults += storm_of_files(workspace, client, given.files, given.seed)
            if given.forms:
                plan = f"/plans/{exchange.ensure_demo(workspace)}/a"
                forms = every_form(client, plan)
                outcome = storm_of_forms(client, engine, plan, forms, requests=given.forms, seed=given.seed, tell=tell)
                tell(f"forms: {given.forms}, {dict(sorted(outcome.statuses.items()))}, {len(outcome.faults)} faults")
                faults += outcome.faults
            engine.dispose()
        if given.kills:
            faults += storm_of_kills(Path(folder) / "killed", kills=given.kills, seed=given.seed, tell=tell)
    for fault in faults[:40]:
        tell(fault)
    tell(f"{len(faults)} faults")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
