"""A toy room built from docs/builders/how-to/add-a-room.md: a lantern that is lit in the dark, and what it comes to."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

import numpy as np
import pytest
from fastapi import APIRouter, Depends
from fastapi.responses import Response
from fastapi.testclient import TestClient
from jinja2 import BaseLoader, ChoiceLoader, DictLoader

from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Added, Ridden
from stonechat.core.numerics.findings import Finding, State, state_of
from stonechat.core.plan import features
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.features import Feature, all_checks
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.scenario import Scenario
from stonechat.core.rhythm.inputs import RideResult
from stonechat.render.environment import environment
from stonechat.services import work
from stonechat.services.history import OpenPlan
from stonechat.services.kept import forget_all
from stonechat.services.load import moving
from stonechat.services.work import Family, Outcome, Reporter, Run, RunState
from stonechat.services.workspace import Workspace
from stonechat.web.app import ROOMS, create_app
from stonechat.web.call import Change, changing
from stonechat.web.desk import Desk, Room


@dataclass(frozen=True, kw_only=True)
class Lantern:
    """A lantern, hung out where it is dark."""

    added: Added


@dataclass(frozen=True, kw_only=True)
class Glow:
    """How long it shines."""

    hours: float


def hang(scenario: Scenario, ride: RideResult) -> Lantern:
    none = np.zeros(ride.dark.size)
    return Lantern(added=Added(masses=np.full(ride.dark.size, 2.0), drags=np.where(ride.dark, 0.05, 0.0), brakes=none))


def shine(ridden: Ridden) -> Glow:
    return Glow(hours=float(ridden.ride.times[ridden.ride.dark].sum()) / 3600.0)


def burns_long_enough(ridden: Ridden) -> Iterator[Finding]:
    hours = ridden.report(Glow).hours
    yield Finding(
        code="lantern",
        state=state_of(1.0 - hours, 0.2),
        title="Lantern",
        sentence=f"It shines {hours:.1f} h.",
        margin=1.0 - hours,
        unit="h",
        room="lantern",
    )


TOY = Feature(
    settlers=(hang,),
    readers=(shine,),
    checks=(Check(code="lantern", title="Oil", reason="It burns an hour.", run=burns_long_enough),),
)
router = APIRouter(prefix="/plans/{plan_id}/{variant_id}/do")
Changed = Annotated[Change, Depends(changing("lantern"))]


def lantern_view(desk: Desk) -> Glow:
    return desk.evaluation.ridden.report(Glow)


ROOM = Room(key="lantern", name="Lantern", letter="x", build=lantern_view, router=router)
TEMPLATE = '<section id="stage"><h1>Shines {{ view.hours | round(1) }} h</h1></section>'


@router.post("/lantern/trust")
def trust(call: Changed) -> Response:
    """Do without the check."""
    opened = moving.switch_check(call.workspace, call.plan_id, call.variant_id, revision=call.revision, code="lantern")
    return call.answer(opened)


def counted(workspace: Workspace, opened: OpenPlan, run: Run, reporter: Reporter) -> Outcome:
    reporter.tell({"stops": float(len(opened.plan.line.stops))})
    return Outcome(result={"asked": run.request["word"]}, progress={"stops": 1.0})


COUNTING = Family(key="lantern", answers={"count": counted}, busy="It counts.", cut_off="Cut off.", failed="It failed.")


@pytest.fixture
def hung(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """The program with the toy room registered."""
    env = environment()
    loader: BaseLoader | None = env.loader
    assert loader is not None
    monkeypatch.setattr(features, "FEATURES", (*features.FEATURES, TOY))
    monkeypatch.setattr(env, "loader", ChoiceLoader([DictLoader({"lantern/_stage.html": TEMPLATE}), loader]))
    forget_all()
    yield
    forget_all()


def test_what_it_weighs_and_brakes_is_ridden_with_everything_else(demo: Plan, hung: None) -> None:
    lit = evaluate(demo, "a").ridden
    dark = lit.ride.dark
    assert dark.any() and not dark.all()
    masses, drags = (sum(getattr(part.added, name) for part in lit.settled.values()) for name in ("masses", "drags"))
    assert masses.min() > 2.0 and drags[dark].min() >= 0.05 > drags[~dark].max() - 0.05
    assert lit.report(Glow).hours == pytest.approx(float(lit.ride.times[dark].sum()) / 3600.0)


def test_it_costs_time(demo: Plan, demo_evaluation: object, hung: None) -> None:
    plain = demo_evaluation.ridden.ledger  # type: ignore[attr-defined]
    lit = evaluate(demo, "a").ridden.ledger
    assert lit.moving - plain.moving > 0.9 * 2.0 * 60.0 * plain.prices.per_kg


def test_its_check_is_one_of_all_and_its_report_is_asked_for_by_type(demo: Plan, hung: None) -> None:
    assert "lantern" in {check.code for check in all_checks()}
    found = evaluate(demo, "a")
    assert next(f for f in found.findings if f.code == "lantern").state == State.BROKEN
    with pytest.raises(LookupError, match="There is no int"):
        found.ridden.report(int)


def test_it_is_a_room_like_the_others(workspace: Workspace, opened: OpenPlan, hung: None) -> None:
    app = create_app(workspace, (*ROOMS, ROOM))
    with TestClient(app, base_url="http://127.0.0.1", follow_redirects=False) as client:
        here = f"/plans/{opened.id}/a/lantern"
        page = client.get(here)
        assert page.status_code == 200 and "Shines " in page.text and ">Lantern<" in page.text
        assert "Go to Lantern" in page.text and "It shines" in page.text
        sent = {"revision": str(opened.revision)}
        changed = client.post(f"/plans/{opened.id}/a/do/lantern/trust", data=sent)
        assert changed.status_code == 303 and changed.headers["location"].startswith(here)
        assert "Go to Lantern" not in client.get(here).text


def test_its_work_is_a_run_like_any_other(workspace: Workspace, opened: OpenPlan) -> None:
    families = {COUNTING.key: COUNTING}
    run = work.start(
        workspace_without_worker(workspace), COUNTING, opened.id, "a", kind="count", request={"word": "hm"}
    )
    assert run.state == RunState.WAITING
    work.perform(workspace, families, run.id)
    ended = work.newest(workspace, COUNTING, opened.id, "a")
    assert ended is not None and (ended.state, ended.result) == (RunState.DONE, {"asked": "hm"})


def workspace_without_worker(workspace: Workspace) -> Workspace:
    return Workspace(store=workspace.store, settings=workspace.settings)
