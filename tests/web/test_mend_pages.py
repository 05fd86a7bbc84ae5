"""Mend: what a tool may do is asked, and told with one button."""

from dataclasses import replace

from fastapi.testclient import TestClient

from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.workspace import Workspace
from tests.web.test_pages import HTMX
from tests.web.test_rig_pages import do
from tests.web.test_supply_pages import words

ASKED = "Nothing says whether multitool with chain tool"


def test_a_tool_that_may_open_chains_is_asked_about(client: TestClient, opened: OpenPlan, workspace: Workspace) -> None:
    def page() -> str:
        return words(client.get(f"/plans/{opened.id}/a/mend?open=chain").text)

    assert ASKED not in page()  # its name says so
    tool = next(item for item in opened.plan.items if item.kind == "multi_tool")
    plain = replace(tool, roles=tool.roles - {"chain_tool"})
    now = change_plan(
        workspace, opened.id, revision=opened.revision, label="a plain one",
        change=lambda plan: replace(plan, items=tuple(plain if i.id == tool.id else i for i in plan.items)),
    )  # fmt: skip
    assert f"{ASKED} opens chains" in page()
    given = {"revision": now.revision, "item": tool.id, "failure": "chain"}
    assert client.post(do(opened, "mend-does"), data={**given, "word": "sings"}, headers=HTMX).status_code == 404
    assert client.post(do(opened, "mend-does"), data={**given, "word": "chain_tool"}, headers=HTMX).status_code == 200
    assert ASKED not in page()
    kept = next(item for item in open_plan(workspace, opened.id).plan.items if item.id == tool.id)
    assert kept.roles == tool.roles
