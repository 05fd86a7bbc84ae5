"""Bringing a table in: looked over, taken, rows put aside, names that are there already."""

import csv
import io
from uuid import uuid4

import pytest

from stonechat.core.kit.item import Item
from stonechat.errors import InvalidInput, NotFound, TooLarge, UnreadableFile
from stonechat.services.history import OpenPlan, Revision, undo
from stonechat.services.kit import bring, shelf
from stonechat.services.kit.bring import Choices
from stonechat.services.kit.things import drop_item, take_from_shelf
from stonechat.services.load.moving import move_items
from stonechat.services.variant import item_named
from stonechat.services.workspace import Workspace

MESSY = b"""Thing;Section;Weight g;Qty
lamp holder;light;85,5;1
spoon;misc;12;1
;light;30;1
tent pole;shelter;heavy;1
toothbrush;hygiene;34000;1
"""


def staged(workspace: Workspace, opened: OpenPlan, data: bytes = MESSY, choices: Choices | None = None):  # type: ignore[no-untyped-def]
    upload = bring.stage_table(workspace, "list", data)
    return upload, bring.look_over(workspace, opened, "a", upload, choices or Choices())


def test_a_look_changes_nothing_and_says_what_would_come(workspace: Workspace, opened: OpenPlan) -> None:
    _, look = staged(workspace, opened)
    assert look.table is not None and [item.name for item in look.table.items] == ["lamp holder", "spoon"]
    assert look.known == ("spoon",) and len(look.table.aside) == 3
    assert look.table.aside[2].sentence.startswith("Row 6")


def test_what_is_taken_comes_in_and_the_rest_waits_aside(workspace: Workspace, opened: OpenPlan) -> None:
    upload, _ = staged(workspace, opened)
    brought = bring.bring_in(workspace, opened, "a", upload, Choices(), revision=opened.revision)
    assert (brought.added, brought.updated, brought.skipped, brought.aside) == (1, 1, 0, 3)
    spoon = item_named(brought.opened.plan, "spoon")
    assert spoon.mass == 0.012 and brought.opened.plan.variants[0].places["spoon"] == "seat"
    rows = list(csv.reader(io.StringIO(bring.table_bytes(workspace, upload).decode())))
    assert rows[0] == ["Thing", "Section", "Weight g", "Qty", "why_aside"] and len(rows) == 4
    assert rows[2][:3] == ["tent pole", "shelter", "heavy"] and "not a number" in rows[2][4]
    # the rows put aside can be mended and brought in by themselves
    again = bring.look_over(workspace, brought.opened, "a", upload, Choices())
    assert again.table is not None and again.table.items == () and len(again.table.aside) == 3
    assert undo(workspace, opened.id, revision=brought.opened.revision).plan == opened.plan


@pytest.mark.parametrize(("same_name", "mass", "count"), [("update", 0.012, 1), ("add", 0.011, 2), ("skip", 0.011, 1)])
def test_a_name_that_is_there_is_updated_added_or_left_out(
    workspace: Workspace, opened: OpenPlan, same_name: str, mass: float, count: int
) -> None:
    upload, _ = staged(workspace, opened)
    choices = Choices(same_name=same_name)
    plan = bring.bring_in(workspace, opened, "a", upload, choices, revision=opened.revision).opened.plan
    assert item_named(plan, "spoon").mass == mass
    assert sum(item.name == "spoon" for item in plan.items) == count


def test_columns_may_be_chosen_otherwise(workspace: Workspace, opened: OpenPlan) -> None:
    columns = (("name", ""), ("", ""), ("mass_g", "oz"), ("quantity", ""))
    _, look = staged(workspace, opened, choices=Choices(columns=columns))
    assert look.table is not None
    # 85.5 oz is much for the bracket of a lamp, 12 oz for a spoon: both are asked about
    masses = [item.mass for _, item, _ in look.table.doubtful] + [item.mass for item in look.table.items]
    assert max(masses) == pytest.approx(85.5 * 0.028349523125)
    _, none = staged(workspace, opened, choices=Choices(columns=(("", ""), *columns[1:])))
    assert none.table is None and "No column is the name" in none.fault
    with pytest.raises(InvalidInput, match="No column is the name"):
        upload, _ = staged(workspace, opened)
        bring.bring_in(
            workspace, opened, "a", upload, Choices(columns=(("", ""), *columns[1:])), revision=opened.revision
        )


def test_what_is_hard_to_believe_comes_only_when_ticked(workspace: Workspace, opened: OpenPlan) -> None:
    data = b"name,kind,g\ntoothbrush,hygiene,3400\nlamp holder,light,90\n"
    upload, look = staged(workspace, opened, data)
    assert look.table is not None and [number for number, _, _ in look.table.doubtful] == [2]
    kept = bring.bring_in(workspace, opened, "a", upload, Choices(doubtful=frozenset({2})), revision=opened.revision)
    assert kept.added == 2 and kept.aside == 0
    with pytest.raises(NotFound, match="not kept any more"):
        bring.table_bytes(workspace, upload)


def test_replacing_the_kit_keeps_no_thing_and_no_place_of_the_old(workspace: Workspace, opened: OpenPlan) -> None:
    upload, _ = staged(workspace, opened)
    plan = bring.bring_in(
        workspace, opened, "a", upload, Choices(replace_kit=True), revision=opened.revision
    ).opened.plan
    assert {item.name for item in plan.items} == {"lamp holder", "spoon"}
    ids = {item.id for item in plan.items}
    assert all(set(variant.places) <= ids and variant.pins <= ids for variant in plan.variants)


@pytest.mark.parametrize(
    ("data", "error"), [(b"", UnreadableFile), (b"x" * 4_100_000, TooLarge), (b"PK\x03\x04junk", UnreadableFile)]
)
def test_what_is_no_table_is_not_kept(
    workspace: Workspace, opened: OpenPlan, data: bytes, error: type[Exception]
) -> None:
    with pytest.raises(error):
        bring.stage_table(workspace, "list", data)
    with pytest.raises(NotFound):
        bring.look_over(workspace, opened, "a", uuid4(), Choices())


def test_a_table_of_nothing_but_bad_rows_changes_nothing(workspace: Workspace, opened: OpenPlan) -> None:
    upload, _ = staged(workspace, opened, b"name,g\n,1\nlamp,heavy\n")
    with pytest.raises(InvalidInput, match="No row of this table"):
        bring.bring_in(workspace, opened, "a", upload, Choices(), revision=opened.revision)


def test_a_thing_taken_out_of_the_kit_stays_on_the_shelf_and_comes_back(workspace: Workspace, opened: OpenPlan) -> None:
    out = drop_item(workspace, opened, revision=opened.revision, item="spoon")
    spoon = shelf.shelf_item(workspace, "spoon", demo=True)
    back = take_from_shelf(workspace, out, revision=out.revision, item=spoon)
    assert item_named(back.plan, "spoon") == item_named(opened.plan, "spoon")
    with pytest.raises(InvalidInput, match="in this kit already"):
        take_from_shelf(workspace, back, revision=back.revision, item=spoon)
    shelf.drop_from_shelf(workspace, "spoon", demo=True)
    with pytest.raises(NotFound):
        shelf.shelf_item(workspace, "spoon", demo=True)


def test_two_thousand_rows_come_in_whole(workspace: Workspace, opened: OpenPlan) -> None:
    rows = "\n".join(f"thing {n};{10 + n % 400};{1 + n % 3}" for n in range(2_000))
    upload, look = staged(workspace, opened, f"name;g;qty\n{rows}\n".encode())
    assert look.table is not None and len(look.table.items) == 2_000 and isinstance(look.table.items[0], Item)
    brought = bring.bring_in(workspace, opened, "a", upload, Choices(), revision=opened.revision)
    assert brought.added == 2_000


SHEET = b"""item,bag,g
Saddle bag 12 l,,333
Feed bags x2,,180
Hip pack,,140
helmet,,270
rain jacket,saddle bag,210
tent,top tube,1400
phone,on me,190
spork,glove box,9
"""


def test_bags_of_a_table_become_carriers_and_things_go_into_them(workspace: Workspace, opened: OpenPlan) -> None:
    upload, look = staged(workspace, opened, SHEET)
    assert [(bag.item.name, bag.carrier, bag.make_name) for bag in look.listed] == [
        ("Saddle bag 12 l", "seat pack", ""),
        ("Feed bags", "stem bag, left", ""),
        ("Hip pack", "", "waist pack"),
    ]
    choices = {bag.words: bag.choice for bag in look.bags}
    assert choices == {"saddle bag": "seat", "top tube": "top-front", "on me": "jersey", "glove box": ""}
    brought = bring.bring_in(workspace, opened, "a", upload, Choices(), revision=opened.revision)
    variant = brought.opened.plan.variants[0]
    masses = {carrier.id: carrier.mass for carrier in variant.carriers}
    assert masses["seat"] == 0.333 and masses["stem-left"] == masses["stem-right"] == 0.09
    (waist,) = (carrier for carrier in variant.carriers if carrier.place == "waist")
    assert waist.mass == 0.14 and brought.opened.plan.variants[1].carriers == opened.plan.variants[1].carriers
    by_name = {item.name: item for item in brought.opened.plan.items}
    assert variant.places[by_name["rain jacket"].id] == "seat" and variant.places[by_name["phone"].id] == "jersey"
    # a tent goes into no top-tube bag: it is said, and waits without a place
    assert brought.refused and brought.refused[0].startswith("tent (top-tube bag, front: too")
    assert by_name["tent"].id not in variant.places and by_name["spork"].id not in variant.places
    assert not {"Saddle bag 12 l", "Feed bags", "Hip pack"} & set(by_name) and by_name["helmet"].worn
    assert undo(workspace, opened.id, revision=brought.opened.revision).plan == opened.plan


def test_a_bag_may_be_chosen_otherwise_or_made(workspace: Workspace, opened: OpenPlan) -> None:
    chosen = Choices(bags=(("saddle bag", "frame"), ("top tube", ""), ("on me", "make"), ("glove box", "ghost")))
    upload, _ = staged(workspace, opened, SHEET)
    variant = bring.bring_in(workspace, opened, "a", upload, chosen, revision=opened.revision).opened.plan.variants[0]
    assert variant.places["rain-jacket"] == "frame"
    assert "ghost" not in variant.places.values()


def test_a_bag_that_stands_among_the_things_is_made_once(workspace: Workspace, opened: OpenPlan) -> None:
    data = b"item,bag,g\nHip pack,,140\nlip balm,hip pack,10\nsnack,hip pack,60\n"
    upload, look = staged(workspace, opened, data)
    chosen = Choices(bags=tuple((bag.words, bag.choice) for bag in look.bags))
    assert chosen.bags == (("hip pack", "make"),)  # as the page sends it
    for choices in (chosen, Choices()):
        brought = bring.bring_in(workspace, opened, "a", upload, choices, revision=opened.revision)
        variant = brought.opened.plan.variants[0]
        (waist,) = (carrier for carrier in variant.carriers if carrier.place == "waist")
        balm = item_named(brought.opened.plan, "lip-balm")
        assert waist.mass == 0.14 and variant.places[balm.id] == waist.id
        opened = undo(workspace, opened.id, revision=brought.opened.revision)
        upload, _ = staged(workspace, opened, data)


def test_what_was_changed_meanwhile_by_the_same_page_is_not_lost(workspace: Workspace, opened: OpenPlan) -> None:
    page = Revision(opened.revision, "one page")
    moved = move_items(workspace, opened, "a", revision=page, places={"spoon": "frame"})
    upload, _ = staged(workspace, opened, b"item,g\nSaddle bag,333\nlip balm,10\n")
    # the page still tells the revision it was made from, and what it has seen is older than what is there
    brought = bring.bring_in(workspace, opened, "a", upload, Choices(), revision=page)
    variant = brought.opened.plan.variants[0]
    assert moved.plan.variants[0].places["spoon"] == variant.places["spoon"] == "frame"
    assert next(c.mass for c in variant.carriers if c.id == "seat") == 0.333
