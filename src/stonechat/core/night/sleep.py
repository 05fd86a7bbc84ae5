"""Heat balance of a sleeper: a body in two zones, each with a top side in the air and an underside on the ground."""

from dataclasses import dataclass
from functools import lru_cache
from math import exp

from scipy.optimize import brentq

CLO = 0.155  # m²K/W [ISO9920]
US_R = 0.1761  # m²K/W of one on the label of a mat [ASTMF3340]
HEAT = 46.5  # W/m² asleep (40 exhausted and unfed, to 55; estimate)
BAND = 3.0  # K, by which margins may be off (estimate)
DEBT = 40.0  # Wh/m² of heat that is lost until one is cold [ISO11079]
COLD_FROM = 10.0  # K below the limit from which it is not a matter of comfort any more
_AREAS = (0.63, 0.37)  # 1, of the body: upper and lower zone (estimate)
_ON_GROUND = 0.25  # 1, of each zone (estimate)
_COMPRESSED = (0.15, 0.30)  # 1, of bag and clothes that still insulates beneath the body (estimates)
_IN_BAG = 0.75  # 1, of what clothes insulate inside a bag (estimate)
_SKIN_DAMP = 0.06  # 1, share of the skin that is wet (estimate)
_LEWIS, _PERMEABLE = 16.5, 0.45  # K/kPa; 1, of bag and clothes to vapour (estimate)
_HUMIDITY = 0.8  # 1, of the night air (estimate)
_STILL, _RADIATED = 3.5, 4.5  # W/(m²K), by still air and by radiation
_LABEL = {"mat": 4.8 * US_R, "clothes": 0.5 * CLO}  # under which bags are rated [ISO23537]
_OPEN_SKY = 0.67  # 1, of what is above on open ground (estimate)
_WARMEST, _COLDEST = 40.0, -60.0  # °C, between which a limit is looked for


@dataclass(frozen=True, kw_only=True)
class Sense:
    """What one is content with: skin temperatures, and whether one lies curled up."""

    skin: tuple[float, float]  # °C, upper and lower zone
    curled: float  # 1, of the top side that meets the air


COMFORT = Sense(skin=(34.0, 31.5), curled=1.0)  # [ISO23537], split in zones by estimate
LIMIT = Sense(skin=(33.0, 29.0), curled=0.84)
LABELS = {"comfort": COMFORT, "limit": LIMIT}


@dataclass(frozen=True, kw_only=True)
class SleepSystem:
    """What lies between a sleeper and the night."""

    bag: float = 0.0  # m²K/W; 0: none
    mat: float = 0.0  # m²K/W
    legs_on_mat: float = 1.0  # 1, of the lower zone's underside; less on a short mat
    clothes: tuple[float, float] = (0.0, 0.0)  # m²K/W, upper and lower zone
    shelter: float = 0.0  # m²K/W, of bivvy or tent
    is_sheltered: bool = True  # from wind


@dataclass(frozen=True, kw_only=True)
class Bed:
    """Where one lies."""

    air: float  # °C
    ground: float  # °C
    wind: float = 0.0  # m/s where one lies
    sky: float = 0.0  # K by which what one lies under radiates colder than the air; 0: a roof, trees or clouds


def heat_balance(system: SleepSystem, bed: Bed, sense: Sense, heat: float = HEAT) -> float:
    """Return what is left of the heat of a sleeper.

    Parameters
    ----------
    system : SleepSystem
        What lies between.
    bed : Bed
        Where.
    sense : Sense
        COMFORT or LIMIT.
    heat : float
        Made asleep. [W/m²]

    Returns
    -------
    balance : float
        Below 0 one gets cold. [W/m²]

    Notes
    -----
    Dry heat through bag, clothes and shelter above and through mat and what is pressed flat beneath; breath by
    [ISO11079]; a little moisture through the skin. The two zones and their constants are estimates.

    Examples
    --------
    >>> label = SleepSystem(bag=0.510044, mat=4.8 * US_R, clothes=(0.5 * CLO, 0.5 * CLO))
    >>> abs(heat_balance(label, Bed(air=5.0, ground=5.0), COMFORT)) < 1e-3
    True
    """
    return heat - heat_flows(system, bed, sense, heat).lost


@dataclass(frozen=True, kw_only=True)
class HeatFlows:
    """Where the heat of a sleeper goes, in W for each m² of the whole body."""

    above: tuple[float, float]  # to the air, from upper and lower zone
    beneath: tuple[float, float]  # to the ground
    damp: float  # with moisture through the skin
    breath: float

    @property
    def lost(self) -> float:
        """All together. [W/m²]"""
        return sum(self.above) + sum(self.beneath) + self.damp + self.breath


def heat_flows(system: SleepSystem, bed: Bed, sense: Sense, heat: float = HEAT) -> HeatFlows:
    """Return where the heat of a sleeper goes.

    Parameters
    ----------
    system : SleepSystem
        What lies between.
    bed : Bed
        Where.
    sense : Sense
        COMFORT or LIMIT.
    heat : float
        Made asleep, by which one breathes. [W/m²]

    Returns
    -------
    flows : HeatFlows
        As if the skin were kept as warm as `sense` says. [W/m²]

    Examples
    --------
    >>> label = SleepSystem(bag=0.510044, mat=4.8 * US_R, clothes=(0.5 * CLO, 0.5 * CLO))
    >>> flows = heat_flows(label, Bed(air=5.0, ground=5.0), COMFORT)
    >>> round(flows.lost, 2), flows.above[0] > flows.beneath[0]
    (46.5, True)
    """
    vapour = _HUMIDITY * _saturation(bed.air)
    moved = _STILL if system.is_sheltered else max(3.0, 8.7 * bed.wind**0.6)
    worn_in = _IN_BAG if system.bag > 0.0 else 1.0
    around = bed.air - bed.sky * _RADIATED / (_RADIATED + moved)  # °C that the outer side meets, air and sky together
    above, beneath, damp = [], [], 0.0
    lying = (1.0, system.legs_on_mat)
    for area, skin, clothes, on_mat in zip(_AREAS, sense.skin, system.clothes, lying, strict=True):
        top = system.bag + worn_in * clothes + system.shelter + 1.0 / (_RADIATED + moved)
        pressed = _COMPRESSED[0] * system.bag + _COMPRESSED[1] * clothes + 0.02
        under = 1.0 / (on_mat / (system.mat + pressed) + (1.0 - on_mat) / pressed)
        above.append(area * (1.0 - _ON_GROUND) * sense.curled * (skin - around) / top)
        beneath.append(area * _ON_GROUND * (skin - bed.ground) / under)
        damp += area * _SKIN_DAMP * (_saturation(skin) - vapour) * _LEWIS * _PERMEABLE / top
    return HeatFlows(
        above=(above[0], above[1]),
        beneath=(beneath[0], beneath[1]),
        damp=damp,
        breath=0.0014 * heat * (34.0 - bed.air) + 0.0173 * heat * (5.87 - vapour),
    )


def _saturation(temp: float) -> float:
    """Return the vapour pressure at saturation [Alduchov1996]. [kPa]"""
    return 0.61094 * exp(17.625 * temp / (temp + 243.04))


def least_temperature(
    system: SleepSystem, sense: Sense, *, ground: float = 0.0, wind: float = 0.0, heat: float = HEAT, sky: float = 0.0
) -> float:
    """Return the air temperature down to which a system is enough.

    Parameters
    ----------
    system : SleepSystem
        What lies between.
    sense : Sense
        COMFORT or LIMIT.
    ground : float
        By how much the ground is warmer than the air. [K]
    wind : float
        Where one lies. [m/s]
    heat : float
        Made asleep. [W/m²]
    sky : float
        By how much what is above radiates colder than the air. [K]

    Returns
    -------
    temperature : float
        At which the balance is even; held between 40 and -60. [°C]

    Examples
    --------
    >>> system = SleepSystem(bag=bag_insulation(5.0, "comfort"), mat=1.0 * US_R, clothes=(0.5 * CLO, 0.5 * CLO))
    >>> round(least_temperature(system, COMFORT), 5)
    12.90116
    """

    def balance(air: float) -> float:
        return heat_balance(system, Bed(air=air, ground=air + ground, wind=wind, sky=sky), sense, heat)

    if balance(_WARMEST) <= 0.0:
        return _WARMEST
    if balance(_COLDEST) >= 0.0:
        return _COLDEST
    return float(brentq(balance, _COLDEST, _WARMEST, xtol=1e-9))


@lru_cache(maxsize=500)
def bag_insulation(rating: float, label: str) -> float:
    """Return the insulation of a bag or quilt by its label.

    Parameters
    ----------
    rating : float
        Temperature on the label. [°C]
    label : str
        Key of LABELS: which of its temperatures that is; they are never mixed.

    Returns
    -------
    insulation : float
        That gives this label under the conditions of its test, none where clothes and mat do. [m²K/W]

    Examples
    --------
    >>> round(bag_insulation(5.0, "comfort"), 6)
    0.510044
    """

    def off(bag: float) -> float:
        system = SleepSystem(bag=bag, mat=_LABEL["mat"], clothes=(_LABEL["clothes"],) * 2)
        return heat_balance(system, Bed(air=rating, ground=rating), LABELS[label])

    if off(1e-6) >= 0.0:
        return 0.0
    return float(brentq(off, 1e-6, 6.0, xtol=1e-12))


def hours_until_cold(balance: float) -> float:
    """Return how long it takes until one is cold.

    Parameters
    ----------
    balance : float
        As `heat_balance` returns it for LIMIT. [W/m²]

    Returns
    -------
    hours : float
        Infinity where one does not get cold. [h]

    Examples
    --------
    >>> hours_until_cold(-8.0), hours_until_cold(1.0)
    (5.0, inf)
    """
    return DEBT / -balance if balance < 0.0 else float("inf")


def clear_sky(air: float) -> float:
    """Return by how much a clear night sky radiates colder than the air.

    Parameters
    ----------
    air : float
        Temperature of the air. [°C]

    Returns
    -------
    difference : float
        As a sleeper on open ground meets it, hills and trees taking a third (estimate). [K]

    References
    ----------
    [Swinbank1963]

    Examples
    --------
    >>> round(clear_sky(0.0), 1)
    16.0
    """
    kelvin = air + 273.15
    return float(_OPEN_SKY * (kelvin - 0.0552 * kelvin**1.5))


def ground_temperature(*, low: float, mean: float, snow: bool = False) -> float:
    """Return the temperature of the ground under a mat.

    Parameters
    ----------
    low : float
        Lowest air temperature of the night. [°C]
    mean : float
        Mean air temperature of the day. [°C]
    snow : bool
        Whether it lies on snow.

    Returns
    -------
    temperature : float
        An estimate. [°C]

    Examples
    --------
    >>> ground_temperature(low=0.0, mean=10.0)
    3.5
    """
    return min(0.0, 0.5 * low - 1.0) if snow else low + 0.35 * (mean - low)
