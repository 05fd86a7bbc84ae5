"""What wears over a race, and whether it lasts: chain, pads, tyres, sealant, lubricant."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.numerics.arrays import BoolArray, FloatArray

GRAVITY = 9.81  # m/s²
CHAIN_KM = {"dry": 4_500.0, "wet": 1_800.0, "mud": 700.0}  # km that a chain lasts (estimates, half to twice)
LUBE_KM = {"wax": {"dry": 350.0, "wet": 60.0}, "oil": {"dry": 250.0, "wet": 120.0}}  # km between two (estimates)
PAD_LIFE, FRONT = 1.5, 0.6  # mm of lining that may wear; 1 of it in front (estimates)
PAD_MM = {"organic": {"dry": 0.9, "wet": 5.0}, "sintered": {"dry": 0.45, "wet": 1.6}}  # mm for 10 MJ (estimates)
TYRE_KM = {"rear": 3_500.0, "front": 7_000.0}  # km on tarmac; rough ground counts twice (estimates)
SEALANT_DAYS = {"cool": 60.0, "hot": 25.0}  # days until sealant has dried (estimates)
ROLLING = 0.012  # 1, of loaded bike, for what air and ground take while braking (estimate)


@dataclass(frozen=True, kw_only=True)
class WearLine:
    """One part."""

    name: str
    used: float  # 1, of its life over this race, new at the start
    km: float  # km until it is worn on such ground; infinity: it does not wear
    words: str

    @property
    def lasts(self) -> bool:
        """Whether it lasts to the finish, new at the start."""
        return self.used <= 1.0


@dataclass(frozen=True, kw_only=True)
class Ground:
    """What a race asks of parts, by segment, shape (n,)."""

    lengths: FloatArray  # m
    grades: FloatArray  # 1
    speeds: FloatArray  # m/s
    wet: BoolArray
    rough: BoolArray
    muddy: BoolArray
    mass: float  # kg, all that moves
    drag: float  # m²
    days: float
    hot: bool


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


def wear_of(ground: Ground) -> tuple[WearLine, ...]:
    """Return how much of the life of each part a race takes, new at the start.

    Parameters
    ----------
    ground : Ground
        The race.

    Returns
    -------
    lines : tuple of WearLine
        What lasts shortest first. Lives add up by condition (Miner); all are estimates, half to twice.
    """
    km = ground.lengths / 1000.0
    total = float(km.sum())
    chain = float((km / np.where(ground.muddy & ground.wet, CHAIN_KM["mud"], _by_wet(ground, CHAIN_KM))).sum())
    energy = braked_energy(ground)
    pads = {
        kind: float((energy / 1e7 * np.where(ground.wet, table["wet"], table["dry"])).sum()) / PAD_LIFE
        for kind, table in PAD_MM.items()
    }
    heavier = np.where(ground.rough, 2.0, 1.0)
    lines = [
        WearLine(name="chain", used=chain, km=_until(chain, total), words="new, from a dry start"),
        *(
            WearLine(
                name=f"{end} pads, {kind}",
                used=share * used,
                km=_until(share * used, total),
                words=f"{energy.sum() / 1e6:.1f} MJ are braked",
            )
            for kind, used in pads.items()
            for end, share in (("front", FRONT), ("rear", 1.0 - FRONT))
        ),
        *(
            WearLine(
                name=f"{end} tyre",
                used=float((km * heavier).sum()) / life,
                km=_until(float((km * heavier).sum()) / life, total),
                words="rough ground counts twice",
            )
            for end, life in TYRE_KM.items()
        ),
        WearLine(
            name="sealant",
            used=ground.days / SEALANT_DAYS["hot" if ground.hot else "cool"],
            km=_until(ground.days / SEALANT_DAYS["hot" if ground.hot else "cool"], total),
            words="fresh at the start",
        ),
    ]
    return tuple(sorted(lines, key=lambda line: -line.used))


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


def _until(used: float, total: float) -> float:
    return total / used if used > 0.0 else float("inf")
