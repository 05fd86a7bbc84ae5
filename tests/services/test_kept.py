"""What is kept in memory: the least used goes first, and a plan is worked out once."""

from concurrent.futures import ThreadPoolExecutor

import pytest

from stonechat.core.plan import evaluate as chain
from stonechat.services import evaluation, history, plans
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.kept import Kept
from stonechat.services.load import moving
from stonechat.services.load.places import best_places, options_for
from stonechat.services.workspace import Workspace


def test_the_least_used_goes_first() -> None:
    kept: Kept[int] = Kept(2)
    kept.put("a", 1)
    kept.put("b", 2)
    assert kept.get("a") == 1
    kept.put("c", 3)
    assert (kept.get("a"), kept.get("b"), kept.get("c")) == (1, None, 3)


def test_what_is_kept_is_not_made_again_and_nothing_is_made_of_none() -> None:
    kept: Kept[int | None] = Kept(2)
    made: list[str] = []

    def make(name: str, value: int | None) -> int | None:
        made.append(name)
        return value

    assert [kept.of("a", lambda: make("a", 1)), kept.of("a", lambda: make("again", 2))] == [1, 1]
    assert [kept.of("none", lambda: make("none", None)), kept.of("none", lambda: make("some", 3))] == [None, 3]
    assert made == ["a", "none", "some"]


def test_many_threads_may_keep_at_once() -> None:
    kept: Kept[int] = Kept(50)
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(lambda k: kept.put(k % 70, k % 70), range(5_000)))
    found = [kept.get(k) for k in range(70)]
    assert sum(value is not None for value in found) == 50
    assert all(value in (None, k) for k, value in enumerate(found))


def test_a_plan_is_ridden_once_also_after_undo_and_redo(
    workspace: Workspace, opened: OpenPlan, monkeypatch: pytest.MonkeyPatch
) -> None:
    ridden: list[str] = []

    def counted(plan: object, variant_id: str, **more: object) -> object:
        ridden.append(variant_id)
        return chain.evaluate(plan, variant_id, **more)  # type: ignore[arg-type]

    monkeypatch.setattr(evaluation, "evaluate", counted)
    renamed = plans.rename_plan(workspace, opened.id, revision=opened.revision, name="Kept once")
    evaluated(renamed, "a")
    undone = history.undo(workspace, opened.id, revision=renamed.revision)
    evaluated(undone, "a")
    redone = history.redo(workspace, opened.id, revision=undone.revision)
    evaluated(redone, "a")
    evaluated(open_plan(workspace, opened.id), "a")
    assert len(ridden) <= 2


def test_a_loose_thing_is_offered_its_cheapest_place(workspace: Workspace, opened: OpenPlan) -> None:
    loose = moving.move_items(workspace, opened, "a", revision=opened.revision, places={"phone": ""})
    best = best_places(loose, "a")
    assert set(best) == {"phone"}
    options = [option for option, _ in options_for(loose, "a", ["phone"]) if not option.reason]
    assert best["phone"] is not None
    assert best["phone"].minutes == min(option.minutes for option in options)


def test_a_thing_at_home_has_no_options(workspace: Workspace, opened: OpenPlan) -> None:
    home = moving.move_items(workspace, opened, "a", revision=opened.revision, places={"phone": "home"})
    assert options_for(home, "a", ["phone"]) == ()
