"""The pack's table of late arrivals: the race ridden again for each delay, in the background, and kept."""

from typing import Any
from uuid import UUID

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.late import LateTable, late_table
from stonechat.services import work
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.work import Family, Outcome, Reporter, Run, RunState
from stonechat.services.workspace import Workspace


def start_late(workspace: Workspace, plan_id: UUID, variant_id: str) -> Run:
    """Ask for the table; refused while it is being made."""
    return work.start(workspace, LATE, plan_id, variant_id, kind="late", request={})


def late_run(workspace: Workspace, opened: OpenPlan, variant_id: str) -> Run | None:
    """Return the newest run, `None` where it was of the plan as it was before."""
    run = work.newest(workspace, LATE, opened.id, variant_id)
    if run is None or run.is_active:
        return run
    return run if (run.result or {}).get("content", opened.content) == opened.content else None


def late_of(workspace: Workspace, opened: OpenPlan, variant_id: str, ridden: Ridden) -> LateTable:
    """Return the table as it was made in the background, else made now."""
    run = late_run(workspace, opened, variant_id)
    if run is None or run.state != RunState.DONE or run.result is None:
        return late_table(ridden)
    told = run.result
    return LateTable(
        nodes=np.asarray(told["nodes"], dtype=np.int64),
        delays=np.asarray(told["delays"], dtype=np.float64),
        arrivals=np.asarray(told["arrivals"], dtype=np.float64),
    )


def _answer(_workspace: Workspace, opened: OpenPlan, run: Run, reporter: Reporter) -> Outcome:
    ridden = evaluated(opened, run.variant_id).ridden
    table = late_table(ridden, tell=lambda share: reporter.tell({"share": share}))
    return Outcome(result=_document(opened.content, table), progress={"share": 1.0})


def _document(content: str, table: LateTable) -> dict[str, Any]:
    return {
        "content": content,
        "nodes": table.nodes.tolist(),
        "delays": table.delays.tolist(),
        "arrivals": np.round(table.arrivals, 1).tolist(),
    }


LATE = Family(
    key="late",
    answers={"late": _answer},
    busy="The pack is being made already.",
    cut_off="Making the pack was cut off again and again. Make it once more.",
    failed="The pack could not be made by a fault of this program. The plan is as it was.",
)
