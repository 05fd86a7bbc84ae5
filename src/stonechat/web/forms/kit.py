"""The form of a thing."""

from typing import Any

from pydantic import model_validator

from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.rig.carrier import ACCESS_NAMES
from stonechat.units import g_from_kg, kg_from_g, l_from_m3, m3_from_l, m_from_mm, mm_from_m
from stonechat.web.forms.binding import Form, choice, figure, text, tick


class ItemForm(Form):
    """A thing of the kit."""

    name: str = text("Thing", least=1)
    category: str = choice("Kind", {key: name for key, (name, _) in CATEGORIES.items()})
    mass_g: float = figure("Mass each", unit="g", limit="item_mass", factor=1e3)
    volume_ml: float | None = figure(
        "Volume packed", unit="ml", limit="item_volume", factor=1e6, optional=True, help="empty: guessed from its kind"
    )
    length_mm: float | None = figure(
        "Longest rigid side", unit="mm", limit="item_length", factor=1e3, optional=True, help="empty: bends"
    )
    quantity: int = figure("How many", limit="quantity")
    access: str = choice("Needed", dict(ACCESS_NAMES))
    reaches: float = figure("Reached for", unit="a day", limit="reaches")
    need: str = choice("Need", NEEDS)
    keep_dry: bool = tick("Must stay dry")
    leaks: bool = tick("May leak")
    spoils: bool = tick("Spoiled by leaks")
    worn: bool = tick("Worn on the body")
    weighed: bool = tick("Mass is weighed")
    note: str = text("Note", most=200)

    @model_validator(mode="after")
    def _is_listed(self) -> "ItemForm":
        for value, known in ((self.category, CATEGORIES), (self.access, ACCESS_NAMES), (self.need, NEEDS)):
            if value not in known:
                raise ValueError(f"“{value[:20]}” is not on its list. Choose one from the list.")
        return self

    @staticmethod
    def values(item: Item) -> dict[str, Any]:
        """Return what the form shows for a thing."""
        return {
            "name": item.name,
            "category": item.category,
            "mass_g": g_from_kg(item.mass),
            "volume_ml": round(l_from_m3(item.volume) * 1000.0, 6),
            "length_mm": mm_from_m(item.length) or None,
            "quantity": item.quantity,
            "access": item.access,
            "reaches": item.reaches,
            "need": item.need,
            "keep_dry": item.keep_dry,
            "leaks": item.leaks,
            "spoils": item.spoils,
            "worn": item.worn,
            "weighed": item.weighed,
            "note": item.note,
        }

    def to_core(self, item_id: str) -> Item:
        """Return the thing."""
        guessed = kg_from_g(self.mass_g) * CATEGORIES[self.category][1]
        litres = guessed if self.volume_ml is None else self.volume_ml / 1000.0
        return Item(
            id=item_id,
            name=self.name,
            category=self.category,
            mass=kg_from_g(self.mass_g),
            volume=m3_from_l(round(litres, 6)),
            length=m_from_mm(self.length_mm or 0.0),
            quantity=self.quantity,
            access=self.access,
            reaches=self.reaches,
            need=self.need,
            keep_dry=self.keep_dry,
            leaks=self.leaks,
            spoils=self.spoils,
            worn=self.worn,
            weighed=self.weighed,
            note=self.note,
        )
