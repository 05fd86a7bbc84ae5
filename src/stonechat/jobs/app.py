"""The job queue on our own database."""

import logging

import procrastinate
from procrastinate.exceptions import ProcrastinateException

from stonechat.db.session import CONNECT_S, PATIENCE_S, PatientConnection

RUN_TASK = "run"
QUEUE = "stonechat"
_log = logging.getLogger("stonechat.jobs")


def make_queue(database_url: str) -> procrastinate.App:
    """Return the queue's app for those who ask for work; open it before use."""
    connector = procrastinate.SyncPsycopgConnector(
        conninfo=database_url,
        connection_class=PatientConnection,
        kwargs={"connect_timeout": CONNECT_S},
        timeout=PATIENCE_S,
        min_size=1,
    )
    return procrastinate.App(connector=connector)


def make_workers_queue(database_url: str) -> procrastinate.App:
    """Return the queue's app for a worker."""
    return procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=database_url))


def defer_run(queue: procrastinate.App, run_id: int) -> None:
    """Ask a worker to take up a run; where that cannot be asked now, a worker finds the run that waits by itself."""
    try:
        queue.configure_task(RUN_TASK, queue=QUEUE).defer(run_id=run_id)
    except ProcrastinateException as exc:
        _log.warning("run %s waits without a job: %s", run_id, exc)
