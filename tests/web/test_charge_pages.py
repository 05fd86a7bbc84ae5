"""Charge: every battery in picture and table."""

from dataclasses import replace

import pytest
from fastapi.testclient import TestClient

from stonechat.core.charge.report import Charge
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.workspace import Workspace
from tests.web.test_pages import Outline
from tests.web.test_supply_pages import words


@pytest.mark.parametrize("variant", ["a", "b", "c"])
def test_every_battery_is_told(client: TestClient, opened: OpenPlan, variant: str) -> None:
    html = client.get(f"/plans/{opened.id}/{variant}/charge?leg=4").text
    outline, shown = Outline(html), words(html)
    assert outline.forbidden == [] and len(outline.ids) == len(set(outline.ids))
    charge = evaluated(opened, variant).ridden.report(Charge)
    for line in charge.lines:
        assert line.thing.name in shown and f"{line.thing.capacity:.1f} Wh" in shown
    assert f"{charge.dark_hours:.1f} h are ridden in the dark" in shown
    assert "charge-line wide" in html and "charge-line narrow" in html


def test_a_kit_without_anything_electric_is_told_plainly(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    def mechanical(plan):  # type: ignore[no-untyped-def]
        variants = tuple(replace(v, bike=replace(v.bike, electronic=False)) for v in plan.variants)
        return replace(plan, items=(), variants=variants)

    change_plan(workspace, opened.id, revision=opened.revision, label="bare", change=mechanical)
    shown = words(client.get(f"/plans/{opened.id}/a/charge").text)
    assert "Nothing electric goes along yet" in shown and "Nothing electric aboard" in shown


def test_a_misread_label_is_asked_about(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    change_plan(
        workspace,
        opened.id,
        revision=opened.revision,
        label="label",
        change=lambda plan: replace(
            plan, items=tuple(replace(i, facts=(("mah", 200.0),)) if i.kind == "power_bank" else i for i in plan.items)
        ),
    )
    assert "in Ah rather than mAh?" in words(client.get(f"/plans/{opened.id}/a/charge").text)
