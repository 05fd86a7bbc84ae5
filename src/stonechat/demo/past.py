"""A race of last year: made up, ridden by the simulated devices, noted, debriefed; the next plan begins with it."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import cache

import numpy as np

from stonechat.core.diary.debrief import BagVerdict, Debrief, Verdict, counted
from stonechat.core.diary.notes import Note
from stonechat.core.diary.reading import Asked, read_in
from stonechat.core.diary.rides import Ride
from stonechat.core.diary.shakedown import Shakedown, Shaken
from stonechat.core.diary.trail import match_trail
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import Stop
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.from_here import Here, plan_from
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.played import time_by
from stonechat.core.plan.sky import clock_after
from stonechat.demo.corvane import demo_plan
from stonechat.formats.ride_file import read_ride
from stonechat.outside.bike_computer import SimulatedComputer, SimulatedTracker, TrueRace, true_race

NAME = "The Dunmarrow Half"
_FROM = 540_000.0  # m of the Corvane Round from which it was ridden
_START = datetime(2026, 9, 11, 6, 0)
_SEED = 11
_NOT_OWNED = frozenset({"sleep-socks", "neck-tube"})  # things that were not there yet
_POWER = 140.0  # W that the rider planned with then
_INERTIA = 1.5  # kg that turning wheels add
# kind, km, minutes after the tracker was there, words
_NOTES = (
    ("eaten", 30.0, 0, "bars, 700 kcal"), ("drunk", 61.0, 0, "2.5 l by the ferry"),
    ("bought", 94.0, 10, "pastry and cola"), ("eaten", 96.0, 12, "pastry and cola, 900 kcal"),
    ("cold", 131.0, 0, "hands on the long descent"), ("eaten", 150.0, 5, "two filled sandwiches, 1 100 kcal"),
    ("drunk", 168.0, 0, "3.5 l"), ("moved", 169.0, 12, "rain jacket into the bar pouch"),
    ("slept", 210.0, 20, "barn, quilt just warm enough"), ("broken", 287.0, 4, "strap of the fork bottle"),
    ("eaten", 300.0, 0, "biscuits and cheese, 2 400 kcal"),
    ("drunk", 330.0, 0, "4 l, then ran dry 8 km before the tap"), ("lost", 385.0, 0, "left long glove"),
    ("bought", 418.0, 15, "bread and cheese"), ("eaten", 470.0, 0, "bread and cheese, 1 900 kcal"),
    ("drunk", 480.0, 0, "3 l"), ("warm", 505.0, 0, "arm warmers off at noon"),
    ("note", 560.0, 0, "lights lasted, bank at 20 %"), ("eaten", 575.0, 0, "sweets, 1 200 kcal"),
    ("drunk", 590.0, 0, "2 l"),
)  # fmt: skip


@cache
def past_plan() -> Plan:
    """Return last year's race with its rides, notes and debrief."""
    whole = demo_plan()
    here = Here(distance=_FROM, elapsed=0.0, tired=0.0, water=1.5, food=1_100.0, gone=_NOT_OWNED)
    plan = plan_from(whole, "a", here, name=NAME)
    variant = plan.variant("a")
    variant = replace(variant, rider=replace(variant.rider, power=_POWER))
    plan = plan.with_variant(replace(variant, rhythm=replace(variant.rhythm, start=_START), rides=(), diary=()))
    plan = replace(plan, line=replace(plan.line, stops=tuple(_as_it_was(stop) for stop in plan.line.stops)),
                   rules=replace(plan.rules, start=None, time_limit=None))  # fmt: skip
    ridden = evaluate(plan, "a").ridden
    race = true_race(ridden, _SEED)
    finish = race.start + timedelta(seconds=float(race.elapsed[-1]))
    told = _from_file(plan, ridden, SimulatedComputer(race, _SEED).file(finish))
    told = replace(told, time_by=time_by(ridden, told.trail))
    debrief = _debrief(plan)
    items, done = counted(plan.items, debrief)
    variant = replace(
        plan.variant("a"),
        rides=(told,),
        diary=_notes(ridden, race),
        debrief=replace(debrief, counted=done),
        shakedown=Shakedown(
            day=_START.date() - timedelta(days=12), km=64.0, rough_km=18.0,
            findings=(Shaken(trouble="rubs", about="frame", words="on the head tube", remedy="tape", done=True),),
        ),
    )  # fmt: skip
    return replace(plan.with_variant(variant), items=items)


def _as_it_was(stop: Stop) -> Stop:
    """Return a stop as it was found then: one shop shuts at midday, which nobody had written down."""
    if stop.id != "cobbin" or stop.hours is None:
        return replace(stop, cutoff=None)
    weekday = ((7.0 * 3600.0, 12.5 * 3600.0), (15.0 * 3600.0, 20.0 * 3600.0))
    hours = (*(weekday for _ in range(6)), stop.hours[6])
    return replace(stop, cutoff=None, hours=hours, note="shuts at midday, whatever the sign says")


def _from_file(plan: Plan, ridden: Ridden, data: bytes) -> Ride:
    asked = Asked(
        name="bike computer", purpose="race", mass=ridden.film[0].mass, surface="", rider=plan.variant("a").rider,
        drag_area=ridden.film[0].drag_area, bag_drag=ridden.film[0].bag_drag, rolling=0.008, inertia=_INERTIA,
        start=ridden.way.start, profile=ridden.way.profile,
    )  # fmt: skip
    return read_in(read_ride(data), asked)


def _notes(ridden: Ridden, race: TrueRace) -> tuple[Note, ...]:
    """Return the notes, by the clock of the tracker's positions."""
    sent = SimulatedTracker(race, _SEED).reports(race.start + timedelta(days=20))
    elapsed = np.array([(one.at - ridden.way.start).total_seconds() for one in sent])
    places = np.array([(one.latitude, one.longitude) for one in sent])
    trail = match_trail(elapsed, places[:, 0], places[:, 1], ridden.way.profile).trail
    at = [np.interp(km * 1e3, trail.distances, trail.elapsed) + 60.0 * minutes for _, km, minutes, _ in _NOTES]
    return tuple(
        Note(
            kind=kind,
            text=words,
            at=clock_after(ridden, float(then)).astimezone(UTC),
            distance=km * 1e3,
        )
        for (kind, km, _, words), then in zip(_NOTES, at, strict=True)
    )


_DAILY = ("clothes", "navigation", "power", "sleep")
_LUCK = {"arm-warmers": "daily", "mini-pump": "once", "chain-lube": "some", "first-aid": "once", "wet-wipes": "some"}


def _debrief(plan: Plan) -> Debrief:
    things = {}
    for item in plan.items:
        use = _LUCK.get(item.id) or ("daily" if item.worn or item.category in _DAILY else "no")
        things[item.id] = Verdict(use=use)
    if "long-gloves" in things:
        things["long-gloves"] = Verdict(use="some", fate="lost")
    return Debrief(
        things=things,
        bags={"seat": BagVerdict(state="full", day=2)},
        wished=("a second pair of dry socks", "a bottle for the dry stretch after the ferry"),
        worked="Sleeping before the second pass. Food in the top-tube bag, never stopped for it.",
        change="Rain jacket where a hand finds it riding. One litre more after the ferry.",
    )
