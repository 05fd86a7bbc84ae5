"""A thing of the kit."""

from typing import Annotated, Any

from pydantic import Field, model_validator

from stonechat.core.kit.bolts import TOOLS, guess_tools
from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.kit.jobs import JOBS, guess_roles
from stonechat.core.rig.carrier import ACCESS_RANK
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
_REACHES = ("reaches_rain", "reaches_cold", "reaches_night", "reaches_puncture")
_PLAIN = (
    "id", "name", "category", "left", "quantity", "keep_dry", "fragile", "leaks", "spoils", "access", "need", "worn",
    "weighed", "group", "container", "holds", "makes_dry", "carried_before", "used_before", "lost_before",
    "broken_before", "note", *_REACHES,
)  # fmt: skip
Reaches = Annotated[float, limit("reaches")]
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
    reaches_per_day: Reaches = 0.0
    reaches_rain: Reaches = 0.0
    reaches_cold: Reaches = 0.0
    reaches_night: Reaches = 0.0
    reaches_puncture: Reaches = 0.0
    need: Annotated[str, OneOf(NEEDS, "need")] = "want"
    worn: bool = False
    weighed: bool = False
    roles: list[Annotated[str, OneOf(JOBS, "job")]] = []
    tools: list[Annotated[str, OneOf(TOOLS, "tool")]] = []
    group: Annotated[str, Field(max_length=60)] = ""
    container: Annotated[str, Field(max_length=60)] = ""
    holds: bool = False
    makes_dry: bool = False
    room_l: Annotated[float, limit("item_volume", 1e3)] = 0.0
    carried_before: Count = 0
    used_before: Count = 0
    lost_before: Count = 0
    broken_before: Count = 0
    note: Annotated[str, Field(max_length=300)] = ""

    @model_validator(mode="after")
    def _within(self) -> "ItemDocument":
        if self.content_g > self.mass_g + 1e-9:
            raise ValueError("its content weighs more than the whole of it")
        return self

    @classmethod
    def of(cls, item: Item) -> "ItemDocument":
        """Return the document of a thing."""
        return cls(
            volume_l=l_from_m3(item.volume),
            room_l=l_from_m3(item.room),
            reaches_per_day=item.reaches,
            roles=sorted(item.roles),
            tools=sorted(item.tools),
            **{f"{name}_g": g_from_kg(getattr(item, name)) for name in _G},
            **{f"{name}_mm": mm_from_m(getattr(item, name)) for name in _MM},
            **same_named(item, _PLAIN),
        )

    def core(self) -> Item:
        """Return the thing."""
        masses: dict[str, Any] = {name: kg_from_g(getattr(self, f"{name}_g")) for name in _G}
        lengths: dict[str, Any] = {name: m_from_mm(getattr(self, f"{name}_mm")) for name in _MM}
        return Item(
            volume=m3_from_l(self.volume_l),
            room=m3_from_l(self.room_l),
            reaches=self.reaches_per_day,
            roles=frozenset(self.roles),
            tools=frozenset(self.tools),
            **masses,
            **lengths,
            **same_named(self, _PLAIN),
        )


def upgraded_item(old: dict[str, Any]) -> dict[str, Any]:
    """Return a thing of version 1 as version 2 tells it: its jobs and tools by its name."""
    name = str(old["name"])
    return {**old, "roles": sorted(guess_roles(name)), "tools": sorted(guess_tools(name))}
