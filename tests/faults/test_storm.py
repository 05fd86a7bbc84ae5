"""The short form of the storm of damaged files and forms; `python -m tests.faults` is the long one."""

import random
from dataclasses import replace

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from stonechat.core.line.track import trimmed_track
from stonechat.core.plan.plan import Plan
from stonechat.services import exchange
from stonechat.services.history import open_plan
from stonechat.services.workspace import Workspace
from stonechat.web.app import create_app
from tests.faults.damage import forms_of
from tests.faults.seeds import seeds
from tests.faults.storm import Outcome, every_form, print_of, send_file, storm_of_forms

FILES = 25  # of each format
FORMS = 60


@pytest.fixture
def idle(workspace: Workspace) -> Workspace:
    """A workspace whose packings wait."""
    return Workspace(store=workspace.store, settings=workspace.settings)


@pytest.fixture
def asked(idle: Workspace) -> TestClient:
    """The program over it."""
    return TestClient(
        create_app(idle), base_url="http://127.0.0.1", raise_server_exceptions=False, follow_redirects=False
    )


@pytest.mark.parametrize(
    "kind",
    ["GPX", "TCX", "FIT", "GeoJSON", "plan JSON", "kit CSV", "kit XLSX", "stops CSV", "surfaces CSV", "weather CSV"],
)
def test_damaged_files_are_answered_and_change_nothing(
    kind: str, demo: Plan, idle: Workspace, asked: TestClient, engine: Engine
) -> None:
    plan_id = exchange.ensure_demo(idle)
    short = replace(demo, line=replace(demo.line, track=trimmed_track(demo.line.track, 0.0, 40_000.0)))
    address, field, data, ways = seeds(short)[kind]
    address = address.format(plan=plan_id, variant="a")
    chance, outcome = random.Random(kind), Outcome(engine, kept=print_of(engine))
    for _ in range(FILES):
        revision = open_plan(idle, plan_id).revision
        bent = chance.choice(ways)(data, chance)
        send_file(
            asked,
            address,
            field,
            bent,
            outcome,
            revision=str(revision),
            leg="0",
            surface="tarmac",
            mode="merge",
        )
    assert outcome.faults == []
    assert sum(outcome.statuses.values()) == FILES and any(400 <= status < 500 for status in outcome.statuses)


def test_damaged_forms_are_answered_and_what_is_refused_changes_nothing(
    idle: Workspace, asked: TestClient, engine: Engine
) -> None:
    plan = f"/plans/{exchange.ensure_demo(idle)}/a"
    forms = every_form(asked, plan)
    assert len(forms) > 100
    outcome = storm_of_forms(asked, engine, plan, forms, requests=FORMS, seed=9)
    assert outcome.faults == []
    assert any(status >= 400 for status in outcome.statuses) and any(status < 400 for status in outcome.statuses)


def test_forms_are_found_as_a_browser_sends_them() -> None:
    page = (
        '<form method="post" action="/a?x=1"><input name="n" value="1"><input type="checkbox" name="c">'
        '<select name="s"><option value="p">P<option value="q" selected>Q</select>'
        '<textarea name="t">w</textarea></form>'
        '<form method="get" action="/b"></form>'
    )
    (form,) = forms_of(page)
    assert form.fields == (("n", "1"), ("s", "q"), ("t", "w")) and form.choices == ("p", "q")
