"""Runs queued work on the database's queue; several of these may run, on several machines."""

import logging
import threading
import time

import psycopg
from procrastinate import App
from procrastinate.exceptions import ProcrastinateException
from sqlalchemy.exc import DBAPIError

from stonechat.db.presence import worker_present
from stonechat.errors import Unavailable
from stonechat.jobs.app import QUEUE, RUN_TASK, make_workers_queue
from stonechat.services.work import perform, take_up_lost_runs
from stonechat.services.working import FAMILIES
from stonechat.services.workspace import Workspace

_LOOK_S = 2.0  # between two looks for jobs, and for runs whose worker is gone
_AGAIN_S = 1.0  # until a worker that lost its database tries again
_GONE = (psycopg.Error, ProcrastinateException, DBAPIError, Unavailable, OSError)
_log = logging.getLogger("stonechat.worker")


def make_worker(workspace: Workspace, database_url: str) -> App:
    """Return the queue's app with every task that this program knows."""
    queue = make_workers_queue(database_url)

    @queue.task(name=RUN_TASK, queue=QUEUE)
    def run(run_id: int) -> None:
        perform(workspace, FAMILIES, run_id)

    return queue


def work(workspace: Workspace, database_url: str) -> None:
    """Run jobs until told to stop; a job that runs then is given a few seconds to end.

    A database that goes away is waited for, and what was under way is taken up again.
    """
    logging.getLogger("procrastinate.utils").addFilter(_is_news)
    logging.getLogger("psycopg.pool").setLevel(logging.ERROR)  # it tells every try to connect anew
    stop = threading.Event()
    threading.Thread(target=_stand_by, args=(workspace, stop), daemon=True).start()
    try:
        while not _worked_to_the_end(workspace, database_url):
            time.sleep(_AGAIN_S)
    finally:
        stop.set()


def _is_news(record: logging.LogRecord) -> bool:
    """Leave out that a listener ended with its database, which is said already; jobs are then looked for by the clock.

    The queue tells it when the worker ends, with a trace.
    """
    return not record.getMessage().startswith("listener error")


def _worked_to_the_end(workspace: Workspace, database_url: str) -> bool:
    try:
        make_worker(workspace, database_url).run_worker(
            queues=[QUEUE],
            delete_jobs="always",  # what came of a job stands in its run
            shutdown_graceful_timeout=5.0,
            fetch_job_polling_interval=_LOOK_S,
        )
    except _GONE as exc:
        _log.warning("The worker lost the database and waits for it: %s", _first_line(exc))
        return False
    return True


def _stand_by(workspace: Workspace, stop: threading.Event) -> None:
    """Be known as a worker, and queue again what lost its worker; begin anew where the database was away."""
    while not stop.is_set():
        try:
            with worker_present(workspace.store.engine) as still_known:
                while not stop.is_set():
                    still_known()
                    take_up_lost_runs(workspace, FAMILIES)
                    stop.wait(_LOOK_S)
        except _GONE as exc:
            _log.warning("The worker lost the database and waits for it: %s", _first_line(exc))
            stop.wait(_AGAIN_S)


def _first_line(exc: Exception) -> str:
    return str(getattr(exc, "orig", None) or exc).strip().partition("\n")[0]
