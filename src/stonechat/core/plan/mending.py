"""What may fail on a ridden race, what answers it where, and what each thing aboard is worth by that."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

import numpy as np

from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import ENDING
from stonechat.core.ledger.lost import Lost
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY, Stop, door_of, next_opening
from stonechat.core.line.surface import PUNCTURES, SURFACES
from stonechat.core.mend.failures import COLD, HOT, STOCK, Failure
from stonechat.core.mend.odds import Help, Outcome, aboard_of, outcomes
from stonechat.core.mend.report import FailureLine, Mend
from stonechat.core.mend.rule import failures_of
from stonechat.core.mend.wear import AGED, WEARS_OUT, WearLine, wear_of, worn_through
from stonechat.core.numerics.arrays import FloatArray, IntArray
from stonechat.core.plan.nights import rests_of
from stonechat.core.plan.sky import wet_at
from stonechat.core.plan.wearing import MUDDY, ground_of

_ROUGH = {  # 1, how much more fails on a ground than on smooth gravel (estimates)
    "tarmac": 0.4, "smooth_gravel": 0.8, "rough_gravel": 1.6, "track": 1.6, "singletrack": 2.0, "sand_mud": 0.8,
    "hike_a_bike": 0.6,
}  # fmt: skip
_PUSHED, _RIDDEN = 8.0, 0.5  # 1, by which shoes suffer on foot, and riding (estimates)
_EVERY = 10_000.0  # m between the places from which help is looked for
_WORK = {"bike_shop": 60.0, "shop": 25.0}  # min that it takes there (estimates)
_FAR, _LONG = 80_000.0, 16.0 * 3600.0  # m, s: help that is farther, or takes longer, is none (estimates)
_MASS = 95.0  # kg, bike, rider and load that rates on rough ground are for
_SOME = 0.0005  # expected times from which a failure is told of


def mend_of(ridden: Ridden) -> Mend:
    """Return what may fail on a race.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    mend : Mend
        What this bike and kit do not have cannot fail.
    """
    told, weights = failures_of(ridden.said.mending), where_of(ridden)
    expected = {key: float(weights[key].sum()) for key in weights}
    places = _places_of(ridden)
    helps = {key: _help(ridden, told[key], weights[key], places) for key in weights}
    aboard = aboard_of((*ridden.kit.items, *ridden.kit.relied))
    found = outcomes(expected, told, aboard, helps)
    lines = [
        FailureLine(
            failure=told[key],
            outcome=found[key],
            help=helps[key],
            lacking=tuple(aboard.lacking(answer) for answer in told[key].answers),
        )
        for key in weights
    ]
    ordered = tuple(sorted(lines, key=lambda line: -_cost(line.outcome)))
    return Mend(lines=ordered, stock=aboard.stock)


def _cost(outcome: Outcome) -> float:
    return outcome.minutes + ENDING * outcome.ending


def where_of(ridden: Ridden) -> dict[str, FloatArray]:
    """Return how often each failure is expected on each segment.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    weights : dict of str to ndarray, shape (n,)
        Of failures that this bike and kit can have. [1]
    """
    ride, profile = ridden.ride, ridden.way.profile
    km = profile.lengths / 1e6  # thousands of km
    names = [SURFACES[k].key for k in range(len(SURFACES))]
    tyre = km * np.array([PUNCTURES[name] for name in names])[profile.surfaces]
    tyre *= ridden.way.punctures / max(float(tyre.sum()), 1e-12)
    hours = ride.times / 3600.0
    nights = sum(1 for rest in rests_of(ridden) if rest.stop is None or not rest.stop.has_warm_bed)
    heavy = float(np.mean([leg.mass for leg in ridden.film])) / _MASS  # a hit is as hard as what is hit with
    by_ground = {
        "tyre": tyre,
        "rough": heavy * km * np.array([_ROUGH[name] for name in names])[profile.surfaces],
        "even": km,
        "wet": km,
        "pushing": km * (_RIDDEN + _PUSHED * ride.walked),
        "nights": km / max(float(km.sum()), 1e-12) * nights,
        "days": hours / max(float(hours.sum()), 1e-12) * (float(ride.clocks[-1]) / DAY),
        "dark": hours * ride.dark / 10.0,
    }
    wet = wet_at(ridden.timetable.clock, ride.clocks[:-1])
    soft = wet * np.isin(np.array(names)[profile.surfaces], MUDDY)
    cold, hot = ride.temps < COLD, ride.temps > HOT
    here = has_of(ridden)
    weights = {
        key: failure.rate
        * by_ground[failure.ground]
        * (1.0 + (failure.wet - 1.0) * wet)
        * (1.0 + (failure.mud - 1.0) * soft)
        * np.where(cold, failure.cold, np.where(hot, failure.heat, 1.0))
        for key, failure in failures_of(ridden.said.mending).items()
        if not failure.needs or here[failure.needs]
    }
    lives = wear_of(ground_of(ridden), ridden.said.mending)
    return {key: _aged(ridden, key, weight, lives) for key, weight in weights.items()}


def _aged(ridden: Ridden, key: str, weight: FloatArray, lives: tuple[WearLine, ...]) -> FloatArray:
    """Return how often a failure is expected, with what wears through, by the age of its part."""
    rule = ridden.said.mending
    told = rule.told.get(key)
    parts = [part for part in AGED.get(key, ()) if part in rule.ages or key in WEARS_OUT]
    if not parts or (told and told.rate is not None):
        return weight
    mine = [line for line in lives if line.key in parts]
    if key not in WEARS_OUT:
        return weight * float(np.mean([0.5 + line.before + 0.5 * line.used for line in mine]))
    worn = sum(worn_through(line.before, line.used) for line in mine) / max(1, len(mine) // len(parts))
    total = float(weight.sum())  # pads of which the kind is not said are the mean of both
    return weight * (1.0 + worn / total) if total > 0.0 else weight


def has_of(ridden: Ridden) -> dict[str, bool]:
    """Tell what of NEEDS a bike and kit have.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    has : dict of str to bool
        By key of NEEDS.
    """
    bike, kinds = ridden.rig.bike, {item.kind for item in ridden.kit.items}
    return {
        "tubeless": bike.tubeless,
        "tubes": not bike.tubeless,
        "mechanical": not bike.electronic,
        "electronic": bike.electronic,
        "dropper": bike.dropper_travel > 0.0,
        "aero": bike.aero_bars,
        "fork": bike.fork_travel > 0.0,
        "rear": bike.rear_travel > 0.0,
        "bags": any("items" in carrier.takes for carrier in ridden.rig.carriers),
        "bladder": any("bladder" in carrier.id for carrier in ridden.rig.carriers),
        "mat": "mat_inflatable" in kinds,
        "tent": "tent" in kinds,
        "sleeping_bag": "sleeping_bag" in kinds,
        "dynamo": "dynamo_charger" in kinds,
    }


@dataclass(frozen=True, kw_only=True)
class _Places:
    """Places along the course from which help is looked for."""

    at: FloatArray  # m, shape (b,)
    bins: IntArray  # place of each segment, shape (n,)
    costs: dict[tuple[str, float], FloatArray] = field(default_factory=dict)  # min by shop and speed, shape (b,)


def _places_of(ridden: Ridden) -> _Places:
    places = ridden.way.profile.distances[: ridden.ride.times.size]
    bins = (places // _EVERY).astype(np.int64)
    return _Places(at=places[np.unique(bins, return_index=True)[1]], bins=np.unique(bins, return_inverse=True)[1])


def _help(ridden: Ridden, failure: Failure, weights: FloatArray, places: _Places) -> Help:
    """Return what help costs where a failure happens and nothing aboard answers it, the mean over where that is."""
    key = (failure.shop, failure.speed)
    if key not in places.costs:
        spent = [_way_to(ridden, failure, places.at, stop).spent for stop in _shops(ridden, failure)]
        places.costs[key] = np.min([np.full(places.at.size, np.inf), *spent], axis=0) / 60.0
    costs, mass = places.costs[key], np.bincount(places.bins, weights=weights, minlength=places.at.size)
    known = np.isfinite(costs)
    reached, total = float(mass[known].sum()), float(mass.sum())
    if reached <= 0.0:
        return Help(reached=0.0, minutes=0.0)
    return Help(reached=reached / total, minutes=float((mass[known] * costs[known]).sum()) / reached)


@dataclass(frozen=True, kw_only=True)
class HelpAt:
    """Help at a stop, from a place."""

    stop: Stop
    ahead: float  # m, negative behind
    way: float  # min on the way there, unmended
    wait: float  # min before its door
    minutes: float  # min lost, the work there in it, the way that is ridden anyway not


def helps_at(ridden: Ridden, failure: Failure, at: float) -> tuple[HelpAt, ...]:
    """Return where help is within reach of a place.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    failure : Failure
        The failure, unmended.
    at : float
        Where it happens. [m]

    Returns
    -------
    helps : tuple of HelpAt
        The quickest first.
    """
    found = [(stop, _way_to(ridden, failure, np.array([at]), stop)) for stop in _shops(ridden, failure)]
    near = [
        HelpAt(stop=stop, ahead=stop.distance - at, way=way.there.item() / 60.0, wait=way.wait.item() / 60.0,
               minutes=way.spent.item() / 60.0)
        for stop, way in found if np.isfinite(way.spent.item())
    ]  # fmt: skip
    return tuple(sorted(near, key=lambda one: one.minutes))


def _shops(ridden: Ridden, failure: Failure) -> list[Stop]:
    return [stop for stop in ridden.way.stops if failure.shop and failure.shop in stop.offers]


class _Way(NamedTuple):
    """The way to a shop from some places, in s, each of shape (b,)."""

    there: FloatArray
    wait: FloatArray  # before its door
    spent: FloatArray  # lost by it, the work in it; infinity where it is too far or takes too long


def _way_to(ridden: Ridden, failure: Failure, at: FloatArray, stop: Stop) -> _Way:
    ahead = stop.distance - at
    ride, places = ridden.ride, ridden.way.profile.distances
    count = min(ride.clocks.size, places.size)
    now, there = (np.interp(along, places[:count], ride.clocks[:count]) for along in (at, stop.distance))
    way = np.abs(ahead) / (failure.speed / 3.6)
    local = ridden.timetable.clock.start_of_day + now + way
    days, hours = ridden.way.start.weekday() + (local // DAY).astype(np.int64), door_of(stop, failure.shop).hours
    wait = np.full(at.size, np.inf)
    for k in np.flatnonzero(np.abs(ahead) <= _FAR).tolist():
        wait[k] = next_opening(hours, int(days[k]) % 7, float(local[k] % DAY))
    # the way ahead is ridden anyway; the way back is gone twice
    spent = way + wait + np.where(ahead < 0.0, way, -np.minimum(there - now, way)) + 60.0 * _WORK[failure.shop]
    return _Way(there=way, wait=wait, spent=np.where(way + wait <= _LONG, spent, np.inf))


@dataclass(frozen=True, kw_only=True)
class MendWorth:
    """What things are worth by what they mend."""

    told: Mapping[str, Failure]
    expected: Mapping[str, float]
    helps: Mapping[str, Help]
    what: str = "mending"
    known: dict[tuple[int, frozenset[str]], Lost] = field(default_factory=dict)

    @cached_property
    def clusters(self) -> tuple[tuple[frozenset[str], frozenset[str]], ...]:
        """Failures that draw on the same stock, and kinds and jobs that answer them."""
        groups: list[tuple[set[str], set[str], set[str]]] = []
        for key in self.expected:
            pools = {answer.pool for answer in self.told[key].answers if answer.pool}
            words = {word for answer in self.told[key].answers for one in answer.needs for word in one}
            words |= {kind for pool, kind, _ in STOCK if pool in pools}
            mine = ({key}, pools, words)
            for other in [group for group in groups if group[1] & pools]:
                groups.remove(other)
                mine = (mine[0] | other[0], mine[1] | other[1], mine[2] | other[2])
            groups.append(mine)
        return tuple((frozenset(keys), frozenset(words)) for keys, _, words in groups)

    def judges(self, item: Item) -> bool:
        """Tell whether a thing answers any failure."""
        return any(self._serves(item, words) for _, words in self.clusters)

    @staticmethod
    def _serves(item: Item, words: frozenset[str]) -> bool:
        return item.kind in words or bool(item.roles & words)

    def loss(self, items: Iterable[Item]) -> Lost:
        """Return what is lost to failures with some things aboard."""
        listed = list(items)
        parts = [self._cluster(k, listed) for k in range(len(self.clusters))]
        safe = float(np.prod([1.0 - part.ending for part in parts]))
        return Lost(minutes=sum(part.minutes for part in parts), ending=1.0 - safe)

    def _cluster(self, k: int, items: list[Item]) -> Lost:
        keys, words = self.clusters[k]
        mine = [item for item in items if self._serves(item, words)]
        sign = (k, frozenset(f"{item.id} {item.quantity}" for item in mine))
        if sign not in self.known:
            found = outcomes({key: self.expected[key] for key in keys}, self.told, aboard_of(mine), self.helps)
            safe = float(np.prod([1.0 - outcome.ending for outcome in found.values()]))
            self.known[sign] = Lost(minutes=sum(one.minutes for one in found.values()), ending=1.0 - safe)
        return self.known[sign]

    def worth(self, item: Item, items: Iterable[Item]) -> Lost:
        """Return what more is lost without a thing than with it, an ended ride priced at ENDING."""
        listed = list(items)
        left = [entry for entry in listed if entry.id != item.id]
        minutes, safe = 0.0, 1.0
        for k, (_, words) in enumerate(self.clusters):
            if self._serves(item, words):
                having, lacking = self._cluster(k, listed), self._cluster(k, left)
                minutes += max(0.0, lacking.minutes - having.minutes)
                safe *= 1.0 - max(0.0, lacking.ending - having.ending)
        return Lost(minutes=minutes + ENDING * (1.0 - safe), ending=1.0 - safe)

    def answers_with(self, key: str, item: Item) -> bool:
        """Tell whether an answer of a failure takes a thing."""
        words = frozenset(word for answer in self.told[key].answers for one in answer.needs for word in one)
        return self._serves(item, words)

    def words(self, item: Item, items: Iterable[Item]) -> tuple[str, ...]:
        """Say what a thing answers, the likeliest first."""
        aboard = aboard_of(items)
        found = []
        for key, expected in sorted(self.expected.items(), key=lambda entry: -entry[1]):
            for answer in self.told[key].answers:
                named = {word for one in answer.needs for word in one}
                if self._serves(item, frozenset(named)) and aboard.does(answer) and expected > _SOME:
                    found.append(f"{self.told[key].name}: {100.0 * (1.0 - np.exp(-expected)):.0f} % likely")
                    break
        return tuple(found[:3]) or ("answers nothing that is likely here",)


def mend_worth_of(ridden: Ridden) -> MendWorth:
    """Return what things are worth by what they mend, on the bike and of the body.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    worth : MendWorth
        To be asked; it remembers what it was asked.
    """
    lines = ridden.report(Mend).lines
    return MendWorth(
        told={line.failure.key: line.failure for line in lines},
        expected={line.failure.key: line.outcome.expected for line in lines},
        helps={line.failure.key: line.help for line in lines},
    )
