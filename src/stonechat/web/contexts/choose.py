"""What the page shows on which a plan begins: what a course file holds, and what the rider says of the plan."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from stonechat.core.kit.item import CATEGORIES, Item
from stonechat.core.line.surface import SURFACES
from stonechat.core.line.track import step_lengths
from stonechat.core.numerics.arrays import FloatArray
from stonechat.formats.course_file import CourseFile, CourseLine, unbroken_parts
from stonechat.web.forms.begin import BeginForm, begin_values
from stonechat.web.forms.binding import BoundForm, start_values

_HEIGHTS = (("file", "as the file has them"), ("flat", "flat"), ("table", "from a table of distance and height"))
_SHAPE_POINTS = 300


@dataclass(frozen=True, kw_only=True)
class LineChoice:
    """A line of the file."""

    name: str
    kind: str
    points: int
    length: float  # m, gaps ridden across
    gaps: tuple[tuple[float, float], ...]  # m from the start, m across
    has_heights: bool
    shape: str  # path in a box of 100 by 60


MOST_SHOWN = 600  # things of the shelf on one page


@dataclass(frozen=True, kw_only=True)
class ChooseView:
    """A file to be looked over."""

    name: str
    address: str
    lines: tuple[LineChoice, ...]
    chosen: int
    given: Mapping[str, str]
    heights: tuple[tuple[str, str], ...]
    bare: tuple[str, ...]  # lines without heights
    surfaces: tuple[tuple[str, str], ...]
    needs_choice: bool
    places: int  # waypoints of the file
    length: float  # m of the chosen line
    begin: BoundForm[BeginForm]
    shelf: tuple[tuple[str, tuple[Item, ...]], ...]  # things by kind
    picked: frozenset[str]  # things of the shelf that are ticked
    unseen: int  # things of the shelf beyond those that the page shows
    here: tuple[tuple[str, str, datetime], ...]  # plans over this course: name, address, last changed
    error: str


def choose_view(
    file: CourseFile,
    *,
    address: str,
    given: Mapping[str, str],
    shelf: tuple[Item, ...],
    here: tuple[tuple[str, str, datetime], ...],
    form: BoundForm[BeginForm] | None = None,
    picked: frozenset[str] | None = None,
    error: str = "",
) -> ChooseView:
    """Return what the page shows of a file and of the plan to be."""
    line = given.get("line", "")
    chosen = int(line) if line.isdigit() and int(line) < len(file.lines) else file.longest
    lines = tuple(_line(entry) for entry in file.lines)
    return ChooseView(
        name=file.name,
        address=address,
        lines=lines,
        chosen=chosen,
        given=given,
        heights=_HEIGHTS,
        bare=tuple(line.name or "the line without a name" for line in file.lines if not line.has_heights),
        surfaces=tuple((surface.key, surface.name) for surface in SURFACES),
        needs_choice=file.needs_choice,
        places=len(file.waypoints),
        length=lines[chosen].length,
        begin=form or start_values(BeginForm, begin_values(_free_name(file, {name for name, _, _ in here}))),
        shelf=_by_kind(shelf[:MOST_SHOWN]),
        unseen=max(0, len(shelf) - MOST_SHOWN),
        picked=frozenset(item.id for item in shelf) if picked is None else picked,
        here=here,
        error=error,
    )


def _free_name(file: CourseFile, taken: set[str]) -> str:
    name = file.lines[file.longest].name or file.name
    number = 2
    while name in taken:
        name, number = f"{file.lines[file.longest].name or file.name} {number}", number + 1
    return name


def _by_kind(shelf: tuple[Item, ...]) -> tuple[tuple[str, tuple[Item, ...]], ...]:
    kinds = {key: tuple(item for item in shelf if item.category == key) for key in CATEGORIES}
    return tuple((CATEGORIES[key][0], items) for key, items in kinds.items() if items)


def _line(line: CourseLine) -> LineChoice:
    parts = unbroken_parts(line)
    gaps, at = [], 0.0
    for k, part in enumerate(parts):
        if k:
            across = _length(np.array([parts[k - 1][-1], part[0]]))
            gaps.append((at, across))
            at += across
        at += _length(part)
    return LineChoice(
        name=line.name,
        kind=line.kind,
        points=line.points,
        length=at,
        gaps=tuple(gaps),
        has_heights=line.has_heights,
        shape=_shape(parts),
    )


def _length(part: FloatArray) -> float:
    return float(step_lengths(part[:, 0], part[:, 1]).sum()) if len(part) > 1 else 0.0


def _shape(parts: tuple[FloatArray, ...]) -> str:
    """Return the line as seen from above, north up."""
    points = np.concatenate(parts)
    x = points[:, 1] * np.cos(np.radians(points[:, 0].mean()))
    y = -points[:, 0]
    span = max(float(np.ptp(x)) / 90.0, float(np.ptp(y)) / 50.0, 1e-9)
    paths, first = [], 0
    for part in parts:
        here = slice(first, first + len(part), max(1, len(part) * len(parts) // _SHAPE_POINTS))
        xs, ys = 5.0 + (x[here] - x.min()) / span, 5.0 + (y[here] - y.min()) / span
        paths.append("M" + "L".join(f"{a:.1f} {b:.1f}" for a, b in zip(xs, ys, strict=True)))
        first += len(part)
    return "".join(paths)
