"""The form with which a rider begins a plan; all but the course may be left unsaid."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

from stonechat.core.kit.item import Item
from stonechat.core.plan.beginning import BAG_SCHOOLS, Spoken
from stonechat.core.rig.bike import BIKE_KINDS, SIZES, usual_bike
from stonechat.web.forms.binding import Form, choice, figure, moment_field, text

KITS = {"none": "none yet", "shelf": "chosen from my shelf", "file": "from a file (CSV, XLSX)"}


class BeginForm(Form):
    """What a rider says of a new plan."""

    name: str = text("Name of the plan", help="empty: as the file calls it")
    start: datetime | None = moment_field("Start, by the clock there", help="empty: the coming Saturday at 06:00")
    mass_kg: float | None = figure(
        "You, in riding clothes", unit="kg", limit="rider_mass", optional=True, help="empty: asked again later"
    )
    power_w: float | None = figure(
        "Power you hold all day", unit="W", limit="power", optional=True, help="on the flat, in the first hours"
    )
    bike_kind: str = choice("Kind of bike", BIKE_KINDS, optional="", usual="say later")
    bike_size: str = choice("Its size", SIZES, optional="m")
    saddle_height_mm: float | None = figure(
        "Saddle height", unit="mm", limit="saddle_height", factor=1e3, optional=True, help="empty: usual for the size"
    )
    bags: str = choice("Bags", {key: name for key, (name, _) in BAG_SCHOOLS.items()}, optional="none")
    kit: str = choice("Kit", KITS, optional="none")

    def to_core(self, items: tuple[Item, ...]) -> Spoken:
        """Return what was said, with the things chosen from the shelf."""
        height = None if self.saddle_height_mm is None else round(self.saddle_height_mm) / 1e3
        return Spoken(
            start=self.start,
            mass=self.mass_kg,
            power=self.power_w,
            bike=usual_bike(self.bike_kind, self.bike_size, height) if self.bike_kind else None,
            bags=self.bags,
            items=items,
        )


def begin_fields(sent: Mapping[str, str]) -> dict[str, str]:
    """Return those of the fields sent that are this form's own."""
    return {key: value for key, value in sent.items() if key in BeginForm.model_fields}


def begin_values(name: str) -> dict[str, Any]:
    """Return what the empty form shows."""
    return {"name": name, "bike_size": "m", "bags": "none", "kit": "none"}
