"""Pack it for me: started, looked over, taken, refused, stopped, lost."""

from dataclasses import replace

import pytest
from sqlalchemy import Engine, text

from stonechat.core.load.judge import judge
from stonechat.errors import Conflict
from stonechat.services import editing, history, packing, plans, proposal, rigging
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace


def packed(workspace: Workspace, opened: OpenPlan) -> proposal.Proposal:
    packing.start_packing(workspace, opened.id, "a")
    run = packing.packing_run(workspace, opened.id, "a")
    assert run is not None
    return proposal.proposal_of(opened, "a", evaluated(opened, "a"), run)


def test_a_proposal_is_better_and_its_moves_add_up(workspace: Workspace, lighter: OpenPlan) -> None:
    found = packed(workspace, lighter)
    assert found.run.state == "done" and found.run.gap is not None and found.run.gap <= 0.001
    assert found.minutes < found.minutes_now
    # each thing's own gain sums to the whole, but for food that moves into the room left
    assert sum(move.gain_min for move in found.moves) == pytest.approx(found.minutes_now - found.minutes, abs=1.0)


def test_taking_it_is_one_step_that_can_be_undone(workspace: Workspace, lighter: OpenPlan) -> None:
    found = packed(workspace, lighter)
    taken = proposal.take_packing(workspace, lighter.id, "a", revision=lighter.revision, refused=())
    assert taken.undo_label == f"packed for me, {len(found.moves)} moved"
    problem = packing.problem_of(lighter, "a", evaluated(lighter, "a"))
    verdict = judge(problem, taken.plan.variants[0].places)
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
    pinned = editing.pin_item(workspace, lighter, "a", revision=lighter.revision, item=first)
    assert first not in {move.item_id for move in packed(workspace, pinned).moves}


def test_a_plan_changed_since_cannot_take_old_moves(workspace: Workspace, lighter: OpenPlan) -> None:
    packed(workspace, lighter)
    moved = plans.rename_plan(workspace, lighter.id, revision=lighter.revision, name="Other")
    with pytest.raises(Conflict, match="Pack again"):
        proposal.take_packing(workspace, lighter.id, "a", revision=moved.revision, refused=())


def test_nothing_fits_is_said_with_litres(workspace: Workspace, opened: OpenPlan) -> None:
    small = opened
    for key in ("seat", "bar", "pouch"):
        small = rigging.mount_carrier(workspace, small, "a", revision=small.revision, carrier_id=key)
    found = packed(workspace, small)
    assert found.run.state == "failed" and found.moves == ()
    assert found.reasons


def test_nothing_to_pack_is_packed(workspace: Workspace, opened: OpenPlan) -> None:
    empty = history.change_plan(
        workspace, opened.id, revision=opened.revision, label="bare", change=lambda plan: replace(plan, items=())
    )
    found = packed(workspace, empty)
    assert found.run.state == "done" and found.moves == () and found.run.bound_min is not None


def test_only_one_run_at_a_time_and_a_waiting_one_can_be_stopped(workspace: Workspace, lighter: OpenPlan) -> None:
    idle = Workspace(store=workspace.store, settings=workspace.settings)  # nobody takes the job
    packing.start_packing(idle, lighter.id, "a")
    with pytest.raises(Conflict, match="being packed already"):
        packing.start_packing(idle, lighter.id, "a")
    packing.stop_packing(idle, lighter.id, "a")
    run = packing.packing_run(idle, lighter.id, "a")
    assert run is not None and not run.is_active


def test_a_run_whose_worker_died_ends_with_a_sentence(workspace: Workspace, lighter: OpenPlan, engine: Engine) -> None:
    idle = Workspace(store=workspace.store, settings=workspace.settings)
    packing.start_packing(idle, lighter.id, "a")
    with engine.begin() as connection:
        connection.execute(text("update pack_run set heard_at = now() - interval '5 minutes'"))
    run = packing.packing_run(idle, lighter.id, "a")
    assert run is not None and run.state == "failed"
    assert run.result == {"reasons": ["No worker answered. Start it again; the load is as it was."]}
    assert open_plan(idle, lighter.id) == lighter
