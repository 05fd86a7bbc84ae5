"""The open plan document: JSON with units in every name, a version, and a schema made from these classes.

A plan is kept as a `PlanBody` (all but the recorded course, which is large and never changes) and exported as a
`PlanDocument`. Reading an older version upgrades it step by step; a newer one is refused.
"""

import json
from collections.abc import Callable
from datetime import datetime
from typing import Annotated, Any, Literal, TypeVar
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from stonechat.core.kit.item import CATEGORIES, NEEDS, Item
from stonechat.core.line.stops import DAY, OFFERS, Stop
from stonechat.core.line.surface import SURFACE_INDEX, SurfaceSpan
from stonechat.core.line.track import Cleaning, Track, make_track
from stonechat.core.line.weather import DayWeather, Weather
from stonechat.core.plan.limits import LIMITS
from stonechat.core.plan.plan import HOME, Line, Plan, Supply, Variant
from stonechat.core.rhythm.rider import POSITIONS, Rhythm, Rider
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import ACCESS_RANK, PLACES, SIDES, TAKES, Carrier
from stonechat.errors import InvalidInput, TooLarge, UnreadableFile
from stonechat.units import (
    cm2_from_m2,
    g_from_kg,
    kg_from_g,
    km_from_m,
    l_from_m3,
    m2_from_cm2,
    m3_from_l,
    m_from_km,
    m_from_mm,
    min_from_s,
    mm_from_m,
    s_from_min,
)

SCHEMA = "stonechat-plan"
VERSION = 1  # the newest; `PlanBody.version` names the same
MOST_BYTES = 24_000_000
T = TypeVar("T", bound=BaseModel)
_UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}  # from version n to n + 1


def _limit(name: str, factor: float = 1.0) -> Any:
    low, high = LIMITS[name]
    return Field(ge=round(low * factor, 9), le=round(high * factor, 9))


Name = Annotated[str, Field(min_length=1, max_length=80)]
Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_-]{0,59}$")]
ClockTime = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$|^24:00$")]


def clock_text(seconds: float) -> str:
    """Return a time of day as HH:MM."""
    minutes = round(seconds / 60.0)
    return f"{minutes // 60:02d}:{minutes % 60:02d}"


def clock_seconds(text: str) -> float:
    """Return a time of day in seconds after midnight."""
    hours, minutes = text.split(":")
    return int(hours) * 3600.0 + int(minutes) * 60.0


def _opening(opens: str, shuts: str) -> tuple[float, float]:
    """Return an opening time; one that shuts before it opens runs past midnight. [s]"""
    first, last = clock_seconds(opens), clock_seconds(shuts)
    return first, last if last > first else last + DAY


def _one_of(value: str, known: Any, what: str) -> str:
    if value not in known:
        raise ValueError(f"“{value}” is no {what}; use one of {', '.join(known)}")
    return value


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)


class TrackDocument(_Part):
    """The course as recorded."""

    lat_deg: list[float] = Field(min_length=2, max_length=200_000)
    lon_deg: list[float] = Field(min_length=2, max_length=200_000)
    height_m: list[float] = Field(min_length=2, max_length=200_000)

    @model_validator(mode="after")
    def _same_length(self) -> "TrackDocument":
        if not len(self.lat_deg) == len(self.lon_deg) == len(self.height_m):
            raise ValueError("lat_deg, lon_deg and height_m differ in length")
        return self

    @classmethod
    def of(cls, track: Track) -> "TrackDocument":
        """Return the document of a track."""
        return cls(lat_deg=track.latitudes.tolist(), lon_deg=track.longitudes.tolist(), height_m=track.heights.tolist())

    def core(self) -> Track:
        """Return the track."""
        return make_track(np.array(self.lat_deg), np.array(self.lon_deg), np.array(self.height_m))


class SurfaceSpanDocument(_Part):
    """A stretch on one surface."""

    start_km: Annotated[float, _limit("distance", 1e-3)]
    end_km: Annotated[float, _limit("distance", 1e-3)]
    surface: str

    @field_validator("surface")
    @classmethod
    def _known(cls, value: str) -> str:
        return _one_of(value, SURFACE_INDEX, "surface")

    @classmethod
    def of(cls, span: SurfaceSpan) -> "SurfaceSpanDocument":
        """Return the document of a span."""
        return cls(start_km=km_from_m(span.start), end_km=km_from_m(span.end), surface=span.surface)

    def core(self) -> SurfaceSpan:
        """Return the span."""
        return SurfaceSpan(start=m_from_km(self.start_km), end=m_from_km(self.end_km), surface=self.surface)


class StopDocument(_Part):
    """A stop. `hours` holds seven weekdays from Monday, each a list of opening and closing times."""

    id: Id
    name: Name
    distance_km: Annotated[float, _limit("distance", 1e-3)]
    offers: list[str] = []
    hours: list[list[tuple[ClockTime, ClockTime]]] | None = None
    dwell_min: Annotated[float, _limit("dwell", 1 / 60)] = 15.0
    detour_km: Annotated[float, _limit("detour", 1e-3)] = 0.0
    used: bool = True
    note: Annotated[str, Field(max_length=300)] = ""

    @field_validator("offers")
    @classmethod
    def _known(cls, value: list[str]) -> list[str]:
        return [_one_of(offer, OFFERS, "offer") for offer in value]

    @field_validator("hours")
    @classmethod
    def _week(cls, value: list[Any] | None) -> list[Any] | None:
        if value is not None and len(value) != 7:
            raise ValueError(f"hours need seven weekdays, not {len(value)}")
        return value

    @classmethod
    def of(cls, stop: Stop) -> "StopDocument":
        """Return the document of a stop."""
        hours = None
        if stop.hours is not None:
            hours = [[(clock_text(a), clock_text(b if b <= DAY else b - DAY)) for a, b in day] for day in stop.hours]
        return cls(
            id=stop.id,
            name=stop.name,
            distance_km=km_from_m(stop.distance),
            offers=sorted(stop.offers),
            hours=hours,
            dwell_min=min_from_s(stop.dwell),
            detour_km=km_from_m(stop.detour),
            used=stop.used,
            note=stop.note,
        )

    def core(self) -> Stop:
        """Return the stop."""
        hours = None
        if self.hours is not None:
            hours = tuple(tuple(_opening(a, b) for a, b in day) for day in self.hours)
        return Stop(
            id=self.id,
            name=self.name,
            distance=m_from_km(self.distance_km),
            offers=frozenset(self.offers),
            hours=hours,
            dwell=s_from_min(self.dwell_min),
            detour=m_from_km(self.detour_km),
            used=self.used,
            note=self.note,
        )


class DayWeatherDocument(_Part):
    """Low and high of a day."""

    low_c: Annotated[float, _limit("temp")]
    high_c: Annotated[float, _limit("temp")]


class WeatherDocument(_Part):
    """Weather by day from the start, at a reference height."""

    days: list[DayWeatherDocument] = Field(min_length=1, max_length=60)
    reference_height_m: Annotated[float, _limit("height")]
    relative_humidity: Annotated[float, _limit("share")]

    @classmethod
    def of(cls, weather: Weather) -> "WeatherDocument":
        """Return the document of a weather."""
        return cls(
            days=[DayWeatherDocument(low_c=d.temp_low, high_c=d.temp_high) for d in weather.days],
            reference_height_m=weather.reference_height,
            relative_humidity=weather.relative_humidity,
        )

    def core(self) -> Weather:
        """Return the weather."""
        return Weather(
            days=tuple(DayWeather(temp_low=d.low_c, temp_high=d.high_c) for d in self.days),
            reference_height=self.reference_height_m,
            relative_humidity=self.relative_humidity,
        )


class LineDocument(_Part):
    """All of the route but the recorded course."""

    smoothing_m: Annotated[float, _limit("smoothing")] = 60.0
    ascent_threshold_m: Annotated[float, _limit("ascent_threshold")] = 5.0
    default_surface: str = "tarmac"
    surfaces: list[SurfaceSpanDocument] = Field([], max_length=2_000)
    stops: list[StopDocument] = Field([], max_length=1_000)
    weather: WeatherDocument

    @field_validator("default_surface")
    @classmethod
    def _known(cls, value: str) -> str:
        return _one_of(value, SURFACE_INDEX, "surface")

    @classmethod
    def of(cls, line: Line) -> "LineDocument":
        """Return the document of a line."""
        return cls(
            smoothing_m=line.cleaning.smoothing,
            ascent_threshold_m=line.cleaning.ascent_threshold,
            default_surface=line.default_surface,
            surfaces=[SurfaceSpanDocument.of(span) for span in line.spans],
            stops=[StopDocument.of(stop) for stop in line.stops],
            weather=WeatherDocument.of(line.weather),
        )

    def core(self, track: Track) -> Line:
        """Return the line over a recorded course."""
        return Line(
            track=track,
            cleaning=Cleaning(smoothing=self.smoothing_m, ascent_threshold=self.ascent_threshold_m),
            spans=tuple(span.core() for span in self.surfaces),
            default_surface=self.default_surface,
            stops=tuple(stop.core() for stop in self.stops),
            weather=self.weather.core(),
        )


class ItemDocument(_Part):
    """A thing of the kit."""

    id: Id
    name: Name
    category: str = "other"
    mass_g: Annotated[float, _limit("item_mass", 1e3)]
    volume_l: Annotated[float, _limit("item_volume", 1e3)]
    length_mm: Annotated[float, _limit("item_length", 1e3)] = 0.0
    quantity: Annotated[int, _limit("quantity")] = 1
    keep_dry: bool = False
    leaks: bool = False
    spoils: bool = False
    access: str = "off"
    reaches_per_day: Annotated[float, _limit("reaches")] = 0.0
    need: str = "want"
    worn: bool = False
    weighed: bool = False
    note: Annotated[str, Field(max_length=300)] = ""

    @model_validator(mode="after")
    def _known(self) -> "ItemDocument":
        _one_of(self.category, CATEGORIES, "category")
        _one_of(self.access, ACCESS_RANK, "access")
        _one_of(self.need, NEEDS, "need")
        return self

    @classmethod
    def of(cls, item: Item) -> "ItemDocument":
        """Return the document of a thing."""
        return cls(
            id=item.id,
            name=item.name,
            category=item.category,
            mass_g=g_from_kg(item.mass),
            volume_l=l_from_m3(item.volume),
            length_mm=mm_from_m(item.length),
            quantity=item.quantity,
            keep_dry=item.keep_dry,
            leaks=item.leaks,
            spoils=item.spoils,
            access=item.access,
            reaches_per_day=item.reaches,
            need=item.need,
            worn=item.worn,
            weighed=item.weighed,
            note=item.note,
        )

    def core(self) -> Item:
        """Return the thing."""
        return Item(
            id=self.id,
            name=self.name,
            category=self.category,
            mass=kg_from_g(self.mass_g),
            volume=m3_from_l(self.volume_l),
            length=m_from_mm(self.length_mm),
            quantity=self.quantity,
            keep_dry=self.keep_dry,
            leaks=self.leaks,
            spoils=self.spoils,
            access=self.access,
            reaches=self.reaches_per_day,
            need=self.need,
            worn=self.worn,
            weighed=self.weighed,
            note=self.note,
        )


class RiderDocument(_Part):
    """The rider."""

    mass_kg: Annotated[float, _limit("rider_mass")]
    power_w: Annotated[float, _limit("power")]
    endurance: Annotated[float, _limit("endurance")] = 0.65
    fade_time_h: Annotated[float, _limit("fade_time", 1 / 3600)] = 30.0
    recovery_time_h: Annotated[float, _limit("recovery_time", 1 / 3600)] = 8.0
    night_dip: Annotated[float, _limit("night_dip")] = 0.06
    pace_uphill: Annotated[float, _limit("pace_uphill")] = 1.5
    pace_downhill: Annotated[float, _limit("pace_downhill")] = 5.0
    pace_most: Annotated[float, _limit("pace_most")] = 1.15
    drivetrain: Annotated[float, _limit("drivetrain")] = 0.96
    gross_efficiency: Annotated[float, _limit("gross_efficiency")] = 0.22
    position: str = "hoods"
    intake_kcal_per_h: Annotated[float, _limit("intake")] = 260.0

    @field_validator("position")
    @classmethod
    def _known(cls, value: str) -> str:
        return _one_of(value, POSITIONS, "position")

    @classmethod
    def of(cls, rider: Rider) -> "RiderDocument":
        """Return the document of a rider."""
        return cls(
            mass_kg=rider.mass,
            power_w=rider.power,
            endurance=rider.endurance,
            fade_time_h=round(rider.fade_time / 3600.0, 9),
            recovery_time_h=round(rider.recovery_time / 3600.0, 9),
            night_dip=rider.night_dip,
            pace_uphill=rider.pace_uphill,
            pace_downhill=rider.pace_downhill,
            pace_most=rider.pace_most,
            drivetrain=rider.drivetrain,
            gross_efficiency=rider.gross_efficiency,
            position=rider.position,
            intake_kcal_per_h=rider.intake,
        )

    def core(self) -> Rider:
        """Return the rider."""
        return Rider(
            mass=self.mass_kg,
            power=self.power_w,
            endurance=self.endurance,
            fade_time=round(self.fade_time_h * 3600.0, 6),
            recovery_time=round(self.recovery_time_h * 3600.0, 6),
            night_dip=self.night_dip,
            pace_uphill=self.pace_uphill,
            pace_downhill=self.pace_downhill,
            pace_most=self.pace_most,
            drivetrain=self.drivetrain,
            gross_efficiency=self.gross_efficiency,
            position=self.position,
            intake=self.intake_kcal_per_h,
        )


class RhythmDocument(_Part):
    """Start and riding hours."""

    start_local: datetime
    zone: Annotated[str, Field(max_length=60)]
    rise: ClockTime
    halt: ClockTime
    first_night: bool = False
    camp_time_min: Annotated[float, _limit("camp_time", 1 / 60)] = 40.0

    @field_validator("zone")
    @classmethod
    def _known(cls, value: str) -> str:
        try:
            ZoneInfo(value)
        except (ZoneInfoNotFoundError, ValueError, OSError):
            raise ValueError(f"“{value}” is no time zone, such as Etc/GMT+2") from None
        return value

    @field_validator("start_local")
    @classmethod
    def _plain_clock(cls, value: datetime) -> datetime:
        if value.tzinfo is not None or not 1990 <= value.year <= 2100:
            raise ValueError("start_local is a local clock time without offset, between 1990 and 2100")
        return value

    @classmethod
    def of(cls, rhythm: Rhythm) -> "RhythmDocument":
        """Return the document of a rhythm."""
        return cls(
            start_local=rhythm.start,
            zone=rhythm.zone,
            rise=clock_text(rhythm.rise),
            halt=clock_text(rhythm.halt),
            first_night=rhythm.first_night,
            camp_time_min=min_from_s(rhythm.camp_time),
        )

    def core(self) -> Rhythm:
        """Return the rhythm."""
        return Rhythm(
            start=self.start_local,
            zone=self.zone,
            rise=clock_seconds(self.rise),
            halt=clock_seconds(self.halt),
            first_night=self.first_night,
            camp_time=s_from_min(self.camp_time_min),
        )


_BIKE_MM = (
    "wheel_radius", "wheelbase", "chainstay", "bottom_bracket_drop", "stack", "reach", "head_tube", "seat_tube",
    "saddle_height", "fork_rake", "crank",
)  # fmt: skip


class BikeDocument(_Part):
    """A bike by its measures."""

    name: Name
    mass_kg: Annotated[float, _limit("bike_mass")]
    wheel_radius_mm: Annotated[float, _limit("wheel_radius", 1e3)]
    wheelbase_mm: Annotated[float, _limit("wheelbase", 1e3)]
    chainstay_mm: Annotated[float, _limit("chainstay", 1e3)]
    bottom_bracket_drop_mm: Annotated[float, _limit("bottom_bracket_drop", 1e3)]
    head_angle_deg: Annotated[float, _limit("frame_angle")]
    seat_angle_deg: Annotated[float, _limit("frame_angle")]
    stack_mm: Annotated[float, _limit("stack", 1e3)]
    reach_mm: Annotated[float, _limit("reach", 1e3)]
    head_tube_mm: Annotated[float, _limit("head_tube", 1e3)]
    seat_tube_mm: Annotated[float, _limit("seat_tube", 1e3)]
    saddle_height_mm: Annotated[float, _limit("saddle_height", 1e3)]
    fork_rake_mm: Annotated[float, _limit("fork_rake", 1e3)]
    fork_travel_mm: Annotated[float, _limit("travel", 1e3)] = 0.0
    crank_mm: Annotated[float, _limit("crank", 1e3)]
    bars: Literal["drop", "flat"] = "drop"
    aero_bars: bool = True

    @classmethod
    def of(cls, bike: Bike) -> "BikeDocument":
        """Return the document of a bike."""
        lengths = {f"{name}_mm": mm_from_m(getattr(bike, name)) for name in (*_BIKE_MM, "fork_travel")}
        return cls(
            name=bike.name,
            mass_kg=bike.mass,
            head_angle_deg=bike.head_angle,
            seat_angle_deg=bike.seat_angle,
            bars="flat" if bike.bars == "flat" else "drop",
            aero_bars=bike.aero_bars,
            **lengths,
        )

    def core(self) -> Bike:
        """Return the bike."""
        lengths = {name: m_from_mm(getattr(self, f"{name}_mm")) for name in (*_BIKE_MM, "fork_travel")}
        return Bike(
            name=self.name,
            mass=self.mass_kg,
            head_angle=self.head_angle_deg,
            seat_angle=self.seat_angle_deg,
            bars=self.bars,
            aero_bars=self.aero_bars,
            **lengths,
        )


class CarrierDocument(_Part):
    """A carrier."""

    id: Id
    name: Name
    place: str
    side: str = "centre"
    capacity_l: Annotated[float, _limit("carrier_volume", 1e3)]
    load_limit_kg: Annotated[float, _limit("carrier_limit")]
    mass_g: Annotated[float, _limit("carrier_mass", 1e3)]
    longest_mm: Annotated[float, _limit("carrier_length", 1e3)]
    dry: bool = True
    access: Literal["riding", "foot", "off"] = "off"
    open_time_s: Annotated[float, _limit("open_time")] = 1.0
    drag_cm2: Annotated[float, _limit("drag", 1e4)] = 0.0
    drag_fill_cm2_per_l: Annotated[float, _limit("drag_fill", 10.0)] = 0.0
    takes: list[str] = ["items"]
    sway_lever_mm: Annotated[float, _limit("lever", 1e3)] = 0.0
    steadiness: Annotated[float, _limit("steadiness")] = 1.0
    mounted: bool = True

    @model_validator(mode="after")
    def _known(self) -> "CarrierDocument":
        _one_of(self.place, PLACES, "place")
        _one_of(self.side, SIDES, "side")
        for entry in self.takes:
            _one_of(entry, TAKES, "kind of load")
        return self

    @classmethod
    def of(cls, carrier: Carrier) -> "CarrierDocument":
        """Return the document of a carrier."""
        return cls(
            id=carrier.id,
            name=carrier.name,
            place=carrier.place,
            side=carrier.side,
            capacity_l=l_from_m3(carrier.capacity),
            load_limit_kg=carrier.load_limit,
            mass_g=g_from_kg(carrier.mass),
            longest_mm=mm_from_m(carrier.longest),
            dry=carrier.dry,
            access=carrier.access,
            open_time_s=carrier.open_time,
            drag_cm2=cm2_from_m2(carrier.drag),
            drag_fill_cm2_per_l=round(carrier.drag_fill * 10.0, 9),
            takes=sorted(carrier.takes),
            sway_lever_mm=mm_from_m(carrier.sway_lever),
            steadiness=carrier.steadiness,
            mounted=carrier.mounted,
        )

    def core(self) -> Carrier:
        """Return the carrier."""
        return Carrier(
            id=self.id,
            name=self.name,
            place=self.place,
            side=self.side,
            capacity=m3_from_l(self.capacity_l),
            load_limit=self.load_limit_kg,
            mass=kg_from_g(self.mass_g),
            longest=m_from_mm(self.longest_mm),
            dry=self.dry,
            access=self.access,
            open_time=self.open_time_s,
            drag=m2_from_cm2(self.drag_cm2),
            drag_fill=self.drag_fill_cm2_per_l / 10.0,
            takes=frozenset(self.takes),
            sway_lever=m_from_mm(self.sway_lever_mm),
            steadiness=self.steadiness,
            mounted=self.mounted,
        )


class SupplyDocument(_Part):
    """Reserves, density of food, and what the rider sets by hand for each stop (or `start`)."""

    water_reserve_l: Annotated[float, _limit("water")] = 0.3
    food_reserve_kcal: Annotated[float, _limit("food")] = 300.0
    food_kcal_per_kg: Annotated[float, _limit("food_density")] = 4_000.0
    food_kcal_per_l: Annotated[float, _limit("food_bulk")] = 1_900.0
    water_by_stop_l: dict[Id, Annotated[float, _limit("water")]] = {}
    food_by_stop_kcal: dict[Id, Annotated[float, _limit("food")]] = {}

    @classmethod
    def of(cls, supply: Supply) -> "SupplyDocument":
        """Return the document of a supply."""
        return cls(
            water_reserve_l=supply.water_reserve,
            food_reserve_kcal=supply.food_reserve,
            food_kcal_per_kg=supply.food_density,
            food_kcal_per_l=supply.food_bulk,
            water_by_stop_l=dict(supply.water_by_stop),
            food_by_stop_kcal=dict(supply.food_by_stop),
        )

    def core(self) -> Supply:
        """Return the supply."""
        return Supply(
            water_reserve=self.water_reserve_l,
            food_reserve=self.food_reserve_kcal,
            food_density=self.food_kcal_per_kg,
            food_bulk=self.food_kcal_per_l,
            water_by_stop=dict(self.water_by_stop_l),
            food_by_stop=dict(self.food_by_stop_kcal),
        )


class VariantDocument(_Part):
    """A variant. `places` maps things to carriers, or to `home`."""

    id: Id
    name: Name
    rider: RiderDocument
    rhythm: RhythmDocument
    bike: BikeDocument
    carriers: list[CarrierDocument] = Field([], max_length=80)
    places: dict[Id, Id] = {}
    pins: list[Id] = []
    supply: SupplyDocument = SupplyDocument()
    checks_off: list[Annotated[str, Field(max_length=40)]] = []

    @model_validator(mode="after")
    def _carriers_differ(self) -> "VariantDocument":
        ids = [carrier.id for carrier in self.carriers]
        if len(set(ids)) != len(ids) or HOME in ids:
            raise ValueError("two carriers share an id, or one is called home")
        return self

    @classmethod
    def of(cls, variant: Variant) -> "VariantDocument":
        """Return the document of a variant."""
        return cls(
            id=variant.id,
            name=variant.name,
            rider=RiderDocument.of(variant.rider),
            rhythm=RhythmDocument.of(variant.rhythm),
            bike=BikeDocument.of(variant.bike),
            carriers=[CarrierDocument.of(carrier) for carrier in variant.carriers],
            places=dict(sorted(variant.places.items())),
            pins=sorted(variant.pins),
            supply=SupplyDocument.of(variant.supply),
            checks_off=sorted(variant.checks_off),
        )

    def core(self) -> Variant:
        """Return the variant."""
        return Variant(
            id=self.id,
            name=self.name,
            rider=self.rider.core(),
            rhythm=self.rhythm.core(),
            bike=self.bike.core(),
            carriers=tuple(carrier.core() for carrier in self.carriers),
            places=dict(self.places),
            pins=frozenset(self.pins),
            supply=self.supply.core(),
            checks_off=frozenset(self.checks_off),
        )


class PlanBody(_Part):
    """All of a plan but its recorded course."""

    version: Literal[1] = 1
    name: Name
    line: LineDocument
    items: list[ItemDocument] = Field([], max_length=5_000)
    variants: list[VariantDocument] = Field(min_length=1, max_length=24)

    @model_validator(mode="after")
    def _ids_differ(self) -> "PlanBody":
        for what, ids in (
            ("things", [item.id for item in self.items]),
            ("variants", [variant.id for variant in self.variants]),
            ("stops", [stop.id for stop in self.line.stops]),
        ):
            if len(set(ids)) != len(ids):
                raise ValueError(f"two {what} share an id")
        return self

    @classmethod
    def of(cls, plan: Plan) -> "PlanBody":
        """Return the body of a plan."""
        return cls(
            name=plan.name,
            line=LineDocument.of(plan.line),
            items=[ItemDocument.of(item) for item in plan.items],
            variants=[VariantDocument.of(variant) for variant in plan.variants],
        )

    def core(self, track: Track) -> Plan:
        """Return the plan over its recorded course."""
        return Plan(
            name=self.name,
            line=self.line.core(track),
            items=tuple(item.core() for item in self.items),
            variants=tuple(variant.core() for variant in self.variants),
        )


class PlanDocument(PlanBody):
    """A whole plan, as it is exported."""

    model_config = ConfigDict(title="Stonechat plan")
    format: Literal["stonechat-plan"] = SCHEMA  # type: ignore[assignment]
    track: TrackDocument


def json_schema() -> dict[str, Any]:
    """Return the JSON Schema of the plan document."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **PlanDocument.model_json_schema()}


def write_plan(plan: Plan) -> bytes:
    """Return a plan as JSON; reading it gives an equal plan."""
    body = PlanBody.of(plan).model_dump(mode="json")
    document = PlanDocument.model_validate({**body, "format": SCHEMA, "track": TrackDocument.of(plan.line.track)})
    return document.model_dump_json(indent=1).encode()


def read_plan(data: bytes) -> Plan:
    """Return the plan of a JSON document, or refuse it with the place that is wrong."""
    if len(data) > MOST_BYTES:
        raise TooLarge(f"The plan has {len(data) / 1e6:.0f} MB; {MOST_BYTES / 1e6:.0f} MB is the most.")
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as exc:
        where = f": line {exc.lineno}, column {exc.colno}" if isinstance(exc, json.JSONDecodeError) else ""
        raise UnreadableFile(f"The file is not readable as JSON{where}. Export the plan again.") from exc
    if not isinstance(raw, dict) or raw.get("format") != SCHEMA:
        raise UnreadableFile(f"The file is JSON but no plan: its format is not “{SCHEMA}”. Choose an exported plan.")
    document = validated(PlanDocument, upgraded(raw))
    try:
        return PlanBody.model_validate(document.model_dump(exclude={"track", "format"})).core(document.track.core())
    except InvalidInput as exc:
        raise UnreadableFile(f"The plan's course cannot be used. {exc.message}") from exc


def upgraded(raw: dict[str, Any]) -> dict[str, Any]:
    """Return a body or document brought up to this version; a newer one is refused."""
    version = raw.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise UnreadableFile("The plan states no version. Export it again.", subject="version")
    if version > VERSION:
        raise UnreadableFile(
            f"The plan has version {version}; this program reads up to {VERSION}. Update the program, then bring "
            "the plan in.",
            subject="version",
        )
    while version < VERSION:
        raw = _UPGRADES[version](raw)
        version += 1
    return raw


def validated(model: type[T], raw: dict[str, Any]) -> T:
    """Return the validated document, or refuse it with the first place that is wrong."""
    try:
        return model.model_validate(raw)
    except ValidationError as exc:
        item = exc.errors(include_url=False)[0]
        place = ".".join(str(part) for part in item["loc"]) or "the plan"
        message = item["msg"].removeprefix("Value error, ")
        given = item["input"]
        shown = f" (given: {str(given)[:40]})" if isinstance(given, str | int | float) else ""
        raise UnreadableFile(
            f"The plan cannot be read at {place}: {message}{shown}. Correct it there and bring it in again.",
            subject=place,
        ) from exc
