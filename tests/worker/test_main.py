"""The worker on the real queue: a deferred packing is run and stored, a fault in it is told."""

from concurrent.futures import ThreadPoolExecutor

import pytest

from stonechat.jobs.app import QUEUE, defer_run, make_queue
from stonechat.services.history import OpenPlan
from stonechat.services.load import packing
from stonechat.services.work import perform
from stonechat.services.working import FAMILIES
from stonechat.services.workspace import Workspace
from stonechat.worker.main import make_worker


def run_queue(workspace: Workspace, url: str) -> None:
    """Run what is queued, then stop; in a thread of its own, for the browser's driver may hold this one's loop."""
    worker = make_worker(workspace, url)
    with ThreadPoolExecutor(1) as pool:
        pool.submit(worker.run_worker, queues=[QUEUE], wait=False, install_signal_handlers=False).result(timeout=120)


def test_a_deferred_packing_is_run_by_a_worker(workspace: Workspace, opened: OpenPlan, cluster_url: str) -> None:
    queue = make_queue(cluster_url)
    with queue.open():
        asking = Workspace(
            store=workspace.store, settings=workspace.settings, defer_run=lambda run: defer_run(queue, run)
        )
        waiting = packing.start_packing(asking, opened.id, "b")
    assert waiting.state == "waiting"
    run_queue(workspace, cluster_url)
    done = packing.packing_run(workspace, opened.id, "b")
    assert done is not None and done.id == waiting.id
    assert done.state == "done" and "gap" in done.progress and done.progress["gap"] <= 0.001


def test_a_fault_in_a_packing_ends_it_with_a_sentence(
    workspace: Workspace, opened: OpenPlan, monkeypatch: pytest.MonkeyPatch
) -> None:
    idle = Workspace(store=workspace.store, settings=workspace.settings)
    run = packing.start_packing(idle, opened.id, "a")

    def fall(*_: object, **__: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(packing, "solve_packing", fall)
    with pytest.raises(ZeroDivisionError):
        perform(workspace, FAMILIES, run.id)
    ended = packing.packing_run(workspace, opened.id, "a")
    assert ended is not None and ended.state == "failed"
    assert ended.result == {"reasons": ["The solver failed; the fault is ours. The load is as it was."]}


def test_a_run_that_was_stopped_before_is_not_taken_up(workspace: Workspace, opened: OpenPlan) -> None:
    idle = Workspace(store=workspace.store, settings=workspace.settings)
    run = packing.start_packing(idle, opened.id, "a")
    packing.stop_packing(idle, opened.id, "a")
    perform(workspace, FAMILIES, run.id)
    ended = packing.packing_run(workspace, opened.id, "a")
    assert ended is not None and ended.state == "failed"
