"""Many things at once: one step for all, refused whole, taken back by one undo."""

import pytest

from stonechat.core.kit.item import Item
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.history import OpenPlan, undo
from stonechat.services.kit.many import ACTIONS, change_many, choices
from stonechat.services.variant import item_named
from stonechat.services.workspace import Workspace

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
