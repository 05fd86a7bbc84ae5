"""Queries on plans: courses shared by content, steps cut and kept, rows that come back as they were."""

from uuid import uuid4

import numpy as np
import pytest
from sqlalchemy import text

from stonechat.core.line.track import Track
from stonechat.db import plans
from stonechat.errors import InvalidInput, NotFound, Unavailable
from stonechat.services.workspace import Workspace
from tests.core.line.test_track import straight

BODY = {"name": "Plan", "version": 1}


@pytest.fixture
def track() -> Track:
    """A short course."""
    return straight(np.linspace(100.0, 180.0, 60))


def test_a_course_is_stored_once_and_read_exactly(workspace: Workspace, track: Track) -> None:
    with workspace.store.transaction() as session:
        first, second = plans.keep_track(session, track), plans.keep_track(session, track)
        other = plans.keep_track(session, straight(np.linspace(100.0, 181.0, 60)))
        again = plans.read_track(session, first)
        count = session.execute(text("select count(*) from course")).scalar_one()
    assert first == second != other and count == 2
    for name in ("latitudes", "longitudes", "heights"):
        assert np.array_equal(getattr(again, name), getattr(track, name))
        assert not getattr(again, name).flags.writeable


def test_steps_follow_one_another_and_what_was_undone_goes(workspace: Workspace, track: Track) -> None:
    with workspace.store.transaction() as session:
        course = plans.keep_track(session, track)
        plan_id = plans.add_plan(session, name="Plan", course_hash=course, body=BODY, label="made")
        head = plans.read_head(session, plan_id)
        for k in range(3):
            head = plans.add_step(
                session, head, name="Plan", course_hash=head.course_hash, body={**BODY, "k": k}, label=f"step {k}"
            )
        back = plans.move_to_step(session, head, 2, name="Plan", course_hash=head.course_hash)
        stored = plans.read_plan(session, plan_id)
        assert (stored.body["k"], stored.undo_label, stored.redo_label) == (0, "step 0", "step 1")
        assert (back.revision, back.step) == (5, 2)
        plans.add_step(session, back, name="Plan", course_hash=back.course_hash, body={**BODY, "k": 9}, label="another")
        stored = plans.read_plan(session, plan_id)
        assert (stored.body["k"], stored.redo_label) == (9, None)
        assert plans.read_step(session, plan_id, 4) is None


def test_a_failed_transaction_leaves_nothing(workspace: Workspace, track: Track) -> None:
    with pytest.raises(RuntimeError), workspace.store.transaction() as session:
        plans.add_plan(session, name="Gone", course_hash=plans.keep_track(session, track), body=BODY, label="made")
        raise RuntimeError("in the middle")
    with workspace.store.transaction() as session:
        assert plans.list_plans(session) == ()
        assert session.execute(text("select count(*) from course")).scalar_one() == 0


def test_what_a_constraint_refuses_is_said_without_its_words(workspace: Workspace, track: Track) -> None:
    with pytest.raises(InvalidInput, match="The database refused the change"), workspace.store.transaction() as session:
        plans.add_plan(session, name="", course_hash=plans.keep_track(session, track), body=BODY, label="made")


def test_what_is_not_there_is_said(workspace: Workspace) -> None:
    with workspace.store.transaction() as session, pytest.raises(NotFound, match="no such plan"):
        plans.read_head(session, uuid4())


def test_a_database_that_does_not_answer_is_said() -> None:
    from stonechat.db.session import Store, make_engine

    store = Store(make_engine("postgresql://nobody@127.0.0.1:1/none"))
    with pytest.raises(Unavailable, match="does not answer"), store.transaction() as session:
        session.execute(text("select 1"))
    store.engine.dispose()
