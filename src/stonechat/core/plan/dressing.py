"""The race by stretches that are ridden alike, and the clothing ladder over them."""

from collections.abc import Sequence

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.line.surface import SURFACES
from stonechat.core.night.garments import GRANTED, Garment, garments_of
from stonechat.core.night.ladder import DESCENT, FOOT, RIDING, Ladder, Spells, ladder_of
from stonechat.core.night.riding import Going
from stonechat.core.numerics.arrays import BoolArray, FloatArray, IntArray, runs_of

_COASTING, _HOLDING = 110.0, 180.0  # W/m², metabolic rate rolling downhill on a road, and on rough ground (estimates)
_SOFT, _FAST = 0.45, 2.8  # 1, of the usual power; m/s: softer and faster than that over a while is a descent
_WHILE, _DESCENT_LEAST = 120.0, 150.0  # s over which that is looked at; s from which a descent counts
_SPELL_MOST, _SAME_AIR = 2700.0, 4.0  # s and K, longest and most unlike stretch that is judged as one
_ROUGH = np.array([surface.is_rough for surface in SURFACES])
_AREA = (0.202, 0.425, 0.725)  # m² of skin by mass and height [DuBois1916]


def skin_area(mass: float, height: float | None) -> float:
    """Return the area of the skin [DuBois1916].

    Parameters
    ----------
    mass : float
        Of the body. [kg]
    height : float or None
        Of the body; 1.78 m where it is not known. [m]

    Returns
    -------
    area : float
        Of the skin. [m²]

    Examples
    --------
    >>> round(skin_area(75.0, 1.8), 2)
    1.94
    """
    factor, by_mass, by_height = _AREA
    return float(factor * mass**by_mass * (height or 1.78) ** by_height)


def dressing_of(ridden: Ridden) -> Ladder:
    """Return the clothing ladder of a race.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    ladder : Ladder
        What is worn when.
    """
    body = ridden.body
    spells = spells_of(ridden, skin_area(body.mass, body.height), body.efficiency, body.runs_cold)
    garments, spares = garments_of(ridden.kit.items)
    granted = granted_beside(garments)
    kinds = {garment.cut for garment in granted}
    seconds = tuple(garment.id for garment in garments if garment.cut in kinds)
    kept = tuple(garment for garment in garments if garment.cut not in kinds)
    return ladder_of(spells, (*kept, *granted), (*spares, *seconds), [garment.name for garment in granted])


def worn_through(ridden: Ridden) -> tuple[frozenset[str], ...]:
    """Return what of the packed things is worn all along each leg.

    Parameters
    ----------
    ridden : Ridden
        With its ladder read.

    Returns
    -------
    worn : tuple of frozenset of str
        Ids, by leg.
    """
    ladder = ridden.report(Ladder)
    begins, ends = ladder.spells.begins, ladder.spells.ends
    mine = {g.id: ladder.zones[g.cut.zone].worn(g.id) for g in ladder.garments if not g.is_on}
    found = []
    for leg in ridden.timetable.legs:
        inside = (begins < leg.end - 1.0) & (ends > leg.start + 1.0)
        found.append(frozenset(key for key, worn in mine.items() if inside.any() and bool(worn[inside].all())))
    return tuple(found)


def granted_beside(garments: Sequence[Garment]) -> tuple[Garment, ...]:
    """Return what everybody rides in and a kit does not name.

    Parameters
    ----------
    garments : sequence of Garment
        What the kit names.

    Returns
    -------
    granted : tuple of Garment
        Of jersey, shorts, shoes, socks and helmet those of which it names none.
    """
    groups = {garment.cut.group for garment in garments if garment.is_on}
    return tuple(garment for garment in GRANTED if garment.cut.group not in groups)


def spells_of(ridden: Ridden, area: float, efficiency: float, cold: float = 0.0) -> Spells:
    """Return the race by stretches that are ridden alike.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    area : float
        Of the rider's skin. [m²]
    efficiency : float
        Work at the pedals for each joule that is burnt. [1]
    cold : float
        By how much the rider feels the air to be colder than others do. [K]

    Returns
    -------
    spells : Spells
        Cut at stops, rests, descents, the ways on foot, and where they get long or the air another.
    """
    ride, profile, sky = ridden.ride, ridden.way.profile, ridden.timetable.clock.sky
    times = np.maximum(ride.times, 1e-6)
    descends = _descents(ride.powers, profile.lengths / times, times)
    on_foot = ride.walked > 0.5
    kinds = np.where(on_foot, 2, np.where(descends, 1, 0))
    halted = np.zeros(times.size, dtype=bool)
    halted[np.minimum(ridden.timetable.clock.stays.segments, times.size - 1)] = True
    halted |= ride.rests > 0.0
    halted[0] = True
    edges = _edges(kinds, halted, times, ride.temps)
    of = np.repeat(np.arange(edges.size), np.diff(np.append(edges, times.size)))
    whole = np.bincount(of, weights=times)

    def mean(values: FloatArray) -> FloatArray:
        return np.asarray(np.bincount(of, weights=values * times) / whole, dtype=np.float64)

    work = mean(ride.powers) / area
    foot = mean(np.where(on_foot, ride.conditions.walk_power, 0.0)) / area
    least = mean(np.where(_ROUGH[profile.surfaces], _HOLDING, _COASTING))
    heat = np.maximum(np.where(kinds[edges] == 2, foot, work / efficiency), least)
    coldest = np.full(edges.size, np.inf)
    np.minimum.at(coldest, of, ride.temps)
    temps = np.where(kinds[edges] == 1, 0.5 * (coldest + mean(ride.temps)), mean(ride.temps))
    moments = ridden.timetable.clock.start_of_day + ride.clocks[:-1][edges]
    day = np.clip((moments // DAY).astype(np.int64), 0, sky.wet.size - 1)
    pedalled = kinds[edges] != 1
    usual = float(np.average(heat[pedalled], weights=whole[pedalled])) if pedalled.any() else _COASTING
    return Spells(
        begins=profile.distances[edges],
        ends=profile.distances[np.append(edges[1:], times.size)],
        clocks=ride.clocks[:-1][edges],
        lengths=np.asarray(whole, dtype=np.float64),
        kinds=tuple((RIDING, DESCENT, FOOT)[kind] for kind in kinds[edges].tolist()),
        going=Going(
            temps=temps - cold,
            speeds=mean(profile.lengths / times),
            heats=heat,
            works=np.where(kinds[edges] == 2, 0.0, work),
            humidities=np.where(sky.wet[day] > 0.5, np.maximum(sky.humidities[day], 0.9), sky.humidities[day]),
        ),
        wet=sky.wet[day] > 0.5,
        halts=halted[edges],
        effort=usual,
    )


def _descents(powers: FloatArray, speeds: FloatArray, times: FloatArray) -> BoolArray:
    """Tell which segments are of a descent: soft pedalling and speed over a while, long enough to cool down."""
    passed = np.cumsum(times)
    begins, ends = (np.searchsorted(passed, passed + shift) for shift in (-0.5 * _WHILE, 0.5 * _WHILE))
    ends = np.minimum(np.maximum(ends, begins + 1), times.size)

    def around(values: FloatArray) -> FloatArray:
        total = np.concatenate(([0.0], np.cumsum(values)))
        return np.asarray(total[ends] - total[begins])

    spent = np.maximum(around(times), 1e-9)
    usual = float(np.average(powers, weights=times * (powers > 0.0) + 1e-9))
    soft = (around(powers * times) / spent < _SOFT * usual) & (around(speeds * times) / spent > _FAST)
    found = np.zeros(times.size, dtype=bool)
    for first, last in runs_of(soft):
        found[first:last] = float(times[first:last].sum()) >= _DESCENT_LEAST
    return found


def _edges(kinds: IntArray, halted: BoolArray, times: FloatArray, temps: FloatArray) -> IntArray:
    """Return the segments at which stretches begin."""
    begins = halted | np.concatenate(([True], kinds[1:] != kinds[:-1]))
    edges, since, first = [], 0.0, 0.0
    for k, (time, temp) in enumerate(zip(times.tolist(), temps.tolist(), strict=True)):
        long = kinds[k] != 1 and (since + time > _SPELL_MOST or abs(temp - first) > _SAME_AIR)
        if begins[k] or long:
            edges.append(k)
            since, first = 0.0, temp
        since += time
    return np.array(edges, dtype=np.int64)
