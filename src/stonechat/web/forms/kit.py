"""The form of a thing: all but name and mass may stay empty and are then what is usual for its kind."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from difflib import get_close_matches
from typing import Any

from pydantic import Field, create_model, model_validator

from stonechat.core.kit.bolts import TOOLS
from stonechat.core.kit.facts import FACTS, Fact
from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.kit.jobs import JOBS
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.rig.carrier import ACCESS_NAMES
from stonechat.core.rig.spots import SPOTS
from stonechat.errors import InvalidInput
from stonechat.formats.documents.kit import ItemDocument, told_item, usual_of, with_kind
from stonechat.formats.kit_fields import KNOWN, NONE
from stonechat.formats.numbers import words_from_list
from stonechat.web.forms.binding import Form, bind, choice, figure, start_values, text, tick

ITEM_GROUPS = (
    ("Thing", ("name", "kind", "category", "quantity", "need", "goes", "stowed", "note")),
    ("Mass and size", ("mass_g", "weighed", "claimed_g", "content_g", "left_pct", "volume_ml", "length_mm",
                       "width_mm")),
    ("Reached for", ("access", "reaches_per_day", "reaches_rain", "reaches_cold", "reaches_night", "reaches_puncture")),
    ("Keeping", ("keep_dry", "spoils", "leaks", "fragile")),
    ("Jobs and sets", ("roles", "tools", "shared", "group", "container", "holds", "makes_dry", "room_ml")),
    ("Its own figures", tuple(FACTS)),
    ("Past races", ("carried_before", "used_before", "lost_before", "broken_before")),
)  # fmt: skip
_YES_NO = {"yes": "yes", "no": "no"}
_JOBS = {**{job.name: key for key, job in JOBS.items()}, **{key: key for key in JOBS}}
_TOOLS = {**{name.lower(): key for key, name in TOOLS.items()}, **{key: key for key in TOOLS}}


def _reaches(title: str) -> Any:
    return figure(title, limit="reaches", optional=True, help="empty: none more")


def _fact(fact: Fact) -> Any:
    return (
        float | None,
        Field(None, title=fact.name.capitalize(), ge=fact.low, le=fact.high, json_schema_extra={"unit": fact.unit}),
    )


_FactsForm: Any = create_model("_FactsForm", __base__=Form, **{key: _fact(fact) for key, fact in FACTS.items()})


class ItemForm(_FactsForm):
    """A thing of the kit."""

    name: str = text("Thing", least=1)
    kind: str = text("Taken for", help="empty: by its name; “none”: none that is known", suggestions="kinds")
    category: str = choice("Section", {key: name for key, (name, _) in CATEGORIES.items()}, optional="other")
    quantity: int | None = figure("How many", limit="quantity", optional=True, help="empty: one")
    need: str = choice("Need", NEEDS, optional="want")
    goes: str = choice(
        "Goes along",
        {"packed": "in a bag", "worn": "worn", **{key: spot.name for key, spot in SPOTS.items()}},
        optional="",
        usual="usual for its kind",
    )
    stowed: bool = tick("Fixed only while in use", help="else in a bag, as a helmet lamp by day")
    note: str = text("Note", most=200)
    sure: bool = tick("It is so", help="a figure that is unusual for its kind is kept")
    mass_g: float = figure("Mass each", unit="g", limit="item_mass", factor=1e3)
    weighed: bool = tick("Mass is weighed")
    claimed_g: float | None = figure(
        "Claimed", unit="g", limit="item_content", factor=1e3, optional=True, help="by its maker"
    )
    content_g: float | None = figure(
        "Of it used up", unit="g", limit="item_content", factor=1e3, optional=True, help="cream, lube, sealant"
    )
    left_pct: float | None = figure("Left of that", unit="%", limit="share", factor=100.0, optional=True)
    volume_ml: float | None = figure(
        "Volume packed", unit="ml", limit="item_volume", factor=1e6, optional=True, help="empty: guessed from its kind"
    )
    length_mm: float | None = figure(
        "Longest rigid side", unit="mm", limit="item_length", factor=1e3, optional=True, help="empty: bends"
    )
    width_mm: float | None = figure(
        "Second rigid side", unit="mm", limit="item_length", factor=1e3, optional=True, help="must pass a bag's mouth"
    )
    access: str = choice("Needed", dict(ACCESS_NAMES), optional="", usual="usual for its kind")
    reaches_per_day: float | None = figure(
        "Reached for", unit="a day", limit="reaches", optional=True, help="empty: usual for its kind"
    )
    reaches_rain: float | None = _reaches("More on a wet day")
    reaches_cold: float | None = _reaches("More on a cold day")
    reaches_night: float | None = _reaches("More for a night ridden")
    reaches_puncture: float | None = _reaches("For each puncture")
    keep_dry: str = choice("Must stay dry", _YES_NO, optional="", usual="usual for its kind")
    spoils: str = choice("Spoiled by leaks", _YES_NO, optional="", usual="usual for its kind")
    leaks: bool = tick("May leak")
    fragile: bool = tick("Fragile")
    roles: str = text("Jobs", most=400, help="commas between; empty: by its name, or none", suggestions="jobs")
    tools: str = text("Turns", most=200, help="4 mm hex, T25, …; empty: by its name")
    shared: bool = tick("Carried for both", help="a partner relies on it too")
    group: str = text("Set", most=60, help="wash kit, puncture first answer", suggestions="groups")
    container: str = text("Inside", help="a pouch or dry bag of this kit", suggestions="containers")
    holds: bool = tick("Holds other things")
    makes_dry: bool = tick("Keeps them dry")
    room_ml: float | None = figure(
        "Room inside", unit="ml", limit="item_volume", factor=1e6, optional=True, help="empty: as much as its carrier"
    )
    carried_before: int | None = figure("Carried in races", limit="count", optional=True)
    used_before: int | None = figure("Used in", limit="count", optional=True)
    lost_before: int | None = figure("Lost", limit="count", optional=True)
    broken_before: int | None = figure("Broken", limit="count", optional=True)

    @model_validator(mode="after")
    def _is_listed(self) -> "ItemForm":
        if (self.content_g or 0.0) > self.mass_g:
            raise ValueError("What is used up weighs more than the whole of it. Check both masses.")
        if (self.used_before or 0) > (self.carried_before or 0):
            raise ValueError("It was used in more races than it was carried in. Check both counts.")
        if self.kind.strip().lower() not in _KINDS:
            near = get_close_matches(self.kind.strip().lower(), _KINDS, n=1, cutoff=0.5)
            advice = f" Did you mean “{near[0]}”?" if near else ""
            raise ValueError(f"“{self.kind[:40]}” is no kind of thing that is known here.{advice}")
        for words, known, what in ((self.roles, _JOBS, "job"), (self.tools, _TOOLS, "tool")):
            if words.strip().lower() != NONE:
                words_from_list(words, known, what)
        return self

    @staticmethod
    def values(item: Item, items: tuple[Item, ...]) -> dict[str, Any]:
        """Return what the form shows for a thing."""
        document = ItemDocument.of(item)
        shown = document.model_dump(exclude=_TOLD_OTHERWISE)
        usual = usual_of(item)
        for name in _EMPTY_AT_ZERO:  # where the kind has a figure, none is a word of its own
            shown[name] = None if not shown[name] and not usual.get(name) else shown[name]
        return {
            **shown,
            **{key: item.fact(key) for key in FACTS},
            **{name: "yes" if getattr(item, name) else "no" for name in ("keep_dry", "spoils")},
            **_listed(item, usual),
            "kind": KINDS[item.kind].title if item.kind in KINDS else "none",
            "goes": "worn" if item.worn else item.fixed or "packed",
            "left_pct": item.left * 100.0 if item.content else None,
            "volume_ml": round(document.volume_l * 1000.0, 6),
            "room_ml": round(document.room_l * 1000.0, 6) or None,
            "container": next((other.name for other in items if other.id == item.container), ""),
        }

    def to_core(self, item_id: str, items: tuple[Item, ...]) -> Item:
        """Return the thing; what is left empty is usual for its kind or guessed from its name.

        Where it is said to be of another kind than before, what was not touched follows the new one.
        """
        told = self.model_dump(exclude={"sure", "goes", *FACTS}) | _gone(self.goes)
        before = next((item for item in items if item.id == item_id), None)
        if before is None:  # of a new thing an empty box says nothing
            told |= {name: told[name] or None for name in _TICKS}
        told["kind"] = _KINDS[self.kind.strip().lower()]
        told["facts"] = {key: value for key in FACTS if (value := getattr(self, key)) is not None}
        told["cells"] = dict(before.cells) if before is not None else {}
        if before is not None and told["kind"] not in (None, before.kind):
            told |= self._moved_on(before, with_kind(before, told["kind"]), items)
        for name in ("keep_dry", "spoils"):
            told[name] = told[name] == "yes" if told.get(name) else None
        for name, known in (("roles", _JOBS), ("tools", _TOOLS)):
            told[name] = _keys(told[name] or "", known)
        told["container"] = _container_id(self.container, items)
        is_known = before is not None and before.name == self.name
        return replace(told_item(told, item_id or "new", is_known=is_known).core(), id=item_id)

    @staticmethod
    def setter(name: str, value: str, items: tuple[Item, ...]) -> Callable[[Item], Item]:
        """Return what sets one field of a thing as its own form would."""
        if name not in SETTABLE:
            raise InvalidInput("Choose which field to set.", subject="field")

        def change(item: Item) -> Item:
            shown = start_values(ItemForm, ItemForm.values(item, items)).raw
            form = bind(ItemForm, {**shown, name: value.strip()})
            wrong = [f"{SETTABLE.get(key, key)}: {words[0]}" for key, words in form.errors.items()]
            if form.value is None:
                raise InvalidInput(f"{item.name}: {' '.join(wrong)}", subject=name)
            return form.value.to_core(item.id, items)

        return change

    def _moved_on(self, before: Item, after: Item, items: tuple[Item, ...]) -> dict[str, Any]:
        """Return what was not touched in this form, as it is of the thing's new kind."""
        shown, moved = ItemForm.values(before, items), ItemForm.values(after, items)
        untouched = [
            name
            for name in (*_BY_KIND, "goes", "stowed")
            if getattr(self, name) in (shown[name], type(self).model_fields[name].default)
        ]
        told = {name: moved[name] for name in untouched}
        goes = told.pop("goes", None)
        return told if goes is None else told | _gone(goes)


def _keys(words: str, known: Mapping[str, str]) -> list[str] | None:
    """Return the keys of a list in words; none of them where that is said, nothing where nothing is."""
    if words.strip().lower() == NONE:
        return []
    return sorted(words_from_list(words.strip(), known, "")) or None


def _listed(item: Item, usual: Mapping[str, Any]) -> dict[str, str]:
    """Return jobs and tools in words; that there are none is said where its kind has some."""
    jobs, tools = (JOBS[key].name for key in sorted(item.roles)), (TOOLS[key] for key in sorted(item.tools))
    found = {"roles": ", ".join(jobs), "tools": ", ".join(tools)}
    return {key: words or (NONE if usual[key] else "") for key, words in found.items()}


_IN_LISTS = frozenset(
    {"kind", "category", "need", "goes", "access", "keep_dry", "fragile", "weighed", "shared", "group"}
)
# what may be set of many at once besides what has a list of its own there, with its name
SETTABLE: dict[str, str] = {
    name: f"{entry.title}, {entry.json_schema_extra['unit']}"
    if isinstance(entry.json_schema_extra, dict) and entry.json_schema_extra.get("unit")
    else str(entry.title)
    for name, entry in ItemForm.model_fields.items()
    if name not in {"name", "sure", *_IN_LISTS}
}
_KINDS: Mapping[str, str | None] = {"": None, **KNOWN["kind_of_thing"]}
_TOLD_OTHERWISE = {
    "id", "volume_l", "room_l", "left", "roles", "tools", "container", "worn", "fixed", "kind", "facts", "cells"
}  # fmt: skip
# what is usual for a kind, and follows it where the rider has said nothing else
_BY_KIND = (
    "category", "need", "access", "reaches_per_day", "reaches_rain", "reaches_cold", "reaches_night",
    "reaches_puncture", "keep_dry", "spoils", "leaks", "fragile", "roles", "tools", "volume_ml", "length_mm",
)  # fmt: skip


def _gone(goes: str) -> dict[str, Any]:
    """Return how a thing goes along as the table of kinds tells it; empty: nothing said."""
    if not goes:
        return {"worn": None, "fixed": None, "stowed": None}
    return {"worn": goes == "worn", "fixed": goes if goes in SPOTS else ""}


_TICKS = ("leaks", "fragile", "holds", "makes_dry", "stowed", "shared")
# what is shown empty where it is nothing
_EMPTY_AT_ZERO = (
    "claimed_g", "content_g", "length_mm", "width_mm", "reaches_rain", "reaches_cold", "reaches_night",
    "reaches_puncture", "carried_before", "used_before", "lost_before", "broken_before",
)  # fmt: skip


def _container_id(name: str, items: tuple[Item, ...]) -> str:
    if not name.strip():
        return ""
    for item in items:
        if item.holds and item.name.lower() == name.strip().lower():
            return item.id
    raise InvalidInput(
        f"Nothing called “{name[:40]}” holds things here. Tick “Holds other things” at a pouch first.",
        subject="container",
    )
