"""What the Cards room shows."""

from dataclasses import dataclass

from stonechat.render.documents.cards import BarStrip, PackingList, bar_strip, packing_list
from stonechat.web.desk import Desk


@dataclass(frozen=True, kw_only=True)
class CardsView:
    """The Cards room."""

    strip: BarStrip
    packing: PackingList
    strip_address: str
    packing_address: str
    json_address: str
    gpx_address: str
    geojson_address: str
    csv_address: str
    schema_address: str


def cards_view(desk: Desk) -> CardsView:
    """Return what the Cards room shows."""
    ridden, variant = desk.evaluation.ridden, desk.variant
    name = desk.opened.plan.name
    return CardsView(
        strip=bar_strip(name, variant, ridden),
        packing=packing_list(name, variant, ridden),
        strip_address=desk.do("bar-strip.pdf"),
        packing_address=desk.do("packing-list.pdf"),
        json_address=desk.do("plan.json"),
        gpx_address=desk.do("course.gpx"),
        geojson_address=desk.do("course.geojson"),
        csv_address=desk.do("kit.csv"),
        schema_address="/schema/plan.json",
    )
