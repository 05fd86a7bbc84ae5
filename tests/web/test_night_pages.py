"""Night: every rest with its margin, what is worn when, who runs cold, reaches by the ladder."""

from dataclasses import replace

import pytest
from fastapi.testclient import TestClient

from stonechat.core.night.ladder import Ladder
from stonechat.core.night.report import Warmth
from stonechat.render.filters import minutes_signed
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, change_plan, open_plan
from stonechat.services.night import places_priced
from stonechat.services.workspace import Workspace
from tests.web.test_pages import HTMX, Outline
from tests.web.test_rig_pages import do, sent
from tests.web.test_supply_pages import words


def page(client: TestClient, opened: OpenPlan, query: str = "", variant: str = "a") -> str:
    answer = client.get(f"/plans/{opened.id}/{variant}/night?{query}")
    assert answer.status_code == 200
    return answer.text


def tape_of(client: TestClient, opened: OpenPlan, room: str) -> str:
    html = client.get(f"/plans/{opened.id}/a/{room}").text
    return words(html.split('id="tape"', 1)[1].split('id="main"', 1)[0])


@pytest.mark.parametrize(
    "query", ["", "tab=night&open=0", "tab=night&open=99", "leg=13&all=yes", "tab=stretch&open=7", "tab=stretch&open=x"]
)
@pytest.mark.parametrize("variant", ["a", "b", "c"])
def test_every_part_is_a_page(client: TestClient, opened: OpenPlan, query: str, variant: str) -> None:
    outline = Outline(page(client, opened, query, variant))
    assert outline.forbidden == [] and len(outline.ids) == len(set(outline.ids))
    assert set(outline.fields) <= outline.labels


def test_every_rest_stands_with_its_margin_and_opens_with_its_ways(client: TestClient, opened: OpenPlan) -> None:
    rests = evaluated(opened, "a").ridden.report(Warmth).rests
    shown = words(page(client, opened))
    for rest in rests:
        assert f"Night {rest.night + 1}" in shown and f"{abs(rest.margin):.0f} K" in shown
    one = words(page(client, opened, "tab=night&open=3"))
    parts = (
        "To sleep warmer",
        "a mat with R 1 more",
        "Wet, under the stars, or worn out",
        "soaked",
        "Evening",
        "Morning",
        "(seat pack)",
    )
    assert [part for part in parts if part not in one] == []
    assert "Shivering that stops" in one


def test_the_tape_says_what_to_have_on(client: TestClient, opened: OpenPlan) -> None:
    ladder = evaluated(opened, "a").ridden.report(Ladder)
    tape = tape_of(client, opened, "night")
    change = next(entry for entry in ladder.changes if entry.on)
    assert "wear " in tape and change.on[0].name in tape
    assert "wear " not in words(
        client.get(f"/plans/{opened.id}/a/line").text.split('id="tape"', 1)[1].split('id="main"')[0]
    )


def test_other_places_are_priced_by_the_race_ridden_so_and_taken(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    number = 1
    priced = places_priced(opened, "a", number)
    place = next(way for way in priced if way.rest is not None and way.rest.stop)
    assert place.minutes is not None and "not ridden yet" in words(page(client, opened, f"tab=night&open={number}"))
    shown = words(page(client, opened, f"tab=places&open={number}"))
    assert "not ridden yet" not in shown and minutes_signed(place.minutes) in shown
    before = evaluated(opened, "a").ridden
    rest = place.rest
    assert rest is not None
    fields = {"stop": rest.stop, "begins": f"{rest.begins:.0f}"}
    taken = client.post(do(opened, "night-rest", str(number)), data=sent(opened, **fields), headers=HTMX)
    assert taken.status_code == 200
    after = evaluated(open_plan(workspace, opened.id), "a").ridden
    assert (after.ledger.finish - before.ledger.finish) / 60.0 == pytest.approx(place.minutes)
    assert any(r.in_bed for r in after.report(Warmth).rests)
    now = open_plan(workspace, opened.id)
    gone = client.post(do(now, "night-rest", "77"), data=sent(now, **fields), headers=HTMX)
    assert gone.status_code == 404
    wrong = client.post(do(now, "night-rest", "0"), data=sent(now, stop="ghost", begins="0"), headers=HTMX)
    assert wrong.status_code == 404 and "Load the page again" in wrong.text


def test_changes_and_pieces_are_those_of_the_ladder(client: TestClient, opened: OpenPlan) -> None:
    ladder = evaluated(opened, "a").ridden.report(Ladder)
    shown = words(page(client, opened, "all=yes"))
    assert f"{len(ladder.changes)} changes of clothes" in shown
    for piece in ladder.pieces:
        assert piece.garment.name in shown and f"{piece.hours:.1f} h" in shown


def test_a_change_opens_with_what_each_zone_needs_and_has(client: TestClient, opened: OpenPlan) -> None:
    ladder = evaluated(opened, "a").ridden.report(Ladder)
    spell = ladder.changes[3].spell
    shown = words(page(client, opened, f"tab=stretch&open={spell}"))
    trunk = ladder.zones["trunk"]
    have = trunk.outfits[int(trunk.chosen[spell])].insulation / 0.155
    assert f"{have:.2f} clo" in shown and f"{float(trunk.needs[spell]) / 0.155:.2f} clo" in shown
    assert f"{ladder.spells.going.heats[spell]:.0f} W/m² of heat made" in shown


def test_who_runs_cold_says_so_and_nonsense_is_caught_at_the_field(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    before = evaluated(opened, "a").ridden.report(Warmth).rests[0].margin
    answer = client.post(do(opened, "night-cold"), data=sent(opened, kelvin="3"), headers=HTMX)
    assert answer.status_code == 200
    now = open_plan(workspace, opened.id)
    assert now.plan.variants[0].rider.runs_cold == 3.0
    assert evaluated(now, "a").ridden.report(Warmth).rests[0].margin == pytest.approx(before - 3.0, abs=0.5)
    for wrong in ("40", "warm", ""):
        refused = client.post(do(now, "night-cold"), data=sent(now, kelvin=wrong), headers=HTMX)
        assert refused.status_code == 422 and 'aria-invalid="true"' in refused.text


def test_reaches_are_counted_as_the_ladder_changes(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    ridden = evaluated(opened, "a").ridden
    piece = next(p for p in ridden.report(Ladder).pieces if p.garment.name == "wind gilet")
    answer = client.post(do(opened, "night-reaches", piece.garment.id), data=sent(opened), headers=HTMX)
    assert answer.status_code == 200
    item = next(i for i in open_plan(workspace, opened.id).plan.items if i.id == piece.garment.id)
    assert item.reaches.per_day == pytest.approx(piece.changes / ridden.ledger.prices.days, abs=0.01)
    assert item.reaches.cold == item.reaches.rain == 0.0
    now = open_plan(workspace, opened.id)
    assert client.post(do(now, "night-reaches", "spoon"), data=sent(now), headers=HTMX).status_code == 404
    worn = client.post(do(now, "night-reaches", "jersey"), data=sent(now), headers=HTMX)
    assert worn.status_code == 422 and "nobody reaches for it" in worn.text


def test_a_label_that_does_not_say_which_is_asked_about(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    changed = change_plan(
        workspace,
        opened.id,
        revision=opened.revision,
        label="label",
        change=lambda plan: replace(
            plan,
            items=tuple(replace(i, facts=(("rated", 3.0),)) if i.kind == "quilt" else i for i in plan.items),
        ),
    )
    shown = words(page(client, changed, "tab=night&open=0"))
    assert "comfort or limit?" in shown and "The limit is taken" in shown


@pytest.mark.parametrize(("name", "value"), [("comfort", "40"), ("r_value", "400"), ("fill_g", "3000"), ("clo", "9")])
def test_figures_that_no_gear_has_are_caught_at_the_field(
    client: TestClient, opened: OpenPlan, name: str, value: str
) -> None:
    fields = {"name": "thing", "mass_g": "500", "volume_l": "2", name: value}
    answer = client.post(do(opened, "items", "quilt-comfort-3-c"), data=sent(opened, **fields), headers=HTMX)
    assert answer.status_code == 422 and f'name="{name}" value="{value}"' in answer.text.replace("\n", " ")
    assert 'aria-invalid="true"' in answer.text


def test_a_race_in_hotels_and_one_without_a_kit_are_told_plainly(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    bare = change_plan(
        workspace, opened.id, revision=opened.revision, label="bare", change=lambda plan: replace(plan, items=())
    )
    shown = words(page(client, bare))
    assert "Nothing goes along yet, so nothing is judged" in shown and "You ride in" in shown
