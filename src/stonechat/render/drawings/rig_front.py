"""Bike and rider from the front, and what of the load stands in the wind, as a scene in drawing units."""

from dataclasses import dataclass

from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.fitting import Drag, drags_of
from stonechat.core.rig.front import Exposure, bike_front, carrier_front, exposures, rider_front

SCALE = 262.0  # drawing units per m
_MARGIN = 0.10  # m around all that is drawn


@dataclass(frozen=True, kw_only=True)
class FrontShape:
    """A carrier from the front."""

    id: str
    name: str
    letter: str
    outline: str
    hidden: bool  # all of it behind bike or rider
    outside: str  # the part that stands in the wind, to be hatched; empty where none does
    x: float  # where its letter goes
    y: float
    area: float  # m² outside the shadow
    drag: Drag


@dataclass(frozen=True, kw_only=True)
class FrontScene:
    """All that the drawing prints."""

    width: float
    height: float
    ground_y: float
    bike: str
    rider: str
    shapes: tuple[FrontShape, ...]
    area: float  # m², all that stands in the wind
    drag: float  # m², full
    low: float  # m²
    high: float  # m²
    title: str
    words: str


class _Sheet:
    def __init__(self, bounds: tuple[float, float, float, float]) -> None:
        left, _, right, top = bounds
        half = max(-left, right, 0.30) + _MARGIN
        self._half, self._top = half, top + 0.5 * _MARGIN
        self.width, self.height = 2.0 * half * SCALE, (self._top + 0.04) * SCALE

    def at(self, y: float, z: float) -> tuple[float, float]:
        """Return where a point is drawn; the rider's left is to the right, as one sees who comes towards one."""
        return (self._half + y) * SCALE, (self._top - z) * SCALE

    def path(self, shape: BaseGeometry) -> str:
        """Return a path of all rings of a shape."""
        text = ""
        for part in getattr(shape, "geoms", [shape]):
            if part.is_empty or part.geom_type != "Polygon":
                continue
            for ring in (part.exterior, *part.interiors):
                points = [self.at(y, z) for y, z in ring.simplify(0.001).coords[:-1]]
                text += "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in points) + "Z"
        return text


def _shape(sheet: _Sheet, bike: Bike, carrier: Carrier, seen: Exposure, drag: Drag, letter: str) -> FrontShape:
    middle = seen.whole.representative_point() if not seen.whole.is_empty else carrier_front(bike, carrier).centroid
    x, y = sheet.at(middle.x, middle.y)
    return FrontShape(
        id=carrier.id,
        name=carrier.name,
        letter=letter,
        outline=sheet.path(seen.whole),
        hidden=seen.area < 2e-4,
        outside=sheet.path(seen.outside),
        x=x,
        y=y,
        area=seen.area,
        drag=drag,
    )


def front_scene(bike: Bike, carriers: tuple[Carrier, ...], position: str, letters: dict[str, str]) -> FrontScene:
    """Return the drawing of a rig and its rider from the front."""
    hung = tuple(carrier for carrier in carriers if carrier.mounted)
    machine, rider = bike_front(bike), rider_front(bike, position, legs=True)
    seen, drags = exposures(bike, hung, position), drags_of(bike, hung, position)
    sheet = _Sheet(unary_union([machine, rider, *(carrier_front(bike, carrier) for carrier in hung)]).bounds)
    shapes = [
        _shape(sheet, bike, carrier, entry, drags[carrier.id], letters.get(carrier.id, ""))
        for carrier, entry in zip(hung, seen, strict=True)
    ]
    full = sum(shape.drag.full for shape in shapes)
    less = sum((shape.drag.full - shape.drag.low) ** 2 for shape in shapes) ** 0.5
    more = sum((shape.drag.high - shape.drag.full) ** 2 for shape in shapes) ** 0.5
    area = sum(shape.area for shape in shapes)
    return FrontScene(
        width=sheet.width,
        height=sheet.height,
        ground_y=sheet.at(0.0, 0.0)[1],
        bike=sheet.path(machine),
        rider=sheet.path(rider),
        shapes=tuple(shapes),
        area=area,
        drag=full,
        low=full - less,
        high=full + more,
        title=f"{bike.name} and rider from the front",
        words=f"{area * 1e4:.0f} cm² of the load stand outside the shadow of bike and rider. "
        + " ".join(f"{shape.name}: {shape.area * 1e4:.0f} cm²." for shape in shapes if shape.area > 1e-4),
    )
