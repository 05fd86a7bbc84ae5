"""Migrations forward, on real rows, and the tables against the rows' classes."""

import json
import math
import os
import subprocess
import sys
import zlib
from collections.abc import Iterator

import numpy as np
import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, text
from sqlalchemy.exc import IntegrityError

from stonechat.db.migrate import migrate
from stonechat.db.rows import PlanRow
from stonechat.db.runs import latest_run
from stonechat.db.session import Store, make_engine
from stonechat.errors import Unavailable
from stonechat.services import plans
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.kit import shelf
from stonechat.services.load.proposal import proposal_of
from stonechat.services.work import take_up_lost_runs
from stonechat.services.working import FAMILIES
from stonechat.services.workspace import Workspace
from stonechat.settings import Settings


@pytest.fixture
def empty(own_database: str) -> Iterator[Engine]:
    """A database without tables."""
    made = make_engine(own_database)
    yield made
    made.dispose()


def test_tables_are_those_that_the_classes_declare(engine: Engine) -> None:
    with engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"include_name": _ours})
        assert compare_metadata(context, PlanRow.metadata) == []


def _ours(name: str | None, kind: str, _: object) -> bool:
    return kind != "table" or not (name or "").startswith(("procrastinate", "alembic"))


def test_rows_of_the_first_landed_state_are_read_by_this_program(empty: Engine) -> None:
    migrate(empty, "0001")
    # a plan as the first state kept it, written past the program's own queries
    body = (
        '{"version":1,"name":"Old","line":{"weather":{"days":[{"low_c":5,"high_c":15}],"reference_height_m":400,'
        '"relative_humidity":0.6}},"variants":[{"id":"a","name":"A","rider":{"mass_kg":70,"power_w":140},'
        '"rhythm":{"start_local":"2027-05-01T06:00:00","zone":"UTC","rise":"05:00","halt":"22:00"},'
        '"bike":{"name":"b","mass_kg":10,"wheel_radius_mm":345,"wheelbase_mm":1045,"chainstay_mm":430,'
        '"bottom_bracket_drop_mm":72,"head_angle_deg":71,"seat_angle_deg":73.5,"stack_mm":600,"reach_mm":385,'
        '"head_tube_mm":165,"seat_tube_mm":520,"saddle_height_mm":735,"fork_rake_mm":50,"crank_mm":172},'
        '"carriers":[{"id":"s","name":"stem bag","place":"stem","side":"left","capacity_l":1,"load_limit_kg":1,'
        '"mass_g":70,"longest_mm":180,"dry":false,"drag_cm2":12}],"places":{"spare-hanger":"s"}}],'
        '"items":[{"id":"spare-hanger","name":"spare hanger","mass_g":28,"volume_l":0.018}]}'
    )
    parts = [zlib.compress(np.array(v, dtype="<f8").tobytes()) for v in ([45.0, 45.02], [7.0, 7.0], [400.0, 420.0])]
    with empty.begin() as connection:
        connection.execute(
            text(
                "insert into course (hash, points, latitudes_deg, longitudes_deg, heights_m) "
                "values ('h', 2, :a, :b, :c)"
            ),
            dict(zip("abc", parts, strict=True)),
        )
        plan_id = connection.execute(
            text("insert into plan (name, course_hash) values ('Old', 'h') returning id")
        ).scalar_one()
        connection.execute(
            text("insert into plan_step (plan_id, number, label, body) values (:p, 1, 'made', cast(:b as jsonb))"),
            {"p": plan_id, "b": body},
        )
    migrate(empty)
    workspace = Workspace(store=Store(empty), settings=Settings())
    opened = open_plan(workspace, plan_id)
    assert opened.plan.name == "Old" and opened.plan.variants[0].rider.power == 140.0
    assert plans.list_plans(workspace)[0].revision == 1
    # what version 1 told in fewer words is the same bike, bag and thing now
    variant = opened.plan.variants[0]
    assert variant.bike.wheel_radius == pytest.approx(0.345) and variant.bike.rim == 0.622
    assert variant.bike.saddle_setback == pytest.approx(0.735 * math.cos(math.radians(73.5)) - 0.165, abs=1e-6)
    (bag,) = variant.carriers
    assert bag.dryness == "open" and bag.drag_by_hand and bag.drag == 0.0012 and bag.capacity_by_hand
    assert opened.plan.items[0].roles == {"hanger"}
    # and the thing lies on the shelf, where the new table was filled from the old plans
    assert shelf.shelf_items(workspace) == opened.plan.items
    assert evaluated(opened, "a").ridden.ledger.finish > 0.0


def test_every_step_of_an_older_history_keeps_its_course(empty: Engine) -> None:
    migrate(empty, "0002")
    body = '{"name":"Old"}'
    with empty.begin() as connection:
        for key in ("h", "g"):
            connection.execute(
                text(
                    "insert into course (hash, points, latitudes_deg, longitudes_deg, heights_m) "
                    "values (:k, 2, 'a', 'a', 'a')"
                ),
                {"k": key},
            )
        for key, steps in (("h", 3), ("g", 1)):
            plan_id = connection.execute(
                text("insert into plan (name, course_hash) values (:k, :k) returning id"), {"k": key}
            ).scalar_one()
            for number in range(1, steps + 1):
                connection.execute(
                    text(
                        "insert into plan_step (plan_id, number, label, body) "
                        "values (:p, :n, 'made', cast(:b as jsonb))"
                    ),
                    {"p": plan_id, "n": number, "b": body},
                )
    migrate(empty)
    with empty.begin() as connection:
        rows = connection.execute(
            text("select plan.name, step.course_hash from plan_step step join plan on plan.id = step.plan_id")
        ).all()
    assert sorted(tuple(row) for row in rows) == [("g", "g"), ("h", "h"), ("h", "h"), ("h", "h")]


def test_programs_that_start_at_once_on_an_empty_database_do_not_trip_over_one_another(empty: Engine) -> None:
    environment = {**os.environ, "STONECHAT_DATABASE_URL": str(empty.url.render_as_string()).replace("+psycopg", "")}
    started = [
        subprocess.Popen([sys.executable, "-m", "stonechat", "migrate"], env=environment, stdout=subprocess.PIPE)
        for _ in range(2)
    ]
    said = [process.communicate(timeout=60)[0] for process in started]
    assert said == [b"The database is up to date.\n"] * 2
    assert plans.list_plans(Workspace(store=Store(empty), settings=Settings())) == ()


def test_a_plan_without_course_cannot_be_kept(engine: Engine) -> None:
    with pytest.raises(IntegrityError, match="fk_plan_course_hash"), engine.begin() as connection:
        connection.execute(text("insert into plan (name, course_hash) values ('x', 'missing')"))


def test_a_packing_run_of_an_older_state_is_a_plain_packing_that_can_be_shown_and_taken(
    empty: Engine, opened: OpenPlan, workspace: Workspace
) -> None:
    migrate(empty, "0004")
    places = dict(opened.plan.variants[0].places) | {"phone": "jersey"}
    old = {"status": "proven", "places": places, "reasons": []}
    with empty.begin() as connection:
        connection.execute(
            text(
                "insert into course (hash, points, latitudes_deg, longitudes_deg, heights_m) "
                "values ('h', 2, 'a', 'a', 'a')"
            )
        )
        plan_id = connection.execute(
            text("insert into plan (name, course_hash) values ('Old', 'h') returning id")
        ).scalar_one()
        connection.execute(
            text(
                "insert into pack_run (plan_id, variant_id, revision, state, result) "
                "values (:p, 'a', 1, 'done', cast(:r as jsonb))"
            ),
            {"p": plan_id, "r": json.dumps(old)},
        )
    migrate(empty)
    with Store(empty).transaction() as session:
        run = latest_run(session, plan_id, "a", "packing", "pack")
    assert run is not None and run.kind == "pack" and run.request == {}
    shown = proposal_of(opened, "a", evaluated(opened, "a"), run)
    assert [move.item_id for move in shown.moves] == ["phone"] and shown.mountings == () and shown.ways == ()


def test_the_shelf_of_an_older_state_is_parted_and_holds_each_thing_once(empty: Engine) -> None:
    migrate(empty, "0005")
    spoon = {"id": "spoon", "name": "Spoon", "mass_g": 11.0, "volume_l": 0.01, "version": 2}
    things = {
        "spoon": spoon,
        "spoon-2": {**spoon, "id": "spoon-2", "name": "spoon "},  # the same thing of a second plan
        "spoon-3": {**spoon, "id": "spoon-3", "mass_g": 25.0},
        "demo-lamp": {**spoon, "id": "demo-lamp", "name": "Lamp", "mass_g": 90.0},
        "demo-tent": {**spoon, "id": "demo-tent", "name": "Tent", "mass_g": 800.0},  # the rider weighed it since
    }
    demo = [things["demo-lamp"], {**things["demo-tent"], "mass_g": 950.0}]
    with empty.begin() as connection:
        connection.execute(
            text(
                "insert into course (hash, points, latitudes_deg, longitudes_deg, heights_m) "
                "values ('h', 2, 'a', 'a', 'a')"
            )
        )
        plan_id = connection.execute(
            text("insert into plan (name, course_hash, demo) values ('Demo', 'h', true) returning id")
        ).scalar_one()
        connection.execute(
            text(
                "insert into plan_step (plan_id, number, course_hash, label, body) "
                "values (:p, 1, 'h', 'made', cast(:b as jsonb))"
            ),
            {"p": plan_id, "b": json.dumps({"name": "Demo", "items": demo})},
        )
        for key, body in things.items():
            connection.execute(
                text("insert into shelf_item (id, body) values (:k, cast(:b as jsonb))"),
                {"k": key, "b": json.dumps(body)},
            )
        connection.execute(
            text("insert into pack_run (plan_id, variant_id, revision, state) values (:p, 'a', 1, 'done')"),
            {"p": plan_id},
        )
    migrate(empty)
    workspace = Workspace(store=Store(empty), settings=Settings())
    assert [(item.name.strip(), round(1000 * item.mass)) for item in shelf.shelf_items(workspace)] == [
        ("Spoon", 11), ("Spoon", 25), ("Tent", 800),
    ]  # fmt: skip
    assert [item.name for item in shelf.shelf_items(workspace, demo=True)] == ["Lamp"]
    with Store(empty).transaction() as session:
        run = latest_run(session, plan_id, "a", "packing")
    assert run is not None and run.seen  # an old packing is not told as if it were new


def test_positions_on_which_nothing_stands_go_and_others_stay(empty: Engine) -> None:
    migrate(empty, "0006")
    course = text(
        "insert into course (hash, points, latitudes_deg, longitudes_deg, heights_m) values (:k, 2, 'a', 'a', 'a')"
    )
    step = text(
        "insert into plan_step (plan_id, number, course_hash, label, body) values (:p, :n, :k, 'made', '{}'::jsonb)"
    )
    with empty.begin() as connection:
        for key in ("now", "before", "nobody's"):
            connection.execute(course, {"k": key})
        made = text("insert into plan (name, course_hash, step) values ('Mine', 'now', 2) returning id")
        plan_id = connection.execute(made).scalar_one()
        for number, key in ((1, "before"), (2, "now")):
            connection.execute(step, {"p": plan_id, "n": number, "k": key})
        run = text("insert into pack_run (plan_id, variant_id, revision, state) values (:p, 'a', 1, 'running')")
        connection.execute(run, {"p": plan_id})
    migrate(empty)
    with empty.connect() as connection:
        assert set(connection.execute(text("select hash from course")).scalars()) == {"now", "before"}
    workspace = Workspace(store=Store(empty), settings=Settings())
    with workspace.store.transaction() as session:
        run_row = latest_run(session, plan_id, "a", "packing")
    assert run_row is not None and run_row.attempts == 0  # a run of before is taken up again


def test_runs_of_the_solver_become_runs_of_a_family_with_their_figures(empty: Engine) -> None:
    migrate(empty, "0007")
    course = (
        "insert into course (hash, points, latitudes_deg, longitudes_deg, heights_m) values ('h', 2, 'a', 'a', 'a')"
    )
    run = text(
        "insert into pack_run (plan_id, variant_id, revision, kind, state, best_min, bound_min) "
        "values (:p, 'a', 3, :k, :s, :b, 41.5)"
    )
    with empty.begin() as connection:
        connection.execute(text(course))
        made = text("insert into plan (name, course_hash) values ('Mine', 'h') returning id")
        plan_id = connection.execute(made).scalar_one()
        connection.execute(run, {"p": plan_id, "k": "pack", "s": "done", "b": 42.0})
        connection.execute(run, {"p": plan_id, "k": "what-if", "s": "waiting", "b": None})
        stopped = run.text.replace("41.5", "'-Infinity'")
        connection.execute(text(stopped), {"p": plan_id, "k": "different", "s": "failed", "b": float("inf")})
        job = "insert into procrastinate_jobs (queue_name, task_name, status, args) values (:q, 'pack', 'todo', :a)"
        connection.execute(text(job), {"q": "stonechat", "a": '{"run_id": 2}'})
    migrate(empty)
    with Store(empty).transaction() as session:
        done = latest_run(session, plan_id, "a", "packing", "pack")
        waiting = latest_run(session, plan_id, "a", "packing", "what-if")
        ended = latest_run(session, plan_id, "a", "packing", "different")
    assert done is not None and done.progress == {"best_min": 42.0, "bound_min": 41.5} and done.revision == 3
    assert waiting is not None and waiting.kind == "what-if" and waiting.progress == {"bound_min": 41.5}
    assert ended is not None and ended.progress == {} and math.isnan(ended.figure("bound_min"))
    queued: list[int] = []
    workspace = Workspace(store=Store(empty), settings=Settings(), defer_run=queued.append)
    take_up_lost_runs(workspace, FAMILIES)  # its job was one of the old program
    assert queued == [waiting.id]
    with pytest.raises(IntegrityError, match="uq_run_active"), empty.begin() as connection:
        again = "insert into run (plan_id, variant_id, revision, family, kind) values (:p, 'a', 4, 'packing', 'pack')"
        connection.execute(text(again), {"p": plan_id})


def test_a_database_of_a_newer_program_is_left_alone(empty: Engine) -> None:
    migrate(empty)
    with empty.begin() as connection:
        connection.execute(text("update alembic_version set version_num = '9999'"))
    with pytest.raises(Unavailable, match=r"written by a newer Stonechat \(its state is 9999.*left as it is"):
        migrate(empty)
