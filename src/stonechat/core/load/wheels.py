"""Wheel loads from the scale: they check the balance model and correct it."""

from dataclasses import dataclass, replace
from datetime import datetime

from stonechat.core.rig.bike import Bike

WEIGHED = {
    "bare": "the bike with nothing on it",
    "loaded": "the loaded bike without the rider",
    "ridden": "the loaded bike with the rider on it",
}
AGREES = 0.015  # 1, difference in front share within which model and scale agree (estimate)


@dataclass(frozen=True, kw_only=True)
class WheelLoad:
    """Front and rear wheel on the scale, one after the other, the bike level."""

    what: str  # key of WEIGHED
    front: float  # kg
    rear: float  # kg
    taken: datetime | None = None  # local clock

    @property
    def total(self) -> float:
        """Both wheels. [kg]"""
        return self.front + self.rear

    @property
    def front_share(self) -> float:
        """Share on the front wheel. [1]"""
        return self.front / self.total


@dataclass(frozen=True, kw_only=True)
class WheelVerdict:
    """What a weighing says of the model."""

    mass_difference: float  # kg, scale less model
    share_difference: float  # 1, scale less model
    agrees: bool


def compare_wheels(load: WheelLoad, *, mass: float, front_share: float, band: float) -> WheelVerdict:
    """Hold a weighing against the model.

    Parameters
    ----------
    load : WheelLoad
        As read from the scale.
    mass : float
        What the model says they weigh together. [kg]
    front_share : float
        What the model says stands on the front wheel. [1]
    band : float
        How sure the model's mass is. [kg]

    Returns
    -------
    verdict : WheelVerdict
        Differences; they agree within the band, or 1 % where that is more, and within AGREES of share.

    Examples
    --------
    >>> compare_wheels(WheelLoad(what="bare", front=4.8, rear=5.4), mass=10.2, front_share=0.475, band=0.1).agrees
    True
    """
    mass_off, share_off = load.total - mass, load.front_share - front_share
    agrees = abs(mass_off) <= max(band, 0.01 * mass) and abs(share_off) <= AGREES
    return WheelVerdict(mass_difference=mass_off, share_difference=share_off, agrees=agrees)


def corrected_bike(bike: Bike, load: WheelLoad) -> Bike:
    """Return the bike with mass and axle share as weighed bare.

    Parameters
    ----------
    bike : Bike
        As it was.
    load : WheelLoad
        Of the bare bike.

    Returns
    -------
    bike : Bike
        Mass to 10 g, share to a thousandth.

    Examples
    --------
    >>> corrected_bike(Bike(), WheelLoad(what="bare", front=5.0, rear=5.0)).front_share
    0.5
    """
    return replace(bike, mass=round(load.total, 2), front_share=round(load.front_share, 3))
