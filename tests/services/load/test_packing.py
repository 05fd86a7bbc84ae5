"""Pack it for me: started, looked over, taken, refused, stopped, lost."""

from dataclasses import replace

import pytest
from sqlalchemy import Engine, text

from stonechat.core.load.judge import judge
from stonechat.db import presence, runs
from stonechat.errors import Clash
from stonechat.services import history, plans
from stonechat.services import rig as rig_service
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.load import moving, packing, proposal
from stonechat.services.work import take_up_lost_runs
from stonechat.services.working import FAMILIES
from stonechat.services.workspace import Workspace


def packed(workspace: Workspace, opened: OpenPlan) -> proposal.Proposal:
    packing.start_packing(workspace, opened.id, "a")
    run = packing.packing_run(workspace, opened.id, "a")
    assert run is not None
    return proposal.proposal_of(opened, "a", evaluated(opened, "a"), run)


def test_a_proposal_is_better_and_its_moves_add_up(workspace: Workspace, lighter: OpenPlan) -> None:
    found = packed(workspace, lighter)
    assert found.run.state == "done" and "gap" in found.run.progress and found.run.progress["gap"] <= 0.001
    assert found.minutes < found.minutes_now
    # each thing's own gain sums to the whole, but for food that moves into the room left
    assert sum(move.gain_min for move in found.moves) == pytest.approx(found.minutes_now - found.minutes, abs=1.0)


def test_taking_it_is_one_step_that_can_be_undone(workspace: Workspace, lighter: OpenPlan) -> None:
    found = packed(workspace, lighter)
    taken = proposal.take_packing(workspace, lighter.id, "a", revision=lighter.revision, refused=())
    assert taken.undo_label == f"packed for me, {len(found.moves)} moved"
    problem = packing.problem_of(lighter, "a", evaluated(lighter, "a"))
    verdict = judge(problem, taken.plan.variants[0].places, food=taken.plan.variants[0].food_in)
    assert verdict.minutes == pytest.approx(found.minutes, abs=1e-6) and verdict.broken == ()
    assert evaluated(taken, "a").ridden.ledger.carried < evaluated(lighter, "a").ridden.ledger.carried
    assert history.undo(workspace, lighter.id, revision=taken.revision).plan == lighter.plan


def test_moves_that_are_refused_are_not_made(workspace: Workspace, lighter: OpenPlan) -> None:
    found = packed(workspace, lighter)
    refused = found.moves[0].item_id
    taken = proposal.take_packing(workspace, lighter.id, "a", revision=lighter.revision, refused={refused})
    assert taken.plan.variants[0].places[refused] == lighter.plan.variants[0].places[refused]


def test_pins_are_kept(workspace: Workspace, lighter: OpenPlan) -> None:
    first = packed(workspace, lighter).moves[0].item_id
    pinned = moving.pin_item(workspace, lighter, "a", revision=lighter.revision, item=first)
    assert first not in {move.item_id for move in packed(workspace, pinned).moves}


def test_a_plan_changed_since_cannot_take_old_moves(workspace: Workspace, lighter: OpenPlan) -> None:
    packed(workspace, lighter)
    moved = plans.rename_plan(workspace, lighter.id, revision=lighter.revision, name="Other")
    with pytest.raises(Clash, match="Pack again"):
        proposal.take_packing(workspace, lighter.id, "a", revision=moved.revision, refused=())


def test_nothing_fits_is_said_with_litres(workspace: Workspace, opened: OpenPlan) -> None:
    small = opened
    for key in ("seat", "bar", "pouch"):
        small = rig_service.mount_carrier(workspace, small, "a", revision=small.revision, carrier_id=key)
    found = packed(workspace, small)
    assert found.run.state == "failed" and found.moves == ()
    assert found.reasons


def test_nothing_to_pack_is_packed(workspace: Workspace, opened: OpenPlan) -> None:
    empty = history.change_plan(
        workspace, opened.id, revision=opened.revision, label="bare", change=lambda plan: replace(plan, items=())
    )
    found = packed(workspace, empty)
    assert found.run.state == "done" and found.moves == () and "bound_min" in found.run.progress


def test_only_one_run_at_a_time_and_a_waiting_one_can_be_stopped(workspace: Workspace, lighter: OpenPlan) -> None:
    idle = Workspace(store=workspace.store, settings=workspace.settings)  # nobody takes the job
    packing.start_packing(idle, lighter.id, "a")
    with pytest.raises(Clash, match="being packed already"):
        packing.start_packing(idle, lighter.id, "a")
    packing.stop_packing(idle, lighter.id, "a")
    run = packing.packing_run(idle, lighter.id, "a")
    assert run is not None and not run.is_active


def test_a_run_whose_worker_died_waits_for_another_and_is_given_up_after_three(
    workspace: Workspace, lighter: OpenPlan, engine: Engine
) -> None:
    queued: list[int] = []
    idle = Workspace(store=workspace.store, settings=workspace.settings, defer_run=queued.append)
    asked = packing.start_packing(idle, lighter.id, "a")
    for attempt in (1, 2, 3):
        with idle.store.transaction() as session:
            claimed = runs.claim_run(session, asked.id)
            assert claimed is not None and claimed.attempts == attempt
        with presence.at_work_on(engine, asked.id) as is_ours:
            assert is_ours
            run = packing.packing_run(idle, lighter.id, "a")
            assert run is not None and run.state == "running"  # as long as somebody works on it
            with presence.at_work_on(engine, asked.id) as is_others:
                assert not is_others
        run = packing.packing_run(idle, lighter.id, "a")
        assert run is not None and run.state == ("waiting" if attempt < 3 else "failed")
    assert queued == [asked.id] * 3  # asked for once, and twice again
    assert run.result == {
        "reasons": ["The solver was cut off three times without an answer. The load is as it was; start it again."]
    }
    assert open_plan(idle, lighter.id) == lighter


def test_a_run_waits_as_long_as_no_worker_is_there(workspace: Workspace, lighter: OpenPlan, engine: Engine) -> None:
    idle = Workspace(store=workspace.store, settings=workspace.settings)
    packing.start_packing(idle, lighter.id, "a")
    with engine.begin() as connection:
        connection.execute(text("update run set heard_at = now() - interval '5 days'"))
    run = packing.packing_run(idle, lighter.id, "a")
    assert run is not None and run.state == "waiting" and run.waits_for_worker
    with presence.worker_present(engine):
        run = packing.packing_run(idle, lighter.id, "a")
        assert run is not None and run.state == "waiting" and not run.waits_for_worker


def test_a_run_that_waits_without_a_job_is_queued_again(workspace: Workspace, lighter: OpenPlan) -> None:
    queued: list[int] = []
    idle = Workspace(store=workspace.store, settings=workspace.settings)  # its job is lost
    asked = packing.start_packing(idle, lighter.id, "a")
    take_up_lost_runs(replace(idle, defer_run=queued.append), FAMILIES)
    assert queued == [asked.id]
