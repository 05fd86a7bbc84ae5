"""Supply: stops chosen, wished, ridden past; bottles strapped on; what is carried for."""

import re
from typing import Any

import pytest
from fastapi.testclient import TestClient

from stonechat.core.plan.plan import Supply
from stonechat.core.supply.foods import FOODS, SHELVES
from stonechat.formats.line_csv import write_timetable
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.workspace import Workspace
from tests.web.test_pages import HTMX, Outline
from tests.web.test_reading import visible
from tests.web.test_rig_pages import do, sent


def words(html: str) -> str:
    return " ".join(visible(html).split())


def page(client: TestClient, opened: OpenPlan, query: str = "") -> str:
    answer = client.get(f"/plans/{opened.id}/a/supply?{query}")
    assert answer.status_code == 200
    return answer.text


def post(client: TestClient, workspace: Workspace, opened: OpenPlan, what: str, **fields: str) -> OpenPlan:
    now = open_plan(workspace, opened.id)
    answer = client.post(do(now, what), data=sent(now, **fields), headers=HTMX)
    assert answer.status_code == 200, answer.text[:300]
    return open_plan(workspace, opened.id)


def supply_of(opened: OpenPlan) -> Supply:
    return opened.plan.variant("a").supply


def passed(opened: OpenPlan) -> set[str]:
    visits = evaluated(opened, "a").ridden.timetable.visits
    return {visit.stop.id for visit in visits if visit.stop and visit.passed}


@pytest.mark.parametrize("query", ["", "open=kemmer", "open=start", "tab=carrying", "leg=13&open=ghost"])
@pytest.mark.parametrize("choose", [False, True])
def test_every_part_is_a_page(
    client: TestClient, workspace: Workspace, opened: OpenPlan, query: str, choose: bool
) -> None:
    if choose:
        opened = post(client, workspace, opened, "supply-choice", choose="yes")
    outline = Outline(page(client, opened, query))
    assert outline.forbidden == [] and len(outline.ids) == len(set(outline.ids))
    assert set(outline.fields) <= outline.labels


def test_what_choosing_would_bring_is_what_it_brings(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    before = evaluated(opened, "a").ridden.ledger.finish
    text = words(page(client, opened))
    chosen = post(client, workspace, opened, "supply-choice", choose="yes")
    after = evaluated(chosen, "a").ridden.ledger.finish
    hours, minutes = divmod(round((before - after) / 60.0), 60)
    assert f"Riding past {len(passed(chosen))} stops would bring the finish {hours} h {minutes:02d} earlier" in text
    assert f"ride past {len(passed(chosen))}:" in words(page(client, chosen))
    again = post(client, workspace, chosen, "supply-choice", choose="no")
    assert passed(again) == set() and evaluated(again, "a").ridden.ledger.finish == before


def test_a_wish_is_kept_told_with_its_minutes_and_taken_back(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    chosen = post(client, workspace, opened, "supply-choice", choose="yes")
    assert "kemmer" not in passed(chosen)
    assert "Ride past" in words(page(client, chosen, "open=kemmer"))
    wished = post(client, workspace, chosen, "supply/kemmer/wish", wish="past")
    assert "kemmer" in passed(wished) and supply_of(wished).skip == {"kemmer"}
    assert "Kemmer: ride past" in words(page(client, wished))
    back = post(client, workspace, wished, "supply/kemmer/clear")
    assert supply_of(back) == supply_of(chosen)
    stopped = post(client, workspace, back, "supply/hallow/wish", wish="stop") if _has(back, "hallow") else back
    assert "hallow" not in passed(stopped) or stopped is back


def _has(opened: OpenPlan, key: str) -> bool:
    return any(stop.id == key for stop in opened.plan.line.stops)


def test_a_bottle_is_strapped_on_by_its_button(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    chosen = post(client, workspace, opened, "supply-choice", choose="yes")
    short = evaluated(chosen, "a").ridden.provisions.water.short.max()
    assert short > 0.0 and "Strap a bottle of" in words(page(client, chosen))
    strapped = post(client, workspace, chosen, "supply/mirrel/strap", litres="1.5")
    assert evaluated(strapped, "a").ridden.provisions.water.short.max() == 0.0
    assert "Mirrel: bottle of 1.5 l" in words(page(client, strapped))


def test_what_is_carried_for_is_set_and_bad_figures_are_told(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    fields = {
        "water_reserve_l": "0.5",
        "food_reserve_kcal": "400",
        "spread": "20 %",
        "gut_g_h": "75",
        "tired_h": "16",
        "for_climbs": "150",
    }
    set_ = supply_of(post(client, workspace, opened, "supply-carrying", **fields))
    assert (set_.water_reserve, set_.food_reserve, set_.spread, set_.tired) == (0.5, 400.0, 0.2, 16 * 3600.0)
    now = open_plan(workspace, opened.id)
    for wrong in ({"spread": "300"}, {"tired_h": "soon"}, {"water_reserve_l": "-1"}):
        answer = client.post(do(now, "supply-carrying"), data=sent(now, **{**fields, **wrong}), headers=HTMX)
        assert answer.status_code == 422 and 'aria-invalid="true"' in answer.text
    assert open_plan(workspace, opened.id).revision == now.revision


@pytest.mark.parametrize(
    ("what", "fields", "status"),
    [
        ("supply/kemmer/wish", {"wish": "fly"}, 422),
        ("supply/ghost/wish", {"wish": "past"}, 404),
        ("supply/kemmer/strap", {"litres": "99"}, 422),
        ("supply/kemmer/strap", {"litres": "much"}, 422),
        ("supply-spread", {"spread": "7"}, 422),
        ("supply/kemmer", {"water_l": "99", "food_kcal": "", "meal_kcal": ""}, 422),
        ("supply/kemmer", {"water_l": "", "food_kcal": "", "meal_kcal": "a pie"}, 422),
    ],
)
def test_what_cannot_be_is_refused_in_a_sentence(
    client: TestClient, workspace: Workspace, opened: OpenPlan, what: str, fields: dict[str, Any], status: int
) -> None:
    answer = client.post(do(opened, what), data=sent(opened, **fields), headers=HTMX)
    assert answer.status_code == status and "Traceback" not in answer.text
    assert open_plan(workspace, opened.id).revision == opened.revision


@pytest.mark.parametrize("choose", [False, True])
def test_the_time_at_stops_is_that_of_the_ledger(
    client: TestClient, workspace: Workspace, opened: OpenPlan, choose: bool
) -> None:
    if choose:
        opened = post(client, workspace, opened, "supply-choice", choose="yes")
    causes = {cause.key: cause.minutes for cause in evaluated(opened, "a").ridden.ledger.causes}
    hours, minutes = divmod(causes["stops"] + causes["waits"], 60.0)
    found = re.search(r": (\d+) h (\d\d) at stops", words(page(client, opened)))
    assert found is not None and 60 * int(found[1]) + int(found[2]) == pytest.approx(60 * hours + minutes, abs=1.5)


def test_riding_past_one_stop_costs_beside_stopping_there_and_carries_no_more_elsewhere(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    before = evaluated(opened, "a").ridden
    skipped = post(client, workspace, opened, "supply/sarnow/wish", wish="past")
    after = evaluated(skipped, "a").ridden
    assert passed(skipped) == {"sarnow"}
    # 40 minutes and more on, nothing changes but the hours of the day
    assert after.provisions.water.leaving[0] == pytest.approx(before.provisions.water.leaving[0], abs=0.05)
    text = words(page(client, skipped, "open=sarnow"))
    asked = after.provisions.asked
    assert asked is not None and asked.lots is not None and "Sarnow: ride past" in text and "As is best" in text
    saved = re.search(r"Sarnow: ride past ([−+\-][\d:]+)", text)
    assert saved is not None and saved[1][0] in "−-"


def test_a_meal_is_eaten_there_and_told(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    fields = {"water_l": "", "food_kcal": "", "meal_kcal": "900"}
    fed = post(client, workspace, opened, "supply/kemmer", **fields)
    assert supply_of(fed).meals == {"kemmer": 900.0}
    assert "eat 900 kcal there" in words(page(client, fed))


def test_repacking_is_taken_listed_at_its_stop_and_left_again(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    def of_b(query: str = "") -> str:
        return words(client.get(f"/plans/{opened.id}/b/supply?{query}").text)

    def send(what: str) -> OpenPlan:
        now = open_plan(workspace, opened.id)
        answer = client.post(f"/plans/{opened.id}/b/do/{what}", data=sent(now), headers=HTMX)
        assert answer.status_code == 200
        return open_plan(workspace, opened.id)

    assert "Repacking would pay" in of_b()
    repacks = send("supply-repack").plan.variant("b").repacks
    assert repacks and "Leave it in its place" in of_b()
    key, (there, *_) = next(iter(repacks.items()))
    assert "Repack:" in of_b(f"open={there.until or there.since}")
    assert send(f"supply-repack/{key}/leave").plan.variant("b").repacks.keys() == repacks.keys() - {key}
    now = open_plan(workspace, opened.id)
    assert client.post(f"/plans/{opened.id}/b/do/supply-repack/{key}/leave", data=sent(now)).status_code == 404


def test_what_is_ridden_past_is_so_in_every_room(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    chosen = post(client, workspace, opened, "supply-choice", choose="yes")
    count = len(passed(chosen))
    timetable = words(client.get(f"/plans/{chosen.id}/a/rhythm?all=yes").text)
    assert timetable.count("ridden past") == count
    ridden = evaluated(chosen, "a").ridden
    visits = ridden.timetable.visits
    assert any(visit.passed and not visit.is_open for visit in visits)  # a shut one that nobody stands before
    assert not any(visit.is_shut and visit.passed for visit in visits)
    assert write_timetable(ridden).decode().count(",past,") == count


@pytest.mark.parametrize("query", ["tab=food", "tab=food&open=bars", "tab=food&open=new", "tab=food&open=ghost"])
def test_what_is_sold_is_a_page(client: TestClient, opened: OpenPlan, query: str) -> None:
    outline = Outline(page(client, opened, query))
    assert outline.forbidden == [] and len(outline.ids) == len(set(outline.ids))
    assert set(outline.fields) <= outline.labels


def test_a_shelf_is_what_the_rider_says_and_is_bought_from(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    before = words(page(client, opened, "open=start"))
    assert "chocolate" in before
    shelves = {f"shelf-{key}": list(sold) for key, sold in SHELVES.items()}
    shelves["shelf-start"] = ["rice_cakes"]
    now = open_plan(workspace, opened.id)
    answer = client.post(do(now, "supply-shelves"), data={**sent(now), **shelves}, headers=HTMX)
    assert answer.status_code == 200
    changed = open_plan(workspace, opened.id)
    assert supply_of(changed).shelves == {"start": ("rice_cakes",)}  # the others are as is usual
    assert "Take" in words(page(client, changed, "open=start")) and "rice cakes" in words(page(client, changed))
    empty = client.post(do(changed, "supply-shelves"), data=sent(changed), headers=HTMX)
    assert empty.status_code == 422 and "Nothing is sold at" in words(empty.text)


LABEL = {
    "name": "lard cake", "energy": "700", "bulk": "650", "carbs": "40", "sodium": "2", "tires_h": "30", "melts": "",
    "freezes": "", "wants": "",
}  # fmt: skip


def test_a_food_of_the_riders_own_is_known_changed_and_gone(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    made = post(client, workspace, opened, "supply-food/-", **LABEL)
    own = supply_of(made).foods[0]
    assert (own.name, own.energy, own.tires) == ("lard cake", 7.0, 30.0)
    assert own.key in supply_of(made).shelves["start"]
    assert "lard cake" in words(page(client, made, "open=start"))
    bought = post(client, workspace, made, "supply/kemmer/buy", food=own.key, kcal="700")
    assert supply_of(bought).buys == {"kemmer": {own.key: 700.0}}
    assert "Kemmer: buy 700 kcal of lard cake" in words(page(client, bought)) or not supply_of(bought).choose
    assert "In any case: lard cake, 700 kcal" in words(page(client, bought, "open=kemmer"))
    gone = post(client, workspace, bought, f"supply-food/{own.key}/usual")
    assert supply_of(gone).foods == () and supply_of(gone).buys == {}
    assert own.key not in supply_of(gone).shelves["start"]


def test_a_usual_food_is_mended_and_usual_again(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    mended = post(client, workspace, opened, "supply-food/bars", **{**LABEL, "name": "energy bars"})
    assert supply_of(mended).foods[0].key == "bars" and supply_of(mended).shelves == {}
    assert "as you say" in words(page(client, mended, "tab=food"))
    again = post(client, workspace, mended, "supply-food/bars/usual")
    assert supply_of(again).foods == ()
    now = open_plan(workspace, opened.id)
    refused = client.post(do(now, "supply-food/bars/usual"), data=sent(now), headers=HTMX)
    assert refused.status_code == 404


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [("energy", "0", "5"), ("energy", "lots", "figure"), ("name", "", "Food"), ("wants", "a butler", "list")],
)
def test_a_label_that_cannot_be_is_asked_again(
    client: TestClient, workspace: Workspace, opened: OpenPlan, field: str, value: str, says: str
) -> None:
    now = open_plan(workspace, opened.id)
    answer = client.post(do(now, "supply-food/-"), data=sent(now, **{**LABEL, field: value}), headers=HTMX)
    assert answer.status_code == 422 and says in words(answer.text)
    assert "lard cake" in answer.text or field == "name"


def test_dishes_are_the_riders_own(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    now = open_plan(workspace, opened.id)
    data = {**sent(now), "dish": ["bean stew", "", "pie"], "dish_kcal": ["780", "", "620"]}
    assert client.post(do(now, "supply-dishes"), data=data, headers=HTMX).status_code == 200
    changed = open_plan(workspace, opened.id)
    assert supply_of(changed).dishes == {"bean stew": 780.0, "pie": 620.0}
    assert "bean stew" in page(client, changed, "open=kemmer")
    bad = client.post(
        do(changed, "supply-dishes"), data={**sent(changed), "dish": "air", "dish_kcal": "0"}, headers=HTMX
    )
    assert bad.status_code == 422 and "more than 0" in words(bad.text)
    usual = post(client, workspace, changed, "supply-dishes", dish="", dish_kcal="")
    assert supply_of(usual).dishes == {}


@pytest.mark.parametrize(("food", "kcal"), [("bars", "99999"), ("bars", "-5"), ("moon dust", "300"), ("bars", "many")])
def test_what_cannot_be_bought_is_said(
    client: TestClient, workspace: Workspace, opened: OpenPlan, food: str, kcal: str
) -> None:
    now = open_plan(workspace, opened.id)
    answer = client.post(do(now, "supply/kemmer/buy"), data=sent(now, food=food, kcal=kcal), headers=HTMX)
    assert answer.status_code == 422 and open_plan(workspace, opened.id).revision == now.revision


def test_other_starts_are_ridden_and_one_is_taken(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    chosen = post(client, workspace, opened, "supply-choice", choose="yes")
    text = words(page(client, chosen, "tab=starts"))
    assert "Other starts" in text and "as planned" in text and text.count("Start then") == 6
    moved = post(client, workspace, chosen, "supply-start", start="2027-09-24T10:00:00")
    assert moved.plan.variant("a").rhythm.start.hour == 10
    now = open_plan(workspace, opened.id)
    for bad in ("soon", "1066-10-14T09:00:00", "2027-09-24T10:00:00+02:00"):
        answer = client.post(do(now, "supply-start"), data=sent(now, start=bad), headers=HTMX)
        assert answer.status_code == 422


def test_the_gut_is_asked_and_kept(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    fields = {"water_reserve_l": "0.4", "food_reserve_kcal": "200", "spread": "10", "gut_g_h": "60", "tired_h": "20"}
    fields |= {"sweat": "heat_balance", "for_climbs": "0"}
    kept = supply_of(post(client, workspace, opened, "supply-carrying", **fields))
    assert kept.gut == 60.0 and kept.sweat == "heat_balance"


def test_where_every_stop_is_stopped_at_what_is_short_is_reckoned_and_a_bottle_mends_it(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    fine = words(page(client, opened))
    assert "are lacking" not in fine and "Strap a bottle" not in fine
    small = open_plan(workspace, opened.id)
    bottles = [c.id for c in small.plan.variant("a").carriers if c.mounted and "water" in c.takes]
    for carrier in bottles[1:]:
        small = post(client, workspace, small, f"carriers/{carrier}/mount", mounted="no")
    text = words(page(client, small))
    assert "of water with the reserve" in text and "are lacking" in text
    before = float(evaluated(small, "a").ridden.provisions.water.short.sum())
    html = page(client, small)
    ways = re.findall(r'action="[^"]*/do/(supply/[^/"]+/strap)[^"]*".*?name="litres" value="([\d.]+)"', html, re.S)
    assert ways
    mended = post(client, workspace, small, ways[0][0], litres=ways[0][1])
    assert float(evaluated(mended, "a").ridden.provisions.water.short.sum()) < before


def test_a_bike_without_a_bottle_is_told_what_to_say(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    bare = open_plan(workspace, opened.id)
    for carrier in [c.id for c in bare.plan.variant("a").carriers if c.mounted and "water" in c.takes]:
        bare = post(client, workspace, bare, f"carriers/{carrier}/mount", mounted="no")
    text = words(page(client, bare))
    assert "No bottle is on the bike yet" in text and "Choose the stops for me" not in text
    assert "Try other starts" not in text


def test_a_door_is_waited_for_by_one_button_and_not_any_more(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    chosen = post(client, workspace, opened, "supply-choice", choose="yes")
    html = page(client, chosen)
    assert "Wait for the door at Sandreach" in words(html)
    waits = re.search(r'action="[^"]*/do/(supply/sandreach/wish)[^"]*".*?name="wish" value="wait"', html, re.S)
    assert waits is not None
    waited = post(client, workspace, chosen, waits[1], wish="wait")
    ridden = evaluated(waited, "a").ridden
    visit = next(v for v in ridden.timetable.visits if v.stop and v.stop.id == "sandreach")
    assert visit.waited > 6 * 3600.0 and visit.gives and supply_of(waited).waits == {"sandreach"}
    assert "Sandreach: wait for the door" in words(page(client, waited))
    pressed = re.search(r'aria-pressed="true">([^<]*)<', page(client, waited, "open=sandreach"))
    assert pressed is not None and "Wait for the door" in pressed[1]
    back = post(client, workspace, waited, "supply/sandreach/clear")
    assert supply_of(back).waits == frozenset()


def test_what_the_other_way_of_sweat_and_salt_come_to_is_reckoned_apart(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    def told(html: str) -> tuple[float, float, float]:
        found = re.search(r"([\d.]+) l would be drunk riding. Sweat takes about (\d+) g.*? gives (\d+) g", words(html))
        assert found is not None
        return float(found[1]), float(found[2]), float(found[3])

    table = evaluated(opened, "a").ridden
    by_balance, sodium, given = told(page(client, opened))
    fields = {"water_reserve_l": "0.3", "food_reserve_kcal": "300", "spread": "15", "gut_g_h": "75", "tired_h": "24",
              "for_climbs": "0", "sweat": "heat_balance"}  # fmt: skip
    other = post(client, workspace, opened, "supply-carrying", **fields)
    balance = evaluated(other, "a").ridden
    by_table, _, _ = told(page(client, other))
    # what is drunk resting is the same either way, and the ride nearly so
    more = float(table.provisions.water.needs.sum() - balance.provisions.water.needs.sum())
    assert by_table - by_balance == pytest.approx(more, abs=0.3)
    days = table.ledger.finish / 86_400.0
    assert sodium == pytest.approx(float(table.provisions.water.needs.sum()) / days, abs=0.51)
    grams = 0.0
    for basket, taken in zip(table.provisions.larder.baskets, table.provisions.food.taken, strict=True):
        for key, share in basket.shares if basket else ():
            grams += share * float(taken) / FOODS[key].energy / 1000.0 * FOODS[key].sodium
    assert given == pytest.approx(grams / days, abs=0.52)
