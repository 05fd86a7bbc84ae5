"""Makes the twelve plans and keeps their figures: `python -m tests.kept.make`. Run on the program whose figures count,
never to make a test pass."""

import gzip
import json
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from pathlib import Path

import numpy as np

from stonechat.core.line.stops import KINDS, Stop
from stonechat.core.line.track import Track, make_track, trimmed_track
from stonechat.core.line.weather import DayWeather, Weather
from stonechat.core.load.greedy import RULES, pack_greedily
from stonechat.core.plan.beginning import Spoken, begin_plan
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.packing import packing_problem
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.rhythm.rhythm import Rhythm
from stonechat.core.rig.bike import usual_bike
from stonechat.demo.corvane import demo_plan
from stonechat.formats.plan_json import read_plan, write_plan
from tests.kept.figures import figures_of

FILE = Path(__file__).parent / "plans.json.gz"
_TODAY = datetime(2027, 4, 1, 12, 0)
_OFFERED = ("village", "town", "spring", "campsite", "hotel")


def track(length_km: float, *, hills: float, step: float = 250.0, seed: int = 1) -> Track:
    """A winding course of waves on waves, a point every `step` metres."""
    chance = np.random.default_rng(seed)
    at = np.arange(0.0, length_km * 1000.0, step)
    waves = sum(
        share * np.sin(2 * np.pi * at / wave + chance.uniform(0, 6))
        for share, wave in ((1.0, 23_000.0), (0.45, 7_100.0), (0.2, 1_900.0))
    )
    heading = 0.9 * np.sin(2 * np.pi * at / 61_000.0) + 0.3 * np.sin(2 * np.pi * at / 9_000.0)
    north = np.concatenate(([0.0], np.cumsum(step * np.cos(heading))[:-1]))
    east = np.concatenate(([0.0], np.cumsum(step * np.sin(heading))[:-1]))
    lats = 46.0 + north / 111_200.0
    lons = 9.0 + east / (111_200.0 * np.cos(np.radians(lats)))
    return make_track(np.round(lats, 6), np.round(lons, 6), np.round(300.0 + 2.0 * hills + hills * waves, 1))


def stops(length_km: float, every_km: float) -> tuple[Stop, ...]:
    """Places of several kinds in turn, some with doors."""
    found = []
    for k, km in enumerate(np.arange(every_km, length_km - 5.0, every_km)):
        kind = _OFFERED[k % len(_OFFERED)]
        found.append(
            Stop(
                id=f"stop-{k}",
                name=f"Place {k}",
                distance=1000.0 * float(km),
                offers=KINDS[kind].offers,
                kind=kind,
                hours=(((8 * 3600.0, 19 * 3600.0),),) * 7 if k % 3 == 0 else None,
                detour=400.0 if k % 4 == 1 else 0.0,
            )
        )
    return tuple(found)


def plan(
    name: str, length_km: float, *, hills: float, every_km: float, bike: str, bags: str, things: slice, mass: float,
    power: float, rhythm: Callable[[Rhythm], Rhythm] = lambda r: r, days: tuple[DayWeather, ...] = (), seed: int = 1,
    surface: str = "tarmac",
) -> Plan:  # fmt: skip
    """A plan as a rider begins one, packed by a rule of thumb."""
    items = tuple(replace(item, container="") for item in demo_plan().items[things])
    spoken = Spoken(
        start=datetime(2027, 5, 14, 6, 0),
        mass=mass,
        power=power,
        bike=usual_bike(bike, "m", None),
        bags=bags,
        items=items,
    )
    made = begin_plan(
        name=name, track=track(length_km, hills=hills, seed=seed), surface=surface, stops=stops(length_km, every_km),
        spoken=spoken, today=_TODAY,
    )  # fmt: skip
    if days:
        made = replace(made, line=replace(made.line, weather=Weather(days=days)))
    variant = replace(made.variants[0], rhythm=rhythm(made.variants[0].rhythm))
    return _packed(made.with_variant(variant), variant)


def _packed(made: Plan, variant: Variant) -> Plan:
    if not variant.carriers:
        return made
    problem = packing_problem(made, variant, evaluate(made, variant.id).ridden)
    return made.with_variant(replace(variant, places=pack_greedily(problem, RULES[0])))


def plans() -> list[Plan]:
    """The twelve."""
    demo = demo_plan()
    cold = (
        DayWeather(temp_low=-12.0, temp_high=-2.0, wind_speed=5.0),
        DayWeather(temp_low=-8.0, temp_high=1.0, rain=4.0),
    )
    hot = (DayWeather(temp_low=22.0, temp_high=38.0, wind_speed=3.0, wind_from=180.0),)
    wet = (DayWeather(temp_low=6.0, temp_high=12.0, wind_speed=8.0, wind_from=240.0, rain=18.0),)
    short = trimmed_track(demo.line.track, 0.0, 300_000.0)
    near = tuple(stop for stop in demo.line.stops if stop.distance < 290_000.0)
    spans = tuple(span for span in demo.line.spans if span.end < 290_000.0)
    return [
        replace(demo, name="demo, short", line=replace(demo.line, track=short, stops=near, spans=spans)),
        plan("road, through", 620, hills=120, every_km=45, bike="road", bags="road", things=slice(0, 24), mass=72,
             power=190, rhythm=lambda r: replace(r, school="through")),
        plan("gravel, window", 410, hills=180, every_km=38, bike="drop_rigid", bags="half_frame", things=slice(0, 60),
             mass=78, power=165, surface="smooth_gravel"),
        plan("mountain, hours", 350, hills=420, every_km=50, bike="hardtail", bags="rear_pack", things=slice(10, 70),
             mass=81, power=170, surface="rough_gravel",
             rhythm=lambda r: replace(r, school="hours", sleep_for=5 * 3600.0)),
        plan("winter", 280, hills=90, every_km=40, bike="flat_rigid", bags="full_frame", things=slice(0, 80), mass=84,
             power=150, days=cold),
        plan("rooms", 760, hills=150, every_km=32, bike="drop_rigid", bags="half_frame", things=slice(20, 75), mass=69,
             power=160, rhythm=lambda r: replace(r, school="rooms")),
        plan("a month", 3600, hills=110, every_km=70, bike="drop_rigid", bags="front", things=slice(0, 85), mass=75,
             power=145, rhythm=lambda r: replace(r, school="distance", day_distance=130_000.0), seed=5),
        plan("summer, vest", 330, hills=60, every_km=75, bike="drop_rigid", bags="vest", things=slice(5, 45), mass=66,
             power=175, days=hot),
        plan("clock changes", 500, hills=140, every_km=41, bike="road", bags="half_frame", things=slice(0, 40), mass=74,
             power=185, rhythm=lambda r: replace(r, start=datetime(2027, 3, 27, 6, 0), zone="CET")),
        plan("rain and wind", 450, hills=130, every_km=36, bike="drop_rigid", bags="half_frame", things=slice(0, 88),
             mass=77, power=168, days=wet, seed=7),
        plan("bare", 220, hills=80, every_km=30, bike="road", bags="none", things=slice(0, 0), mass=70,
             power=200),
        plan("steep and heavy", 190, hills=700, every_km=60, bike="full", bags="rear_pack", things=slice(0, 88),
             mass=95, power=130, surface="rough_gravel", seed=3),
    ]  # fmt: skip


def main() -> None:
    """Write plans and figures."""
    kept = []
    for made in plans():
        document = json.loads(write_plan(made))
        read = read_plan(json.dumps(document).encode())
        kept.append({"plan": document, "figures": {v.id: figures_of(read, v.id) for v in read.variants}})
    with gzip.GzipFile(FILE, "wb", mtime=0) as file:
        file.write(json.dumps(kept).encode())


if __name__ == "__main__":
    main()
