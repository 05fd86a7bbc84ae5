"""Changes, undo and redo, two tabs, and what survives a restart."""

from dataclasses import replace
from uuid import uuid4

import pytest
from sqlalchemy import Engine, text

from stonechat.core.kit.item import Item
from stonechat.db.session import Store
from stonechat.errors import Clash, InvalidInput, NotFound
from stonechat.services import exchange, history, plans
from stonechat.services import line as line_service
from stonechat.services import rig as rig_service
from stonechat.services.evaluation import evaluated, last_change
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.kit import things
from stonechat.services.load import moving
from stonechat.services.workspace import Workspace


def move(workspace: Workspace, opened: OpenPlan, item: str, place: str) -> OpenPlan:
    return moving.move_items(workspace, opened, "a", revision=opened.revision, places={item: place})


def test_a_move_is_kept_undone_and_done_again(workspace: Workspace, opened: OpenPlan) -> None:
    before = opened.plan
    moved = move(workspace, opened, "rain-jacket", "seat")
    assert moved.plan.variants[0].places["rain-jacket"] == "seat"
    assert moved.undo_label == "rain jacket to seat pack"
    undone = history.undo(workspace, opened.id, revision=moved.revision)
    assert undone.plan == before and undone.redo_label == "rain jacket to seat pack"
    again = history.redo(workspace, opened.id, revision=undone.revision)
    assert again.plan == moved.plan


def test_undo_survives_a_restart_of_the_program(workspace: Workspace, opened: OpenPlan, engine: Engine) -> None:
    moved = move(workspace, opened, "rain-jacket", "seat")
    fresh = Workspace(store=Store(engine), settings=workspace.settings)
    assert history.undo(fresh, opened.id, revision=moved.revision).plan == opened.plan


def test_a_change_after_undo_forgets_what_was_undone(workspace: Workspace, opened: OpenPlan) -> None:
    moved = move(workspace, opened, "rain-jacket", "seat")
    undone = history.undo(workspace, opened.id, revision=moved.revision)
    other = move(workspace, undone, "phone", "jersey")
    assert other.redo_label is None
    with pytest.raises(Clash, match="nothing to redo"):
        history.redo(workspace, opened.id, revision=other.revision)


def test_a_second_tab_overwrites_nothing(workspace: Workspace, opened: OpenPlan) -> None:
    moved = move(workspace, opened, "rain-jacket", "seat")
    with pytest.raises(Clash, match=r"another tab .* The last change was: rain jacket to seat pack"):
        move(workspace, opened, "phone", "jersey")
    with pytest.raises(Clash):
        history.undo(workspace, opened.id, revision=opened.revision)
    assert open_plan(workspace, opened.id).plan == moved.plan


def test_a_change_that_changes_nothing_makes_no_step(workspace: Workspace, opened: OpenPlan) -> None:
    place = opened.plan.variants[0].places["phone"]
    assert move(workspace, opened, "phone", place).revision == opened.revision


def test_a_failing_change_leaves_nothing_behind(workspace: Workspace, opened: OpenPlan) -> None:
    def broken(plan: object) -> object:
        raise RuntimeError("in the middle")

    with pytest.raises(RuntimeError):
        history.change_plan(workspace, opened.id, revision=opened.revision, label="x", change=broken)  # type: ignore[arg-type]
    assert open_plan(workspace, opened.id) == opened


def test_history_is_cut_after_two_hundred_steps(workspace: Workspace, opened: OpenPlan, engine: Engine) -> None:
    for k in range(205):
        opened = plans.rename_plan(workspace, opened.id, revision=opened.revision, name=f"name {k}")
    with engine.connect() as connection:
        assert connection.execute(text("select count(*) from plan_step")).scalar_one() == 200
    assert history.undo(workspace, opened.id, revision=opened.revision).plan.name == "name 203"


@pytest.mark.parametrize(
    ("item", "place", "error", "sentence"),
    [
        ("nothing", "seat", NotFound, "no thing “nothing”"),
        ("phone", "nowhere", NotFound, "no carrier “nowhere”"),
        ("phone", "fork-left", InvalidInput, "phone does not go into fork bottle, left: takes no things"),
        ("mini-pump", "top-rear", InvalidInput, "too long by 45 mm"),
    ],
)
def test_impossible_moves_are_refused(
    workspace: Workspace, opened: OpenPlan, item: str, place: str, error: type[Exception], sentence: str
) -> None:
    with pytest.raises(error, match=sentence):
        move(workspace, opened, item, place)


def test_a_carrier_taken_off_leaves_its_things_on_the_floor(workspace: Workspace, opened: OpenPlan) -> None:
    held = [k for k, p in opened.plan.variants[0].places.items() if p == "pouch"]
    off = rig_service.mount_carrier(workspace, opened, "a", revision=opened.revision, carrier_id="pouch")
    assert {item.id for item in evaluated(off, "a").ridden.unplaced} == set(held)


def test_the_last_change_is_priced_against_the_plan_before(workspace: Workspace, opened: OpenPlan) -> None:
    assert last_change(workspace, opened, "a") is None
    moved = move(workspace, opened, "rain-jacket", "seat")
    change = last_change(workspace, moved, "a")
    assert change is not None
    before, after = evaluated(opened, "a").ridden.ledger, evaluated(moved, "a").ridden.ledger
    assert change.minutes == pytest.approx(after.carried - before.carried)
    assert change.minutes > 0.5  # a jacket reached for three times a day is farther away now


def test_a_new_thing_gets_an_id_and_a_dropped_one_is_gone_everywhere(workspace: Workspace, opened: OpenPlan) -> None:
    thing = Item(id="", name="rain jacket", mass=0.2, volume=0.001)
    added = things.set_item(workspace, opened.id, revision=opened.revision, item=thing)
    assert added.plan.items[-1].id == "rain-jacket-2"
    dropped = things.drop_item(workspace, added, revision=added.revision, item="rain-jacket")
    assert all("rain-jacket" not in variant.places for variant in dropped.plan.variants)
    assert all(item.id != "rain-jacket" for item in dropped.plan.items)


def test_a_stop_beyond_the_finish_is_refused(workspace: Workspace, opened: OpenPlan) -> None:
    stop = replace(opened.plan.line.stops[0], distance=2_000_000.0)
    with pytest.raises(InvalidInput, match=r"2000 km is not on the course"):
        line_service.set_stop(workspace, opened.id, revision=opened.revision, stop=stop, length=1_140_000.0)


def test_a_plan_that_is_not_there_says_so(workspace: Workspace) -> None:
    with pytest.raises(NotFound, match="no such plan"):
        open_plan(workspace, uuid4())


def test_deleting_a_plan_takes_its_history_and_the_course_stays_for_others(
    workspace: Workspace, opened: OpenPlan, engine: Engine
) -> None:
    copy = exchange.import_file(workspace, exchange.export_json(opened))
    plans.delete_plan(workspace, opened.id)
    with engine.connect() as connection:
        assert connection.execute(text("select count(*) from course")).scalar_one() == 1
    assert open_plan(workspace, copy.plan_id).plan == replace(
        opened.plan, line=open_plan(workspace, copy.plan_id).plan.line
    )
