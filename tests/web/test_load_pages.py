"""The parts of Load beside the bike: the price of every move, why, rules of thumb."""

import re
from dataclasses import replace

import pytest
from fastapi.testclient import TestClient

from stonechat.core.plan.plan import Plan
from stonechat.db.presence import at_work_on
from stonechat.db.runs import update_run
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.load.packing import problem_of, start_packing
from stonechat.services.workspace import Workspace
from stonechat.web.app import create_app
from tests.web.test_pages import HTMX, Outline
from tests.web.test_rig_pages import do, sent


def load(opened: OpenPlan, query: str) -> str:
    return f"/plans/{opened.id}/a/load?{query}"


TABS = ("prices", "starts", "whatif", "inside", "balance", "checks")
PARTS = ["", *(f"tab={key}" for key in TABS), "tab=why&open=rain-jacket"]


@pytest.mark.parametrize("edit", PARTS)
def test_every_part_of_load_is_a_page_and_a_fragment(client: TestClient, opened: OpenPlan, edit: str) -> None:
    answer = client.get(load(opened, edit))
    outline = Outline(answer.text)
    assert answer.status_code == 200 and outline.forbidden == []
    assert len(outline.ids) == len(set(outline.ids)) and set(outline.fields) <= outline.labels
    assert client.get(load(opened, edit), headers=HTMX).text.lstrip().startswith('<section id="stage"')


def test_the_table_has_every_thing_and_the_minutes_of_the_problem(client: TestClient, opened: OpenPlan) -> None:
    page = client.get(load(opened, "tab=prices")).text
    problem = problem_of(opened, "a", evaluated(opened, "a"))
    shown = [item for item in problem.items if not item.worn]
    assert page.count("tab=why") >= len(shown)
    phone = next(i for i, item in enumerate(problem.items) if item.id == "phone")
    here = [c.id for c in problem.carriers].index(opened.plan.variants[0].places["phone"])
    assert f">{problem.minutes[phone, here]:.1f}</td>" in page


def test_why_says_what_binds_and_moves_at_a_press(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    page = client.get(load(opened, "tab=why&open=rain-jacket")).text
    page = " ".join(page.split())
    assert "Why rain jacket rides in" in page and "Next best as things lie" in page
    first = re.search(r'title="Move rain jacket to ([^"]+)"', page)
    assert first is not None
    assert client.get(load(opened, "tab=why&open=ghost")).status_code == 404
    fields = sent(opened, item="rain-jacket", place="jersey", tab="why", open="rain-jacket")
    assert "Why rain jacket rides in jersey pockets" in client.post(do(opened, "move"), data=fields, headers=HTMX).text


def test_a_rule_of_thumb_packs_and_is_undone(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    page = client.get(load(opened, "tab=starts")).text
    assert "heaviest first, low in the frame" in page and "as it is packed now" in page
    packed = client.post(do(opened, "start-from"), data=sent(opened, rule="heavy_low"), headers=HTMX)
    assert packed.status_code == 200
    now = open_plan(workspace, opened.id)
    assert now.plan.variants[0].places != opened.plan.variants[0].places
    client.post(do(opened, "undo"), data={"revision": now.revision, "leg": 0, "room": "load"})
    assert open_plan(workspace, opened.id).plan == opened.plan
    assert client.post(do(opened, "start-from"), data=sent(now, rule="luck")).status_code == 404


def test_a_carrier_is_emptied_but_for_what_is_pinned(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    held = {key for key, place in opened.plan.variants[0].places.items() if place == "seat"}
    kept = sorted(held)[0]
    client.post(do(opened, "pin"), data=sent(opened, item=kept))
    now = open_plan(workspace, opened.id)
    answer = client.post(
        do(opened, "carriers", "seat", "empty"), data={"revision": now.revision, "leg": 0}, headers=HTMX
    )
    assert answer.status_code == 200 and "things without a place" in answer.text
    places = open_plan(workspace, opened.id).plan.variants[0].places
    assert {key for key, place in places.items() if place == "seat"} == {kept}


def test_all_in_a_carrier_is_pinned_and_let_go(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    held = {key for key, place in opened.plan.variants[0].places.items() if place == "seat"}
    client.post(do(opened, "carriers", "seat", "pin"), data=sent(opened))
    assert open_plan(workspace, opened.id).plan.variants[0].pins == held
    client.post(do(opened, "carriers", "seat", "pin"), data={"revision": opened.revision + 1, "leg": 0})
    assert open_plan(workspace, opened.id).plan.variants[0].pins == frozenset()
    empty = client.post(
        do(opened, "carriers", "bottle-down", "pin"), data={"revision": opened.revision + 2, "leg": 0}, headers=HTMX
    )
    assert empty.status_code == 422 and "is empty" in empty.text


def test_balance_is_told_for_every_leg_as_the_film_has_it(client: TestClient, opened: OpenPlan) -> None:
    page = client.get(load(opened, "tab=balance")).text
    film = evaluated(opened, "a").ridden.film
    assert len(re.findall(r'<th scope="row"><a href="[^"]+tab', page)) == len(film)
    for leg in film[:: len(film) - 1]:
        assert f"{100 * leg.balance.front_share:.1f}\u202f%" in page.replace("\u00a0", "\u202f").replace(
            " %", "\u202f%"
        )


def packed_page(client: TestClient, opened: OpenPlan) -> str:
    client.post(do(opened, "pack"), data=sent(opened), headers=HTMX)
    return client.get(load(opened, "")).text


def test_with_every_carrier_off_packing_says_so(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    def bare(plan: Plan) -> Plan:
        variant = plan.variants[0]
        return plan.with_variant(replace(variant, carriers=tuple(replace(c, mounted=False) for c in variant.carriers)))

    now = change_plan(workspace, opened.id, revision=opened.revision, label="all off", change=bare)
    page = packed_page(client, now)
    assert "No plan fits" in page and "none is mounted" in page
    for edit in PARTS:
        assert client.get(load(now, edit)).status_code == 200


def test_a_thing_heavier_than_every_limit_is_named(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    def heavy(plan: Plan) -> Plan:
        return replace(plan, items=tuple(replace(i, mass=15.0) if i.id == "rag" else i for i in plan.items))

    now = change_plan(workspace, opened.id, revision=opened.revision, label="heavy", change=heavy)
    page = packed_page(client, now)
    assert "rag fits in no carrier: too heavy in" in page


@pytest.mark.parametrize(
    ("action", "fields", "status", "words"),
    [
        ("what-if", {}, 422, "Nothing is tried"),
        ("what-if", {"item": "phone", "place": "ghost", "without": "ghost"}, 422, "Nothing is tried"),
        ("what-if", {"item": "mini-pump", "place": "top-rear"}, 422, "too long by 45 mm"),
        ("what-if", {"item": "ghost", "place": "seat"}, 404, "no thing"),
        ("swap", {"item": "phone"}, 422, "Choose two"),
        ("swap", {"item": "phone", "other": "ghost"}, 404, "no thing"),
        ("wishes", {"keep_free_l": "lots"}, 422, "is not a number"),
        ("wishes", {"keep_free_l": "900"}, 422, "0 to 20 l"),
        ("wishes", {"free": "ghost"}, 404, "no carrier"),
        ("wishes", {"body": "heavy"}, 422, "is not a number"),
        ("wishes", {"body": "9"}, 422, "counts 0 to 5 times"),
        ("wear", {"item": "ghost"}, 404, "no thing"),
        ("wear", {"item": "wash-pouch"}, 422, "holds things"),
        ("carriers/seat/order", {"item": "ghost"}, 404, "no thing"),
        ("carriers/ghost/order", {}, 404, "no carrier"),
        ("pack/refuse", {"proposed": "phone"}, 409, "Pack first"),
        ("pack/way", {"way": "x"}, 409, "no longer there"),
        ("pack/take", {"kind": "different", "other": "7"}, 409, "no finished packing"),
    ],
)
def test_what_cannot_be_done_is_a_sentence_and_changes_nothing(
    client: TestClient,
    workspace: Workspace,
    opened: OpenPlan,
    action: str,
    fields: dict[str, str],
    status: int,
    words: str,
) -> None:
    answer = client.post(do(opened, *action.split("/")), data=sent(opened, **fields), headers=HTMX)
    assert answer.status_code == status and words in answer.text
    assert open_plan(workspace, opened.id).plan == opened.plan


def test_several_held_things_are_told_together(client: TestClient, opened: OpenPlan) -> None:
    ask = do(opened, "options")
    one, other = (
        {o["carrier"]: o for o in client.get(ask, params={"item": key}).json()} for key in ("phone", "wind-gilet")
    )
    both = {o["carrier"]: o for o in client.get(ask, params={"item": ["phone", "wind-gilet"]}).json()}
    for key, option in both.items():
        assert option["change_min"] == pytest.approx(one[key]["change_min"] + other[key]["change_min"], abs=0.002)
    assert client.get(ask, params={"item": ["phone"] * 60}).status_code == 422


@pytest.mark.parametrize("progress", [{}, {"best_min": 182.4}, {"best_min": 182.4, "bound_min": 150.0, "gap": 0.2}])
@pytest.mark.parametrize("state", ["running", "done"])
def test_a_packing_is_shown_whatever_is_known_of_it(
    client: TestClient, workspace: Workspace, opened: OpenPlan, progress: dict[str, float], state: str
) -> None:
    idle = Workspace(store=workspace.store, settings=workspace.settings)
    run = start_packing(idle, opened.id, "a")
    places = {**opened.plan.variants[0].places, "phone": "seat"}
    result = {"status": "stopped", "places": places, "mounted": [], "unkept": [], "reasons": [], "ways": []}
    with workspace.store.transaction() as session:
        update_run(session, run.id, state=state, progress=progress, result=result)
    with at_work_on(workspace.store.engine, run.id):
        for address in (load(opened, ""), f"/plans/{opened.id}/a/do/pack"):
            answer = client.get(address, headers=HTMX)
            assert answer.status_code == 200
            assert ("182.4" in answer.text) == ("best_min" in progress) or state == "done"
            assert "nan" not in re.sub(r"[a-z]nan|nan[a-z]", "", answer.text)


def test_a_packing_that_was_stopped_before_it_began_says_so(workspace: Workspace, opened: OpenPlan) -> None:
    waiting = replace(workspace, defer_run=lambda _: None)  # no worker takes it up
    client = TestClient(create_app(waiting), base_url="http://127.0.0.1", follow_redirects=False)
    for what in ("pack", "pack/stop"):
        assert client.post(do(opened, what), data={"revision": opened.revision, "leg": 0}).status_code == 303
    page = client.get(load(opened, ""))
    assert page.status_code == 200 and "Stopped before it began" in page.text and "No packing" in page.text


def test_where_a_packing_put_food_is_shown_and_let_go(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    assert "Food goes first" not in client.get(load(opened, "")).text
    put = {"stem-left": 0.0003, "top-front": 0.0004, "bar": 0.0007, "long-gone": 0.0001}  # a roll takes no food

    def change(plan: Plan) -> Plan:
        return plan.with_variant(replace(plan.variants[0], food_in=put))

    changed = change_plan(workspace, opened.id, revision=opened.revision, label="put food", change=change)
    page = " ".join(client.get(load(changed, "")).text.split())
    assert "0.7 l in bar roll (nothing can go there now)" in page and "0.4 l in top-tube bag, front" in page
    assert page.count("nothing can go there now") == 1
    loads = [{state.carrier.id: state.food for state in load.carriers} for load in evaluated(changed, "a").ridden.film]
    most = max(loads, key=lambda food: sum(food.values()))
    assert most["top-front"] >= 0.0004 - 1e-9 and most["stem-left"] >= 0.0003 - 1e-9 and most["bar"] == 0.0
    assert client.post(do(changed, "food"), data=sent(changed)).status_code == 303
    assert open_plan(workspace, opened.id).plan.variants[0].food_in == {}


def test_what_the_rider_holds_dear_is_kept_as_it_was_typed(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    typed = sent(opened, way="one_end", body="0.25", keep_free_l="0.5")
    assert client.post(do(opened, "wishes"), data=typed).status_code == 303
    wishes = open_plan(workspace, opened.id).plan.variants[0].wishes
    assert (wishes.way, wishes.body) == ("one_end", 0.25)
    page = " ".join(client.get(load(opened, "")).text.split())
    assert "night kit at one end; the body counts 0.25 times" in page
    assert 'name="body" inputmode="decimal" value="0.25"' in page and '<option value="one_end" selected>' in page


def test_a_move_holds_from_a_stop_on_and_is_taken_back_by_its_usual_place(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    variant = opened.plan.variants[0]
    item = next(item for item in opened.plan.items if variant.places.get(item.id) == "seat" and not item.container)
    leg = next(k for k, v in enumerate(evaluated(opened, "a").ridden.timetable.visits, start=1) if v.name == "Kemmer")
    page = client.get(load(opened, f"leg={leg}")).text
    assert "from Kemmer on" in page and "from Kemmer on" not in client.get(load(opened, "leg=0")).text
    move = {"item": item.id, "place": "bar", "since": "kemmer"}
    answer = client.post(do(opened, "move"), data=sent(opened, **move), headers=HTMX)
    assert answer.status_code == 200, answer.text[:300]
    now = open_plan(workspace, opened.id)
    assert now.plan.variants[0].places[item.id] == "seat"
    film = evaluated(now, "a").ridden.film
    for k, aboard in enumerate(film):
        where = next(s.carrier.id for s in aboard.carriers if item.id in {i.id for i in s.items})
        assert where == ("seat" if k < leg else "bar")
    again = {"revision": now.revision, "leg": leg, "item": item.id, "place": "seat", "since": "kemmer"}
    assert client.post(do(opened, "move"), data=again, headers=HTMX).status_code == 200
    assert open_plan(workspace, opened.id).plan.variants[0].repacks == {}


@pytest.mark.parametrize(
    ("place", "since", "says"),
    [("home", "kemmer", "posted home"), ("bar", "atlantis", "stop"), ("moon", "kemmer", "carrier")],
)
def test_a_move_from_a_stop_on_that_cannot_be_is_refused(
    client: TestClient, workspace: Workspace, opened: OpenPlan, place: str, since: str, says: str
) -> None:
    item = next(key for key, where in opened.plan.variants[0].places.items() if where == "seat")
    answer = client.post(do(opened, "move"), data=sent(opened, item=item, place=place, since=since), headers=HTMX)
    assert answer.status_code in (404, 422) and says in answer.text
    assert open_plan(workspace, opened.id).revision == opened.revision
