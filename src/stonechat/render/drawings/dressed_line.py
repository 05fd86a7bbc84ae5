"""What is worn along the route: air and what is felt riding, the pieces as bands beneath, rests and cold descents."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.night.garments import ZONES
from stonechat.core.night.ladder import DESCENT, Ladder, Piece
from stonechat.core.night.report import RestWarmth, Warmth
from stonechat.core.night.riding import wind_chill
from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.render.drawings.along import Along, Placing, Tick, shortened
from stonechat.render.filters import kelvin, temperature

WIDTH, NARROW = 860.0, 366.0
_LEFT, _LEFT_NARROW, _RIGHT = 124.0, 104.0, 14.0
_TOP, _CURVE, _ROW, _ZONE_GAP = 50.0, 150.0, 19.0, 7.0
_NAMED = 4  # descents and rests that are named
_COOL = 8.0  # °C felt, from which a descent is worth a name
_APART = 96.0  # least distance between two names
_LONG_NAME, _LONG_NAME_NARROW = 21, 16  # letters of a piece's name that are shown


@dataclass(frozen=True, kw_only=True)
class PieceRow:
    """When one piece is worn."""

    name: str
    y: float
    bars: tuple[tuple[float, float], ...]  # x and width
    words: str


@dataclass(frozen=True, kw_only=True)
class ZoneBlock:
    """The pieces of one zone, and where it is too cold."""

    name: str
    top: float
    bottom: float
    rows: tuple[PieceRow, ...]
    cold: tuple[tuple[float, float], ...]  # x and width


@dataclass(frozen=True, kw_only=True)
class RestMark:
    """A rest on the route."""

    x: float
    label: str
    is_cold: bool
    in_bed: bool


@dataclass(frozen=True, kw_only=True)
class Named:
    """A descent that is named."""

    x: float
    y: float
    text: str


@dataclass(frozen=True, kw_only=True)
class DressedLine:
    """All that the picture prints."""

    width: float
    height: float
    left: float
    right: float
    top: float
    bottom: float  # of the curves
    air: str  # path
    felt: str  # path
    freezing: float | None  # y of 0 °C
    ticks: tuple[Tick, ...]
    nights: tuple[tuple[float, float], ...]
    rain: tuple[tuple[float, float], ...]
    current: tuple[float, float]
    rests: tuple[RestMark, ...]
    named: tuple[Named, ...]
    zones: tuple[ZoneBlock, ...]
    km: tuple[Tick, ...]
    words: str


def dressed_line(ridden: Ridden, *, leg: int, narrow: bool = False) -> DressedLine:
    """Return the picture of what is worn along a ridden race."""
    ladder = ridden.report(Ladder)
    spells = ladder.spells
    width, left = (NARROW, _LEFT_NARROW) if narrow else (WIDTH, _LEFT)
    x = Along(ridden, width=width, left=left, right=_RIGHT)
    air = spells.going.temps
    felt = wind_chill(air, spells.going.speeds)
    low, high = float(min(felt.min(), 0.0)) - 1.0, float(max(air.max(), 5.0)) + 1.0

    def y(temp: float) -> float:
        return round(_TOP + _CURVE * (high - temp) / (high - low), 1)

    def path(values: FloatArray) -> str:
        return "M" + " L".join(
            f"{x(a)},{y(v)} L{x(b)},{y(v)}" for a, b, v in zip(spells.begins, spells.ends, values.tolist(), strict=True)
        )

    def bars(on: BoolArray) -> tuple[tuple[float, float], ...]:
        return x.stretches(on, spells.begins, spells.ends)

    zones, top = [], _TOP + _CURVE + 30.0
    for zone in ZONES:
        shown = [piece for piece in ladder.pieces if piece.garment.cut.zone == zone and _is_told(piece)]
        entry = ladder.zones[zone]
        if not shown and not (entry.margin < 0.0).any():
            continue
        rows = tuple(
            PieceRow(
                name=shortened(piece.garment.name, _LONG_NAME_NARROW if narrow else _LONG_NAME),
                y=top + _ROW * k,
                bars=bars(entry.worn(piece.garment.id)),
                words=f"{piece.garment.name}: worn {piece.hours:.1f} h",
            )
            for k, piece in enumerate(shown)
        ) or (PieceRow(name=f"{zone}: too cold", y=top, bars=(), words=""),)
        zones.append(
            ZoneBlock(name=zone, top=top, bottom=top + _ROW * len(rows), rows=rows, cold=bars(entry.margin < 0.0))
        )
        top += _ROW * len(rows) + _ZONE_GAP
    return DressedLine(
        width=width,
        height=top + 22.0,
        left=left,
        right=x.right,
        top=_TOP,
        bottom=_TOP + _CURVE,
        air=path(air),
        felt=path(felt),
        freezing=y(0.0) if low < 0.0 < high else None,
        ticks=tuple(Tick(at=y(value), text=temperature(value)) for value in _round(low, high)),
        nights=x.dark(ridden),
        rain=bars(spells.wet),
        current=x.leg(ridden, leg),
        rests=tuple(_rest_mark(x, rest) for rest in ridden.report(Warmth).rests),
        named=() if narrow else _named(ladder, felt, x, y),
        zones=tuple(zones),
        km=x.marks(),
        words=_words(ladder, felt),
    )


def _is_told(piece: Piece) -> bool:
    """Tell whether a piece has a row: not what is on from start to finish, nor what stays in the bag."""
    return piece.hours > 0.0 and not (piece.garment.is_on and piece.changes == 0)


def _round(low: float, high: float) -> list[float]:
    step = next(s for s in (2.0, 5.0, 10.0, 20.0) if (high - low) / s <= 6.0 or s == 20.0)
    return [float(value) for value in np.arange(np.ceil(low / step) * step, high, step)]


def _rest_mark(x: Placing, rest: RestWarmth) -> RestMark:
    label = "bed" if rest.in_bed else "too cold" if rest.is_danger else kelvin(rest.margin)
    return RestMark(x=x(rest.distance), label=label, is_cold=not rest.in_bed and rest.margin < 0.0, in_bed=rest.in_bed)


def _named(ladder: Ladder, felt: FloatArray, x: Placing, y: Placing) -> tuple[Named, ...]:
    """Return the coldest descents that have room for a name."""
    spells, found = ladder.spells, list[Named]()
    for k in sorted(np.flatnonzero(spells.descends).tolist(), key=lambda k: float(felt[k])):
        at = x(0.5 * float(spells.begins[k] + spells.ends[k]))
        if float(felt[k]) <= _COOL and len(found) < _NAMED and all(abs(at - other.x) >= _APART for other in found):
            text = f"down {spells.lengths[k] / 60.0:.0f} min, {temperature(float(felt[k]))}"
            found.append(Named(x=at, y=y(float(felt[k])), text=text))
    return tuple(found)


def _words(ladder: Ladder, felt: FloatArray) -> str:
    k = int(np.argmin(felt))
    descents = ladder.spells.kinds.count(DESCENT)
    return (
        f"What is worn along the race: {len(ladder.changes)} changes over {descents} descents; coldest felt "
        f"{temperature(float(felt[k]))} at km {ladder.spells.begins[k] / 1e3:.0f}. The tables below hold the same."
    )
