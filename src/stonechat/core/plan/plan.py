"""A plan as plain values: one race, its line and kit, and the variants in which it may be ridden."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from stonechat.core.charge.rule import ChargingRule
from stonechat.core.diary.debrief import Debrief
from stonechat.core.diary.notes import Note
from stonechat.core.diary.rides import Ride
from stonechat.core.diary.shakedown import Shakedown
from stonechat.core.kit.item import Item
from stonechat.core.kit.sheet import SheetColumn
from stonechat.core.line.profile import Cleaning
from stonechat.core.line.race_rules import RaceRules
from stonechat.core.line.stops import Stop
from stonechat.core.line.surface import GroundFigures, SurfaceSpan
from stonechat.core.line.track import Track
from stonechat.core.line.weather import Weather
from stonechat.core.load.wheels import WheelLoad
from stonechat.core.mend.rule import MendRule
from stonechat.core.plan.printing import PrintRule
from stonechat.core.rhythm.rhythm import Rhythm
from stonechat.core.rhythm.rider import Rider
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.supply.energy import GUT_MOST
from stonechat.core.supply.foods import Food
from stonechat.errors import NotFound

SWEAT = {"table": "what riders lose", "heat_balance": "heat balance from 15 °C up, what riders lose below"}
START = "start"  # stands for the start where stops are named


@dataclass(frozen=True, kw_only=True)
class Line:
    """The route with all that lies on it."""

    track: Track
    cleaning: Cleaning = field(default_factory=Cleaning)
    spans: tuple[SurfaceSpan, ...] = ()
    default_surface: str = "tarmac"
    ground: tuple[GroundFigures, ...] = ()  # what the rider knows better of the surfaces
    stops: tuple[Stop, ...] = ()
    weather: Weather = field(default_factory=Weather)


@dataclass(frozen=True, kw_only=True)
class Supply:
    """How much is kept in reserve, what food there is, and what the rider sets by hand."""

    water_reserve: float = 0.3  # l
    food_reserve: float = 300.0  # kcal
    food_density: float | None = None  # kcal/kg of all food, where the rider says so; None: by what is bought
    food_bulk: float | None = None  # kcal per l, packed; None: by what is bought
    water_by_stop: Mapping[str, float] = field(default_factory=dict)  # l to leave a stop with; "start" too
    food_by_stop: Mapping[str, float] = field(default_factory=dict)  # kcal
    choose: bool = False  # whether stops that nothing holds the rider at may be ridden past, where that is faster
    spread: float = 0.15  # 1, share of the needs carried beyond them where stops are chosen (estimate)
    sweat: str = "table"  # key of SWEAT
    for_climbs: float = 0.0  # kcal carried beyond for each 1,000 m that are climbed
    gut: float = GUT_MOST  # g/h of carbohydrate that the gut takes riding
    tired: float = 24.0 * 3600.0  # s after which one wants other food, where a shop can be reached so soon (estimate)
    skip: frozenset[str] = frozenset()  # stops that are ridden past
    must: frozenset[str] = frozenset()  # stops that are stopped at in any case
    waits: frozenset[str] = frozenset()  # stops whose door is waited for, however long
    meals: Mapping[str, float] = field(default_factory=dict)  # kcal eaten at stops, beside what is eaten riding
    strapped: Mapping[str, float] = field(default_factory=dict)  # l that a bottle strapped on at a stop adds
    foods: tuple[Food, ...] = ()  # that the rider knows better than FOODS, or besides them
    shelves: Mapping[str, tuple[str, ...]] = field(default_factory=dict)  # what a stop, or such stops, sell
    buys: Mapping[str, Mapping[str, float]] = field(default_factory=dict)  # kcal of foods bought at a stop in any case
    dishes: Mapping[str, float] = field(
        default_factory=dict
    )  # kcal of what the rider eats on the spot; empty: as usual


@dataclass(frozen=True, kw_only=True)
class Elsewhere:
    """Where a thing rides on some legs, beside its usual place."""

    to: str  # carrier
    since: str  # stop at which it goes there; START: from the beginning
    until: str = ""  # stop at which it goes back; empty: it stays there to the finish


@dataclass(frozen=True, kw_only=True)
class Wishes:
    """What the rider leaves to the packing, or wants of it."""

    free_carriers: frozenset[str] = frozenset()  # carriers that it may mount or take off
    decide_maybe: bool = False  # things marked maybe may stay at home, or come along
    sets_together: bool = False  # things of a set ride in one carrier, where one takes them all
    keep_free_in: str = ""  # carrier that keeps room free
    keep_free: float = 0.0005  # m³ that it keeps
    body: float = 1.0  # 1, by how much more than usual the rider minds what is carried on the body
    way: str = ""  # key of WAYS, a way of packing that the rider holds dear

    def kept_free(self, carrier_id: str) -> float:
        """Return the room that a carrier is to keep free. [m³]"""
        return self.keep_free if carrier_id == self.keep_free_in else 0.0


@dataclass(frozen=True, kw_only=True)
class Variant:
    """The same race ridden with one rider set-up, rig and load."""

    id: str
    name: str
    rider: Rider = field(default_factory=Rider)
    rhythm: Rhythm = field(default_factory=Rhythm)
    bike: Bike = field(default_factory=Bike)
    carriers: tuple[Carrier, ...] = ()
    places: Mapping[str, str] = field(default_factory=dict)  # item to carrier, or HOME
    food_in: Mapping[str, float] = field(default_factory=dict)  # m³ of food that goes into each carrier first
    pins: frozenset[str] = frozenset()  # items that stay where they are
    supply: Supply = field(default_factory=Supply)
    charging: ChargingRule = field(default_factory=ChargingRule)
    mending: MendRule = field(default_factory=MendRule)
    printing: PrintRule = field(default_factory=PrintRule)
    diary: tuple[Note, ...] = ()  # what happened on the way, in the order in which it came in
    rides: tuple[Ride, ...] = ()  # rides that were read in, the race itself among them
    debrief: Debrief = field(default_factory=Debrief)
    shakedown: Shakedown = field(default_factory=Shakedown)
    repacks: Mapping[str, tuple[Elsewhere, ...]] = field(default_factory=dict)  # things that ride elsewhere on legs
    joins: Mapping[str, str] = field(default_factory=dict)  # item to the stop whose drop box it is taken from
    posts: Mapping[str, str] = field(default_factory=dict)  # item to the stop from which it is posted home
    checks_off: frozenset[str] = frozenset()
    jobs_off: frozenset[str] = frozenset()  # jobs that the rider does without
    ticked: frozenset[str] = frozenset()  # tasks of the countdown that are done
    wheel_loads: tuple[WheelLoad, ...] = ()  # weighed at the wheels, oldest first
    wishes: Wishes = field(default_factory=Wishes)
    orders: Mapping[str, tuple[str, ...]] = field(default_factory=dict)  # carrier to things from its mouth inwards
    assumed: frozenset[str] = frozenset()  # keys of ASSUMED: what the rider has not said yet

    @property
    def race(self) -> Ride | None:
        """The race as it was ridden: the last one that was read in and lies on the course."""
        found = [ride for ride in self.rides if ride.purpose == "race" and not ride.trail.is_empty]
        return found[-1] if found else None

    @property
    def bags(self) -> tuple[Carrier, ...]:
        """The mounted carriers that take things."""
        return tuple(carrier for carrier in self.carriers if carrier.mounted and "items" in carrier.takes)


@dataclass(frozen=True, kw_only=True)
class Plan:
    """One race."""

    name: str
    line: Line
    rules: RaceRules = field(default_factory=RaceRules)
    items: tuple[Item, ...] = ()
    partner: str = ""  # id of the plan of the one who rides along; empty: nobody
    relied: tuple[Item, ...] = ()  # what the partner carries for both; read from that plan, not kept in this one
    sheet: tuple[SheetColumn, ...] = ()  # columns of the rider's own table of the kit
    emergency: Mapping[str, str] = field(default_factory=dict)  # key of EMERGENCY to the rider's own words
    variants: tuple[Variant, ...]

    def variant(self, variant_id: str) -> Variant:
        """Return a variant by its id, or raise `NotFound`."""
        for variant in self.variants:
            if variant.id == variant_id:
                return variant
        raise NotFound(f"The plan {self.name} has no variant {variant_id}.", subject=variant_id)

    def with_variant(self, changed: Variant) -> "Plan":
        """Return the plan with one variant replaced."""
        return replace(self, variants=tuple(changed if v.id == changed.id else v for v in self.variants))
