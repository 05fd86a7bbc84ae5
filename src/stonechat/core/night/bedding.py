"""What a rider sleeps in: insulation by labels or fill, else as is usual for kind and weight; dry or wet."""

from collections.abc import Collection, Iterable
from dataclasses import dataclass

import numpy as np

from stonechat.core.kit.item import Item
from stonechat.core.night.sleep import CLO, US_R, SleepSystem, bag_insulation

# comfort by the mass of one, in kg and °C, where no label is given (estimates)
BY_MASS = {
    "quilt": ((0.30, 0.45, 0.55, 0.75, 1.10), (12.0, 8.0, 5.0, 1.0, -6.0)),
    "sleeping_bag": ((0.40, 0.60, 0.80, 1.10, 1.80), (12.0, 7.0, 2.0, -4.0, -15.0)),
    "down_suit": ((0.30, 0.60, 1.10), (14.0, 8.0, 0.0)),
}
_USUAL_R = {"mat_inflatable": 2.5, "mat_foam": 1.8}  # US R-value where no label is given (1 to 4.5, estimates)
_SHELTERS = {"tent": 0.05, "bivvy": 0.05, "foil_bivvy": 0.03, "tarp": 0.0}  # m²K/W (estimates)
_ROOFS = frozenset({"tent", "tarp"})  # kinds that stand between a sleeper and a clear sky
_OPEN = frozenset({"tarp"})  # kinds of shelter under which dew and half the wind come
_LINERS = {"sleep_liner": 0.5 * CLO, "overquilt": 1.0 * CLO}  # m²K/W (estimates)
_DRY, _RIDDEN = 0.5 * CLO, 0.3 * CLO  # m²K/W of dry clothes to sleep in, and of what was ridden in (estimates)
_CHANGE = frozenset({"base_layer", "base_bottoms", "jersey_long", "sleep_shirt", "t_shirt"})  # a dry change if packed
_FILL = {"down_jacket": 0.30, "down_trousers": 0.30, "synthetic_jacket": 0.30}  # 1, of the mass (estimates)
_USUAL_LOFT, _FIBRE = 700.0, 375.0  # in³/oz of down; of synthetic fill, which is as warm as so lofty down (estimates)
_PER_LOFT = 16.387e-6 / 0.02835  # m³/kg of one cubic inch to the ounce
_WORKS, _BAG_WORKS, _AIR = 0.28, 0.38, 0.040  # 1, of the loft when worn; in a bag; W/(m·K) (estimates)
_AREA = {"upper": 1.0, "lower": 0.72}  # m² that jacket and trousers cover and what lies over them (estimates)
_BAG_AREA = 2.0  # m² that the fill of a bag or quilt is spread over (estimate)
_COVERS, _SKIN = 0.8, 0.03  # 1, of a zone; m²K/W in parallel paths (estimates)
_FLEECE = 0.4 * CLO  # m²K/W on the upper zone (estimate)
_RAIN = {"rain_jacket": (0.25 * CLO, 0.0), "rain_trousers": (0.0, 0.25 * CLO)}  # m²K/W by zone, over all (estimates)
_TRUNK, _FULL, _TORSO = 95.0, 175.0, 110.0  # cm under head and trunk; under all; of what is called short (estimates)
_SMALL = {  # m²K/W by zone of what covers little, dry or not (estimates)
    "sleep_socks": (0.0, 0.08 * CLO), "socks_warm": (0.0, 0.05 * CLO), "beanie": (0.06 * CLO, 0.0),
    "balaclava": (0.08 * CLO, 0.0), "neck_tube": (0.04 * CLO, 0.0),
}  # fmt: skip
_SOAKED = {
    "down": (1.6, 0.10),
    "fibre": (0.45, 0.55),
}  # 1 per g of water for each g of fill, 1 that is left (estimates)
DAMP = 0.15  # g of water for each g of fill that three nights under a bivvy bring (0.05 to 0.3, estimate)
RAINED = 0.30  # g of water for each g of fill of who sleeps in the rain without a shelter (estimate)
WET = 0.40  # g of water for each g of fill of what got wet (estimate)


@dataclass(frozen=True, kw_only=True)
class Fill:
    """What fills a piece."""

    mass: float  # kg
    loft: float  # in³/oz
    soaks: bool  # whether it is down
    is_told: bool  # whether its mass is known


@dataclass(frozen=True, kw_only=True)
class Damp:
    """How wet what one sleeps in is."""

    each: float = 0.0  # g of water for each g of fill, of all that is filled
    only: str = ""  # id of the one thing that is; empty: all
    no_change: bool = False  # whether the dry clothes are wet too


@dataclass(frozen=True, kw_only=True)
class Bedding:
    """What is slept in."""

    system: SleepSystem
    bag: Item | None  # or quilt
    mats: tuple[Item, ...] = ()
    liners: tuple[Item, ...] = ()
    shelter: Item | None = None
    worn: tuple[Item, ...] = ()  # to bed

    @property
    def used(self) -> tuple[Item, ...]:
        """All of it, the warmest part first."""
        bag, shelter = ((item,) if item is not None else () for item in (self.bag, self.shelter))
        return (*bag, *self.mats, *self.liners, *shelter, *self.worn)

    @property
    def things(self) -> tuple[str, ...]:
        """Names of all of it."""
        return tuple(item.name for item in self.used)

    @property
    def ids(self) -> frozenset[str]:
        """Ids of all of it."""
        return frozenset(item.id for item in self.used)

    @property
    def unsaid(self) -> tuple[str, ...]:
        """Names of those that a usual figure is taken for."""
        return tuple(item.name for item in self.used if _is_unsaid(item))

    @property
    def unclear(self) -> tuple[str, ...]:
        """Names of bags whose label does not say which of its temperatures it tells."""
        return tuple(item.name for item in self.used if _is_unclear(item))

    @property
    def is_down(self) -> bool:
        """Whether down is in it."""
        return any(_is_down(item) for item in self.used)

    @property
    def is_under_the_sky(self) -> bool:
        """Whether nothing but a bag around it is above."""
        return self.shelter is None or self.shelter.kind not in _ROOFS


DRY = Damp()


def rating_of(item: Item) -> tuple[float, str] | None:
    """Return the temperature on the label of a bag or quilt, and which that is.

    Parameters
    ----------
    item : Item
        The thing.

    Returns
    -------
    rating : tuple of float and str, or None
        As the rider gave it; a label that does not say which of its temperatures it tells is taken for the limit, which
        is the colder night. None where none is given, or the thing is no bag. [°C]

    Examples
    --------
    >>> rating_of(Item(id="q", name="quilt", kind="quilt", mass=0.55, volume=0.004, facts=(("limit", -2.0),)))
    (-2.0, 'limit')
    """
    if item.kind not in BY_MASS:
        return None
    comfort, limit, rated = (item.fact(key) for key in ("comfort", "limit", "rated"))
    if comfort is not None:
        return comfort, "comfort"
    told = limit if limit is not None else rated
    return None if told is None else (told, "limit")


def usual_rating(kind: str, mass: float) -> float:
    """Return the comfort temperature of a bag or quilt as is usual for its weight.

    Parameters
    ----------
    kind : str
        Key of BY_MASS.
    mass : float
        Of one. [kg]

    Returns
    -------
    rating : float
        Comfort (estimate, 5 K either way). [°C]

    Examples
    --------
    >>> usual_rating("quilt", 0.55)
    5.0
    """
    masses, ratings = BY_MASS[kind]
    return float(np.interp(mass, masses, ratings))


def fill_of(item: Item) -> Fill | None:
    """Return what fills a piece.

    Parameters
    ----------
    item : Item
        The thing.

    Returns
    -------
    fill : Fill or None
        None where it has none. Its mass is taken as is usual for the kind where nobody gave it.

    Examples
    --------
    >>> fill = fill_of(Item(id="j", name="down jacket", kind="down_jacket", mass=0.3, volume=0.002))
    >>> round(fill.mass, 3), fill.is_told
    (0.09, False)
    """
    told = item.fact("fill_g")
    if item.kind not in _FILL and not (item.kind in BY_MASS and told is not None):
        return None
    synthetic = item.kind == "synthetic_jacket" or any(
        word in item.name.lower() for word in ("synthetic", "fibre", "fiber", "polyester")
    )
    loft = item.fact("loft") or (_FIBRE if synthetic else _USUAL_LOFT)
    mass = told / 1000.0 if told is not None else _FILL[item.kind] * item.mass
    return Fill(mass=mass, loft=loft, soaks=not synthetic, is_told=told is not None)


def filled(mass: float, zone: str, loft: float = _USUAL_LOFT) -> float:
    """Return what a zone insulates in a filled jacket or trousers over dry clothes.

    Parameters
    ----------
    mass : float
        Of the fill. [kg]
    zone : str
        upper or lower.
    loft : float
        Its fill power. [in³/oz]

    Returns
    -------
    insulation : float
        Of the zone, the parts that are not covered counted in parallel. [m²K/W]

    Examples
    --------
    >>> round(filled(0.08, "upper") / CLO, 2)
    1.32
    """
    jacket = mass * loft * _PER_LOFT * _WORKS / (_AREA[zone] * _AIR)
    covered, bare = _DRY + jacket + _SKIN, _DRY + _SKIN
    return 1.0 / (_COVERS / covered + (1.0 - _COVERS) / bare) - _SKIN


def added_by_fill(item: Item, zone: str) -> float:
    """Return what a filled piece adds to dry clothes.

    Parameters
    ----------
    item : Item
        The piece.
    zone : str
        upper or lower.

    Returns
    -------
    insulation : float
        Nothing where it is not filled. [m²K/W]

    Examples
    --------
    >>> added_by_fill(Item(id="s", name="shirt", mass=0.2, volume=0.001), "upper")
    0.0
    """
    fill = fill_of(item)
    return 0.0 if fill is None or item.kind in BY_MASS else filled(fill.mass, zone, fill.loft) - _DRY


def bedding_of(
    items: Iterable[Item],
    *,
    damp: Damp = DRY,
    over_all: bool = False,
    ridden_in: Collection[str] = frozenset(),
) -> Bedding:
    """Return what is slept in of what is aboard.

    Parameters
    ----------
    items : iterable of Item
        All that is aboard; what is worn riding counts as ridden in.
    damp : Damp
        How wet it is.
    over_all : bool
        Whether the rain suit is worn to bed too.
    ridden_in : collection of str
        Ids of packed things that are worn riding, and are no dry change at night.

    Returns
    -------
    bedding : Bedding
        The warmest bag, mats on one another, the best shelter, and what is warm and dry worn to bed.
    """
    listed = list(items)
    bag = max(((_bag(item, damp), item) for item in listed if item.kind in BY_MASS), key=lambda e: e[0], default=None)
    mats = [(_mat(item), item) for item in listed if item.kind in _USUAL_R]
    liners = [(_LINERS[item.kind], item) for item in listed if item.kind in _LINERS]
    shelters = [(_SHELTERS[item.kind], item) for item in listed if item.kind in _SHELTERS]
    shelter = max(shelters, key=lambda entry: entry[0], default=None)
    dry = [item for item in listed if item.packed and item.id not in ridden_in]
    clothes, worn = _clothes(dry, damp, over_all=over_all)
    for item in listed:
        if item.kind in _SMALL and item.packed:
            upper, lower = _SMALL[item.kind]
            clothes = (clothes[0] + upper, clothes[1] + lower)
            worn.append((upper + lower, item))
    return Bedding(
        system=SleepSystem(
            bag=bag[0] + sum(value for value, _ in liners) if bag else 0.0,
            mat=sum(value for value, _ in mats),
            legs_on_mat=max((_reach(item) for _, item in mats), default=1.0),
            clothes=clothes,
            shelter=shelter[0] if shelter else 0.0,
            is_sheltered=shelter is not None and shelter[1].kind not in _OPEN,
        ),
        bag=bag[1] if bag else None,
        mats=tuple(item for _, item in sorted(mats, key=lambda entry: -entry[0])),
        liners=tuple(item for _, item in liners),
        shelter=shelter[1] if shelter else None,
        worn=tuple(item for _, item in worn),
    )


def _is_unsaid(item: Item) -> bool:
    """Tell whether a usual figure stands for one that its label would tell."""
    if item.kind in BY_MASS:
        return rating_of(item) is None and item.fact("fill_g") is None
    return item.kind in _USUAL_R and item.fact("r_value") is None


def _is_unclear(item: Item) -> bool:
    return item.kind in BY_MASS and all(item.fact(key) is None for key in ("comfort", "limit")) and (
        item.fact("rated") is not None
    )  # fmt: skip


def _is_down(item: Item) -> bool:
    fill = fill_of(item)
    return fill.soaks if fill else item.kind in BY_MASS and "synthetic" not in item.name.lower()


def keeps_rain_off(items: Iterable[Item]) -> bool:
    """Tell whether there is something to sleep in or under that keeps rain off.

    Parameters
    ----------
    items : iterable of Item
        What is aboard.

    Returns
    -------
    is_kept_off : bool
        By a tent, tarp or bivvy.

    Examples
    --------
    >>> keeps_rain_off([])
    False
    """
    return any(item.kind in _SHELTERS for item in items)


def kept_when(item: Item, damp: Damp) -> float:
    """Return what is left of a filled piece's insulation when it is wet.

    Parameters
    ----------
    item : Item
        The piece.
    damp : Damp
        How wet.

    Returns
    -------
    share : float
        1 where it is dry. [1]

    Examples
    --------
    >>> quilt = Item(id="q", name="quilt", kind="quilt", mass=0.55, volume=0.004)
    >>> round(kept_when(quilt, Damp(each=0.15)), 2)
    0.76
    """
    if damp.each <= 0.0 or (damp.only and damp.only != item.id):
        return 1.0
    told = item.fact("wet_keeps")
    if told is not None:
        return 1.0 - (1.0 - told / 100.0) * min(1.0, damp.each / WET)
    slope, floor = _SOAKED["down" if _is_down(item) else "fibre"]
    return max(floor, 1.0 - slope * damp.each)


def _bag(item: Item, damp: Damp) -> float:
    """Return the insulation of a bag or quilt: by its label, else by its fill, else as is usual. [m²K/W]"""
    told, fill = rating_of(item), fill_of(item)
    if told is not None:
        dry = bag_insulation(*told)
    elif fill is not None:
        dry = fill.mass * fill.loft * _PER_LOFT * _BAG_WORKS / (_BAG_AREA * _AIR)
    else:
        dry = bag_insulation(usual_rating(item.kind, item.mass), "comfort")
    return dry * kept_when(item, damp)


def _reach(item: Item) -> float:
    """Return the share of the legs that lie on a mat. [1]"""
    told = item.fact("mat_cm")
    short = any(word in item.name.lower() for word in ("torso", "short", "half length", "half-length"))
    length = told if told is not None else _TORSO if short else _FULL
    return float(np.clip((length - _TRUNK) / (_FULL - _TRUNK), 0.0, 1.0))


def _mat(item: Item) -> float:
    told = item.fact("r_value")
    return US_R * (_USUAL_R[item.kind] if told is None else told)


def _clothes(items: list[Item], damp: Damp, *, over_all: bool) -> tuple[tuple[float, float], list[tuple[float, Item]]]:
    """Return what the zones wear to bed, and the things of it. [m²K/W]"""
    changes = [] if damp.no_change else [item for item in items if item.kind in _CHANGE]
    base = _DRY if changes else _RIDDEN
    upper, lower, worn = base, base, [(base, item) for item in changes[:1]]
    for item in items:
        if item.kind == "fleece":
            upper += _FLEECE
            worn.append((_FLEECE, item))
        if item.kind in _FILL:
            zone = "lower" if item.kind == "down_trousers" else "upper"
            more = added_by_fill(item, zone) * kept_when(item, damp)
            upper, lower = (upper + more, lower) if zone == "upper" else (upper, lower + more)
            worn.append((more, item))
        if over_all and item.kind in _RAIN:
            more_upper, more_lower = _RAIN[item.kind]
            upper, lower = upper + more_upper, lower + more_lower
            worn.append((more_upper + more_lower, item))
    return (upper, lower), worn
