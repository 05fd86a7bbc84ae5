"""Kinds of things: one row each in `kinds.csv`, with the words for them and what is usual of them.

Masses, volumes, sides and reaches are estimates, written down from what such things are commonly sold and packed as;
each has a band. How to add one: docs/builders/how-to/add-a-kind-of-thing.md.
"""

import csv
import re
from collections.abc import Mapping
from dataclasses import dataclass
from importlib import resources

from stonechat.core.kit.bolts import TOOLS
from stonechat.core.kit.item import CATEGORIES, Carried, Reaches
from stonechat.core.kit.jobs import JOBS
from stonechat.core.rig.carrier import ACCESS_RANK
from stonechat.core.rig.spots import SPOTS

FIELDS = {  # field of the kit: name, and the category that its things belong to
    "sleep": ("sleep", "sleep"),
    "worn": ("worn", "clothes"),
    "rain": ("rain", "clothes"),
    "hands": ("hands", "clothes"),
    "feet": ("feet", "clothes"),
    "winter": ("snow and ice", "other"),
    "tools": ("tools", "tools"),
    "tyre": ("tyre repair", "tools"),
    "drivetrain": ("drivetrain", "tools"),
    "wheels": ("wheels", "tools"),
    "brakes": ("brakes", "tools"),
    "bags": ("bags and straps", "other"),
    "light": ("light", "power"),
    "power": ("power", "power"),
    "navigation": ("navigation", "navigation"),
    "phone": ("phone", "navigation"),
    "filming": ("filming", "power"),
    "water": ("water", "other"),
    "treatment": ("water treatment", "hygiene"),
    "cooking": ("cooking", "other"),
    "food": ("food", "food"),
    "hygiene": ("hygiene", "hygiene"),
    "skin": ("skin", "hygiene"),
    "medicine": ("medicine", "hygiene"),
    "papers": ("papers", "papers"),
    "money": ("money", "papers"),
    "animals": ("animals", "other"),
    "comfort": ("comfort", "other"),
    "race": ("race kit", "other"),
}
MARKS = frozenset(
    {
        "dry",
        "fragile",
        "leaks",
        "spoils",
        "sky",
        "sight",
        "freezes",
        "melts",
        "never",
        "sharp",
        "holds",
        "makes_dry",
        "carrier",
    }
)  # what may be true of a kind


@dataclass(frozen=True, kw_only=True)
class Usual:
    """A usual figure with the least and most that are common."""

    low: float
    usual: float
    high: float


@dataclass(frozen=True, kw_only=True)
class Kind:
    """One kind of thing."""

    key: str
    title: str
    words: tuple[str, ...]  # what riders call it
    but_not: tuple[str, ...]  # words beside which it is something else
    field: str  # key of FIELDS
    carried: Carried  # how it usually goes along
    spot: str = ""  # where it is fixed, key of SPOTS
    mass: Usual  # kg each
    volume: Usual  # m³ each, packed
    length: float = 0.0  # m, longest rigid side; 0: bends
    access: str  # key of ACCESS_RANK
    reaches: Reaches
    jobs: frozenset[str] = frozenset()  # keys of JOBS
    tools: frozenset[str] = frozenset()  # keys of TOOLS
    marks: frozenset[str] = frozenset()  # of MARKS

    @property
    def category(self) -> str:
        """Category of the kit, key of CATEGORIES."""
        return FIELDS[self.field][1]

    @property
    def never_cut(self) -> bool:
        """Whether it is never offered to be left at home."""
        return "never" in self.marks

    @property
    def is_bag(self) -> bool:
        """Whether it is a carrier of the rig rather than a thing that is packed."""
        return "carrier" in self.marks

    @property
    def ends_rides(self) -> bool:
        """Whether a ride may end for want of it."""
        return any(JOBS[key].ends > 0.0 for key in self.jobs)


def _usual(text: str, unit: float) -> Usual:
    low, usual, high = (float(part) / unit for part in text.split("/"))
    if not 0.0 <= low <= usual <= high:
        raise ValueError(f"{text}: a band is low/usual/high.")
    return Usual(low=low, usual=usual, high=high)


def _reaches(text: str) -> Reaches:
    """Return reaches from `1 rain4`: 1 a day, 4 more on a wet one."""
    found: dict[str, float] = {}
    for part in text.split():
        match = re.fullmatch(r"([a-z]*)([\d.]+)", part)
        if match is None:
            raise ValueError(f"{part}: reaches are a figure, or a condition and a figure.")
        found[match[1] or "per_day"] = float(match[2])
    return Reaches(**found)


def _known(words: str, known: Mapping[str, object] | frozenset[str], what: str) -> frozenset[str]:
    found = frozenset(words.split())
    strange = sorted(found - set(known))
    if strange:
        raise ValueError(f"{strange[0]} is no {what}.")
    return found


def _kind(row: Mapping[str, str]) -> Kind:
    carried, _, spot = row["carried"].partition(" ")
    _known(row["field"], FIELDS, "field")
    _known(row["access"], ACCESS_RANK, "access")
    _known(spot, SPOTS, "spot")
    return Kind(
        key=row["key"],
        title=row["title"],
        words=tuple(row["words"].split(";")),
        but_not=tuple(filter(None, row["but_not"].split(";"))),
        field=row["field"],
        carried=Carried(carried),
        spot=spot,
        mass=_usual(row["mass_g"], 1e3),
        volume=_usual(row["volume_ml"], 1e6),
        length=float(row["rigid_mm"] or 0.0) / 1e3,
        access=row["access"],
        reaches=_reaches(row["reaches"]),
        jobs=_known(row["jobs"], JOBS, "job"),
        tools=_known(row["tools"], TOOLS, "tool"),
        marks=_known(row["marks"], MARKS, "mark"),
    )


def read_kinds(text: str) -> dict[str, Kind]:
    """Return the kinds of a table.

    Parameters
    ----------
    text : str
        CSV with a header; see `kinds.csv`.

    Returns
    -------
    kinds : dict of str to Kind
        By key, in the order of the table.

    Raises
    ------
    ValueError
        If a row is not understood or a key stands twice; names the key.
    """
    found: dict[str, Kind] = {}
    for row in csv.DictReader(text.splitlines()):
        try:
            kind = _kind(row)
        except (ValueError, KeyError, TypeError) as exc:
            raise ValueError(f"{row.get('key')}: {exc}") from exc
        if kind.key in found or kind.category not in CATEGORIES:
            raise ValueError(f"{kind.key}: stands twice, or its category is not known.")
        found[kind.key] = kind
    return found


KINDS = read_kinds(resources.files(__package__).joinpath("kinds.csv").read_text("utf-8"))


def marks_of(kind: str) -> frozenset[str]:
    """Return what is true of things of a kind; nothing where it is not known.

    Parameters
    ----------
    kind : str
        Key of KINDS, or empty.

    Returns
    -------
    marks : frozenset of str
        Of MARKS.

    Examples
    --------
    >>> sorted(marks_of("chocolate")), marks_of("")
    (['melts', 'spoils'], frozenset())
    """
    return KINDS[kind].marks if kind in KINDS else frozenset()
