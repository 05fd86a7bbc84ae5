"""What is held can be taken out whole, forgotten in part, and deleted for good."""

import io
import zipfile

import pytest
from sqlalchemy import Engine, text

from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.gpx import read_gpx
from stonechat.services import custody, exchange, plans
from stonechat.services import line as line_service
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace


def courses(engine: Engine) -> int:
    with engine.connect() as connection:
        return int(connection.execute(text("select count(*) from course")).scalar_one())


def test_positions_go_with_the_last_plan_that_stands_on_them(
    workspace: Workspace, opened: OpenPlan, engine: Engine
) -> None:
    copy = plans.duplicate_plan(workspace, opened.id)
    assert courses(engine) == 1
    custody.forget_plan(workspace, opened.id)
    assert courses(engine) == 1 and open_plan(workspace, copy).plan.items == opened.plan.items
    custody.forget_plan(workspace, copy)
    assert courses(engine) == 0
    with pytest.raises(NotFound):
        open_plan(workspace, copy)


def test_positions_stay_as_long_as_undo_stands_on_them(workspace: Workspace, opened: OpenPlan, engine: Engine) -> None:
    turned = line_service.reverse_course(workspace, opened, revision=opened.revision)
    assert courses(engine) == 2
    plans.delete_plan(workspace, turned.id)
    assert courses(engine) == 2  # it can still be had back
    with engine.begin() as connection:
        connection.execute(text("update plan set deleted_at = now() - interval '31 days'"))
    other = exchange.ensure_demo(workspace)  # the demo is made anew
    plans.delete_plan(workspace, other)
    assert courses(engine) == 1


def test_everything_as_files_can_be_read_again(workspace: Workspace, opened: OpenPlan) -> None:
    copy = plans.duplicate_plan(workspace, opened.id)
    plans.delete_plan(workspace, copy)
    with zipfile.ZipFile(io.BytesIO(custody.everything_as_files(workspace))) as archive:
        found = {name: archive.read(name) for name in archive.namelist()}
    stem = "plans/The Corvane Round"
    assert exchange.same_plans(workspace, found[f"{stem}.json"])
    assert read_gpx(found[f"{stem}.gpx"]).track.heights.size > 1_000
    assert f"{stem}-kit.csv" in found and "shelf.csv" in found and "README.txt" in found
    assert any(name.startswith("deleted/") and name.endswith(".json") for name in found)


def test_names_alike_are_told_apart(workspace: Workspace, opened: OpenPlan) -> None:
    for _ in range(2):
        plans.rename_plan(
            workspace, plans.duplicate_plan(workspace, opened.id), revision=1, name="A/B: the \u202eround"
        )
    with zipfile.ZipFile(io.BytesIO(custody.everything_as_files(workspace))) as archive:
        names = [name for name in archive.namelist() if name.endswith(".json")]
    assert len(names) == len(set(names)) == 3
    assert all(".." not in name and name.count("/") == 1 for name in names)


def test_everything_is_deleted_only_on_the_word(workspace: Workspace, opened: OpenPlan, engine: Engine) -> None:
    with pytest.raises(InvalidInput, match="Nothing was deleted"):
        custody.delete_everything(workspace, "yes")
    assert open_plan(workspace, opened.id) == opened
    custody.delete_everything(workspace, " Delete ")
    with engine.connect() as connection:
        for table in ("plan", "plan_step", "course", "shelf_item", "upload", "run", "procrastinate_jobs"):
            assert connection.execute(text(f"select count(*) from {table}")).scalar_one() == 0  # noqa: S608
    assert plans.list_plans(workspace) == ()
