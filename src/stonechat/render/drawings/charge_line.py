"""Every battery by the clock: what is left in it, nights as dark ground, sockets, the hub, where it is flat."""

from dataclasses import dataclass

from stonechat.core.charge.report import Charge
from stonechat.core.ledger.ridden import Ridden
from stonechat.render.drawings.along import ByClock, Tick, shortened
from stonechat.render.filters import percent

WIDTH, NARROW = 860.0, 366.0
_LEFT, _LEFT_NARROW, _RIGHT = 124.0, 104.0, 14.0
_TOP, _BAND, _GAP = 14.0, 44.0, 12.0
_LONG_NAME = 19  # letters of a name that are shown
_POINTS = 400  # points of a curve at most
_POINTS_ALL = 4_000  # points of all curves


@dataclass(frozen=True, kw_only=True)
class BatteryBand:
    """One battery by the clock."""

    name: str
    top: float
    bottom: float
    area: str  # points
    flat: tuple[tuple[float, float], ...]  # x and width where it is flat
    lowest: str
    least: tuple[float, float]  # x and y of the lowest point


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
    sockets: tuple[tuple[float, float], ...]  # x and width of halts at sockets
    hub: tuple[tuple[float, float], ...]  # of where the hub charges
    days: tuple[Tick, ...]
    words: str


def charge_line(ridden: Ridden, *, leg: int, narrow: bool = False) -> ChargeLine:
    """Return the picture of the batteries of a ridden race; spares are left out."""
    charge = ridden.report(Charge)
    width, left = (NARROW, _LEFT_NARROW) if narrow else (WIDTH, _LEFT)
    x = ByClock(ridden, width=width, left=left, right=_RIGHT)
    points_each = min(_POINTS, _POINTS_ALL // max(1, len(charge.lines)))
    steps, every = charge.steps, max(1, charge.steps.lengths.size // points_each)
    begins, ends = steps.begins, steps.begins + steps.lengths
    bands, top = [], _TOP
    for k, line in enumerate(charge.lines):
        if line.thing.role == "spare":
            continue
        share = charge.run.levels[:, k] / max(line.thing.capacity, 1e-9)
        points = [f"{x(0.0)},{top + _BAND:.1f}"]
        points += [
            f"{x(float(ends[i]))},{top + _BAND * (1.0 - float(share[i])):.1f}" for i in range(0, share.size, every)
        ]
        points.append(f"{x(x.length)},{top + _BAND:.1f}")
        bands.append(
            BatteryBand(
                name=shortened(line.thing.name, _LONG_NAME),
                top=top,
                bottom=top + _BAND,
                area=" ".join(points),
                flat=x.stretches(charge.empty(k), begins, ends) if line.is_flat else (),
                lowest=percent(line.lowest),
                least=(x(line.lowest_at), round(top + _BAND * (1.0 - line.lowest), 1)),
            )
        )
        top += _BAND + _GAP
    return ChargeLine(
        width=width,
        height=top + 18.0,
        left=left,
        right=x.right,
        bands=tuple(bands),
        nights=x.stretches(steps.dark, begins, ends),
        current=x.leg(ridden, leg),
        sockets=x.stretches(steps.wall > 0.0, begins, ends),
        hub=x.stretches(charge.run.hub > 0.0, begins, ends),
        days=x.marks(),
        words=_words(charge),
    )


def _words(charge: Charge) -> str:
    flat = ", ".join(line.thing.name for line in charge.flat) or "nothing"
    return f"What is left in every battery along the race; flat on the way: {flat}. The table below holds the same."
