"""Labels beside shapes: inside where there is room, else at the nearest free place with a thin line to the shape."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

_WIDE, _LINE = 6.5, 14.5  # width of a letter and height of a line at the drawing's type size
_GAP = 4.0


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

    def overlap(self, other: "Box") -> float:
        """Return the shared area."""
        wide = min(self.x + self.width, other.x + other.width) - max(self.x, other.x)
        high = min(self.y + self.height, other.y + other.height) - max(self.y, other.y)
        return max(0.0, wide) * max(0.0, high)


@dataclass(frozen=True, kw_only=True)
class Label:
    """Two lines of text at a place."""

    id: str
    first: str
    second: str
    state: str
    box: Box
    leader: tuple[float, float, float, float] | None  # from the shape to the text


def place_labels(
    wanted: Iterable[tuple[str, str, str, str, Box]],
    lines: Sequence[tuple[float, float, float, float]],
    width: float,
    height: float,
) -> tuple[Label, ...]:
    """Return a label for each shape (id, two lines, state, box); none touches another or leaves the sheet."""
    entries = list(wanted)
    shapes = [entry[4] for entry in entries]
    placed: list[Label] = []
    for label_id, first, second, state, shape in entries:
        size = (max(len(first), len(second)) * _WIDE + 2.0, 2.0 * _LINE)
        box = _best_place(shape, size, shapes, [label.box for label in placed], lines, (width, height))
        inside = _within(box, shape)
        leader = None if inside else _leader(shape, box)
        placed.append(Label(id=label_id, first=first, second=second, state=state, box=box, leader=leader))
    return tuple(placed)


def _within(box: Box, shape: Box) -> bool:
    return (
        box.x >= shape.x
        and box.y >= shape.y
        and box.x + box.width <= shape.x + shape.width
        and box.y + box.height <= shape.y + shape.height
    )


def _best_place(
    shape: Box,
    size: tuple[float, float],
    shapes: list[Box],
    taken: list[Box],
    lines: Sequence[tuple[float, float, float, float]],
    sheet: tuple[float, float],
) -> Box:
    wide, high = size
    best, lowest = None, math.inf
    for cost, x, y in _candidates(shape, wide, high):
        box = Box(x=x, y=y, width=wide, height=high)
        if x < 2 or y < 2 or x + wide > sheet[0] - 2 or y + high > sheet[1] - 2:
            continue
        if any(box.meets(other, _GAP) for other in taken):
            continue
        total = cost
        total += sum(0.08 * box.overlap(other) for other in shapes if other is not shape)
        total += 0.0 if _within(box, shape) else 0.05 * box.overlap(shape)
        total += sum(18.0 for line in lines if _crosses(line, box))
        if total < lowest:
            best, lowest = box, total
    if best is None:  # no free place at all: below the sheet's top edge, where nothing is drawn
        return Box(x=2.0, y=2.0, width=wide, height=high)
    return best


def _candidates(shape: Box, wide: float, high: float) -> Iterable[tuple[float, float, float]]:
    """Yield cost and corner of places: in the middle of a shape that is large enough, then around it."""
    mid_x, mid_y = shape.middle
    if wide + 8.0 <= 0.86 * shape.width and high <= 0.8 * shape.height:
        yield 0.0, mid_x - 0.5 * wide, mid_y - 0.5 * high
    for ring in range(1, 13):
        away = 12.0 * ring
        for step in range(24):
            turn = 2.0 * math.pi * step / 24
            x = mid_x + math.cos(turn) * (0.5 * shape.width + 0.5 * wide + away)
            y = mid_y + math.sin(turn) * (0.5 * shape.height + 0.5 * high + away)
            yield 10.0 + away, x - 0.5 * wide, y - 0.5 * high


def _crosses(line: tuple[float, float, float, float], box: Box) -> bool:
    x1, y1, x2, y2 = line
    for k in range(25):
        share = k / 24
        x, y = x1 + (x2 - x1) * share, y1 + (y2 - y1) * share
        if box.x - 3 <= x <= box.x + box.width + 3 and box.y - 3 <= y <= box.y + box.height + 3:
            return True
    return False


def _leader(shape: Box, box: Box) -> tuple[float, float, float, float]:
    """Return a line from the shape's middle to the nearest edge of the text."""
    x1, y1 = shape.middle
    x2 = min(max(x1, box.x), box.x + box.width)
    y2 = min(max(y1, box.y), box.y + box.height)
    return x1, y1, x2, y2
