"""Many things at once: one step for all, refused whole, taken back by one undo."""

from dataclasses import replace

import pytest

from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.history import OpenPlan, undo
from stonechat.services.kit.many import ACTIONS, change_each, change_many, choices, ticked_items
from stonechat.services.variant import item_named
from stonechat.services.workspace import Workspace
from stonechat.web.forms.kit import ItemForm

SOME = ("spoon", "chain-lube", "phone")


def set_many(workspace: Workspace, opened: OpenPlan, what: str, to: str, items: tuple[str, ...] = SOME) -> OpenPlan:
    return change_many(workspace, opened, "a", revision=opened.revision, items=items, what=what, to=to)


def things(opened: OpenPlan, items: tuple[str, ...] = SOME) -> list[Item]:
    return [item_named(opened.plan, item) for item in items]


@pytest.mark.parametrize(
    ("what", "to", "field", "value"),
    [
        ("category", "other", "category", "other"),
        ("need", "maybe", "need", "maybe"),
        ("access", "riding", "access", "riding"),
        ("keep_dry", "yes", "keep_dry", True),
        ("weighed", "no", "weighed", False),
        ("group", "kitchen", "group", "kitchen"),
        ("goes", "worn", "worn", True),
        ("goes", "bars", "fixed", "bars"),
    ],
)
def test_all_that_are_ticked_change_and_one_undo_takes_it_back(
    workspace: Workspace, opened: OpenPlan, what: str, to: str, field: str, value: object
) -> None:
    after = set_many(workspace, opened, what, to)
    assert [getattr(item, field) for item in things(after)] == [value] * 3
    others = {i.id: i for i in opened.plan.items if i.id not in SOME}
    assert {i.id: i for i in after.plan.items if i.id not in SOME} == others
    assert undo(workspace, opened.id, revision=after.revision).plan == opened.plan


def test_another_kind_brings_what_is_usual_of_it_and_leaves_what_is_measured(
    workspace: Workspace, opened: OpenPlan
) -> None:
    before = item_named(opened.plan, "chain-lube")
    (item,) = things(set_many(workspace, opened, "kind", "Rain jacket", ("chain-lube",)), ("chain-lube",))
    assert item.kind == "rain_jacket" and item.roles == KINDS["rain_jacket"].jobs and not item.leaks
    kept = ("name", "mass", "volume", "content", "left", "weighed", "group", "record", "note")
    assert [getattr(item, field) for field in kept] == [getattr(before, field) for field in kept]
    (none,) = things(set_many_again(workspace, opened), ("chain-lube",))
    assert none.kind == "" and none.roles == set()


def set_many_again(workspace: Workspace, opened: OpenPlan) -> OpenPlan:
    return change_many(
        workspace, opened, "a", revision=opened.revision + 1, items=("chain-lube",), what="kind", to="none"
    )


def test_what_is_worn_has_no_place_any_more_and_can_be_put_nowhere(workspace: Workspace, opened: OpenPlan) -> None:
    worn = set_many(workspace, opened, "goes", "worn")
    assert not set(SOME) & set(worn.plan.variants[0].places)
    with pytest.raises(InvalidInput, match="wants no bag"):
        set_many(workspace, worn, "place", "seat")
    back = set_many(workspace, set_many(workspace, worn, "goes", "packed"), "place", "seat", ("spoon", "phone"))
    assert back.plan.variants[0].places["spoon"] == back.plan.variants[0].places["phone"] == "seat"


def test_pins_and_taking_out(workspace: Workspace, opened: OpenPlan) -> None:
    pinned = set_many(workspace, opened, "pin", "yes")
    assert set(SOME) <= pinned.plan.variants[0].pins and not set(SOME) & pinned.plan.variants[1].pins
    gone = set_many(workspace, pinned, "drop", "")
    assert not {i.id for i in gone.plan.items} & set(SOME) and not set(SOME) & gone.plan.variants[0].pins
    assert len(gone.plan.items) == len(opened.plan.items) - 3


@pytest.mark.parametrize(
    ("what", "to", "items", "why"),
    [
        ("kind", "flying carpet", SOME, "not one of the choices"),
        ("need", "perhaps", SOME, "not one of the choices"),
        ("goes", "nose", SOME, "is no spot"),
        ("colour", "red", SOME, "Choose what to set"),
        ("need", "must", (), "No thing is ticked"),
    ],
)
def test_what_cannot_be_is_refused_whole(
    workspace: Workspace, opened: OpenPlan, what: str, to: str, items: tuple[str, ...], why: str
) -> None:
    with pytest.raises(InvalidInput, match=why):
        set_many(workspace, opened, what, to, items)
    with pytest.raises(NotFound):
        set_many(workspace, opened, "need", "must", (*SOME, "ghost"))


def test_every_choice_that_is_offered_is_taken(workspace: Workspace, opened: OpenPlan) -> None:
    offered = choices(opened.plan.variants[0])
    assert set(offered) < set(ACTIONS)
    for what in ("category", "need", "access", "goes"):
        for key, _ in offered[what]:
            opened = set_many(workspace, opened, what, key, ("spoon",))


def test_a_hands_word_stays_when_the_kind_changes(workspace: Workspace, opened: OpenPlan) -> None:
    by_hand = set_many(workspace, opened, "access", "riding", ("chain-lube",))
    after = set_many(workspace, by_hand, "kind", "sun cream", ("chain-lube",))
    (item,) = things(after, ("chain-lube",))
    assert item.kind == "sun_cream" and item.roles == {"sun"} and item.access == "riding"
    back = set_many(workspace, after, "kind", "chain oil", ("chain-lube",))
    (item,) = things(back, ("chain-lube",))
    assert item.roles == {"lube"} and item.access == "riding" and item.leaks


@pytest.mark.parametrize(
    ("name", "value", "field", "wanted"),
    [
        ("volume_ml", "0.35 l", "volume", 0.00035),
        ("reaches_per_day", "2,5", "reaches", 2.5),
        ("quantity", "3", "quantity", 3),
        ("leaks", "yes", "leaks", True),
        ("roles", "none", "roles", frozenset()),
        ("wh", "37", "facts", (("wh", 37.0),)),
        ("note", "from the attic", "note", "from the attic"),
    ],
)
def test_any_field_of_the_form_is_set_for_many(
    workspace: Workspace, opened: OpenPlan, name: str, value: str, field: str, wanted: object
) -> None:
    chosen = ticked_items(opened, ("spoon", "chain-lube"))
    setter = ItemForm.setter(name, value, opened.plan.items)
    after = change_each(workspace, opened, revision=opened.revision, chosen=chosen, what=name, setter=setter)
    for old, new in zip(chosen, things(after, ("spoon", "chain-lube")), strict=True):
        told = new.reaches.per_day if field == "reaches" else getattr(new, field)
        assert told == wanted or told == pytest.approx(wanted)
        assert replace(new, **{field: getattr(old, field)}) == old  # and nothing else


def test_a_figure_that_does_not_fit_is_refused_with_its_thing_and_field(opened: OpenPlan) -> None:
    spoon = item_named(opened.plan, "spoon")
    for name, value in (("volume_ml", "a handful"), ("quantity", "-3"), ("roles", "sing"), ("sure", "yes")):
        with pytest.raises(InvalidInput) as wrong:
            ItemForm.setter(name, value, opened.plan.items)(spoon)
        assert name == "sure" or spoon.name in wrong.value.message


def test_a_figure_that_was_cleared_stays_away(opened: OpenPlan) -> None:
    quilt = next(i for i in opened.plan.items if i.name == "quilt comfort 3 °C")
    assert quilt.fact("comfort") == 3.0
    cleared = ItemForm.setter("comfort", "", opened.plan.items)(quilt)
    assert cleared.fact("comfort") is None
    assert ItemForm.setter("note", "airs", opened.plan.items)(cleared).fact("comfort") is None
