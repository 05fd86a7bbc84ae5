"""The parts of Kit as pages, as fragments and without a script; what is wrong is said at its field."""

import io
import json
import re
from dataclasses import replace
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

from stonechat.formats.documents.kit import told_item
from stonechat.services.history import OpenPlan, open_plan
from stonechat.services.kit import weighing
from stonechat.services.plans import duplicate_plan
from stonechat.services.variant import item_named
from stonechat.services.workspace import Workspace
from stonechat.web.forms.binding import bind
from stonechat.web.forms.kit import ItemForm
from tests.web.test_pages import HTMX, Outline

TABS = [
    "",
    *(f"tab={key}" for key in ("weigh", "bring", "cut", "jobs", "countdown", "pair", "shelf", "new")),
    "open=inner-tube",
]


def kit(opened: OpenPlan, query: str = "") -> str:
    return f"/plans/{opened.id}/a/kit?{query}"


def do(opened: OpenPlan, *parts: str) -> str:
    return "/".join((f"/plans/{opened.id}/a/do", *parts))


def sent(opened: OpenPlan, **fields: object) -> dict[str, object]:
    return {"revision": opened.revision, "leg": 0, **fields}


@pytest.mark.parametrize("edit", TABS)
def test_every_part_is_a_page_and_a_fragment_with_labelled_fields(
    client: TestClient, opened: OpenPlan, edit: str
) -> None:
    answer = client.get(kit(opened, edit))
    assert answer.status_code == 200
    outline = Outline(answer.text)
    assert outline.forbidden == [] and len(outline.ids) == len(set(outline.ids))
    assert set(outline.fields) <= outline.labels
    assert client.get(kit(opened, edit), headers=HTMX).text.lstrip().startswith('<section id="stage"')


def test_only_name_and_mass_are_needed(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    fields = sent(opened, name="spare hanger", category="tools", mass_g="27 g")
    assert client.post(do(opened, "items", "-"), data=fields).status_code == 303
    new = next(item for item in open_plan(workspace, opened.id).plan.items if item.name == "spare hanger")
    assert new.mass == 0.027 and new.roles == {"hanger"} and new.access == "last" and new.volume > 0.0
    assert new.kind == "hanger"


def test_a_slipped_unit_is_asked_about_and_can_be_overruled(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    fields = sent(opened, name="toothbrush", category="hygiene", mass_g="3400")
    asked = client.post(do(opened, "items", "-"), data=fields, headers=HTMX)
    assert asked.status_code == 422 and "A slipped unit?" in asked.text and "It is so" in asked.text
    assert open_plan(workspace, opened.id).revision == opened.revision
    assert client.post(do(opened, "items", "-"), data={**fields, "sure": "yes"}).status_code == 303


@pytest.mark.parametrize(
    ("fields", "sentence"),
    [
        ({"name": "x", "mass_g": "-3"}, "below the least"),
        ({"name": "x", "mass_g": "10", "container": "nowhere"}, "holds things here"),
        ({"name": "x", "mass_g": "10", "roles": "flying"}, "is no job that is known here"),
        ({"name": "x", "mass_g": "10", "roles": "plug a hole, sadle cream"}, "Did you mean"),
        ({"name": "x", "mass_g": "10", "content_g": "20"}, "weighs more than the whole"),
        ({"name": "x", "mass_g": "10", "used_before": "3", "carried_before": "2"}, "more races than it was carried"),
    ],
)
def test_what_is_wrong_with_a_thing_is_said(
    client: TestClient, opened: OpenPlan, fields: dict[str, str], sentence: str
) -> None:
    answer = client.post(do(opened, "items", "-"), data=sent(opened, **fields), headers=HTMX)
    assert answer.status_code == 422 and sentence in answer.text


def test_a_table_is_mapped_shown_and_taken_without_a_script(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    data = b"Gear;Weight oz\nlamp holder;3\n;4\n"
    staged = client.post(do(opened, "kit"), data=sent(opened), files={"file": ("list.csv", data)})
    assert staged.status_code == 303
    page = client.get(staged.headers["location"]).text
    assert "would come in" in page and "the name is missing" in page
    upload = re.search(r"open=([0-9a-f-]{36})", staged.headers["location"])
    assert upload is not None
    fields = sent(opened, **{"field-0": "name", "unit-0": "", "field-1": "mass_g", "unit-1": "oz", "header_row": "1"})
    looked = client.post(do(opened, "kit", upload[1]), data=fields)
    assert looked.status_code == 200 and "85 g" in looked.text
    taken = client.post(do(opened, "kit", upload[1]), data={**fields, "take": "yes"}, headers=HTMX)
    assert taken.status_code == 200 and "1 row was put aside" in taken.text
    assert item_named(open_plan(workspace, opened.id).plan, "lamp-holder").mass == pytest.approx(0.0850486, abs=1e-6)
    aside = client.get(do(opened, "kit", f"{upload[1]}.csv"))
    assert aside.status_code == 200 and "why_aside" in aside.text


def test_cells_can_be_pasted(client: TestClient, opened: OpenPlan) -> None:
    staged = client.post(do(opened, "kit"), data=sent(opened, pasted="name\tg\nlamp holder\t85\n"))
    assert staged.status_code == 303
    assert "lamp holder" in client.get(staged.headers["location"]).text


@pytest.mark.parametrize(
    ("data", "sentence"),
    [(b"", "No file was chosen"), (b"\x00\x01", "not text"), (b"PK\x03\x04x", "damaged"), (b"\n,\n", "empty")],
)
def test_a_table_that_is_none_is_answered_in_words(
    client: TestClient, opened: OpenPlan, data: bytes, sentence: str
) -> None:
    files = {"file": ("list.xlsx", data)} if data else None
    answer = client.post(do(opened, "kit"), data=sent(opened), files=files, headers=HTMX)
    assert 400 <= answer.status_code < 500 and sentence in answer.text


def test_a_table_that_is_not_kept_any_more_is_said(client: TestClient, opened: OpenPlan) -> None:
    assert client.get(kit(opened, f"tab=bring&open={uuid4()}")).status_code == 404
    assert client.get(kit(opened, "tab=bring&open=nonsense")).status_code == 404


def test_csv_and_xlsx_come_back_as_they_went(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    for name in ("kit.csv", "kit.xlsx"):
        data = client.get(do(opened, name)).content
        now = open_plan(workspace, opened.id)
        staged = client.post(do(opened, "kit"), data=sent(now), files={"file": (name, data)})
        upload = staged.headers["location"].split("open=")[-1].split("&")[0]
        answer = client.post(do(opened, "kit", upload), data=sent(now, take="yes"))
        assert answer.status_code == 303
        assert {i.id: i for i in open_plan(workspace, opened.id).plan.items} == {i.id: i for i in opened.plan.items}


def test_a_stable_reading_is_taken_and_an_unstable_one_refused(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    item = next(item for item in opened.plan.items if not item.weighed)
    put = client.post(do(opened, "scale", "put"), data=sent(opened, item=item.id, count="1", quiet="yes"))
    assert put.status_code == 204
    early = client.post(do(opened, "scale", "take"), data=sent(opened, item=item.id, count="1"), headers=HTMX)
    assert early.status_code == 422 and "Nothing was taken" in early.text
    weighing.scale_of(opened.id)._changed -= 30.0  # half a minute later
    shown = json.loads(client.get(do(opened, "scale")).text)
    assert shown["state"] == "stable"
    assert client.post(do(opened, "scale", "take"), data=sent(opened, item=item.id, count="1")).status_code == 303
    now = item_named(open_plan(workspace, opened.id).plan, item.id)
    assert now.weighed and now.mass * 1e3 == pytest.approx(shown["mass_g"], abs=0.2)


@pytest.mark.parametrize(
    ("fields", "sentence"),
    [
        ({"typed": "heavy"}, "is not a number"),
        ({"typed": "90 kg"}, "Is the right thing on the scale"),
        ({"typed": "12", "count": "many"}, "is no count"),
    ],
)
def test_a_mass_typed_wrongly_is_said(
    client: TestClient, opened: OpenPlan, fields: dict[str, str], sentence: str
) -> None:
    answer = client.post(do(opened, "scale", "take"), data=sent(opened, item="spoon", **fields), headers=HTMX)
    assert 400 <= answer.status_code < 500 and sentence in answer.text


def test_wheels_swapped_or_in_pounds_are_doubted(client: TestClient, opened: OpenPlan) -> None:
    fields = sent(opened, what="bare", front_kg="9", rear_kg="2")
    answer = client.post(do(opened, "wheels"), data=fields, headers=HTMX)
    assert answer.status_code == 422 and "Are the two swapped" in answer.text
    good = client.post(do(opened, "wheels"), data={**fields, "front_kg": "4,9", "rear_kg": "5.5"}, headers=HTMX)
    assert good.status_code == 200 and "agrees" in good.text


def test_a_packed_bag_is_held_against_its_sum(client: TestClient, opened: OpenPlan) -> None:
    empty = client.post(do(opened, "scale", "bag"), data=sent(opened, bag="tool"), headers=HTMX)
    assert empty.status_code == 422 and "not on the scale yet" in empty.text
    answer = client.post(do(opened, "scale", "bag"), data=sent(opened, bag="tool", typed="2000"), headers=HTMX)
    assert answer.status_code == 200 and "more than the sum" in answer.text


def test_a_cut_is_left_at_home_from_the_list(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    page = client.get(kit(opened, "tab=cut")).text
    assert "Compulsory kit, medicine and the light you need are not offered" in page
    first = re.search(r'name="item" value="([^"]+)"', page)
    assert first is not None
    fields = sent(opened, item=first[1], place="home", room="kit", tab="cut")
    after = client.post(do(opened, "move"), data=fields, headers=HTMX)
    assert 'data-kit="cut"' in after.text
    assert open_plan(workspace, opened.id).plan.variants[0].places[first[1]] == "home"


def test_a_job_can_be_done_without_and_wanted_again(client: TestClient, opened: OpenPlan) -> None:
    without = client.post(do(opened, "job-off"), data=sent(opened, job="shelter"), headers=HTMX)
    assert "Want again: keep rain and dew off asleep" in without.text and "jobs that nothing does" not in without.text
    assert "Being warm enough is no job" in without.text and f"/plans/{opened.id}/a/night" in without.text
    again = client.post(
        do(opened, "job-off"), data={"revision": opened.revision + 1, "leg": 0, "job": "shelter"}, headers=HTMX
    )
    assert "Want again: keep rain and dew off asleep" not in again.text
    assert client.post(do(opened, "job-off"), data=sent(opened, job="flying")).status_code == 404


def test_the_countdown_is_ticked_and_printed(client: TestClient, opened: OpenPlan) -> None:
    ticked = client.post(do(opened, "tick"), data=sent(opened, task="fit"), headers=HTMX)
    assert "1 of" in ticked.text and 'aria-pressed="true"' in ticked.text
    printed = client.get(do(opened, "countdown.pdf"))
    text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(printed.content)).pages)
    assert "Tape under straps" in text and "Charge everything" in text


def test_a_way_that_ends_before_it_begins_is_refused(client: TestClient, opened: OpenPlan) -> None:
    wrong = sent(opened, joins="mirrel", posts="tazzle")
    answer = client.post(do(opened, "items", "spoon", "way"), data=wrong, headers=HTMX)
    assert answer.status_code == 422 and "Choose a later stop" in answer.text
    right = client.post(do(opened, "items", "spoon", "way"), data=sent(opened, joins="tazzle", posts=""), headers=HTMX)
    assert "from the drop box at Tazzle" in right.text


def test_what_is_inside_a_pouch_is_moved_with_it(client: TestClient, opened: OpenPlan) -> None:
    answer = client.post(do(opened, "move"), data=sent(opened, item="wet-wipes", place="seat"), headers=HTMX)
    assert answer.status_code == 422 and "is inside wash pouch" in answer.text


@pytest.mark.parametrize("name", ["By mass", "New", "Tab", "Weigh", "All"])
def test_a_thing_may_be_called_anything(client: TestClient, workspace: Workspace, opened: OpenPlan, name: str) -> None:
    fields = sent(opened, name=name, category="tools", mass_g="40", sure="yes")
    assert client.post(do(opened, "items", "-"), data=fields).status_code == 303
    key = name.lower().replace(" ", "-")
    page = client.get(kit(opened, f"open={key}")).text
    assert f'value="{name}"' in page
    changed = sent(opened, name=f"{name} two", category="tools", mass_g="41", sure="yes")
    changed["revision"] = page.partition('data-revision="')[2].partition('"')[0]
    assert client.post(do(opened, "items", key), data=changed).status_code == 303
    names = [item.name for item in open_plan(workspace, opened.id).plan.items]
    assert f"{name} two" in names and name not in names


@pytest.mark.parametrize("as_file_form", [False, True], ids=["plain form", "form with a file field"])
def test_a_paste_of_two_megabytes_is_looked_over(client: TestClient, opened: OpenPlan, as_file_form: bool) -> None:
    rows = "".join(f"thing {k}\t{k % 900 + 1}\t{'a long note, ' * 30}\n" for k in range(4_800))
    pasted = "name\tmass g\tnote\n" + rows
    assert 1_900_000 < len(pasted) < 2_000_000
    data = sent(opened, pasted=pasted)
    more = {"files": {"file": ("", b"")}} if as_file_form else {}
    staged = client.post(do(opened, "kit"), data=data, **more)
    assert staged.status_code == 303, staged.text[:500]
    assert client.get(staged.headers["location"]).status_code == 200


def test_things_are_found_by_words_and_by_what_is_not_known(client: TestClient, opened: OpenPlan) -> None:
    page = client.get(kit(opened, "find=light&show=outside")).text
    shown = re.findall(r'name="item" value="([^"]+)"', page)
    assert set(shown) == {"front-light", "rear-light"}
    assert "not shown" in page
    for show in ("unknown", "unweighed", "unplaced", "home", "bag:seat", "section:sleep", "nonsense"):
        answer = client.get(kit(opened, f"show={show}"))
        assert answer.status_code == 200
    assert "Nothing of the kit is so" in " ".join(client.get(kit(opened, "find=zeppelin")).text.split())


def test_what_is_ticked_changes_and_the_look_stays(client: TestClient, workspace: Workspace, opened: OpenPlan) -> None:
    fields = sent(opened, what="need", show="section:sleep", find="bag") | {"to-need": "must"}
    answer = client.post(do(opened, "many"), data={**fields, "item": ["bivvy-bag", "spoon"]}, headers=HTMX)
    assert answer.status_code == 200 and 'value="section:sleep" selected' in answer.text
    needs = {i.id: i.need for i in open_plan(workspace, opened.id).plan.items}
    assert needs["bivvy-bag"] == needs["spoon"] == "must"
    none = client.post(do(opened, "many"), data=sent(opened, what="need"), headers=HTMX)
    assert none.status_code in (409, 422)


def test_what_a_table_names_is_asked_chosen_and_put_in_its_bag(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    data = b"item,bag,g\nRegenjacke,saddle bag,210\nhelmet lamp,on helmet,110\nspork,hip pack,12\n"
    staged = client.post(do(opened, "kit"), data=sent(opened), files={"file": ("list.csv", data)})
    page = " ".join(client.get(staged.headers["location"]).text.split())
    assert "What are these?" in page and "make it: waist pack" in page and "on the helmet, else packed" in page
    upload = re.search(r"open=([0-9a-f-]{36})", staged.headers["location"])
    assert upload is not None
    fields = sent(
        opened, take="yes", header_row="1", **{
            "field-0": "name", "unit-0": "", "field-1": "place", "unit-1": "", "field-2": "mass_g", "unit-2": "g",
            "kind-2": "-", "other-2": "rain jacket", "words-0": "saddle bag", "bag-0": "seat",
            "words-1": "on helmet", "bag-1": "", "words-2": "hip pack", "bag-2": "make",
        },
    )  # fmt: skip
    assert client.post(do(opened, "kit", upload[1]), data=fields).status_code in (200, 303)
    plan = open_plan(workspace, opened.id).plan
    jacket, spork = (next(i for i in plan.items if i.name == name) for name in ("Regenjacke", "spork"))
    variant = plan.variants[0]
    assert jacket.kind == "rain_jacket" and variant.places[jacket.id] == "seat"
    made = next(c for c in variant.carriers if c.id == variant.places[spork.id])
    assert made.place == "waist" and made.mounted


def test_rows_of_a_table_are_said_to_be_something_together(client: TestClient, opened: OpenPlan) -> None:
    data = b"item,g\nRegenjacke,210\nWindjacke,90\nspork,12\n"
    staged = client.post(do(opened, "kit"), data=sent(opened), files={"file": ("list.csv", data)})
    upload = re.search(r"open=([0-9a-f-]{36})", staged.headers["location"])
    assert upload is not None
    columns = {"header_row": "1", "field-0": "name", "unit-0": "", "field-1": "mass_g", "unit-1": "g"}
    said = {**sent(opened, take="kind"), **columns, "kind-2": "-", "kind-3": "-", "kind-of-ticked": "wind jacket"}
    answer = client.post(do(opened, "kit", upload[1]), data={**said, "row": ["2", "3", "4"]}, headers=HTMX)
    page = " ".join(answer.text.split())
    assert answer.status_code == 200 and page.count("<td>wind jacket") == 3
    # what was said comes back with the page, in its own row
    assert 'name="other-2" list="all-kinds" value="wind jacket"' in page
    assert '<input type="hidden" name="kind-4" value="wind_jacket">' in page
    nothing = client.post(do(opened, "kit", upload[1]), data=said, headers=HTMX)
    assert nothing.status_code in (409, 422) and "No row is ticked" in nothing.text
    strange = {**said, "row": ["2"], "kind-of-ticked": "zeppelin"}
    assert "no kind of thing" in client.post(do(opened, "kit", upload[1]), data=strange, headers=HTMX).text


def test_another_kind_changes_what_was_not_set_by_hand(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    item = next(i for i in opened.plan.items if i.id == "chain-lube")
    values = ItemForm.values(item, opened.plan.items)
    shown = {key: "" if value is None else "yes" if value is True else str(value) for key, value in values.items()
             if value is not False}  # fmt: skip
    fields = sent(opened, **{**shown, "kind": "rain jacket", "access": "riding"})
    assert client.post(do(opened, "items", "chain-lube"), data=fields).status_code == 303
    new = next(i for i in open_plan(workspace, opened.id).plan.items if i.id == "chain-lube")
    assert new.kind == "rain_jacket" and new.roles == {"rain_top", "wind"} and not new.leaks
    assert new.access == "riding" and new.mass == item.mass
    wrong = client.post(do(opened, "items", "spoon"), data=sent(opened, name="spoon", mass_g="11", kind="rain jaket"))
    assert wrong.status_code == 422 and "Did you mean" in wrong.text


def test_a_table_goes_out_again_in_its_own_columns(client: TestClient, opened: OpenPlan) -> None:
    assert client.get(do(opened, "kit-own.csv")).status_code == 404
    data = b"Gear,Where,Weight g,Price paid\nhelmet,,270,90\nrain jacket,saddle bag,210,180\n"
    staged = client.post(do(opened, "kit"), data=sent(opened), files={"file": ("list.csv", data)})
    upload = re.search(r"open=([0-9a-f-]{36})", staged.headers["location"])
    assert upload is not None
    fields = sent(
        opened, take="yes", replace_kit="yes", header_row="1", **{
            "field-0": "name", "unit-0": "", "field-1": "place", "unit-1": "", "field-2": "mass_g", "unit-2": "g",
            "field-3": "", "unit-3": "",
        },
    )  # fmt: skip
    client.post(do(opened, "kit", upload[1]), data=fields)
    text = client.get(do(opened, "kit-own.csv")).text
    assert text.splitlines() == [
        "Gear,Where,Weight g,Price paid", "helmet,worn,270,90", "rain jacket,seat pack,210,180",
    ]  # fmt: skip
    assert client.get(do(opened, "kit-own.xlsx")).content[:2] == b"PK"
    assert "My columns, CSV" in client.get(kit(opened, "tab=bring")).text


def test_a_pair_shares_and_hands_over_through_the_pages(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    other = duplicate_plan(workspace, opened.id)
    answer = client.post(do(opened, "pair"), data=sent(opened, partner=str(other)), headers=HTMX)
    assert answer.status_code == 200 and "carries it" in answer.text
    fields = {"revision": opened.revision + 1, "leg": 0, "item": "mini-pump"}
    shared = client.post(do(opened, "pair", "share"), data={**fields, "to": "yes"}, headers=HTMX)
    assert "For me alone: mini pump" in shared.text
    handed = client.post(do(opened, "pair", "hand"), data={**fields, "revision": opened.revision + 2}, headers=HTMX)
    assert handed.status_code == 200 and "For me alone: mini pump" not in handed.text
    assert sum(item.name == "mini pump" for item in open_plan(workspace, other).plan.items) == 2
    assert client.post(do(opened, "pair"), data=sent(opened, partner="ghost")).status_code in (404, 409)


def test_of_a_new_thing_an_empty_box_says_nothing_and_a_shared_one_stays_shared(
    client: TestClient, workspace: Workspace, opened: OpenPlan
) -> None:
    client.post(do(opened, "items", "-"), data=sent(opened, name="sunscreen tube", mass_g="50"))
    plan = open_plan(workspace, opened.id).plan
    cream = next(item for item in plan.items if item.name == "sunscreen tube")
    assert cream.kind == "sun_cream" and cream.leaks
    values = ItemForm.values(replace(cream, shared=True), plan.items)
    shown = {key: "yes" if value is True else str(value) for key, value in values.items() if value not in (None, False)}
    form = bind(ItemForm, {**shown, "leaks": ""})
    assert form.value is not None
    kept = form.value.to_core(cream.id, plan.items)
    assert kept.shared and not kept.leaks  # a box that was ticked and is empty now says no


def test_no_job_can_be_said_of_a_thing_that_usually_has_one() -> None:
    item = told_item({"name": "rain jacket", "mass_g": 210.0}, "x").core()
    bare = replace(item, roles=frozenset(), reaches=replace(item.reaches, rain=0.0))
    values = ItemForm.values(bare, (bare,))
    assert values["roles"] == "none" and values["reaches_rain"] == 0.0
    assert ItemForm.values(item, (item,))["reaches_cold"] is None
