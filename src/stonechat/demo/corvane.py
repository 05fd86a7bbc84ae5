"""The Corvane Round: a made-up race over a made-up upland that lies where there is only sea."""

import csv
import io
from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from functools import cache
from importlib import resources
from typing import Any

import numpy as np
from scipy.interpolate import PchipInterpolator

from stonechat.core.kit.containers import units_to_pack
from stonechat.core.kit.item import HOME, Item
from stonechat.core.line.race_rules import RaceRules
from stonechat.core.line.stops import ALWAYS, Stop, guess_kind
from stonechat.core.line.surface import SurfaceSpan
from stonechat.core.line.track import Track, make_track, step_lengths
from stonechat.core.line.weather import DayWeather, Weather
from stonechat.core.load.problem import why_not
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.plan import Line, Plan, Variant
from stonechat.core.rhythm.rhythm import Night, Rhythm
from stonechat.core.rhythm.rider import Rider
from stonechat.core.rig.bike import Bike, usual_bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.catalogue import KINDS
from stonechat.core.rig.fitting import fit_rig
from stonechat.formats.kit_csv import read_kit_rows
from stonechat.units import ms_from_kmh

LENGTH = 1_140_000.0  # m
_POINT_STEP = 80.0  # m
_ROUGHNESS = 1.43  # 1, scales the small ups and downs so that the climbing comes to about 17,500 m
_CENTRE = (44.6, -28.4)  # °, open ocean

# km and m of valleys, towns and passes
_HEIGHTS = (
    (0, 420), (28, 610), (62, 380), (96, 1120), (118, 820), (152, 1480), (187, 640), (226, 1990), (241, 1710),
    (268, 1240), (322, 520), (361, 930), (401, 460), (446, 1610), (472, 1180), (508, 1820), (547, 640),
    (590, 190), (634, 165), (671, 340), (709, 880), (744, 1420), (781, 760), (822, 2140), (846, 1530),
    (884, 690), (925, 1310), (958, 870), (1001, 1560), (1038, 620), (1079, 940), (1112, 510), (1140, 420),
)  # fmt: skip

_SPANS = (
    (70, 104, "smooth_gravel"), (104, 116, "rough_gravel"), (140, 166, "smooth_gravel"), (204, 221, "rough_gravel"),
    (221, 227, "hike_a_bike"), (227, 240, "singletrack"), (240, 283, "rough_gravel"), (338, 372, "smooth_gravel"),
    (420, 452, "track"), (486, 520, "smooth_gravel"), (520, 533, "track"), (600, 612, "sand_mud"),
    (688, 748, "smooth_gravel"), (796, 816, "rough_gravel"), (816, 823, "hike_a_bike"), (823, 838, "singletrack"),
    (838, 862, "track"), (905, 944, "smooth_gravel"), (980, 1012, "rough_gravel"), (1060, 1092, "smooth_gravel"),
)  # fmt: skip

_SHOP = ("07:00-20:00",) * 6 + ("08:00-13:00",)
_INN = ("06:30-22:00",) * 7
_HUT = ("07:00-21:00",) * 7
_ALL_NIGHT = ("00:00-24:00",) * 7

# km, name, offers, hours, minutes there, detour m, note
_STOPS = (
    (62, "Ostrel", "water shop toilet", _SHOP, 15, 200, ""),
    (96, "Brannock saddle", "doubtful_water", None, 8, 0, "trough below the road"),
    (118, "Vint Mill", "water meal bed toilet socket", _INN, 25, 0, ""),
    (152, "Hallow spring", "doubtful_water", None, 6, 50, ""),
    (187, "Kemmer", "water shop meal bed socket bike_shop toilet", _SHOP, 35, 300, "last bike shop for 214 km"),
    (241, "Quillan hut", "water meal bed", _HUT, 20, 0, "staffed until mid-October"),
    (268, "Dry fork well", "doubtful_water", None, 8, 120, "may be dry by autumn"),
    (322, "Sarnow", "water shop toilet", _SHOP, 20, 0, ""),
    (361, "Pell bridge", "water", None, 5, 0, "tap at the chapel"),
    (401, "Tazzle", "water shop meal bed socket bike_shop toilet", _SHOP, 40, 0, ""),
    (446, "Orran col", "doubtful_water", None, 6, 80, ""),
    (472, "Lower Orran", "water meal toilet", _INN, 20, 0, ""),
    (547, "Mirrel", "water shop meal socket toilet", _SHOP, 30, 150, ""),
    (590, "Sandreach", "water shop toilet", _SHOP, 20, 0, "hot valley from here"),
    (634, "Ferry house", "water meal bed socket toilet", _INN, 25, 0, ""),
    (673, "Cobbin", "water shop", _SHOP, 15, 0, ""),
    (709, "Upper Cobbin", "water toilet", None, 6, 0, ""),
    (781, "Dunmarrow", "water shop meal bed socket bike_shop toilet", _ALL_NIGHT, 40, 0, "fuel station shop all night"),
    (846, "Wether lodge", "water meal bed", _HUT, 20, 0, "behind the second pass"),
    (884, "Astley Ford", "water shop toilet", _SHOP, 20, 0, ""),
    (925, "Grey cairn", "doubtful_water", None, 6, 60, ""),
    (958, "Harbel", "water shop meal toilet socket", _SHOP, 25, 0, ""),
    (1001, "Crake top", "doubtful_water", None, 5, 100, ""),
    (1038, "Rushey", "water shop toilet", _SHOP, 15, 0, ""),
    (1079, "Lanner", "water toilet", None, 5, 0, ""),
    (1112, "Corvane gate", "water meal shop toilet", _INN, 10, 0, ""),
)

_CUT_OFFS = {"Tazzle": datetime(2027, 9, 26, 7, 0), "Dunmarrow": datetime(2027, 9, 28, 1, 0)}
_DOUBTED = {"Dry fork well": 0.6, "Crake top": 0.7}  # how sure the rider is of them
_RULES = RaceRules(
    start=datetime(2027, 9, 24, 7, 0),
    time_limit=132 * 3600.0,
    compulsory=("front light", "rear light", "helmet", "first aid", "foil blanket"),
)

# low and high by day at 500 m in °C, wind in km/h and where it comes from, rain in mm
_WEATHER = (
    (9.0, 18.0, 9.0, 240.0, 0.0), (6.5, 17.0, 12.0, 255.0, 0.0), (6.0, 29.0, 7.0, 190.0, 0.0),
    (7.0, 22.0, 14.0, 280.0, 6.0), (5.5, 15.0, 18.0, 300.0, 1.5), (6.0, 14.0, 11.0, 290.0, 0.0),
    (7.0, 15.0, 9.0, 270.0, 0.0),
)  # fmt: skip

# id, kind of the catalogue, which of its parts, and what this rider's own differs in
_CARRIERS: tuple[tuple[str, str, int, dict[str, Any]], ...] = (
    ("bottle-down", "bottle_top", 0, {}),
    ("bottle-seat", "bottle_side", 0, {}),
    ("fork-left", "fork_bottles", 0, {}),
    ("fork-right", "fork_bottles", 1, {}),
    ("frame", "frame_half", 0, {}),
    ("top-front", "top_front", 0, {"dryness": "dry"}),
    ("top-rear", "top_rear", 0, {"dryness": "dry", "takes": frozenset({"items"})}),
    ("stem-left", "stem_pair", 0, {"capacity": 0.001}),
    ("stem-right", "stem_pair", 1, {"capacity": 0.001}),
    ("bar", "bar_roll_small", 0,
     {"capacity": 0.0055, "load_limit": 2.0, "mass": 0.265, "longest": 0.38, "height": 0.135, "length": 0.135,
      "takes": frozenset({"items"})}),
    ("pouch", "bar_pouch", 0, {"capacity": 0.0019, "dryness": "dry", "width": 0.19, "height": 0.13}),
    ("tool", "tool_bottle", 0, {}),
    ("seat", "seat_middle", 0, {"capacity": 0.007, "length": 0.42, "height": 0.23}),
    ("jersey", "jersey", 0, {}),
    ("bib", "bib", 0, {"takes": frozenset({"items"})}),
)  # fmt: skip

_FIRST_PLACES = {  # where a rider who packs by category puts things
    "sleep": ("bar", "seat"),
    "clothes": ("seat", "bar", "pouch"),
    "tools": ("tool", "frame", "seat"),
    "power": ("frame", "top-front", "top-rear"),
    "navigation": ("top-front", "jersey", "bib"),
    "hygiene": ("top-rear", "seat", "pouch"),
    "papers": ("top-front", "bib"),
    "other": ("seat", "pouch"),
}


@cache
def demo_plan() -> Plan:
    """Return the plan with its three variants: steady, sleepless, prepared."""
    kit = read_kit_rows(resources.files("stonechat.demo").joinpath("kit.csv").read_bytes())
    wanted = _variants_by_item()
    items = tuple(item for item in kit)
    line = Line(
        track=_track(),
        spans=tuple(SurfaceSpan(start=a * 1e3, end=b * 1e3, surface=key) for a, b, key in _SPANS),
        stops=tuple(_stop(*entry) for entry in _STOPS),
        weather=Weather(
            days=tuple(
                DayWeather(temp_low=low, temp_high=high, wind_speed=ms_from_kmh(wind), wind_from=from_, rain=rain)
                for low, high, wind, from_, rain in _WEATHER
            ),
            reference_height=500.0,
            relative_humidity=0.65,
        ),
    )
    return Plan(name="The Corvane Round", line=line, rules=_RULES, items=items, variants=_variants(items, wanted))


def _soft(bike: Bike, all_carriers: tuple[Carrier, ...]) -> tuple[Bike, tuple[Carrier, ...]]:
    """Return a bike with suspension, and the carriers with a larger seat pack on it."""
    soft = replace(
        usual_bike("hardtail", "l"),
        electronic=True,
        rear_light="stay",
        front_light="bars",
        aero_bars=True,
        bosses=bike.bosses,
    )
    return soft, fit_rig(
        soft,
        tuple(
            replace(c, capacity=0.0110, load_limit=3.4, mass=0.42, length=0.46, height=0.26) if c.id == "seat" else c
            for c in all_carriers
        ),
        "hoods",
    )


def _variants(items: tuple[Item, ...], wanted: Mapping[str, str]) -> tuple[Variant, ...]:
    rhythm = Rhythm(
        start=datetime(2027, 9, 24, 7, 0),
        zone="Etc/GMT+2",
        rise=5 * 3600.0,
        halt=22 * 3600.0,
        nights={4: Night(kind="through")},  # within sight of the finish nobody lies down
        wait_most=2_400.0,
    )
    bike = replace(Bike(name="drop-bar rigid bike", mass=10.4, rear_light="stay"), electronic=True)
    all_carriers = _carriers(bike)
    light = fit_rig(
        bike,
        tuple(replace(c, mounted=c.id not in ("fork-right", "pouch", "top-rear")) for c in all_carriers),
        "aero",
    )
    soft, large = _soft(bike, all_carriers)
    steady = Variant(id="a", name="A steady", rider=Rider(), rhythm=rhythm, bike=bike, carriers=all_carriers)
    sleepless = Variant(
        id="b",
        name="B sleepless",
        rider=Rider(position="aero"),
        rhythm=replace(rhythm, rise=4 * 3600.0, halt=1 * 3600.0, first_night=True, nights={}),
        bike=bike,
        carriers=light,
    )
    prepared = Variant(id="c", name="C prepared", rider=Rider(power=140.0), rhythm=rhythm, bike=soft, carriers=large)
    return tuple(
        replace(variant, places=_pack_by_category(items, variant.carriers, wanted, variant.id))
        for variant in (steady, sleepless, prepared)
    )


def _pack_by_category(
    items: tuple[Item, ...], carriers: tuple[Carrier, ...], wanted: Mapping[str, str], variant: str
) -> dict[str, str]:
    """Pack as riders do: each kind of thing in its bag, largest first, overflow to the next bag that takes it."""
    by_id = {carrier.id: carrier for carrier in carriers if carrier.mounted}
    room = {key: 0.97 * carrier.capacity for key, carrier in by_id.items()}
    room["frame"] -= 0.0008
    room["stem-left"] = room["stem-right"] = 0.0
    bearing = {key: 0.95 * carrier.load_limit for key, carrier in by_id.items()}
    places: dict[str, str] = {}
    leaking: set[str] = set()
    spoiling: set[str] = set()
    for item in sorted(units_to_pack(items), key=lambda item: -item.total_volume):
        if variant not in wanted[item.id]:
            places[item.id] = HOME
            continue
        for key in (*_FIRST_PLACES[item.category], *by_id):
            carrier = by_id.get(key)
            if carrier is None or why_not(item, carrier) is not None:
                continue
            clash = key in (spoiling if item.leaks else leaking if item.is_spoilable else ())
            fits = room[key] >= item.total_volume and bearing[key] >= item.total_mass
            if fits and not clash:
                places[item.id] = key
                room[key] -= item.total_volume
                bearing[key] -= item.total_mass
                (leaking if item.leaks else spoiling if item.is_spoilable else set()).add(key)
                break
    return places


def _variants_by_item() -> dict[str, str]:
    text = resources.files("stonechat.demo").joinpath("kit.csv").read_text("utf-8")
    items = read_kit_rows(text.encode())
    rows = list(csv.DictReader(io.StringIO(text)))
    return {item.id: row["variants"] for item, row in zip(items, rows, strict=True)}


def _carriers(bike: Bike) -> tuple[Carrier, ...]:
    """Return the rig as drawn on a bike, from the catalogue with what the rider measured otherwise."""
    hung = tuple(replace(KINDS[kind].parts[part], id=key, kind=kind, **own) for key, kind, part, own in _CARRIERS)
    return fit_rig(bike, hung, "hoods")


def _stop(
    km: float, name: str, offers: str, hours: tuple[str, ...] | None, minutes: float, detour: float, note: str
) -> Stop:
    return Stop(
        id=name.lower().replace(" ", "-"),
        name=name,
        distance=km * 1e3,
        offers=frozenset(offers.split()),
        hours=None if hours is None else tuple((_window(day),) for day in hours),
        hours_by={"water": ALWAYS} if hours is _HUT else {},  # the tap outside
        kind=guess_kind(frozenset(offers.split())),
        dwell=minutes * 60.0,
        detour=detour,
        confidence=_DOUBTED.get(name, 0.9),
        cutoff=_CUT_OFFS.get(name),
        note=note,
    )


def _window(text: str) -> tuple[float, float]:
    opens, shuts = (int(part[:2]) * 3600.0 + int(part[3:]) * 60.0 for part in text.split("-"))
    return opens, shuts


def _track() -> Track:
    """Return the course: a closed line of many bays, with heights from passes, valleys and small roughness."""
    turns = np.linspace(0.0, 2.0 * np.pi, 200_000)
    radius = 1.0 + 0.20 * np.sin(3 * turns + 0.4) + 0.09 * np.sin(7 * turns + 1.1) + 0.03 * np.sin(19 * turns)
    wander = 0.004 * np.sin(61 * turns + 0.3) + 0.0012 * np.sin(173 * turns + 2.0)
    x, y = (radius + wander) * np.cos(turns), 0.8 * (radius + wander) * np.sin(turns)
    scale = 1.0
    for _ in range(3):
        lats = _CENTRE[0] + scale * y
        lons = _CENTRE[1] + scale * x / np.cos(np.radians(_CENTRE[0]))
        scale *= LENGTH / float(step_lengths(lats, lons).sum())
    lats = _CENTRE[0] + scale * y
    lons = _CENTRE[1] + scale * x / np.cos(np.radians(_CENTRE[0]))
    at = np.concatenate(([0.0], np.cumsum(step_lengths(lats, lons))))
    marks = np.linspace(0.0, at[-1], round(LENGTH / _POINT_STEP) + 1)
    lats, lons = np.interp(marks, at, lats), np.interp(marks, at, lons)
    return make_track(lats.round(6), lons.round(6), _heights(marks).round(1))


def _heights(marks: FloatArray) -> FloatArray:
    km, metres = (np.array([entry[k] for entry in _HEIGHTS], dtype=np.float64) for k in (0, 1))
    broad = PchipInterpolator(km * 1e3, metres)(marks)
    random = np.random.default_rng(20270924)
    rough = np.zeros(marks.size)
    for wavelength, height in ((16_000.0, 42.0), (7_300.0, 26.0), (3_100.0, 12.0), (1_400.0, 4.5), (900.0, 2.0)):
        phase = np.cumsum(random.normal(0.0, 0.05, marks.size)) * _POINT_STEP / wavelength * 6.0
        swell = 0.7 + 0.3 * np.sin(2.0 * np.pi * marks / (wavelength * 9.7) + random.uniform(0.0, 6.28))
        rough += height * swell * np.sin(2.0 * np.pi * marks / wavelength + phase)
    edge = np.minimum(1.0, np.minimum(marks, marks[-1] - marks) / 2_000.0)
    return np.asarray(broad + _ROUGHNESS * rough * edge, dtype=np.float64)
