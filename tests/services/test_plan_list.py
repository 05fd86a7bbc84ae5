"""Plans and variants: named, copied, deleted, brought back; a shelf that holds each thing once."""

from dataclasses import replace

import pytest

from stonechat.core.kit.item import Item
from stonechat.core.plan.beginning import Spoken
from stonechat.core.plan.plan import Plan
from stonechat.errors import Clash, InvalidInput, NotFound
from stonechat.formats.plan_json import write_plan
from stonechat.services import exchange, plans
from stonechat.services import variant as variant_service
from stonechat.services.history import OpenPlan, Revision, change_plan, open_plan, undo
from stonechat.services.kit import shelf, things
from stonechat.services.workspace import Workspace
from tests.formats.test_gpx import course

SPOON = Item(id="spoon", name="Spoon", mass=0.011, volume=1e-5)


def own_plan(workspace: Workspace, *items: Item, points: int = 200) -> OpenPlan:
    """Return a plan over a course of its own with a few things."""
    made = exchange.import_file(workspace, course(points), spoken=Spoken(items=items))
    return open_plan(workspace, made.plan_id)


def test_a_plan_is_renamed_copied_deleted_and_brought_back(workspace: Workspace) -> None:
    opened = own_plan(workspace)
    named = plans.rename_plan(workspace, opened.id, revision=opened.revision, name="  My   race ")
    assert named.plan.name == "My race" and undo(workspace, opened.id, revision=named.revision).plan.name != "My race"
    copy = open_plan(workspace, plans.duplicate_plan(workspace, opened.id))
    assert copy.plan.name == "North line, copy" and copy.plan.line == open_plan(workspace, opened.id).plan.line
    assert copy.undo_label is None
    plans.delete_plan(workspace, opened.id)
    assert [head.id for head in plans.list_plans(workspace)] == [copy.id]
    with pytest.raises(NotFound, match="was deleted"):
        open_plan(workspace, opened.id)
    assert [head.id for head in plans.deleted_plans(workspace)] == [opened.id]
    plans.restore_plan(workspace, opened.id)
    assert open_plan(workspace, opened.id).redo_label  # with its history
    with pytest.raises(InvalidInput, match="no name"):
        plans.rename_plan(workspace, copy.id, revision=copy.revision, name=" ")


def test_variants_are_added_copied_renamed_and_deleted(workspace: Workspace, opened: OpenPlan) -> None:
    copied, copy_id = plans.add_variant(workspace, opened, "a", revision=opened.revision, name="", empty=False)
    assert copied.plan.variant(copy_id).name == "A steady, copy"
    assert replace(copied.plan.variant(copy_id), id="a", name="A steady") == opened.plan.variant("a")
    bare, bare_id = plans.add_variant(workspace, copied, "b", revision=copied.revision, name="Rooms", empty=True)
    made = bare.plan.variant(bare_id)
    assert made.places == {} and made.bike == opened.plan.variant("b").bike
    with pytest.raises(InvalidInput, match="Rooms already"):
        plans.rename_variant(workspace, bare, "a", revision=bare.revision, name="Rooms")
    gone = plans.delete_variant(workspace, bare, "a", revision=bare.revision)
    assert "a" not in {variant.id for variant in gone.plan.variants}
    assert undo(workspace, gone.id, revision=gone.revision).plan == bare.plan


def test_the_last_variant_stays(workspace: Workspace) -> None:
    opened = own_plan(workspace)
    with pytest.raises(InvalidInput, match="only variant"):
        plans.delete_variant(workspace, opened, "a", revision=opened.revision)


def test_a_thing_of_two_plans_lies_on_the_shelf_once_and_what_differs_in_mass_twice(workspace: Workspace) -> None:
    own_plan(workspace, SPOON)
    other = own_plan(workspace, replace(SPOON, id="my-spoon", name="spoon "), points=210)
    assert [item.name for item in shelf.shelf_items(workspace)] == ["Spoon"]
    heavy = own_plan(workspace, replace(SPOON, mass=0.025), points=220)
    assert [round(1000 * item.mass) for item in shelf.shelf_items(workspace)] == [11, 25]
    # weighed in one plan, it is the same thing on the shelf, not a third one
    thing = heavy.plan.items[0]
    things.set_item(workspace, heavy.id, revision=heavy.revision, item=replace(thing, mass=0.027, weighed=True))
    assert [round(1000 * item.mass) for item in shelf.shelf_items(workspace)] == [11, 27]
    with pytest.raises(InvalidInput, match="in this kit already"):
        found = next(item for item in shelf.shelf_items(workspace) if item.mass < 0.02)
        things.take_from_shelf(workspace, other, revision=other.revision, item=found)


def test_what_the_demo_carries_never_lies_on_the_riders_shelf(workspace: Workspace, opened: OpenPlan) -> None:
    assert shelf.shelf_items(workspace) == () and len(shelf.shelf_items(workspace, demo=True)) > 80
    phone = variant_service.item_named(opened.plan, "phone")
    things.set_item(workspace, opened.id, revision=opened.revision, item=replace(phone, mass=0.2))
    assert shelf.shelf_items(workspace) == ()
    assert shelf.shelf_item(workspace, "phone", demo=True).mass == 0.2


def test_changes_of_one_page_in_quick_succession_are_all_taken(workspace: Workspace) -> None:
    opened = own_plan(workspace)

    def rename(revision: int, name: str) -> OpenPlan:
        return change_plan(
            workspace, opened.id, revision=revision, label=name, change=lambda plan: replace(plan, name=name)
        )

    seen = opened.revision
    rename(Revision(seen, "page-1"), "one")
    last = rename(Revision(seen, "page-1"), "two")  # sent before the answer to the first one came
    assert last.plan.name == "two" and last.revision == seen + 2
    with pytest.raises(Clash, match="another tab"):
        rename(Revision(seen, "page-2"), "three")
    taken = rename(Revision(last.revision, "page-2"), "three")
    with pytest.raises(Clash, match="another tab"):  # the first page has not seen that
        rename(Revision(last.revision, "page-1"), "four")
    with pytest.raises(Clash, match="another tab"):
        rename(seen, "five")  # nobody says which page this is
    assert rename(Revision(taken.revision, "page-1"), "six").plan.name == "six"


def test_somebody_elses_things_stay_off_the_shelf_until_they_are_taken(workspace: Workspace, demo: Plan) -> None:
    file = write_plan(demo)
    imported = exchange.import_file(workspace, file)
    assert shelf.shelf_items(workspace) == () and "stay off your shelf" in imported.note
    opened = open_plan(workspace, imported.plan_id)
    light = replace(demo.items[0], mass=0.5 * demo.items[0].mass)
    things.set_item(workspace, opened.id, revision=opened.revision, item=light)  # what one changes is one's own
    assert [item.name for item in shelf.shelf_items(workspace)] == [light.name]
    plan = open_plan(workspace, imported.plan_id).plan
    came = shelf.take_onto_shelf(workspace, plan.items)
    assert came == len({shelf.mark_of(item) for item in plan.items}) - 1
    assert shelf.take_onto_shelf(workspace, plan.items) == 0


def test_ones_own_exported_plan_brings_its_things(workspace: Workspace, demo: Plan) -> None:
    exchange.import_file(workspace, write_plan(demo), mine=True)
    assert len(shelf.shelf_items(workspace)) == len({shelf.mark_of(item) for item in demo.items})


def test_a_full_shelf_does_not_stand_in_the_way(
    workspace: Workspace, demo: Plan, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(shelf, "MOST_ON_SHELF", 10)
    imported = exchange.import_file(workspace, write_plan(demo), mine=True)
    assert len(shelf.shelf_items(workspace)) == 10
    assert len(open_plan(workspace, imported.plan_id).plan.items) == len(demo.items)
