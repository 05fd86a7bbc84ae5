"""A thing of the kit."""

from collections.abc import Mapping
from dataclasses import fields, replace
from typing import Annotated, Any

from pydantic import Field, model_validator

from stonechat.core.kit.bolts import TOOLS
from stonechat.core.kit.facts import FACTS, facts_in
from stonechat.core.kit.item import CATEGORIES, NEEDS, Item, Pouch, Reaches, Record
from stonechat.core.kit.jobs import JOBS
from stonechat.core.kit.lexicon.recognise import recognise
from stonechat.core.kit.lexicon.usual import usual_thing
from stonechat.core.kit.sheet import LONGEST_CELL, LONGEST_HEADER, MOST_CELLS, SheetColumn
from stonechat.core.plan.limits import LIMITS
from stonechat.core.rig.carrier import ACCESS_RANK
from stonechat.core.rig.spots import SPOTS
from stonechat.formats.documents.part import Id, Name, OneOf, Part, limit, same_named
from stonechat.units import (
    g_from_kg,
    kg_from_g,
    l_from_m3,
    m3_from_l,
    m_from_mm,
    mm_from_m,
)

_G = ("mass", "claimed", "content")
_MM = ("length", "width")
_REACHES = tuple(part.name for part in fields(Reaches))
_RECORD = tuple(part.name for part in fields(Record))
_PLAIN = (
    "id", "name", "category", "left", "quantity", "keep_dry", "fragile", "leaks", "spoils", "access", "need", "worn",
    "fixed", "stowed", "kind", "shared", "weighed", "group", "container", "note",
)  # fmt: skip
Times = Annotated[float, limit("reaches")]
Count = Annotated[int, limit("count")]


class ItemDocument(Part):
    """A thing of the kit."""

    id: Id
    name: Name
    category: Annotated[str, OneOf(CATEGORIES, "category")] = "other"
    mass_g: Annotated[float, limit("item_mass", 1e3)]
    claimed_g: Annotated[float, limit("item_content", 1e3)] = 0.0
    content_g: Annotated[float, limit("item_content", 1e3)] = 0.0
    left: Annotated[float, limit("share")] = 1.0
    volume_l: Annotated[float, limit("item_volume", 1e3)]
    length_mm: Annotated[float, limit("item_length", 1e3)] = 0.0
    width_mm: Annotated[float, limit("item_length", 1e3)] = 0.0
    quantity: Annotated[int, limit("quantity")] = 1
    keep_dry: bool = False
    fragile: bool = False
    leaks: bool = False
    spoils: bool = False
    access: Annotated[str, OneOf(ACCESS_RANK, "access")] = "off"
    reaches_per_day: Times = 0.0
    reaches_rain: Times = 0.0
    reaches_cold: Times = 0.0
    reaches_night: Times = 0.0
    reaches_puncture: Times = 0.0
    need: Annotated[str, OneOf(NEEDS, "need")] = "want"
    worn: bool = False
    fixed: Annotated[str, OneOf({"": "", **SPOTS}, "spot")] = ""
    stowed: bool = False
    kind: Annotated[str, Field(max_length=60)] = ""
    weighed: bool = False
    roles: list[Annotated[str, OneOf(JOBS, "job")]] = []
    tools: list[Annotated[str, OneOf(TOOLS, "tool")]] = []
    shared: bool = False
    group: Annotated[str, Field(max_length=60)] = ""
    container: Annotated[str, Field(max_length=60)] = ""
    holds: bool = False
    makes_dry: bool = False
    room_l: Annotated[float, limit("item_volume", 1e3)] = 0.0
    carried_before: Count = 0
    used_before: Count = 0
    lost_before: Count = 0
    broken_before: Count = 0
    facts: dict[str, float] = {}
    cells: Annotated[
        dict[
            Annotated[str, Field(max_length=LONGEST_HEADER)],
            Annotated[str, Field(max_length=LONGEST_CELL)],
        ],
        Field(max_length=MOST_CELLS),
    ] = {}
    note: Annotated[str, Field(max_length=300)] = ""

    @model_validator(mode="after")
    def _within(self) -> "ItemDocument":
        if self.content_g > self.mass_g + 1e-9:
            raise ValueError("its content weighs more than the whole of it")
        for key, value in self.facts.items():
            if key not in FACTS or not FACTS[key].low <= value <= FACTS[key].high:
                raise ValueError(f"its figure {key[:20]} is not known or out of range")
        if self.worn and self.fixed:
            raise ValueError("it is worn or fixed on the bike, not both")
        return self

    @classmethod
    def of(cls, item: Item) -> "ItemDocument":
        """Return the document of a thing."""
        return cls(
            volume_l=l_from_m3(item.volume),
            room_l=l_from_m3(item.room),
            holds=item.holds,
            makes_dry=item.makes_dry,
            roles=sorted(item.roles),
            tools=sorted(item.tools),
            facts=dict(item.facts),
            cells=dict(item.cells),
            **{f"{name}_g": g_from_kg(getattr(item, name)) for name in _G},
            **{f"{name}_mm": mm_from_m(getattr(item, name)) for name in _MM},
            **{f"reaches_{name}": getattr(item.reaches, name) for name in _REACHES},
            **{f"{name}_before": getattr(item.record, name) for name in _RECORD},
            **same_named(item, _PLAIN),
        )

    def _pouch(self) -> Pouch | None:
        """Return what it is to what it holds; what keeps things dry holds them, said or not."""
        if not self.holds and not self.makes_dry:
            return None
        return Pouch(makes_dry=self.makes_dry, room=m3_from_l(self.room_l))

    def core(self) -> Item:
        """Return the thing."""
        masses: dict[str, Any] = {name: kg_from_g(getattr(self, f"{name}_g")) for name in _G}
        lengths: dict[str, Any] = {name: m_from_mm(getattr(self, f"{name}_mm")) for name in _MM}
        return Item(
            volume=m3_from_l(self.volume_l),
            pouch=self._pouch(),
            reaches=Reaches(**{name: getattr(self, f"reaches_{name}") for name in _REACHES}),
            record=Record(**{name: getattr(self, f"{name}_before") for name in _RECORD}),
            roles=frozenset(self.roles),
            tools=frozenset(self.tools),
            cells=tuple(sorted(self.cells.items())),
            facts=tuple((key, self.facts[key]) for key in FACTS if key in self.facts),
            **masses,
            **lengths,
            **same_named(self, _PLAIN),
        )


class SheetColumnDocument(Part):
    """A column of the rider's own table of the kit."""

    header: Annotated[str, Field(max_length=LONGEST_HEADER)]
    field: Annotated[str, Field(max_length=40)] = ""
    unit: Annotated[str, Field(max_length=10)] = ""

    @classmethod
    def of(cls, column: SheetColumn) -> "SheetColumnDocument":
        """Return the document of a column."""
        return cls(header=column.header, field=column.field, unit=column.unit)

    def core(self) -> SheetColumn:
        """Return the column."""
        return SheetColumn(header=self.header, field=self.field, unit=self.unit)


def told_item(told: Mapping[str, Any], id_: str, *, is_known: bool = False) -> ItemDocument:
    """Return a thing as a person or a table tells it; what is missing is usual for its kind, by its name.

    Keys are those of the document, but for what is left in per cent and volumes in millilitres. A kind told as
    nothing is none; `worn` and `fixed` tell together how it goes along. Of a thing that was known under this name
    before, the name tells no figures any more: one that was cleared stays away.
    """
    said = {key: value for key, value in told.items() if value is not None and value != ""}
    usual = usual_thing(
        said["name"],
        mass=kg_from_g(said["mass_g"]),
        quantity=said.get("quantity", 1),
        kind=told.get("kind"),
        category=said.get("category", ""),
        worn=said.get("worn"),
    )
    told_spot = told.get("fixed")  # empty: told to be in no spot
    worn = said.get("worn", usual.worn and not told_spot)
    fixed = "" if worn else usual.fixed if told_spot is None else told_spot
    stowed = bool(fixed) and said.get("stowed", usual.stowed and told_spot is None)
    guessed: dict[str, Any] = {
        "category": usual.category,
        "kind": usual.kind,
        "access": usual.access,
        **{f"reaches_{name}": getattr(usual.reaches, name) for name in _REACHES},
        "keep_dry": usual.keep_dry and not worn,
        "fragile": usual.fragile,
        "leaks": usual.leaks,
        "spoils": usual.spoils and not worn,
        "holds": usual.holds,
        "makes_dry": usual.makes_dry,
        "need": "must" if usual.never_cut else "want",
        "length_mm": round(mm_from_m(usual.length), 3),
        "left": round(said.pop("left_pct", 100.0) / 100.0, 4),
        "volume_l": round(min(said.pop("volume_ml", usual.volume * 1e6) / 1e3, LIMITS["item_volume"].high * 1e3), 6),
        "room_l": round(said.pop("room_ml", 0.0) / 1e3, 6),
        "facts": {} if is_known else dict(facts_in(said["name"], of_sleep=usual.category == "sleep")),
        "roles": sorted(usual.jobs),
        "tools": sorted(usual.tools),
    }
    facts = {**guessed.pop("facts"), **said.pop("facts", {})}
    return ItemDocument(id=id_, facts=facts, **{**guessed, **said, "worn": worn, "fixed": fixed, "stowed": stowed})


# what is usual for a kind, and follows it
_BY_KIND = frozenset(
    {
        "category",
        "access",
        "keep_dry",
        "fragile",
        "leaks",
        "spoils",
        "worn",
        "fixed",
        "stowed",
        "length_mm",
        "roles",
        "tools",
    }
    | {f"reaches_{name}" for name in _REACHES}
)


def usual_of(item: Item, *, by_name: bool = False) -> dict[str, Any]:
    """Return what would be told of a thing that is as usual for its kind, or for what its name says."""
    plain = {"name": item.name, "mass_g": g_from_kg(item.mass), "quantity": item.quantity}
    return told_item({**plain, "kind": None if by_name else item.kind}, item.id).model_dump()


def with_kind(item: Item, kind: str) -> Item:
    """Return a thing as usual for a kind; an empty kind is none.

    Its name, mass, volume, set and record stay, and so does what a hand has set: whatever is not as usual for the kind
    that it was before.
    """
    said = ItemDocument.of(item).model_dump(exclude={"id", "volume_l", "room_l", "left", "container"})
    # a thing of an older plan has no kind, but was guessed by its name
    before = [usual_of(item), usual_of(item, by_name=True)]
    going = ("worn", "fixed", "stowed")
    follows = {key for key in _BY_KIND if any(said[key] == usual[key] for usual in before)}
    if [said[key] for key in going] not in [[usual[key] for key in going] for usual in before]:
        follows -= set(going)
    kept = {key: said[key] for key in set(said) - follows}
    new = told_item({**kept, "kind": kind, "volume_ml": item.volume * 1e6}, item.id, is_known=True).core()
    need = new.need if item.need == "want" else item.need
    return replace(new, left=item.left, container=item.container, need=need, pouch=item.pouch or new.pouch)


def upgraded_item(old: dict[str, Any]) -> dict[str, Any]:
    """Return a thing of version 1 as version 2 tells it: its jobs and tools by its name."""
    named = recognise(str(old["name"]))
    return {**old, "roles": sorted(named.jobs), "tools": sorted(named.tools)}
