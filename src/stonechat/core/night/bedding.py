"""What a rider sleeps in: insulation by labels, else as is usual for kind and weight."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from stonechat.core.kit.item import Item
from stonechat.core.night.sleep import CLO, US_R, SleepSystem, bag_insulation

# comfort by the mass of one, in kg and °C, where no label is given (estimates)
_BY_MASS = {
    "quilt": ((0.30, 0.45, 0.55, 0.75, 1.10), (12.0, 8.0, 5.0, 1.0, -6.0)),
    "sleeping_bag": ((0.40, 0.60, 0.80, 1.10, 1.80), (12.0, 7.0, 2.0, -4.0, -15.0)),
    "down_suit": ((0.30, 0.60, 1.10), (14.0, 8.0, 0.0)),
}
_USUAL_R = {"mat_inflatable": 2.5, "mat_foam": 1.8}  # US R-value where no label is given (1 to 4.5, estimates)
_SHELTERS = {"tent": 0.05, "bivvy": 0.05, "foil_bivvy": 0.03, "tarp": 0.0}  # m²K/W (estimates)
_LINERS = {"sleep_liner": 0.5 * CLO, "overquilt": 1.0 * CLO}  # m²K/W (estimates)
_DRY, _RIDDEN = 0.5 * CLO, 0.3 * CLO  # m²K/W of dry clothes to sleep in, and of what was ridden in (estimates)
_CHANGE = frozenset({"base_layer", "base_bottoms", "jersey_long"})  # kinds that are a dry change when they are packed
_FILL = {
    "down_jacket": 0.30,
    "down_trousers": 0.30,
    "synthetic_jacket": 0.16,
}  # 1, of the mass, as warm as so much down
_LOFT = 700.0 * 16.387e-6 / 0.02835  # m³/kg of down of 700 cubic inches to the ounce
_WORKS, _AIR = 0.28, 0.040  # 1, of the loft when worn; W/(m·K) (estimates)
_AREA = {"upper": 1.0, "lower": 0.72}  # m² that jacket and trousers cover and what lies over them (estimates)
_COVERS, _SKIN = 0.8, 0.03  # 1, of a zone; m²K/W in parallel paths (estimates)
_FLEECE = 0.4 * CLO  # m²K/W on the upper zone (estimate)


@dataclass(frozen=True, kw_only=True)
class Bedding:
    """What is slept in."""

    system: SleepSystem
    things: tuple[str, ...]  # names, the warmest part first
    unsaid: tuple[str, ...]  # names of those that a usual figure is taken for
    has_bag: bool


def rating_of(item: Item) -> float | None:
    """Return the comfort temperature of a bag or quilt.

    Parameters
    ----------
    item : Item
        The thing.

    Returns
    -------
    rating : float or None
        As the rider gave it, else as is usual for its weight; None where it is none. [°C]

    Examples
    --------
    >>> rating_of(Item(id="q", name="quilt", kind="quilt", mass=0.55, volume=0.004))
    5.0
    """
    told = item.fact("comfort")
    if item.kind not in _BY_MASS:
        return None
    masses, ratings = _BY_MASS[item.kind]
    return float(np.interp(item.mass, masses, ratings)) if told is None else told


def filled(mass: float, zone: str) -> float:
    """Return what a zone insulates in a filled jacket or trousers over dry clothes.

    Parameters
    ----------
    mass : float
        Of the fill. [kg]
    zone : str
        upper or lower.

    Returns
    -------
    insulation : float
        Of the zone, the parts that are not covered counted in parallel. [m²K/W]

    Examples
    --------
    >>> round(filled(0.08, "upper") / CLO, 2)
    1.32
    """
    jacket = mass * _LOFT * _WORKS / (_AREA[zone] * _AIR)
    covered, bare = _DRY + jacket + _SKIN, _DRY + _SKIN
    return 1.0 / (_COVERS / covered + (1.0 - _COVERS) / bare) - _SKIN


def bedding_of(items: Iterable[Item]) -> Bedding:
    """Return what is slept in of what is aboard.

    Parameters
    ----------
    items : iterable of Item
        All that is aboard; what is worn riding counts as ridden in.

    Returns
    -------
    bedding : Bedding
        The warmest bag, mats on one another, the best shelter, and what is warm and dry worn to bed.
    """
    listed = list(items)
    used: list[tuple[float, Item]] = []
    bag = max((_bag(item) for item in listed), key=lambda entry: entry[0], default=(0.0, None))
    mats = [(_mat(item), item) for item in listed if item.kind in _USUAL_R]
    liners = [(_LINERS[item.kind], item) for item in listed if item.kind in _LINERS]
    shelters = [(_SHELTERS[item.kind], item) for item in listed if item.kind in _SHELTERS]
    shelter = max(shelters, key=lambda entry: entry[0], default=None)
    clothes, worn = _clothes(listed)
    used += [(bag[0], bag[1])] if bag[1] is not None else []
    used += sorted(mats, key=lambda entry: -entry[0]) + liners + ([shelter] if shelter else []) + worn
    return Bedding(
        system=SleepSystem(
            bag=bag[0] + (sum(value for value, _ in liners) if bag[1] is not None else 0.0),
            mat=sum(value for value, _ in mats),
            clothes=clothes,
            shelter=shelter[0] if shelter else 0.0,
            is_sheltered=shelter is not None,
        ),
        things=tuple(item.name for _, item in used),
        unsaid=tuple(
            item.name
            for _, item in used
            if (item.kind in _BY_MASS and item.fact("comfort") is None)
            or (item.kind in _USUAL_R and item.fact("r_value") is None)
        ),
        has_bag=bag[1] is not None,
    )


def _bag(item: Item) -> tuple[float, Item | None]:
    rating = rating_of(item)
    return (0.0, None) if rating is None else (bag_insulation(rating, "comfort"), item)


def _mat(item: Item) -> float:
    told = item.fact("r_value")
    return US_R * (_USUAL_R[item.kind] if told is None else told)


def _clothes(items: list[Item]) -> tuple[tuple[float, float], list[tuple[float, Item]]]:
    """Return what the zones wear to bed, and the things of it. [m²K/W]"""
    changes = [item for item in items if item.kind in _CHANGE and item.packed]
    base = _DRY if changes else _RIDDEN
    upper, lower, worn = base, base, [(base, item) for item in changes[:1]]
    for item in items:
        if item.kind == "fleece" and item.packed:
            upper += _FLEECE
            worn.append((_FLEECE, item))
        if item.kind in _FILL:
            zone = "lower" if item.kind == "down_trousers" else "upper"
            more = filled(_FILL[item.kind] * item.total_mass, zone) - _DRY
            upper, lower = (upper + more, lower) if zone == "upper" else (upper, lower + more)
            worn.append((more, item))
    return (upper, lower), worn
