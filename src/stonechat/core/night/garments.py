"""What garments do: which zone they cover, how warm and tight to air they are, and over what they go.

The figures of each kind are estimates in `garments.csv`, of the order of single garments in [ISO9920]; what covers only
part of a zone is counted over the whole of it. A figure of the thing's own (`clo`, or its fill) comes first.
"""

import csv
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from importlib import resources
from itertools import pairwise, product
from math import prod

from stonechat.core.kit.item import Item
from stonechat.core.night.bedding import added_by_fill, fill_of
from stonechat.core.night.sleep import CLO

ZONES = ("head", "trunk", "hands", "legs", "feet")
_MOST_OUTFITS = 300  # ways to dress a zone that are looked at
_KEPT_ON = frozenset({"jersey", "bib", "base", "shoe", "sock", "helmet", "glove", "bars"})  # groups not gone without
_SOAKED, _DOWN_SOAKED = 0.6, 0.1  # 1, of what is left of clothes in rain without a shell, and of down (estimates)
_DRIES = 3.0  # h in which clothes dry in the wind of riding (1 to 6, estimate)


@dataclass(frozen=True, kw_only=True)
class Cut:
    """What is usual of a kind of garment."""

    zone: str
    insulation: float  # m²K/W over its zone; 0: by its fill
    air: float  # l/(m²s) that pass it
    layer: int  # from the skin outwards
    group: str  # of one group only one is worn; empty: any
    sheds_rain: bool
    minutes: float  # min to put it on or take it off, off the bike
    is_ridden_in: bool  # not only worn in camp


def _cuts() -> dict[str, Cut]:
    text = (resources.files(__package__) / "garments.csv").read_text()
    return {
        row["kind"]: Cut(
            zone=row["zone"],
            insulation=float(row["clo"]) * CLO,
            air=float(row["air"]),
            layer=int(row["layer"]),
            group=row["group"],
            sheds_rain=row["rain"] == "1",
            minutes=float(row["minutes"]),
            is_ridden_in=row["use"] == "ride",
        )
        for row in csv.DictReader(text.splitlines())
    }


CUTS = _cuts()


@dataclass(frozen=True, kw_only=True)
class Garment:
    """A piece of the kit that is worn riding."""

    id: str
    name: str
    cut: Cut
    insulation: float  # m²K/W over its zone
    is_on: bool  # worn from the start, or fixed where it warms
    is_told: bool  # whether its warmth is its own figure
    keeps: float = _SOAKED  # 1, of its warmth that is left when it is soaked
    dries: float = _DRIES  # h that it takes to dry when it is worn


@dataclass(frozen=True, kw_only=True)
class Outfit:
    """What a zone wears at a time."""

    pieces: tuple[Garment, ...]  # from the skin outwards
    insulation: float  # m²K/W
    air: float  # l/(m²s) that pass the tightest layer
    sheds_rain: bool
    soaked: float  # m²K/W that are left of it in rain that nothing sheds


def garments_of(items: Iterable[Item]) -> tuple[tuple[Garment, ...], tuple[str, ...]]:
    """Return what is worn riding of a kit.

    Parameters
    ----------
    items : iterable of Item
        All that goes along.

    Returns
    -------
    garments : tuple of Garment
        The first of each kind, worn ones before packed ones.
    spares : tuple of str
        Ids of a second of a kind: a change, not a layer.

    Examples
    --------
    >>> cap = Item(id="c", name="cap", kind="cap", mass=0.05, volume=0.0002)
    >>> [garment.id for garment in garments_of([cap])[0]]
    ['c']
    """
    found: dict[str, Garment] = {}
    spares = []
    for item in sorted(items, key=lambda entry: entry.packed):
        cut = CUTS.get(item.kind)
        if cut is None or not cut.is_ridden_in:
            continue
        if item.kind in found:
            spares.append(item.id)
            continue
        told, air = item.fact("clo"), item.fact("air")
        cut = cut if air is None else replace(cut, air=air)
        fill = fill_of(item)
        filled = 0.0 if fill is None else added_by_fill(item, "lower" if cut.zone == "legs" else "upper")
        found[item.kind] = Garment(
            id=item.id,
            name=item.name,
            cut=cut,
            insulation=told * CLO if told is not None else filled or cut.insulation,
            keeps=_kept_soaked(item, is_down=fill is not None and fill.soaks),
            dries=item.fact("dries_h") or _DRIES,
            is_on=not item.packed,
            is_told=told is not None,
        )
    return tuple(found.values()), tuple(spares)


def _kept_soaked(item: Item, *, is_down: bool) -> float:
    told = item.fact("wet_keeps")
    return told / 100.0 if told is not None else _DOWN_SOAKED if is_down else _SOAKED


def outfits_of(garments: Iterable[Garment], zone: str) -> tuple[Outfit, ...]:
    """Return every way to dress a zone.

    Parameters
    ----------
    garments : iterable of Garment
        What there is.
    zone : str
        Of ZONES.

    Returns
    -------
    outfits : tuple of Outfit
        The first is what is worn from the start. Of a group one piece at most; nothing goes over boots; what one does
        not undress on the way, as shorts and shoes, stays on or is changed for another of its group.

    Examples
    --------
    >>> kit = [Item(id=k, name=k, kind=k, mass=0.1, volume=0.0) for k in ("gloves_long", "gloves_rain", "gloves_warm")]
    >>> sorted("+".join(p.id for p in outfit.pieces) for outfit in outfits_of(garments_of(kit)[0], "hands"))
    ['', 'gloves_long', 'gloves_long+gloves_rain', 'gloves_rain', 'gloves_warm', 'gloves_warm+gloves_rain']
    """
    mine = [garment for garment in garments if garment.cut.zone == zone]
    groups: dict[str, list[Garment | None]] = {}
    for garment in mine:
        groups.setdefault(garment.cut.group or garment.id, []).append(garment)
    for group, options in groups.items():
        if group not in _KEPT_ON or not any(option is not None and option.is_on for option in options):
            options.insert(0, None)
    found = [outfit for outfit in _combined(_thinned(list(groups.values()))) if _is_wearable(outfit)]
    start = {garment.id for garment in mine if garment.is_on}
    return tuple(sorted(found, key=lambda outfit: {piece.id for piece in outfit.pieces} != start))


def _thinned(groups: list[list[Garment | None]]) -> list[list[Garment | None]]:
    """Return groups that make few enough outfits: of the largest the piece most like another in warmth stays away."""
    groups = [list(options) for options in groups]
    while prod(len(options) for options in groups) > _MOST_OUTFITS:
        largest = max(groups, key=len)
        packed = sorted((o for o in largest if o is not None and not o.is_on), key=lambda piece: piece.insulation)
        if len(packed) < 2:
            break
        _, out = min((b.insulation - a.insulation, a.id) for a, b in pairwise(packed))
        largest[:] = [option for option in largest if option is None or option.id != out]
    return groups


def _combined(groups: Iterable[list[Garment | None]]) -> Iterator[Outfit]:
    for chosen in product(*groups):
        pieces = tuple(sorted((p for p in chosen if p is not None), key=lambda piece: piece.cut.layer))
        yield Outfit(
            pieces=pieces,
            insulation=sum(piece.insulation for piece in pieces),
            air=min((piece.cut.air for piece in pieces), default=100.0),
            sheds_rain=any(piece.cut.sheds_rain for piece in pieces),
            soaked=sum(piece.insulation * piece.keeps for piece in pieces),
        )


def _is_wearable(outfit: Outfit) -> bool:
    """Tell whether nothing is pulled over boots."""
    groups = {piece.cut.group for piece in outfit.pieces}
    boots = any(piece.cut.group == "shoe" and piece.cut.sheds_rain for piece in outfit.pieces)
    return not (boots and "over" in groups)


GRANTED = tuple(
    Garment(
        id=f"granted-{kind}",
        name=name,
        cut=CUTS[kind],
        insulation=CUTS[kind].insulation,
        is_on=True,
        is_told=False,
    )
    for kind, name in (
        ("jersey", "jersey"),
        ("bib_shorts", "bib shorts"),
        ("shoes", "riding shoes"),
        ("socks", "socks"),
        ("helmet", "helmet"),
    )
)  # what everybody rides in, where a kit does not name it
