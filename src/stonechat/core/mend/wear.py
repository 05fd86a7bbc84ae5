"""What wears over a race, and whether it lasts to the finish."""

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from stonechat.core.mend.rule import MendRule
from stonechat.core.numerics.arrays import BoolArray, FloatArray

GRAVITY = 9.81  # m/s²
CHAIN_KM = {"dry": 4_500.0, "wet": 1_800.0, "mud": 700.0}  # km that a chain lasts (estimates, half to twice)
LUBE_KM = {"wax": {"dry": 350.0, "wet": 60.0}, "oil": {"dry": 250.0, "wet": 120.0}}  # km between two (estimates)
PAD_LIFE, FRONT = 1.5, 0.6  # mm of lining that may wear; 1 of it in front (estimates)
PAD_MM = {"organic": {"dry": 0.9, "wet": 5.0}, "sintered": {"dry": 0.45, "wet": 1.6}}  # mm for 10 MJ (estimates)
TYRE_KM = {"rear": 3_500.0, "front": 7_000.0}  # km on tarmac; rough ground counts twice (estimates)
SEALANT_DAYS = {"cool": 60.0, "hot": 25.0}  # days until sealant has dried (estimates)
CLEAT_KM, WALK_KM = 6_000.0, 250.0  # km that metal cleats last ridden, and on foot (estimates)
CABLE_KM = {"dry": 8_000.0, "wet": 4_000.0}  # km that a gear cable lasts (estimates)
ROLLING = 0.012  # 1, of loaded bike, for what air and ground take while braking (estimate)
SPREAD = math.log(2.0) / 1.645  # 1, of the logarithm of a life: nine of ten lie between half and twice
AGED = {  # failure to the parts whose age moves it
    "pads": ("front_pads", "rear_pads"), "sealant_dry": ("sealant",), "cleat": ("cleats",), "gear_cable": ("cables",),
    "shift_battery": ("gear_battery",), "chain": ("chain",), "link": ("chain",),
    "thorn_plugged": ("rear_tyre", "front_tyre"), "thorn": ("rear_tyre", "front_tyre"),
    "cut": ("rear_tyre", "front_tyre"), "sidewall": ("rear_tyre", "front_tyre"),
}  # fmt: skip
WEARS_OUT = frozenset({"pads", "sealant_dry", "cleat", "gear_cable", "shift_battery"})  # wear, and rarely a fault


@dataclass(frozen=True, kw_only=True)
class WearLine:
    """One part."""

    key: str  # key of AGES; pads of two kinds share one
    name: str
    before: float  # 1, of its life gone at the start
    used: float  # 1, of its life over this race
    km: float  # km of this race until it is worn, on such ground; infinity: it does not wear
    words: str

    @property
    def lasts(self) -> bool:
        """Whether it lasts to the finish."""
        return self.before + self.used <= 1.0

    @property
    def chance(self) -> float:
        """Chance that it is worn before the finish, as lives vary from half to twice. [1]"""
        return -math.expm1(-worn_through(self.before, self.used))

    @property
    def lasts_new(self) -> bool:
        """Whether it would last, new at the start."""
        return self.used <= 1.0


@dataclass(frozen=True, kw_only=True)
class Ground:
    """What a race asks of parts, by segment, shape (n,)."""

    lengths: FloatArray  # m
    grades: FloatArray  # 1
    speeds: FloatArray  # m/s
    walked: FloatArray  # 1, share on foot
    wet: BoolArray
    rough: BoolArray
    muddy: BoolArray
    mass: float  # kg, all that moves
    drag: float  # m²
    days: float
    hot: bool
    gears: float  # 1, of a full gear battery that the race takes; 0: gears by cable
    tubeless: bool


def worn_through(before: float, used: float) -> float:
    """Return how often a part wears through, as a Poisson mean, if it has not done so before the start.

    Parameters
    ----------
    before, used : float
        Of its usual life, gone at the start and over the race. [1]

    Returns
    -------
    expected : float
        So that exp(-expected) is the chance that it lasts; lives are lognormal, nine of ten from half to twice. [1]

    Examples
    --------
    >>> round(1.0 - math.exp(-worn_through(0.0, 1.0)), 3)  # half the parts outlive their usual life
    0.5
    """
    alive, lasts = (float(ndtr(-math.log(max(share, 1e-9)) / SPREAD)) for share in (before, before + used))
    return -math.log(max(lasts, 1e-12) / max(alive, 1e-12))


def braked_energy(ground: Ground) -> FloatArray:
    """Return what brakes take on each segment: what falls, less air and rolling at the speed ridden.

    Parameters
    ----------
    ground : Ground
        The race.

    Returns
    -------
    energy : ndarray
        Never below 0. [J]
    """
    falls = -ground.mass * GRAVITY * ground.grades
    resists = ground.mass * GRAVITY * ROLLING + 0.5 * 1.15 * ground.drag * ground.speeds**2
    return np.asarray(np.maximum(0.0, falls - resists) * ground.lengths)


def wear_of(ground: Ground, rule: MendRule | None = None) -> tuple[WearLine, ...]:
    """Return how much of the life of each part a race takes.

    Parameters
    ----------
    ground : Ground
        The race.
    rule : MendRule, optional
        For the age of parts at the start, and the pads; without it all is new.

    Returns
    -------
    lines : tuple of WearLine
        What lasts shortest first. Lives add up by condition (Miner); all are estimates, half to twice.
    """
    rule = rule or MendRule()
    km = ground.lengths / 1000.0
    total, heavier = float(km.sum()), np.where(ground.rough, 2.0, 1.0)
    chain = float((km / np.where(ground.muddy & ground.wet, CHAIN_KM["mud"], _by_wet(ground, CHAIN_KM))).sum())
    life = SEALANT_DAYS["hot" if ground.hot else "cool"]
    cleats = float((km * ((1.0 - ground.walked) / CLEAT_KM + ground.walked / WALK_KM)).sum())
    lived = {
        "chain": ("chain", chain, CHAIN_KM["dry"], "by dry, wet and muddy km"),
        **{
            f"{end}_tyre": (f"{end} tyre", float((km * heavier).sum()) / tread, tread, "rough ground counts twice")
            for end, tread in TYRE_KM.items()
        },
        "cleats": ("cleats", cleats, CLEAT_KM, f"{float((km * ground.walked).sum()):.0f} km on foot"),
    }
    if ground.tubeless:
        lived["sealant"] = ("sealant", ground.days / life, life, "by days, half as long in the heat")
    if not ground.gears:
        cables = float((km / _by_wet(ground, CABLE_KM)).sum())
        lived["cables"] = ("gear cable", cables, CABLE_KM["dry"], "by dry and wet km")
    lines = [
        WearLine(key=key, name=name, words=words, used=used, **_since(rule.ages.get(key, 0.0) / full, used, total))
        for key, (name, used, full, words) in lived.items()
    ]
    if ground.gears:
        charged = rule.ages.get("gear_battery", 100.0) / 100.0
        lines.append(
            WearLine(key="gear_battery", name="gear battery", used=ground.gears, words="as Charge has it",
                     **_since(1.0 - charged, ground.gears, total))
        )  # fmt: skip
    return tuple(sorted((*lines, *_pads(ground, rule, total)), key=lambda line: -line.before - line.used))


def _pads(ground: Ground, rule: MendRule, total: float) -> list[WearLine]:
    energy = braked_energy(ground)
    lines = []
    for kind, table in PAD_MM.items():
        if rule.pads in ("", kind):
            worn = float((energy / 1e7 * np.where(ground.wet, table["wet"], table["dry"])).sum()) / PAD_LIFE
            for end, share in (("front", FRONT), ("rear", 1.0 - FRONT)):
                before = 1.0 - min(1.0, rule.ages.get(f"{end}_pads", PAD_LIFE) / PAD_LIFE)
                lines.append(
                    WearLine(key=f"{end}_pads", name=f"{end} pads, {kind}", used=share * worn,
                             words=f"{energy.sum() / 1e6:.1f} MJ are braked", **_since(before, share * worn, total))
                )  # fmt: skip
    return lines


def _since(before: float, used: float, total: float) -> dict[str, float]:
    """Return what is gone before, and the km until it is worn."""
    km = float("inf") if used <= 0.0 else max(0.0, 1.0 - before) * total / used
    return {"before": before, "km": km}


def lube_times(ground: Ground) -> dict[str, float]:
    """Return how often a chain wants lubricant.

    Parameters
    ----------
    ground : Ground
        The race.

    Returns
    -------
    times : dict of str to float
        By kind of lubricant, freshly done at the start. [1]
    """
    km = ground.lengths / 1000.0
    return {
        kind: max(0.0, float((km / np.where(ground.wet, table["wet"], table["dry"])).sum()) - 1.0)
        for kind, table in LUBE_KM.items()
    }


def _by_wet(ground: Ground, table: dict[str, float]) -> FloatArray:
    return np.where(ground.wet, table["wet"], table["dry"])
