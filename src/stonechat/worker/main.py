"""Runs queued work on the database's queue; several of these may run, on several machines."""

from procrastinate import App

from stonechat.jobs.app import PACK_TASK, QUEUE, make_queue
from stonechat.services.packing import run_packing
from stonechat.services.workspace import Workspace


def make_worker(workspace: Workspace, database_url: str) -> App:
    """Return the queue's app with every task that this program knows."""
    queue = make_queue(database_url)

    @queue.task(name=PACK_TASK, queue=QUEUE)
    def pack(run_id: int) -> None:
        run_packing(workspace, run_id)

    return queue


def work(workspace: Workspace, database_url: str) -> None:
    """Run jobs until told to stop; a job that runs then is given a few seconds to end."""
    queue = make_worker(workspace, database_url)
    queue.run_worker(queues=[QUEUE], delete_jobs="successful", shutdown_graceful_timeout=5.0)
