"""What a race that was ridden tells of its rider's ways, held against the plan it was ridden with."""

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from stonechat.core.diary.body import BodyRates, body_rates, litres_in
from stonechat.core.diary.combine import Estimate
from stonechat.core.diary.habits import (
    Habit,
    clock_told,
    cold_told,
    hours_in,
    level_in,
    mean_told,
    sweat_told,
)
from stonechat.core.diary.notes import Note
from stonechat.core.diary.rides import Ride
from stonechat.core.diary.trail import NIGHT, Stand, Trail, at_stops, stands
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import KINDS, Stop, is_open, main_door
from stonechat.core.night.ladder import Ladder, judge_outfits
from stonechat.core.plan.charging import charge_of
from stonechat.core.plan.dressing import dressing_of
from stonechat.core.plan.plan import Variant
from stonechat.core.plan.providing import loss_riding
from stonechat.core.plan.scenario import DETOUR_SPEED
from stonechat.core.plan.sky import clock_after
from stonechat.core.supply.needs import DRINK_MOST, URINE, drinking_need

FEWEST_STAYS = 2  # 1, at a kind of stop
FEWEST_NIGHTS = 2  # 1
FEWEST_FELT = 2  # 1, notes on being cold or warm
FEWEST_PAUSES = 15  # 1, halts on the road
_LEAST_STAY = 60.0  # s of standing that count as a stay
_SPREAD = 0.6  # 1, one sd of stays at a kind of stop over their mean (estimate)
_CLOCK_SPREAD = 0.75  # h, of when one lies down and sets out (estimate)
_CAMP_SPREAD = 15.0  # min (estimate)
_PAUSE_BAND = 0.5  # 1, gates, lights and photographs are pauses too: half of a 95 % band (estimate)
_LEAST_REACHING = 600.0  # s of reaching as usual that halts can be held against
_NOTED_BAND = 0.5  # 1, what is not noted or guessed wrong: half of a 95 % band (estimate)
_WARMTHS = ((10.0, "below 10 °C"), (20.0, "between 10 °C and 20 °C"), (np.inf, "above 20 °C"))  # °C, and in words
_LEAST_HOURS = 3.0  # h of riding in such warmth that litres are told of
_LEAST_FALL = 0.1  # 1, of a battery that tells what it draws
_LONGEST = 26.0 * 3600.0  # s between two notes of a battery, in which nobody forgets that it was charged (estimate)
_ENDS = re.compile(r"\b(hands?|fingers?|feet|foot|toes?|head|ears?|face)\b", re.I)
_MOST_SHIFT = 8.0  # K that one note tells at most: beyond it something else was worn than the plan says (estimate)
_WORD = re.compile(r"[^\W\d_]{3,}")
_CORE = ("trunk", "legs")


def habits_of(ridden: Ridden, variant: Variant) -> tuple[Habit, ...]:
    """Return what a race tells of its rider's ways.

    Parameters
    ----------
    ridden : Ridden
        The variant as it was planned.
    variant : Variant
        With its race and its notes.

    Returns
    -------
    habits : tuple of Habit
        Each from stays, nights, notes or halts of that race alone; none where it was not ridden.
    """
    race = variant.race
    if race is None:
        return ()
    trail = race.trail.later((race.start - ridden.way.start).total_seconds())
    return (
        *_nights(ridden, variant, trail),
        *_stays(ridden, trail),
        *_body(ridden, variant, trail),
        *_warmth(ridden, variant.diary),
        *_pauses(ridden, variant, race),
        *_draws(ridden, variant.diary),
    )


def _nights(ridden: Ridden, variant: Variant, trail: Trail) -> Iterator[Habit]:
    """Yield when one lay down and set out, how long one slept, and what else the night took."""
    rests = [stand for stand in stands(trail) if stand.length >= NIGHT]
    if len(rests) < FEWEST_NIGHTS:
        return
    count, rhythm = len(rests), variant.rhythm
    for key, moments in (
        ("halt", [stand.begins for stand in rests]), ("rise", [stand.begins + stand.length for stand in rests]),
    ):  # fmt: skip
        local = [clock_after(ridden, moment) for moment in moments]
        hours = [at.hour + at.minute / 60.0 + at.second / 3600.0 for at in local]
        yield Habit(key=key, told=clock_told(hours, _CLOCK_SPREAD), seen=count)
    besides = [60.0 * (stand.length / 3600.0 - slept) for stand, slept in _slept(rests, variant.diary)]
    besides = [minutes for minutes in besides if minutes >= 0.0]
    camp = rhythm.camp_time / 60.0
    if besides:
        told = mean_told(besides, _CAMP_SPREAD)
        camp = told.value
        yield Habit(key="camp", told=told, seen=len(besides))
    sleeps = [max(0.0, (stand.length / 60.0 - camp) / 60.0) for stand in rests]
    yield Habit(key="sleep", told=mean_told(sleeps, _CLOCK_SPREAD), seen=count)


def _slept(rests: Sequence[Stand], notes: Sequence[Note]) -> Iterator[tuple[Stand, float]]:
    """Yield rests with the hours that a note says were slept there."""
    for stand in rests:
        near = [note for note in notes if note.kind == "slept" and abs(note.distance - stand.distance) <= 3_000.0]
        hours = [found for note in near if (found := hours_in(note.text)) > 0.0]
        if hours:
            yield stand, hours[0]


def _stays(ridden: Ridden, trail: Trail) -> Iterator[Habit]:
    """Yield how long one stayed at each kind of stop without the way there and back; where one waited is left out."""
    visits = [visit for visit in ridden.timetable.visits if visit.stop is not None]
    stays = [(visit.leaves - visit.arrives).total_seconds() for visit in visits]
    found = at_stops(trail, [visit.distance for visit in visits], [visit.elapsed for visit in visits], stays)
    by_kind: dict[str, list[float]] = {}
    for visit, was in zip(visits, found, strict=True):
        if visit.stop is None or not _LEAST_STAY <= was.stayed < NIGHT or visit.rested > 0.0:
            continue
        if not _waited(ridden, visit.stop, was.reached):
            minutes = (was.stayed - visit.stop.detour / DETOUR_SPEED) / 60.0
            by_kind.setdefault(visit.stop.kind, []).append(max(1.0, minutes))
    for kind, values in by_kind.items():
        if len(values) >= FEWEST_STAYS:
            usual = _SPREAD * max(KINDS[kind].stay / 60.0, 1.0)
            yield Habit(key="dawdle", of=kind, told=mean_told(values, usual), seen=len(values))


def _waited(ridden: Ridden, stop: Stop, reached: float) -> bool:
    """Tell whether one came before its door was open, as far as its hours are known."""
    door, then = main_door(stop), clock_after(ridden, reached)
    return door.is_known and not is_open(door.hours, then.weekday(), then.hour * 3600.0 + then.minute * 60.0)


def rates_of(ridden: Ridden, variant: Variant) -> BodyRates | None:
    """Return what the notes of a race tell of litres, kilocalories and punctures.

    Parameters
    ----------
    ridden : Ridden
        The variant as planned.
    variant : Variant
        With its race and notes.

    Returns
    -------
    rates : BodyRates or None
        None where it was not ridden.
    """
    race = variant.race
    if race is None or "moving" not in race.time_by:
        return None
    return body_rates(
        variant.diary,
        hours=race.time_by["moving"][1] / 3600.0,
        distance=race.trail.distances[-1] - race.trail.distances[0],
        punctures=_usual_punctures(ridden, variant),
    )


def _usual_punctures(ridden: Ridden, variant: Variant) -> float:
    """Return what is usual on this ground in 1,000 km, whatever the rider's own rate is taken to be. [1]"""
    return ridden.way.punctures / variant.rider.punctures / (ridden.way.profile.length / 1e6)


def _body(ridden: Ridden, variant: Variant, trail: Trail) -> Iterator[Habit]:
    rates = rates_of(ridden, variant)
    if rates is None or variant.race is None:
        return
    if rates.food is not None:
        noted = sum(1 for note in variant.diary if note.kind == "eaten")
        yield Habit(key="intake", told=rates.food, seen=noted)
    if rates.water is not None:
        told = _sweat(ridden, variant, trail)
        drinks = sum(1 for note in variant.diary if note.kind == "drunk" and litres_in(note.text))
        if told is not None:
            yield Habit(key="sweat", told=told, seen=drinks)
    if rates.punctures is not None:
        usual = _usual_punctures(ridden, variant)
        mean, low, high = rates.punctures
        if usual > 0.0:
            told = Estimate(value=mean / usual, band=0.5 * (high - low) / usual)
            yield Habit(key="punctures", told=told, seen=rates.holes)


def _sweat(ridden: Ridden, variant: Variant, trail: Trail) -> Estimate | None:
    """Return what the rider loses over what is usual, by litres drunk on the way that the trail covers."""
    ride, clock = ridden.ride, ridden.timetable.clock
    moments = ridden.way.profile.distances[1 : ride.times.size + 1]
    known = (moments >= trail.distances[0]) & (moments <= trail.distances[-1])
    losses = loss_riding(ride, clock, power=variant.rider.power, method=variant.supply.sweat)
    planned, was = variant.race.time_by["moving"] if variant.race else (1.0, 1.0)
    hours = ride.times / 3600.0 * (was / max(planned, 1.0))
    drunk = sum(litres_in(note.text) for note in variant.diary if note.kind == "drunk")
    return sweat_told(drunk, losses=losses[known], hours=hours[known], besides=URINE, most=DRINK_MOST, band=_NOTED_BAND)


def drunk_by_warmth(ridden: Ridden, variant: Variant) -> tuple[tuple[str, float, float], ...]:
    """Return litres an hour of riding as noted and as planned, in the cool, the mild and the warm.

    Parameters
    ----------
    ridden : Ridden
        The variant as planned.
    variant : Variant
        With its race and notes.

    Returns
    -------
    rows : tuple of (str, float, float)
        Words for the warmth, noted and planned; each note counts for the way since the one before it. [l/h]
    """
    if variant.race is None:
        return ()
    notes = sorted((n for n in variant.diary if n.kind == "drunk" and litres_in(n.text)), key=lambda n: n.distance)
    ends, ride = ridden.way.profile.distances[1 : ridden.ride.times.size + 1], ridden.ride
    losses = variant.rider.sweat * loss_riding(
        ride, ridden.timetable.clock, power=variant.rider.power, method=variant.supply.sweat
    )
    planned = drinking_need(losses) * ride.times / 3600.0
    sums = {words: [0.0, 0.0, 0.0] for _, words in _WARMTHS}
    last = variant.race.trail.distances[0] if not variant.race.trail.is_empty else 0.0
    for note in notes:
        inside = (ends > last) & (ends <= note.distance)
        hours = float(ride.times[inside].sum()) / 3600.0
        last = note.distance
        if hours < 0.5:
            continue
        temp = float(np.average(ride.temps[inside], weights=ride.times[inside]))
        words = next(words for below, words in _WARMTHS if temp < below)
        for k, value in enumerate((litres_in(note.text), float(planned[inside].sum()), hours)):
            sums[words][k] += value
    return tuple(
        (words, drunk / hours, plan / hours) for words, (drunk, plan, hours) in sums.items() if hours >= _LEAST_HOURS
    )


def _warmth(ridden: Ridden, notes: Sequence[Note]) -> Iterator[Habit]:
    """Yield by how much the rider feels the air colder than others do, by notes on being cold and warm."""
    # cold hands ask for other gloves, not for another body
    felt = [note for note in notes if note.kind in ("cold", "warm") and not _ENDS.search(note.text)]
    if len(felt) < FEWEST_FELT:
        return
    # in what others would have worn: a plan that takes a rider for cold dresses that rider warmer
    ladder = dressing_of(replace(ridden, body=replace(ridden.body, runs_cold=0.0)))
    shifts = [shift for note in felt if (shift := _shift(ladder, note)) is not None]
    if len(shifts) >= FEWEST_FELT:
        yield Habit(key="runs_cold", told=cold_told(shifts), seen=len(shifts))


def _shift(ladder: Ladder, note: Note) -> float | None:
    """Return how much colder the air would have had to be for the plan to say what was felt. [K]"""
    spells = ladder.spells
    here = np.flatnonzero((spells.begins <= note.distance) & (spells.ends >= note.distance))
    if not here.size:
        return None
    k = int(here[-1])
    zones = [zone for zone in _CORE if zone in ladder.zones]
    if note.kind == "cold":
        margins = [float(ladder.zones[zone].margin[k]) for zone in zones]
        return min(_MOST_SHIFT, max(0.0, min(margins))) if margins else None
    beyond = []
    for zone in zones:
        dressed = ladder.zones[zone]
        _, excess, _ = judge_outfits(zone, dressed.outfits, spells)
        beyond.append(float(excess[dressed.chosen[k], k]))
    return max(-_MOST_SHIFT, min(0.0, max(beyond))) if beyond else None


def _pauses(ridden: Ridden, variant: Variant, race: Ride) -> Iterator[Habit]:
    """Yield what short halts on the road took, without those for food, over what getting at things usually takes."""
    share = (race.trail.distances[-1] - race.trail.distances[0]) / ridden.way.profile.length
    usual = 60.0 * share * ridden.ledger.minutes("reach") / variant.rider.handling
    at_bags = race.paused - 60.0 * share * ridden.ledger.minutes("eating")
    if race.pauses < FEWEST_PAUSES or usual < _LEAST_REACHING or at_bags <= 0.0:
        return
    ratio = at_bags / usual
    yield Habit(key="handling", told=Estimate(value=ratio, band=_PAUSE_BAND * race.paused / usual), seen=race.pauses)


def _draws(ridden: Ridden, notes: Sequence[Note]) -> Iterator[Habit]:
    """Yield what devices draw, by notes that tell how full they were: the way between two falls of one."""
    charge = charge_of(ridden)
    steps = charge.steps
    for column, device in enumerate(charge.electrics.devices):
        levels = _levels(device.name, notes, [other.name for other in charge.electrics.batteries])
        drawn = planned = 0.0
        for (earlier, before), (later, after) in pairwise(levels):
            moments = [(at.at - ridden.way.start).total_seconds() for at in (earlier, later) if at.at is not None]
            if len(moments) < 2 or before - after < _LEAST_FALL or moments[1] - moments[0] > _LONGEST:
                continue
            inside = (steps.begins >= moments[0]) & (steps.begins < moments[1])
            drawn += (before - after) * device.capacity
            planned += float((charge.loads[inside, column] * steps.lengths[inside]).sum()) / 3600.0
        if planned > 0.0 and drawn > 0.0 and device.at_work > 0.0:
            watts = device.at_work * drawn / planned
            yield Habit(key="draw", of=device.name, told=Estimate(value=watts, band=0.3 * watts), seen=len(levels) - 1)


def _levels(name: str, notes: Sequence[Note], others: Sequence[str]) -> list[tuple[Note, float]]:
    """Return notes that tell how full a device was, by clock; a word that two devices share names neither."""
    own = set(_WORD.findall(name.lower()))
    for other in others:
        own -= set(_WORD.findall(other.lower())) if other != name else set()
    told = []
    for note in notes:
        level = level_in(note.text)
        if level is not None and note.at is not None and own & set(_WORD.findall(note.text.lower())):
            told.append((note, level))
    return sorted(told, key=lambda entry: entry[0].at.timestamp() if entry[0].at else 0.0)
