"""How warm every rest of a race is."""

from dataclasses import dataclass
from functools import cached_property

from stonechat.core.kit.item import Item
from stonechat.core.night.bedding import DRY, RAINED, Bedding, Damp, bedding_of, keeps_rain_off
from stonechat.core.night.sleep import (
    BAND,
    COLD_FROM,
    COMFORT,
    HEAT,
    LIMIT,
    Bed,
    Sense,
    SleepSystem,
    heat_balance,
    hours_until_cold,
    least_temperature,
)


@dataclass(frozen=True, kw_only=True)
class RestWarmth:
    """One rest: how cold it gets, and how cold what is slept in may get."""

    night: int  # it belongs to, 0 the first
    distance: float  # m
    height: float  # m
    length: float  # s
    low: float  # °C, of the air
    ground: float  # °C
    wind: float  # m/s where one lies
    in_bed: bool  # behind a door, with a bed
    leg: int = 0  # on which it falls
    shift: float = 0.0  # K by which this rider needs it warmer than others
    items: tuple[Item, ...] = ()  # that are aboard there
    ridden_in: frozenset[str] = frozenset()  # ids of packed things that are worn riding
    on_snow: bool = False  # whether the ground is taken for snow
    rain: bool = False  # whether it is on a day of rain

    @cached_property
    def bedding(self) -> Bedding:
        """What is slept in."""
        return bedding_of(self.items, ridden_in=self.ridden_in, damp=self.damp)

    @property
    def damp(self) -> Damp:
        """How wet what is filled gets: rain comes through where nothing keeps it off."""
        return Damp(each=RAINED) if self.rain and not keeps_rain_off(self.items) else DRY

    @cached_property
    def comfort(self) -> float:
        """Air temperature down to which one sleeps well. [°C]"""
        return self.least(self.bedding.system, COMFORT)

    @cached_property
    def limit(self) -> float:
        """Air temperature down to which one sleeps curled up. [°C]"""
        return self.least(self.bedding.system, LIMIT)

    def least(self, system: SleepSystem, sense: Sense = LIMIT, *, heat: float = HEAT, sky: float = 0.0) -> float:
        """Return the air temperature down to which something else would do here. [°C]"""
        ground = self.ground - self.low
        return self.shift + least_temperature(system, sense, ground=ground, wind=self.wind, heat=heat, sky=sky)

    @property
    def bed(self) -> Bed:
        """Where one lies, as cold as it feels to this rider."""
        return Bed(air=self.low - self.shift, ground=self.ground - self.shift, wind=self.wind)

    @property
    def margin(self) -> float:
        """By how much it stays warmer than the limit; ±BAND. [K]"""
        return self.low - self.limit

    @property
    def hours(self) -> float:
        """How long it takes until one is cold. [h]"""
        return hours_until_cold(heat_balance(self.bedding.system, self.bed, LIMIT))

    @property
    def is_danger(self) -> bool:
        """Whether it is so cold that no figure should be trusted."""
        return not self.in_bed and self.margin < -COLD_FROM


@dataclass(frozen=True, kw_only=True)
class Warmth:
    """Every rest of a race."""

    rests: tuple[RestWarmth, ...]

    @property
    def outside(self) -> tuple[RestWarmth, ...]:
        """Those that are not in beds."""
        return tuple(rest for rest in self.rests if not rest.in_bed)


def margin_words(rest: RestWarmth) -> str:
    """Say how warm a rest is, in a few words.

    Parameters
    ----------
    rest : RestWarmth
        The rest.

    Returns
    -------
    words : str
        With the band of the model; a warning in place of a figure where it is far too cold.
    """
    if rest.in_bed:
        return "in a bed"
    if rest.is_danger:
        return "far too cold for what is slept in"
    spare = f"{abs(rest.margin):.0f} K {'to spare' if rest.margin >= 0.0 else 'too cold'} (±{BAND:.0f})"
    return f"enough to {degrees(rest.limit)}: {spare}"


def cold_words(rest: RestWarmth) -> str:
    """Say when one gets cold where it is colder than the limit.

    Parameters
    ----------
    rest : RestWarmth
        The rest.

    Returns
    -------
    words : str
        A sentence.
    """
    length = rest.length / 3600.0
    if rest.hours >= length:
        return f"It cools you slowly: not cold within its {length:.1f} h."
    return f"Cold after {rest.hours:.1f} h of {length:.1f} h."


def degrees(temp: float) -> str:
    """Return a temperature in whole degrees.

    Parameters
    ----------
    temp : float
        The temperature. [°C]

    Returns
    -------
    words : str
        With a real minus sign.

    Examples
    --------
    >>> degrees(-0.3), degrees(-4.6)
    ('0 °C', '−5 °C')
    """
    return f"{round(temp)} °C".replace("-", "−")
