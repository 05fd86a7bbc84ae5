"""Electric things of a kit: what they draw, when, and what their batteries hold.

The figures of each kind are estimates in `power.csv`; what a thing's own label says (mAh, Wh, hours) comes first.
"""

import csv
from collections.abc import Iterable
from dataclasses import dataclass
from importlib import resources

from stonechat.core.kit.item import Item

CELL = 3.7  # V of one lithium cell, by which mAh on a label are energy
NAVIGATING = 1.6  # W that a phone draws where it is the only thing that navigates (estimate, 1 to 2.5)
_SHIFTING = ("shifting", 2.6, 0.02)  # name, Wh, W while riding, of electronic gears on the bike (estimates)


@dataclass(frozen=True, kw_only=True)
class Electric:
    """A thing with a battery, or one that draws."""

    id: str
    name: str
    role: str  # light, rear, navigation, phone, tracker, other, spare, bank, shifting
    capacity: float  # Wh
    riding: float  # W while riding
    dark: float  # W more while riding in the dark
    always: float  # W at any time
    charge: float  # W that it takes at most
    priority: int  # lower ones are charged first
    is_told: bool  # whether its battery is its own figure


@dataclass(frozen=True, kw_only=True)
class Electrics:
    """What is electric aboard."""

    devices: tuple[Electric, ...]  # by priority
    banks: tuple[Electric, ...]
    wall: float  # W that chargers for the wall give; 0: none is aboard
    has_hub_light: bool
    has_hub_charger: bool


def _usual() -> dict[str, dict[str, str]]:
    text = (resources.files(__package__) / "power.csv").read_text()
    return {row["kind"]: row for row in csv.DictReader(text.splitlines())}


USUAL = _usual()


def battery_of(item: Item) -> float | None:
    """Return the energy that a thing's label tells.

    Parameters
    ----------
    item : Item
        The thing.

    Returns
    -------
    energy : float or None
        Of all of them; mAh are of one cell of 3.7 V. None where the label says nothing. [Wh]

    Examples
    --------
    >>> battery_of(Item(id="b", name="bank", kind="power_bank", mass=0.2, volume=0.0, facts=(("mah", 10_000.0),)))
    37.0
    """
    energy, charge = item.fact("wh"), item.fact("mah")
    if energy is None and charge is None:
        return None
    each = energy if energy is not None else (charge or 0.0) / 1000.0 * CELL
    return each * item.quantity


def electrics_of(items: Iterable[Item], *, electronic: bool) -> Electrics:
    """Return what is electric of what is aboard.

    Parameters
    ----------
    items : iterable of Item
        All that goes along.
    electronic : bool
        Whether the bike shifts by battery.

    Returns
    -------
    electrics : Electrics
        Where no navigation unit is aboard the phone navigates.
    """
    listed = [item for item in items if item.kind in USUAL]
    navigates = any(item.kind == "gps_unit" for item in listed)
    found = [_electric(item, phone_navigates=not navigates) for item in listed]
    devices = [one for one in found if one.role not in ("bank", "wall", "hub_light", "hub_charger")]
    if electronic:
        name, capacity, draw = _SHIFTING
        devices.append(
            Electric(
                id="bike-shifting", name=name, role="shifting", capacity=capacity, riding=draw, dark=0.0, always=0.0,
                charge=2.5, priority=5, is_told=False,
            )
        )  # fmt: skip
    return Electrics(
        devices=tuple(sorted(devices, key=lambda one: (one.priority, one.id))),
        banks=tuple(one for one in found if one.role == "bank"),
        wall=sum(one.charge for one in found if one.role == "wall"),
        has_hub_light=any(one.role == "hub_light" for one in found),
        has_hub_charger=any(one.role == "hub_charger" for one in found),
    )


def _electric(item: Item, *, phone_navigates: bool) -> Electric:
    usual = USUAL[item.kind]
    told, run = battery_of(item), item.fact("run_h")
    dark, riding = float(usual["dark"]), float(usual["riding"])
    if told is None and run is not None and usual["role"] in ("light", "rear"):
        told = run * dark  # it says how long it runs, and the usual draw is what it runs with
    if item.kind == "phone" and phone_navigates:
        riding += NAVIGATING
    return Electric(
        id=item.id,
        name=item.name,
        role=usual["role"],
        capacity=told if told is not None else float(usual["wh"]) * item.quantity,
        riding=riding,
        dark=dark,
        always=float(usual["always"]),
        charge=float(usual["charge"]),
        priority=int(usual["priority"]),
        is_told=told is not None,
    )
