"""Electric things of a kit: what they draw, when, what their batteries hold, and what they give.

The figures of each kind are estimates in `power.csv`; what a thing's own label says (mAh, Wh, W, hours, lumens) comes
first.
"""

import csv
import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from importlib import resources

from stonechat.core.charge.plugs import Lead, Plug, leads_of, plug_of
from stonechat.core.kit.facts import FACTS
from stonechat.core.kit.item import Item
from stonechat.errors import InvalidInput

CELL = 3.7  # V of one lithium cell, by which mAh on a label are energy where it tells no voltage
NAVIGATING = 1.6  # W that a phone draws where it is the only thing that navigates (estimate, 1 to 2.5)
PER_WATT = 125.0  # lm of a lamp for each watt from its battery (100 to 150, estimate)
MODES = {"low": 1.7 / 7.0, "mid": 3.2 / 7.0, "high": 1.0}  # 1, of what a lamp draws at its brightest (estimates)
OUT_OF = 0.85  # 1, of what a bank's cells give that comes out of its socket (0.8 to 0.92, estimate)
BAND = 0.25  # 1, by which what a device draws may be off where only its kind is known (estimate)
_SHIFTING = ("electronic gears", 2.6, 0.02)  # name, Wh, W while riding, of electronic gears on the bike (estimates)
_SETS = {"aaa": 1.6, "aa": 4.0, "18650": 11.0, "21700": 17.0, "cr123": 4.5}  # Wh of a cell by its size (estimates)
_WORDS = {"dual": 2, "double": 2, "two": 2, "twin": 2, "three": 3, "triple": 3, "four": 4}
_PORTS = re.compile(r"\b(\d|dual|double|two|twin|three|triple|four)[\s-]*(?:x\s*)?(?:ports?|outlets?|usb|outputs?)\b")


@dataclass(frozen=True, kw_only=True)
class Electric:
    """A thing with a battery, or one that draws or gives."""

    id: str
    name: str
    kind: str
    role: str  # light, rear, navigation, phone, tracker, other, spare, shifting, bank, cell, wall, hub_charger, panel
    capacity: float  # Wh
    riding: float = 0.0  # W while riding
    dark: float = 0.0  # W more while riding in the dark; of a lamp in its middle mode
    always: float = 0.0  # W at any time
    charge: float = 0.0  # W that it takes at most
    priority: int = 9  # lower ones are charged first
    is_told: bool = False  # whether its battery is its own figure
    draw_told: bool = False  # whether what it draws is its own figure
    gives: float = 0.0  # W that it gives at most, all outlets together
    ports: int = 0  # outlets
    plug: Plug | None = None  # by which it is charged, or that its outlet has; None: none
    keeps: float = 1.0  # 1, of what a bank's cells give that comes out of its socket
    passes: bool = False  # whether a bank gives while it is charged
    while_on: bool = True  # whether it can be charged while it is on
    cells: int = 0  # sets of cells that can be changed on the way
    cell_energy: float = 0.0  # Wh of such a set

    def mode(self, name: str) -> float:
        """Return what a lamp draws in one of MODES. [W]"""
        return self.dark * MODES[name] / MODES["mid"]

    @property
    def at_work(self) -> float:
        """What it draws at its work: riding by day, or in the dark where it works only then. [W]"""
        return self.riding + self.always or self.dark

    @property
    def draws(self) -> bool:
        """Whether it draws anything in a race."""
        return self.riding + self.dark + self.always > 0.0


@dataclass(frozen=True, kw_only=True)
class Electrics:
    """What is electric aboard."""

    devices: tuple[Electric, ...]  # by priority
    banks: tuple[Electric, ...]
    walls: tuple[Electric, ...]  # chargers for the wall
    panels: tuple[Electric, ...]
    hub_charger: Electric | None
    has_hub_light: bool
    has_hub_rear: bool
    leads: tuple[Lead, ...]
    cells_unused: tuple[str, ...]  # names of cells that no device is known to take
    assumes_leads: bool  # whether each battery is taken to have a lead, as no lead is named at all

    @property
    def batteries(self) -> tuple[Electric, ...]:
        """What holds energy: devices, then banks."""
        return (*self.devices, *self.banks)

    @property
    def wall(self) -> float:
        """What chargers for the wall give together. [W]"""
        return sum(one.gives for one in self.walls)

    @property
    def wall_ports(self) -> int:
        """Their outlets."""
        return sum(one.ports for one in self.walls)


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
        Of all of them; mAh are at its own voltage, else of one cell of 3.7 V. None where the label says nothing. [Wh]

    Examples
    --------
    >>> battery_of(Item(id="b", name="bank", kind="power_bank", mass=0.2, volume=0.0, facts=(("mah", 10_000.0),)))
    37.0
    """
    energy, charge = item.fact("wh"), item.fact("mah")
    if energy is None and charge is None:
        return None
    volts = item.fact("volts")
    each = energy if energy is not None else (charge or 0.0) / 1000.0 * (CELL if volts is None else volts)
    return each * item.quantity


def ports_of(item: Item, usual: int) -> int:
    """Return how many outlets a charger or bank has.

    Parameters
    ----------
    item : Item
        The thing.
    usual : int
        Of its kind. [1]

    Returns
    -------
    ports : int
        By its figure, else by its name, else as usual. [1]

    Examples
    --------
    >>> ports_of(Item(id="w", name="wall charger two ports", mass=0.1, volume=0.0), 1)
    2
    """
    told = item.fact("ports")
    found = _PORTS.search(item.name.lower())
    each = told if told is not None else usual
    if told is None and found:
        each = _WORDS.get(found[1]) or int(found[1])
    return int(each) * item.quantity


def electrics_of(items: Iterable[Item], *, electronic: bool, assume_leads: bool | None = None) -> Electrics:
    """Return what is electric of what is aboard.

    Parameters
    ----------
    items : iterable of Item
        All that goes along.
    electronic : bool
        Whether the bike shifts by battery.
    assume_leads : bool, optional
        Whether each battery is taken to have a lead; else where no lead is named.

    Returns
    -------
    electrics : Electrics
        Where no navigation unit is aboard the phone navigates.
    """
    everything = list(items)
    listed = [item for item in everything if item.kind in USUAL]
    navigates = any(item.kind == "gps_unit" for item in listed)
    found = [_electric(item, phone_navigates=not navigates) for item in listed]
    giving = ("bank", "wall", "hub_light", "hub_charger", "panel", "cell")
    devices = [one for one in found if one.role not in giving]
    if electronic:
        name, capacity, draw = _SHIFTING
        devices.append(
            Electric(
                id="bike-shifting", name=name, kind="", role="shifting", capacity=capacity, riding=draw, charge=2.5,
                priority=5, plug=Plug.SHIFTING,
            )
        )  # fmt: skip
    leads = leads_of(everything)
    devices, unused = _with_cells(devices, [item for item in listed if USUAL[item.kind]["role"] == "cell"])
    return Electrics(
        devices=tuple(sorted(devices, key=lambda one: (one.priority, one.id))),
        banks=tuple(one for one in found if one.role == "bank"),
        walls=tuple(one for one in found if one.role == "wall"),
        panels=tuple(one for one in found if one.role == "panel"),
        hub_charger=next((one for one in found if one.role == "hub_charger"), None),
        has_hub_light=any(one.kind == "dynamo_light" for one in found),
        has_hub_rear=any(one.kind == "dynamo_rear" for one in found),
        leads=leads,
        assumes_leads=not leads if assume_leads is None else assume_leads,
        cells_unused=unused,
    )


def _electric(item: Item, *, phone_navigates: bool) -> Electric:
    usual = USUAL[item.kind]
    role, dark, riding, always = usual["role"], *(float(usual[key]) for key in ("dark", "riding", "always"))
    told, run, watts, lumens = battery_of(item), item.fact("run_h"), item.fact("watts"), item.fact("lumens")
    capacity = told if told is not None else float(usual["wh"]) * item.quantity
    draw_told = False
    if role == "light":
        brightest = watts if watts is not None else None if lumens is None else lumens / PER_WATT
        if brightest is not None:
            dark, draw_told = brightest * MODES["mid"], watts is not None
    if run is not None and role in ("light", "rear"):
        if told is None:
            capacity = told = run * dark  # it says how long it runs, and the usual draw is what it runs with
        else:
            dark, draw_told = capacity / run, True
    elif run is not None and riding + always > 0.0:
        scale = capacity / run / (riding + always)
        riding, always, draw_told = riding * scale, always * scale, True
        told = capacity  # how long it runs is known, however much that is
    elif watts is not None and role != "light":
        riding, dark, always, draw_told = *_drawn(watts, riding, dark, always), True
    if item.kind == "phone" and phone_navigates:
        riding += NAVIGATING
    gives, share = float(usual["gives"]), item.fact("share_out")
    return Electric(
        id=item.id,
        name=item.name,
        kind=item.kind,
        role=role,
        capacity=capacity,
        riding=riding,
        dark=dark,
        always=always,
        charge=float(usual["charge"]),
        priority=int(usual["priority"]),
        is_told=told is not None,
        draw_told=draw_told,
        gives=(watts if watts is not None and gives > 0.0 else gives) * item.quantity,
        ports=ports_of(item, int(usual["ports"])) if int(usual["ports"]) else 0,
        plug=plug_of(item.name, usual["plug"]) if usual["plug"] else None,
        keeps=(OUT_OF if share is None else share / 100.0) if role == "bank" else 1.0,
        passes=item.fact("passes") == 1.0 or "pass-through" in item.name.lower() or "passthrough" in item.name.lower(),
        while_on=usual["while_on"] == "1",
    )


def with_draw(item: Item, thing: Electric, watts: float) -> Item:
    """Return a thing whose own figures make it draw so much at its work.

    Parameters
    ----------
    item : Item
        As it is.
    thing : Electric
        What `electrics_of` makes of it.
    watts : float
        What it shall draw. [W]

    Returns
    -------
    item : Item
        With its power as its own figure, by which a run time of its own gives way.

    Raises
    ------
    InvalidInput
        If a thing of its kind cannot draw so much.
    """
    kept = {key: value for key, value in item.facts if key not in ("run_h", "lumens")}
    if item.fact("run_h") is not None and battery_of(item) is None:
        kept["wh"] = round(thing.capacity / item.quantity, 3)  # which its run time told

    def drawing(own: float) -> Item:
        told = {**kept, "watts": own}
        return replace(item, facts=tuple((key, told[key]) for key in FACTS if key in told))

    # its own figure is one part of what it draws, or what it draws at its brightest: read from two trials
    navigates = thing.kind == "phone" and thing.riding >= NAVIGATING
    one, two = (_electric(drawing(own), phone_navigates=navigates).at_work for own in (1.0, 2.0))
    own, fact = (watts - (2.0 * one - two)) / (two - one), FACTS["watts"]
    if not fact.low <= own <= fact.high:
        raise InvalidInput(f"{item.name} cannot draw {watts:.3g} W at its work. Were the notes right?", subject=item.id)
    return drawing(round(own, 4))


def _drawn(watts: float, riding: float, dark: float, always: float) -> tuple[float, float, float]:
    """Return draws where one figure is told: it is what the thing draws when it is at its work. [W]"""
    if riding > 0.0:
        return watts, dark, always
    return (riding, watts, always) if dark > 0.0 else (riding, dark, watts if always > 0.0 else 0.0)


def _with_cells(devices: list[Electric], cells: list[Item]) -> tuple[list[Electric], tuple[str, ...]]:
    """Give devices the spare cells that fit them; return the names of those that fit nothing."""
    unused = []
    for item in cells:
        told, size = battery_of(item), _size_of(item.name)
        energy = told if told is not None else float(USUAL[item.kind]["wh"]) * item.quantity
        if item.kind == "batteries" and told is None and size:
            energy = _SETS[size] * item.quantity
        takers = [k for k, one in enumerate(devices) if _takes(one, item.kind, size) and not one.cells]
        if not takers:
            unused.append(item.name)
            continue
        best = min(takers, key=lambda k: (not devices[k].draws, devices[k].priority))
        each = devices[best].capacity if item.kind == "batteries" else energy / item.quantity
        sets = int(energy / each + 1e-6) if each > 0.0 else 0
        devices[best] = replace(devices[best], cells=sets, cell_energy=min(each, devices[best].capacity))
    return devices, tuple(unused)


def _takes(device: Electric, kind: str, size: str) -> bool:
    if kind == "shift_battery":
        return device.role == "shifting"
    if kind == "light_battery":
        return device.role == "light"
    return bool(size) and _size_of(device.name) == size


def _size_of(name: str) -> str:
    words = set(re.findall(r"[a-z0-9]+", name.lower()))
    return next((size for size in _SETS if size in words), "")
