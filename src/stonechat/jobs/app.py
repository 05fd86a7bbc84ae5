"""The job queue on our own database."""

import procrastinate

PACK_TASK = "pack"
QUEUE = "stonechat"


def make_queue(database_url: str) -> procrastinate.App:
    """Return the queue's app; open it before use, with or without async."""
    return procrastinate.App(connector=procrastinate.PsycopgConnector(conninfo=database_url))


def defer_pack(queue: procrastinate.App, run_id: int) -> None:
    """Ask a worker to run a packing."""
    queue.configure_task(PACK_TASK, queue=QUEUE).defer(run_id=run_id)
