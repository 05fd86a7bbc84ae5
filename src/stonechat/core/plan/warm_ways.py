"""What would make a rest warmer, what could go, and what wet, a clear sky or an empty stomach would do.

Each with grams, minutes of race time where they are known, and the margin left.
"""

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import brentq

from stonechat.core.kit.item import Item
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.night.bedding import BY_MASS, DAMP, WET, Bedding, Damp, bedding_of, rating_of, usual_rating
from stonechat.core.night.report import RestWarmth, Warmth
from stonechat.core.night.sleep import BAND, CLO, US_R, SleepSystem, bag_insulation, clear_sky
from stonechat.core.plan.nights import Rest, air_temperature, proposals_for, rests_of
from stonechat.core.rhythm.rhythm import Night, Rhythm, sleeping_at

EXHAUSTED = 40.0  # W/m² made asleep by who is worn out and unfed (estimate)
_MAT_MASS = 0.11  # kg that a mat weighs more for one R (estimate, 60 to 200 g)
_WARMER = 5.0  # K by which a warmer quilt is tried
_SHIRT_MASS = 0.25  # kg of a dry set to sleep in (estimate)
_JACKET = (0.28, 1.32 * CLO - 0.5 * CLO)  # kg, m²K/W of a filled jacket over dry clothes (estimates)
_BIVVY = (0.22, 0.05)  # kg, m²K/W (estimates)
_MORNING = 8.0 * 3600.0  # s after midnight, when it is warm enough to lie down late
_LEAST = 0.4  # K that a way must give
_COMFORTABLE = 3.0  # K above comfort from which it is more than is needed
_WARMEST = 25.0  # K by which a lighter bag is tried
_LIGHTEST = 0.55  # 1, of its mass, that is the lightest which a bag could be replaced by


@dataclass(frozen=True, kw_only=True)
class Elsewhere:
    """Another place or hour for a rest."""

    index: int  # night it belongs to
    stop: str  # id of the stop; empty: wherever one is then
    begins: float  # s since the start
    length: float  # s


@dataclass(frozen=True, kw_only=True)
class WarmWay:
    """One way to sleep warmer."""

    words: str
    grams: float  # g more; 0: what is there is used otherwise
    minutes: float | None  # min of race time; None: not known before the race is ridden so
    margin: float | None  # K that would be spare; None: in a bed
    rest: Elsewhere | None = None  # where and when one would rest instead


@dataclass(frozen=True, kw_only=True)
class Lighter:
    """What could go where it is warmer than it must be."""

    words: str
    grams: float  # g that could go
    minutes: float  # min of race time that this saves
    margin: float  # K that would be spare on the coldest night


@dataclass(frozen=True, kw_only=True)
class Wetness:
    """What is left of a margin when something is wet."""

    words: str
    margin: float  # K


def ways_for(ridden: Ridden, warmth: RestWarmth) -> tuple[WarmWay, ...]:
    """Return what would make a rest warmer.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    warmth : RestWarmth
        One of its rests.

    Returns
    -------
    ways : tuple of WarmWay
        Those that end with a margin first, by minutes and then by grams; none in a bed.
    """
    if warmth.in_bed:
        return ()
    found = [*_otherwise(warmth), *_more(ridden, warmth), *_elsewhere(ridden, warmth)]
    return ranked(way for way in found if way.margin is None or way.margin > warmth.margin + _LEAST)


def ranked(ways: Iterable[WarmWay]) -> tuple[WarmWay, ...]:
    """Return ways to sleep warmer, those that are enough first, then by minutes, grams and margin.

    Parameters
    ----------
    ways : iterable of WarmWay
        In any order.

    Returns
    -------
    ways : tuple of WarmWay
        What is not known in minutes stands behind what is.

    Examples
    --------
    >>> ranked([])
    ()
    """

    def place(way: WarmWay) -> tuple[bool, float, float, float]:
        margin = math.inf if way.margin is None else way.margin
        return margin < 0.0, math.inf if way.minutes is None else way.minutes, way.grams, -margin

    return tuple(sorted(ways, key=place))


def resting(rhythm: Rhythm, start_of_day: float, rest: Elsewhere) -> Rhythm:
    """Return a rhythm with one rest at another place or hour.

    Parameters
    ----------
    rhythm : Rhythm
        As it is.
    start_of_day : float
        Clock time of the start. [s]
    rest : Elsewhere
        Where and when instead.

    Returns
    -------
    rhythm : Rhythm
        At a stop that night is ridden through but for the stop; else the night is set by hand.
    """
    sleep = round(max(3_600.0, rest.length - rhythm.camp_time))
    if rest.stop:
        return sleeping_at(rhythm, rest.index, rest.stop, sleep)
    begins = round((start_of_day + rest.begins - rest.index * DAY) / 60.0) * 60.0
    return replace(rhythm, nights={**rhythm.nights, rest.index: Night(kind="for", start=begins, sleep=sleep)})


def _margin(warmth: RestWarmth, system: SleepSystem) -> float:
    return warmth.low - warmth.least(system)


def _otherwise(warmth: RestWarmth) -> Iterator[WarmWay]:
    """Yield what can be done with what is there."""
    over = bedding_of(warmth.items, ridden_in=warmth.ridden_in, over_all=True)
    if over.ids != warmth.bedding.ids:
        yield WarmWay(
            words="wear the rain suit to bed, over all", grams=0.0, minutes=0.0, margin=_margin(warmth, over.system)
        )
    everything = bedding_of(warmth.items, over_all=True)
    if warmth.ridden_in and everything.system.clothes[0] > over.system.clothes[0] + 1e-6:
        yield WarmWay(
            words="keep one layer dry for the night and ride without it",
            grams=0.0,
            minutes=None,
            margin=_margin(warmth, everything.system),
        )


def _more(ridden: Ridden, warmth: RestWarmth) -> Iterator[WarmWay]:
    """Yield what could be taken along beside, or in place of what is."""
    system, per_kg = warmth.bedding.system, ridden.ledger.prices.per_kg

    def taken(words: str, mass: float, changed: SleepSystem) -> WarmWay:
        return WarmWay(words=words, grams=1000.0 * mass, minutes=per_kg * mass, margin=_margin(warmth, changed))

    yield taken("a mat with R 1 more", _MAT_MASS, replace(system, mat=system.mat + US_R))
    bag = warmth.bedding.bag
    if bag is not None:
        rating, label = _label_of(bag)
        more = _mass_for(bag.kind, rating - _WARMER) - _mass_for(bag.kind, rating)
        thicker = system.bag + bag_insulation(rating - _WARMER, label) - bag_insulation(rating, label)
        yield taken(f"a {'quilt' if bag.kind == 'quilt' else 'bag'} 5 K warmer", more, replace(system, bag=thicker))
    if not any(item.kind in ("down_jacket", "synthetic_jacket") for item in warmth.items):
        mass, warm = _JACKET
        yield taken("a filled jacket worn to bed", mass, _clothed(system, warm, 0.0))
    if system.clothes[0] < 0.5 * CLO:
        yield taken("a dry set to sleep in", _SHIRT_MASS, _clothed(system, 0.2 * CLO, 0.2 * CLO))
    if not system.is_sheltered:
        mass, shelter = _BIVVY
        yield taken("a bivvy bag", mass, replace(system, shelter=system.shelter + shelter, is_sheltered=True))


def _clothed(system: SleepSystem, upper: float, lower: float) -> SleepSystem:
    return replace(system, clothes=(system.clothes[0] + upper, system.clothes[1] + lower))


def _label_of(bag: Item) -> tuple[float, str]:
    return rating_of(bag) or (usual_rating(bag.kind, bag.mass), "comfort")


def _mass_for(kind: str, rating: float) -> float:
    """Return the mass of a bag with a comfort temperature, as is usual of its kind. [kg]"""
    masses, ratings = BY_MASS[kind]
    slope = (masses[-1] - masses[-2]) / (ratings[-2] - ratings[-1])
    colder = max(0.0, ratings[-1] - rating)  # than the heaviest that is usual
    return float(np.interp(-rating, [-value for value in ratings], masses)) + slope * colder


def _elsewhere(ridden: Ridden, warmth: RestWarmth) -> Iterator[WarmWay]:
    """Yield other places and hours for a rest."""
    rest = next((r for r in rests_of(ridden) if r.distance == warmth.distance), None)
    if rest is None:
        return
    for place in proposals_for(ridden, rest):
        shift = f"{abs(place.shift) / 60.0:.0f} min {'later' if place.shift >= 0.0 else 'earlier'}"
        where = f"km {place.distance / 1e3:.0f}"
        there = Elsewhere(
            index=rest.index,
            stop=place.stop.id if place.stop is not None else "",
            begins=rest.begins + place.shift,
            length=rest.length,
        )
        if place.stop is not None and place.stop.has_warm_bed:
            words = f"sleep in a bed at {place.stop.name}, {where}, {shift}"
            yield WarmWay(words=words, grams=0.0, minutes=None, margin=None, rest=there)
        else:
            colder = replace(warmth, low=place.low, ground=place.low + warmth.ground - warmth.low)
            name = f"at {place.stop.name}, " if place.stop is not None else f"{place.reason}, "
            words = f"sleep {name}{where}, {shift}"
            yield WarmWay(words=words, grams=0.0, minutes=None, margin=colder.margin, rest=there)
    yield from _late(ridden, warmth, rest)


def _late(ridden: Ridden, warmth: RestWarmth, rest: Rest) -> Iterator[WarmWay]:
    """Yield the same rest slept from eight in the morning, having ridden through the cold."""
    begins = ridden.timetable.clock.start_of_day + rest.begins
    morning = (begins // DAY) * DAY + _MORNING
    morning += DAY if morning <= begins else 0.0
    if morning - begins > 12.0 * 3600.0:
        return
    since = morning - ridden.timetable.clock.start_of_day
    low = min(air_temperature(ridden, rest.distance, since + share * rest.length) for share in (0.0, 0.5, 1.0))
    margin = replace(warmth, low=low, ground=low + warmth.ground - warmth.low).margin
    yield WarmWay(
        words="ride through the cold and lie down at 8 in the morning",
        grams=0.0,
        minutes=None,
        margin=margin,
        rest=Elsewhere(index=rest.index, stop="", begins=since, length=rest.length),
    )


def lighter_for(ridden: Ridden) -> Lighter | None:
    """Return what of the bag could go if nothing were to spare on the coldest night.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    lighter : Lighter or None
        None where no night leaves more than the model's band to spare, or there is no bag.
    """
    outside = ridden.report(Warmth).outside
    if not outside:
        return None
    coldest = min(outside, key=lambda rest: rest.margin)
    bag, system = coldest.bedding.bag, coldest.bedding.system
    if coldest.margin <= BAND or bag is None:
        return None
    rating, label = _label_of(bag)

    def spare(warmer: float) -> float:
        thinner = system.bag + bag_insulation(rating + warmer, label) - bag_insulation(rating, label)
        return _margin(coldest, replace(system, bag=max(0.0, thinner)))

    warmer = _WARMEST if spare(_WARMEST) > 0.0 else float(brentq(spare, 0.0, _WARMEST, xtol=0.01))
    mass = max(_mass_for(bag.kind, rating) - _mass_for(bag.kind, rating + warmer), 0.0)
    mass = min(mass, (1.0 - _LIGHTEST) * bag.mass)
    return Lighter(
        words=f"{bag.name} for one rated {rating + warmer:.0f} °C {label}".replace("-", "−"),
        grams=1000.0 * mass,
        minutes=ridden.ledger.prices.per_kg * mass,
        margin=max(0.0, spare(warmer)),
    )


def wet_nights(warmth: RestWarmth) -> tuple[Wetness, ...]:
    """Return what is left of a margin when something is wet, or the sleeper worn out.

    Parameters
    ----------
    warmth : RestWarmth
        One rest.

    Returns
    -------
    wetness : tuple of Wetness
        The bag wet, all that is filled wet, three nights of dew under a bivvy, clothes wet, worn out and unfed.
    """

    def slept(damp: Damp) -> Bedding:
        return bedding_of(warmth.items, damp=damp, ridden_in=warmth.ridden_in)

    found = []
    bag = warmth.bedding.bag
    if bag is not None:
        found.append((f"{bag.name} soaked", slept(Damp(each=WET, only=bag.id))))
    if warmth.bedding.is_down:
        found.append(("all that is filled soaked", slept(Damp(each=WET))))
        found.append(("three nights of dew in the filling", slept(Damp(each=DAMP))))
    found.append(("dry clothes wet", slept(Damp(no_change=True))))
    told = [Wetness(words=words, margin=_margin(warmth, bedding.system)) for words, bedding in found]
    told = [entry for entry in told if entry.margin < warmth.margin - 0.05]
    told = [entry for k, entry in enumerate(told) if all(abs(entry.margin - other.margin) > 0.05 for other in told[:k])]
    if warmth.bedding.is_under_the_sky and not warmth.rain:
        sky = clear_sky(warmth.low)
        told.append(
            Wetness(
                words="under a clear sky, with neither roof nor trees above",
                margin=warmth.low - warmth.least(warmth.bedding.system, sky=sky),
            )
        )
    tired = warmth.low - warmth.least(warmth.bedding.system, heat=EXHAUSTED)
    return (*told, Wetness(words="worn out and unfed", margin=tired))
