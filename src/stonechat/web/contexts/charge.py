"""What the Charge room shows."""

from dataclasses import dataclass

from stonechat.core.charge.report import BatteryLine, Charge
from stonechat.render.drawings.charge_line import ChargeLine, charge_line
from stonechat.render.filters import distance_km
from stonechat.text import listed
from stonechat.web.desk import Desk

_ROLES = {
    "light": "front light", "rear": "rear light", "navigation": "navigation", "phone": "phone", "tracker": "tracker",
    "other": "other", "spare": "spare, not used", "bank": "bank", "shifting": "gears",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class BatteryRow:
    """One battery."""

    name: str
    role: str
    usual: bool  # whether usual figures stand for its own
    capacity: float  # Wh
    lowest: float  # 1
    where: str
    ends: float  # 1
    flat: str
    address: str


@dataclass(frozen=True, kw_only=True)
class ChargeView:
    """The Charge room."""

    headline: str
    dark: float  # h
    light: float  # h
    stored: float  # Wh
    wall: float  # Wh
    hub: float  # Wh
    used: float  # Wh
    lost: float  # Wh
    pictures: tuple[tuple[str, ChargeLine], ...]
    rows: tuple[BatteryRow, ...]
    doubted: str
    no_wall: bool
    is_empty: bool
    kit_address: str


def charge_view(desk: Desk) -> ChargeView:
    """Return what the Charge room shows."""
    ridden = desk.evaluation.ridden
    charge = ridden.report(Charge)
    empty = not charge.lines
    return ChargeView(
        headline=_headline(charge),
        dark=charge.dark_hours,
        light=charge.light_hours,
        stored=charge.stored,
        wall=charge.wall,
        hub=charge.hub,
        used=charge.run.used,
        lost=charge.run.lost,
        pictures=()
        if empty
        else (
            ("wide", charge_line(ridden, leg=desk.leg)),
            ("narrow", charge_line(ridden, leg=desk.leg, narrow=True)),
        ),
        rows=tuple(_row(desk, line) for line in charge.lines),
        doubted=listed([bank.name for bank in charge.doubted], 3),
        no_wall=not empty and charge.electrics.wall <= 0.0,
        is_empty=empty,
        kit_address=desk.at("kit"),
    )


def _headline(charge: Charge) -> str:
    if not charge.lines:
        return "Nothing electric aboard"
    if charge.flat:
        first = charge.flat[0]
        return f"{first.thing.name[:1].upper()}{first.thing.name[1:]} is flat from {distance_km(first.flat_km or 0.0)}"
    return f"Nothing goes flat; {charge.spare:.0f} Wh to spare"


def _row(desk: Desk, line: BatteryLine) -> BatteryRow:
    known = any(item.id == line.thing.id for item in desk.evaluation.ridden.kit.items)
    flat = "" if line.flat_km is None else f"from {distance_km(line.flat_km)}, lacks {line.unmet:.0f} Wh"
    return BatteryRow(
        name=line.thing.name,
        role=_ROLES[line.thing.role],
        usual=not line.thing.is_told,
        capacity=line.thing.capacity,
        lowest=line.lowest,
        where="" if line.thing.role == "spare" else distance_km(line.lowest_km),
        ends=line.ends,
        flat=flat,
        address=desk.at("kit", open=line.thing.id) if known else "",
    )
