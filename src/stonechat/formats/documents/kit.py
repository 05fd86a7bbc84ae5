"""A thing of the kit."""

from typing import Annotated

from pydantic import Field, model_validator

from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.rig.carrier import ACCESS_RANK
from stonechat.formats.documents.part import Id, Name, Part, limit, one_of
from stonechat.units import (
    g_from_kg,
    kg_from_g,
    l_from_m3,
    m3_from_l,
    m_from_mm,
    mm_from_m,
)


class ItemDocument(Part):
    """A thing of the kit."""

    id: Id
    name: Name
    category: str = "other"
    mass_g: Annotated[float, limit("item_mass", 1e3)]
    volume_l: Annotated[float, limit("item_volume", 1e3)]
    length_mm: Annotated[float, limit("item_length", 1e3)] = 0.0
    quantity: Annotated[int, limit("quantity")] = 1
    keep_dry: bool = False
    leaks: bool = False
    spoils: bool = False
    access: str = "off"
    reaches_per_day: Annotated[float, limit("reaches")] = 0.0
    need: str = "want"
    worn: bool = False
    weighed: bool = False
    note: Annotated[str, Field(max_length=300)] = ""

    @model_validator(mode="after")
    def _known(self) -> "ItemDocument":
        one_of(self.category, CATEGORIES, "category")
        one_of(self.access, ACCESS_RANK, "access")
        one_of(self.need, NEEDS, "need")
        return self

    @classmethod
    def of(cls, item: Item) -> "ItemDocument":
        """Return the document of a thing."""
        return cls(
            id=item.id,
            name=item.name,
            category=item.category,
            mass_g=g_from_kg(item.mass),
            volume_l=l_from_m3(item.volume),
            length_mm=mm_from_m(item.length),
            quantity=item.quantity,
            keep_dry=item.keep_dry,
            leaks=item.leaks,
            spoils=item.spoils,
            access=item.access,
            reaches_per_day=item.reaches,
            need=item.need,
            worn=item.worn,
            weighed=item.weighed,
            note=item.note,
        )

    def core(self) -> Item:
        """Return the thing."""
        return Item(
            id=self.id,
            name=self.name,
            category=self.category,
            mass=kg_from_g(self.mass_g),
            volume=m3_from_l(self.volume_l),
            length=m_from_mm(self.length_mm),
            quantity=self.quantity,
            keep_dry=self.keep_dry,
            leaks=self.leaks,
            spoils=self.spoils,
            access=self.access,
            reaches=self.reaches_per_day,
            need=self.need,
            worn=self.worn,
            weighed=self.weighed,
            note=self.note,
        )
