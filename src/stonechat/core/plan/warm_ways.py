"""What would make a rest warmer, what could go, and what wet would do: each with grams, minutes and the margin left."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.night.bedding import BY_MASS, DAMP, WET, Bedding, Damp, bedding_of, rating_of, usual_rating
from stonechat.core.night.report import RestWarmth, Warmth
from stonechat.core.night.sleep import BAND, CLO, US_R, SleepSystem, bag_insulation
from stonechat.core.plan.nights import Rest, air_temperature, proposals_for, rests_of

EXHAUSTED = 40.0  # W/m² made asleep by who is worn out and unfed (estimate)
_MAT_MASS = 0.11  # kg that a mat weighs more for one R (estimate, 60 to 200 g)
_WARMER = 5.0  # K by which a warmer quilt is tried
_SHIRT_MASS = 0.25  # kg of a dry set to sleep in (estimate)
_JACKET = (0.28, 1.32 * CLO - 0.5 * CLO)  # kg, m²K/W of a filled jacket over dry clothes (estimates)
_BIVVY = (0.22, 0.05)  # kg, m²K/W (estimates)
_MORNING = 8.0 * 3600.0  # s after midnight, when it is warm enough to lie down late
_LEAST = 0.4  # K that a way must give
_COMFORTABLE = 3.0  # K above comfort from which it is more than is needed
_LIGHTEST = 0.55  # 1, of its mass, that is the lightest which a bag could be replaced by


@dataclass(frozen=True, kw_only=True)
class WarmWay:
    """One way to sleep warmer."""

    words: str
    grams: float  # g more; 0: what is there is used otherwise
    minutes: float | None  # min of race time; None: not known before it is tried
    margin: float  # K that would be spare


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
    found = [way for way in found if way.margin > warmth.margin + _LEAST]
    return tuple(sorted(found, key=lambda way: (way.margin < 0.0, way.minutes or 0.0, way.grams, -way.margin)))


def _margin(warmth: RestWarmth, system: SleepSystem) -> float:
    return warmth.low - warmth.least(system)


def _otherwise(warmth: RestWarmth) -> Iterator[WarmWay]:
    """Yield what can be done with what is there."""
    over = bedding_of(warmth.items, ridden_in=warmth.ridden_in, over_all=True)
    if set(over.things) != set(warmth.bedding.things):
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
    bag = next((item for item in warmth.items if item.name == warmth.bedding.parts["bag"]), None)
    if bag is not None and bag.kind in BY_MASS:
        told = rating_of(bag)
        rating, label = told or (usual_rating(bag.kind, bag.mass), "comfort")
        more = _mass_for(bag.kind, rating - _WARMER, bag.mass) - _mass_for(bag.kind, rating, bag.mass)
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


def _mass_for(kind: str, rating: float, mass: float) -> float:
    """Return the mass of a bag with a comfort temperature, as is usual of its kind. [kg]"""
    masses, ratings = BY_MASS[kind]
    slope = (masses[-1] - masses[-2]) / (ratings[-2] - ratings[-1])
    if rating < ratings[-1]:
        return float(masses[-1] + slope * (ratings[-1] - rating))
    return float(np.interp(-rating, [-value for value in ratings], masses)) if mass > 0.0 else 0.0


def _elsewhere(ridden: Ridden, warmth: RestWarmth) -> Iterator[WarmWay]:
    """Yield other places and hours for a rest."""
    rest = next((r for r in rests_of(ridden) if r.distance == warmth.distance), None)
    if rest is None:
        return
    for place in proposals_for(ridden, rest):
        shift = f"{abs(place.shift) / 60.0:.0f} min {'later' if place.shift >= 0.0 else 'earlier'}"
        where = f"km {place.distance / 1e3:.0f}"
        if place.stop is not None and place.stop.has_warm_bed:
            words = f"sleep in a bed at {place.stop.name}, {where}, {shift}"
            yield WarmWay(words=words, grams=0.0, minutes=None, margin=20.0)
        else:
            there = replace(warmth, low=place.low, ground=place.low + warmth.ground - warmth.low)
            name = f"at {place.stop.name}, " if place.stop is not None else f"{place.reason}, "
            words = f"sleep {name}{where}, {shift}"
            yield WarmWay(words=words, grams=0.0, minutes=None, margin=there.margin)
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
        words="ride through the cold and lie down at 8 in the morning, at this height", grams=0.0, minutes=None,
        margin=margin,
    )  # fmt: skip


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
    bag = next((item for item in coldest.items if item.name == coldest.bedding.parts["bag"]), None)
    if coldest.margin <= BAND or bag is None:
        return None
    told = rating_of(bag)
    rating, label = told or (usual_rating(bag.kind, bag.mass), "comfort")
    system, dry = coldest.bedding.system, bag_insulation(rating, label)
    low, high = 0.0, 25.0
    for _ in range(30):
        middle = 0.5 * (low + high)
        thinner = system.bag + bag_insulation(rating + middle, label) - dry
        enough = _margin(coldest, replace(system, bag=max(0.0, thinner))) >= 0.0
        low, high = (middle, high) if enough else (low, middle)
    mass = max(_mass_for(bag.kind, rating, bag.mass) - _mass_for(bag.kind, rating + low, bag.mass), 0.0)
    mass = min(mass, (1.0 - _LIGHTEST) * bag.mass)
    return Lighter(
        words=f"{bag.name} for one rated {rating + low:.0f} °C {label}".replace("-", "−"),
        grams=1000.0 * mass,
        minutes=ridden.ledger.prices.per_kg * mass,
        margin=0.0,
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
    bag = next((item for item in warmth.items if item.name == warmth.bedding.parts["bag"]), None)
    if bag is not None:
        found.append((f"{bag.name} soaked", slept(Damp(each=WET, only=bag.id))))
    if warmth.bedding.is_down:
        found.append(("all that is filled soaked", slept(Damp(each=WET))))
        found.append(("three nights of dew in the filling", slept(Damp(each=DAMP))))
    found.append(("dry clothes wet", slept(Damp(no_change=True))))
    told = [Wetness(words=words, margin=_margin(warmth, bedding.system)) for words, bedding in found]
    told = [entry for entry in told if entry.margin < warmth.margin - 0.05]
    told = [entry for k, entry in enumerate(told) if all(abs(entry.margin - other.margin) > 0.05 for other in told[:k])]
    tired = warmth.low - warmth.least(warmth.bedding.system, heat=EXHAUSTED)
    return (*told, Wetness(words="worn out and unfed", margin=tired))
