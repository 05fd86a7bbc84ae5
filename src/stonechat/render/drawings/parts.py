"""The bike by its parts, shaded by what their failures are expected to cost."""

from dataclasses import dataclass

from stonechat.core.kit.jobs import ENDING
from stonechat.core.mend.failures import PARTS
from stonechat.core.mend.report import Mend
from stonechat.render.filters import minutes_plain

WIDTH, HEIGHT = 620.0, 250.0
_PLACES = {  # x and y of a part's mark, and of its words
    "tyres": (132.0, 208.0, 20.0, 238.0),
    "wheels": (470.0, 160.0, 532.0, 130.0),
    "drivetrain": (258.0, 176.0, 200.0, 238.0),
    "brakes": (430.0, 128.0, 532.0, 92.0),
    "shoes": (292.0, 200.0, 350.0, 238.0),
    "seat": (226.0, 62.0, 60.0, 40.0),
    "front": (396.0, 66.0, 430.0, 22.0),
    "frame": (306.0, 128.0, 306.0, 156.0),
    "bags": (172.0, 84.0, 20.0, 84.0),
    "kit": (326.0, 66.0, 300.0, 22.0),
    "rider": (262.0, 34.0, 200.0, 14.0),
}
_STEPS = (1.0, 3.0, 8.0, 20.0)  # min, from which a shade is darker


@dataclass(frozen=True, kw_only=True)
class PartMark:
    """One part."""

    x: float
    y: float
    label_x: float
    label_y: float
    radius: float
    shade: int  # 0 lightest
    cost: float  # min
    name: str
    words: str


@dataclass(frozen=True, kw_only=True)
class PartsView:
    """All that the picture prints."""

    width: float
    height: float
    marks: tuple[PartMark, ...]
    words: str


def parts_drawing(mend: Mend) -> PartsView:
    """Return the picture; an ended ride counts as it is priced elsewhere."""
    cost = dict.fromkeys(PARTS, 0.0)
    for line in mend.lines:
        cost[line.failure.part] += line.outcome.minutes + ENDING * line.outcome.ending
    marks = []
    for part, (x, y, label_x, label_y) in _PLACES.items():
        if cost[part] <= 0.0:  # this bike has none of it
            continue
        shade = sum(cost[part] >= step for step in _STEPS)
        marks.append(
            PartMark(
                x=x, y=y, label_x=label_x, label_y=label_y, radius=7.0 + 3.0 * shade, shade=shade, cost=cost[part],
                name=PARTS[part], words=minutes_plain(cost[part]),
            )
        )  # fmt: skip
    told = ", ".join(f"{mark.name} {mark.words}" for mark in marks)
    return PartsView(width=WIDTH, height=HEIGHT, marks=tuple(marks), words=f"Expected to be lost by part: {told}.")
