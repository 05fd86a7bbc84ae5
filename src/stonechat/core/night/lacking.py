"""What a kit lacks to be warm enough on a stretch: the lightest garment of those it does not have that would do."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.night.garments import CUTS, Garment, outfits_of
from stonechat.core.night.ladder import Ladder, judge_outfits
from stonechat.core.night.sleep import BAND

_USUAL_WARM = 0.18  # m²K/W of a filled jacket whose fill nobody gave (80 g of good down, estimate)
_EVEN = 0.5  # K, less than that is even
_SAME_WAY_DOWN = 30_000.0  # m from one cold descent to the next for which one warning stands (estimate)
_NOT_FOR_COLD = frozenset(
    {"liner_shorts", "shorts", "sports_bra", "insoles", "sun_sleeves", "jacket", "gaiters", "cap"}
)


@dataclass(frozen=True, kw_only=True)
class Remedy:
    """A garment that a kit does not have."""

    kind: str  # key of KINDS
    name: str
    mass: float  # kg, as is usual for the kind
    margin: float  # K that would be spare on the stretch with it
    hours: float  # h of the race on which this zone would still be too cold


def remedies_for(ladder: Ladder, zone: str, spell: int, most: int = 3) -> tuple[Remedy, ...]:
    """Return what would help where a zone is too cold.

    Parameters
    ----------
    ladder : Ladder
        What is worn when.
    zone : str
        Of ZONES.
    spell : int
        The stretch. [1]
    most : int
        How many are told. [1]

    Returns
    -------
    remedies : tuple of Remedy
        Those that do first, the lightest first; else the warmest. What gains less than half a kelvin is none.
    """
    mine = [garment for garment in ladder.garments if garment.cut.zone == zone]
    now = float(ladder.zones[zone].margins[:, spell].max())
    have = {garment.cut for garment in ladder.garments}
    found = []
    for kind, cut in CUTS.items():
        if cut.zone != zone or not cut.is_ridden_in or cut in have or kind in _NOT_FOR_COLD:
            continue
        warm = cut.insulation or _USUAL_WARM
        more = Garment(
            id=f"new-{kind}",
            name=KINDS[kind].title,
            cut=cut,
            insulation=warm,
            is_on=False,
            is_told=False,
        )
        outfits = [outfit for outfit in outfits_of([*mine, more], zone) if more in outfit.pieces]
        if not outfits:
            continue
        margins, _, _ = judge_outfits(zone, outfits, ladder.spells)
        margin = float(margins[:, spell].max())
        if margin > now + _EVEN:
            cold = np.maximum(margins.max(axis=0), ladder.zones[zone].margins.max(axis=0)) < 0.0
            hours = float(ladder.spells.lengths[cold].sum() / 3600.0)
            mass = KINDS[kind].mass.usual
            found.append(Remedy(kind=kind, name=more.name, mass=mass, margin=margin, hours=hours))
    return tuple(sorted(found, key=_by_use)[:most])


def _by_use(remedy: Remedy) -> tuple[int, float]:
    """Order what does first, the lightest of it, then what nearly does, then by warmth."""
    if remedy.margin < -BAND:
        return 2, -remedy.margin
    return int(remedy.margin < 0.0), remedy.mass


def worst_spell(ladder: Ladder, zone: str, least: float = 180.0) -> int:
    """Return the stretch on which a zone has least to spare.

    Parameters
    ----------
    ladder : Ladder
        What is worn when.
    zone : str
        Of ZONES.
    least : float
        Shorter ones are passed over where there is a longer one. [s]

    Returns
    -------
    spell : int
        Its number. [1]
    """
    margin = ladder.zones[zone].margin
    long = ladder.spells.lengths >= least
    return int(np.argmin(np.where(long | ~long.any(), margin, np.inf)))


@dataclass(frozen=True, kw_only=True)
class ColdDescents:
    """Descents close together on which a zone is too cold in what is worn there."""

    begins: float  # m, of the first
    ends: float  # m, of the last
    clock: float  # s since the start, when the first is reached
    count: int
    coldest: float  # °C
    margin: float  # K, of the worst; below 0


def cold_descents(ladder: Ladder, zone: str = "hands") -> tuple[ColdDescents, ...]:
    """Return the descents on which a zone is too cold: hands brake there.

    Parameters
    ----------
    ladder : Ladder
        What is worn when.
    zone : str
        Of ZONES.

    Returns
    -------
    descents : tuple of ColdDescents
        In the order of the course; those within 30 km of one another are one. [K]
    """
    spells, margins = ladder.spells, ladder.zones[zone].margin
    cold = np.flatnonzero(spells.descends & (margins < -_EVEN))
    if not cold.size:
        return ()
    apart = np.flatnonzero(spells.begins[cold[1:]] - spells.ends[cold[:-1]] > _SAME_WAY_DOWN) + 1
    return tuple(
        ColdDescents(
            begins=float(spells.begins[group[0]]),
            ends=float(spells.ends[group[-1]]),
            clock=float(spells.clocks[group[0]]),
            count=group.size,
            coldest=float(spells.going.temps[group].min()),
            margin=float(margins[group].min()),
        )
        for group in np.split(cold, apart)
    )
