"""What tests of the services share."""

from dataclasses import replace

import pytest

from stonechat.core.plan.plan import Plan
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.workspace import Workspace

WANTED = {"phone", "rain-jacket", "inner-tube", "leg-warmers"}


@pytest.fixture
def lighter(workspace: Workspace, opened: OpenPlan) -> OpenPlan:
    """The demo plan with every third thing left out, so that a proof takes about a second."""

    def fewer(plan: Plan) -> Plan:
        kept = tuple(i for k, i in enumerate(plan.items) if k % 3 or i.worn or i.holds or i.id in WANTED)
        ids = {item.id for item in kept}
        variants = tuple(
            replace(v, places={key: place for key, place in v.places.items() if key in ids}, pins=v.pins & ids)
            for v in plan.variants
        )
        return replace(plan, items=kept, variants=variants)

    return change_plan(workspace, opened.id, revision=opened.revision, label="fewer", change=fewer)
