"""Labels beside shapes: inside where there is room, else in the zone of their kind, one below the other.

Every label has a zone: a corner where the first one goes, and a step for the next. So labels of neighbours stand in a
column in the order of their shapes, their lines do not cross, and none touches another.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

_WIDE, _LINE = 7.0, 15.5  # width of a letter and height of a line at the drawing's type size
_GAP = 5.0
_MOST_STEPS = 60


@dataclass(frozen=True, kw_only=True)
class Box:
    """A rectangle; y points down."""

    x: float
    y: float
    width: float
    height: float

    @classmethod
    def around(cls, points: Sequence[tuple[float, float]]) -> "Box":
        """Return the smallest box around points."""
        xs, ys = [p[0] for p in points], [p[1] for p in points]
        return cls(x=min(xs), y=min(ys), width=max(xs) - min(xs), height=max(ys) - min(ys))

    @property
    def middle(self) -> tuple[float, float]:
        """Centre."""
        return self.x + 0.5 * self.width, self.y + 0.5 * self.height

    def meets(self, other: "Box", gap: float = 0.0) -> bool:
        """Tell whether two boxes overlap or stand nearer than a gap."""
        return (
            self.x < other.x + other.width + gap
            and other.x < self.x + self.width + gap
            and self.y < other.y + other.height + gap
            and other.y < self.y + self.height + gap
        )


@dataclass(frozen=True, kw_only=True)
class Zone:
    """Where labels of a kind go: the first at x, y (its left, middle or right there), the next a step away."""

    x: float
    y: float
    align: str  # left, middle or right
    step: float  # in y; negative goes up
    inside: bool = False  # in the middle of its shape where that is large enough


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """A label that wants a place."""

    ids: tuple[str, ...]
    first: str
    second: str
    state: str
    shape: Box
    zone: Zone


@dataclass(frozen=True, kw_only=True)
class Label:
    """Two lines of text at a place."""

    ids: tuple[str, ...]
    first: str
    second: str
    state: str
    box: Box
    leader: tuple[float, float, float, float] | None  # from the shape to the text


def place_labels(wanted: Iterable[Wanted], width: float, height: float) -> tuple[Label, ...]:
    """Return a label for each that is wanted; none touches another, and all lie on the sheet."""
    placed: list[Label] = []
    for entry in sorted(wanted, key=lambda w: (not w.zone.inside, w.shape.middle[1] * (1 if w.zone.step > 0 else -1))):
        taken = [label.box for label in placed]
        wide = max(len(entry.first), len(entry.second)) * _WIDE + 2.0
        box = _inside(entry, wide, taken) or _in_zone(entry.zone, wide, taken, width, height)
        leader = None if _holds(entry.shape, box) else _leader(entry.shape, box)
        placed.append(
            Label(ids=entry.ids, first=entry.first, second=entry.second, state=entry.state, box=box, leader=leader)
        )
    return tuple(placed)


def _inside(entry: Wanted, wide: float, taken: list[Box]) -> Box | None:
    shape = entry.shape
    if not entry.zone.inside or wide > 0.87 * shape.width or 0.85 * shape.height < 2.0 * _LINE:
        return None
    x, y = shape.middle
    box = Box(x=x - 0.5 * wide, y=y - _LINE, width=wide, height=2.0 * _LINE)
    return None if any(box.meets(other, _GAP) for other in taken) else box


def _in_zone(zone: Zone, wide: float, taken: list[Box], width: float, height: float) -> Box:
    left = zone.x - {"left": 0.0, "middle": 0.5 * wide, "right": wide}[zone.align]
    x = min(max(2.0, left), width - wide - 2.0)
    tall = 2.0 * _LINE
    for step in [*range(_MOST_STEPS), *range(-1, -_MOST_STEPS, -1)]:
        box = Box(x=x, y=zone.y + 0.25 * step * zone.step, width=wide, height=tall)
        on_sheet = 2.0 <= box.y <= height - tall - 2.0
        if on_sheet and not any(box.meets(other, _GAP) for other in taken):
            return box
    return Box(x=x, y=2.0, width=wide, height=tall)


def _holds(shape: Box, box: Box) -> bool:
    return (
        box.x >= shape.x
        and box.y >= shape.y
        and box.x + box.width <= shape.x + shape.width
        and box.y + box.height <= shape.y + shape.height
    )


def _leader(shape: Box, box: Box) -> tuple[float, float, float, float]:
    """Return a line from the shape's middle to the nearest edge of the text."""
    x1, y1 = shape.middle
    x2 = min(max(x1, box.x - 3.0), box.x + box.width + 3.0)
    y2 = min(max(y1, box.y), box.y + box.height)
    return x1, y1, x2, y2
