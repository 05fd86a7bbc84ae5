"""Every battery along the route: what is left in it, nights as dark ground, where it is flat."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from stonechat.core.charge.report import Charge
from stonechat.core.ledger.ridden import Ridden
from stonechat.render.drawings.supply_line import Tick, dark_stretches, km_ticks
from stonechat.render.filters import percent

WIDTH, NARROW = 860.0, 366.0
_LEFT, _LEFT_NARROW, _RIGHT = 124.0, 104.0, 14.0
_TOP, _BAND, _GAP = 14.0, 44.0, 12.0
_POINTS = 400  # points of a curve at most


@dataclass(frozen=True, kw_only=True)
class BatteryBand:
    """One battery along the route."""

    name: str
    top: float
    bottom: float
    area: str  # points
    flat: tuple[tuple[float, float], ...]  # x and width where it is flat
    lowest: str


@dataclass(frozen=True, kw_only=True)
class ChargeLine:
    """All that the picture prints."""

    width: float
    height: float
    left: float
    right: float
    bands: tuple[BatteryBand, ...]
    nights: tuple[tuple[float, float], ...]
    current: tuple[float, float]
    sockets: tuple[float, ...]
    km: tuple[Tick, ...]
    words: str


def charge_line(ridden: Ridden, *, leg: int, narrow: bool = False) -> ChargeLine:
    """Return the picture of the batteries of a ridden race; spares are left out."""
    charge = ridden.report(Charge)
    width, left = (NARROW, _LEFT_NARROW) if narrow else (WIDTH, _LEFT)
    length, span = max(ridden.way.profile.length, 1.0), width - left - _RIGHT

    def x(metres: float) -> float:
        return round(left + span * metres / length, 1)

    steps, every = charge.steps, max(1, charge.steps.lengths.size // _POINTS)
    bands, top = [], _TOP
    for k, line in enumerate(charge.lines):
        if line.thing.role == "spare":
            continue
        share = charge.run.levels[:, k] / max(line.thing.capacity, 1e-9)
        points = [f"{x(0.0)},{top + _BAND:.1f}"]
        points += [
            f"{x(float(steps.distances[i]))},{top + _BAND * (1.0 - float(share[i])):.1f}"
            for i in range(0, share.size, every)
        ]
        points.append(f"{x(length)},{top + _BAND:.1f}")
        bands.append(
            BatteryBand(
                name=line.thing.name if len(line.thing.name) < 20 else f"{line.thing.name[:18]}…",
                top=top,
                bottom=top + _BAND,
                area=" ".join(points),
                flat=_stretches(x, charge, k) if line.is_flat else (),
                lowest=percent(line.lowest),
            )
        )
        top += _BAND + _GAP
    here = ridden.timetable.legs[leg]
    return ChargeLine(
        width=width,
        height=top + 18.0,
        left=left,
        right=width - _RIGHT,
        bands=tuple(bands),
        nights=dark_stretches(x, ridden),
        current=(x(here.start), max(1.0, x(here.end) - x(here.start))),
        sockets=tuple(x(float(at)) for at in np.unique(steps.distances[(steps.speeds == 0.0) & (steps.outside > 0.0)])),
        km=km_ticks(x, length, span),
        words=_words(charge),
    )


def _stretches(x: Callable[[float], float], charge: Charge, k: int) -> tuple[tuple[float, float], ...]:
    """Return x and width of where a battery is empty."""
    edges = np.flatnonzero(np.diff(np.concatenate(([0], charge.empty(k).astype(np.int8), [0]))))
    at = charge.steps.distances
    spans = ((x(float(at[a])), x(float(at[b - 1]))) for a, b in zip(edges[::2], edges[1::2], strict=True))
    return tuple((begin, max(1.5, end - begin)) for begin, end in spans)


def _words(charge: Charge) -> str:
    flat = ", ".join(line.thing.name for line in charge.flat) or "nothing"
    return f"What is left in every battery along the race; flat on the way: {flat}. The table below holds the same."
