"""The patterns page: for builders only, whole, and with every part that pages share."""

import re
from dataclasses import replace
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from stonechat.services.workspace import Workspace
from stonechat.web.app import create_app
from tests.web.test_pages import Outline

CSS = Path(__file__).parents[2] / "src/stonechat/web/static/app.css"


@pytest.fixture
def builder(workspace: Workspace) -> TestClient:
    own = replace(workspace, settings=workspace.settings.model_copy(update={"patterns": True}))
    return TestClient(create_app(own), base_url="http://127.0.0.1")


def test_it_is_not_there_for_riders(client: TestClient) -> None:
    assert client.get("/patterns").status_code == 404


def test_it_shows_every_part_in_its_states(builder: TestClient) -> None:
    page = builder.get("/patterns")
    assert page.status_code == 200
    outline = Outline(page.text)
    assert outline.forbidden == [] and len(outline.ids) == len(set(outline.ids))
    assert set(outline.fields) <= outline.labels
    for state in ("broken", "tight", "fine"):
        assert f'class="check {state}"' in page.text
    assert "aria-invalid" in page.text and "disabled" in page.text
    surfaces = set(re.findall(r"\.surface-([a-z_]+)", CSS.read_text("utf-8")))
    assert surfaces and all(f"surface-{key}" in page.text for key in surfaces)
