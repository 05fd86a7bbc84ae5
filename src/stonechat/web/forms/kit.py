"""The form of a thing."""

from dataclasses import replace
from typing import Any

from pydantic import model_validator

from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.rig.carrier import ACCESS_NAMES
from stonechat.formats.documents.kit import ItemDocument
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
    reaches_per_day: float = figure("Reached for", unit="a day", limit="reaches")
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
        document = ItemDocument.of(item)
        shown = document.model_dump(exclude={"id", "volume_l"})
        return {**shown, "volume_ml": round(document.volume_l * 1000.0, 6), "length_mm": document.length_mm or None}

    def to_core(self, item_id: str) -> Item:
        """Return the thing; a volume left empty is guessed from mass and kind."""
        guessed = self.mass_g * CATEGORIES[self.category][1] / 1000.0
        litres = guessed if self.volume_ml is None else self.volume_ml / 1000.0
        given = self.model_dump(exclude={"volume_ml", "length_mm"})
        document = ItemDocument.model_validate(
            {**given, "id": item_id or "new", "volume_l": round(litres, 6), "length_mm": self.length_mm or 0.0}
        )
        return replace(document.core(), id=item_id)
