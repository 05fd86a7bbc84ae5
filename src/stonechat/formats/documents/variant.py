"""A variant with its supply."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from stonechat.core.diary.notes import MOST_NOTES
from stonechat.core.diary.rides import MOST_RIDES
from stonechat.core.kit.item import HOME
from stonechat.core.load.wheels import WheelLoad
from stonechat.core.plan.plan import SWEAT, Elsewhere, Supply, Variant, Wishes
from stonechat.core.supply.foods import WANTS, Food
from stonechat.formats.documents.charging import ChargingDocument
from stonechat.formats.documents.diary import DebriefDocument, RideDocument, ShakedownDocument
from stonechat.formats.documents.mending import MendingDocument
from stonechat.formats.documents.part import Id, LocalClock, Name, OneOf, Part, limit, same_named
from stonechat.formats.documents.printing import PrintingDocument
from stonechat.formats.documents.rider import RhythmDocument, RiderDocument
from stonechat.formats.documents.rig import BikeDocument, CarrierDocument
from stonechat.formats.notes_json import NoteDocument
from stonechat.units import l_from_m3, m3_from_l

Word = Annotated[str, Field(max_length=60)]


class FoodDocument(Part):
    """A kind of food."""

    key: Id
    name: Name
    kcal_per_g: Annotated[float, limit("food_energy")]
    kcal_per_ml: Annotated[float, limit("food_by_ml")]
    carbohydrate_share: Annotated[float, limit("share")] = 0.6
    sodium_g_per_kg: Annotated[float, limit("sodium")] = 0.0
    tires_after_h: Annotated[float, limit("tired", 1.0 / 3600.0)] = 4.0
    melts_c: Annotated[float, limit("temp")] | None = None
    freezes_c: Annotated[float, limit("temp")] | None = None
    wants: Annotated[str, OneOf(WANTS, "thing that food wants")] = ""

    @classmethod
    def of(cls, food: Food) -> "FoodDocument":
        """Return the document of a kind of food."""
        return cls(
            kcal_per_g=food.energy,
            kcal_per_ml=food.bulk,
            carbohydrate_share=food.carbs,
            sodium_g_per_kg=food.sodium,
            tires_after_h=food.tires,
            melts_c=food.melts,
            freezes_c=food.freezes,
            **same_named(food, ("key", "name", "wants")),
        )

    def core(self) -> Food:
        """Return the kind of food."""
        return Food(
            energy=self.kcal_per_g,
            bulk=self.kcal_per_ml,
            carbs=self.carbohydrate_share,
            sodium=self.sodium_g_per_kg,
            tires=self.tires_after_h,
            melts=self.melts_c,
            freezes=self.freezes_c,
            **same_named(self, ("key", "name", "wants")),
        )


class SupplyDocument(Part):
    """Reserves, what food there is, and what the rider sets by hand for each stop (or `start`).

    With `choose` stops may be ridden past that only water and food are at; `skip` and `must` hold some either way,
    and at `waits` the door is waited for. `meals_kcal` is eaten at stops beside what is eaten riding; `strapped_l` is
    what a bottle strapped on at a stop adds, until the next refill. `foods` are kinds of food that the rider knows
    better than the program, or besides; `shelves` names the foods that a stop sells, or such stops do; `buys_kcal` is
    bought at a stop in any case; `dishes_kcal` is what is eaten on the spot, by name.
    """

    water_reserve_l: Annotated[float, limit("water")] = 0.3
    food_reserve_kcal: Annotated[float, limit("food")] = 300.0
    food_kcal_per_kg: Annotated[float, limit("food_density")] | None = None
    food_kcal_per_l: Annotated[float, limit("food_bulk")] | None = None
    water_by_stop_l: dict[Id, Annotated[float, limit("water")]] = {}
    food_by_stop_kcal: dict[Id, Annotated[float, limit("food")]] = {}
    choose: bool = False
    spread: Annotated[float, limit("share")] = 0.15
    sweat: Annotated[str, OneOf(SWEAT, "way to reckon sweat")] = "table"
    for_climbs_kcal_per_km: Annotated[float, limit("for_climbs")] = 0.0
    gut_g_per_h: Annotated[float, limit("gut")] = 75.0
    tired_h: Annotated[float, limit("tired", 1.0 / 3600.0)] = 24.0
    skip: list[Id] = Field([], max_length=400)
    must: list[Id] = Field([], max_length=400)
    waits: list[Id] = Field([], max_length=400)
    meals_kcal: dict[Id, Annotated[float, limit("meal")]] = {}
    strapped_l: dict[Id, Annotated[float, limit("water")]] = {}
    foods: list[FoodDocument] = Field([], max_length=200)
    shelves: dict[Id, Annotated[list[Id], Field(max_length=200)]] = {}
    buys_kcal: dict[Id, dict[Id, Annotated[float, limit("food")]]] = {}
    dishes_kcal: dict[Name, Annotated[float, limit("meal")]] = {}

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
            for_climbs_kcal_per_km=supply.for_climbs,
            gut_g_per_h=supply.gut,
            tired_h=supply.tired / 3600.0,
            skip=sorted(supply.skip),
            must=sorted(supply.must),
            waits=sorted(supply.waits),
            meals_kcal=dict(supply.meals),
            strapped_l=dict(supply.strapped),
            foods=[FoodDocument.of(food) for food in supply.foods],
            shelves={place: list(keys) for place, keys in supply.shelves.items()},
            buys_kcal={place: dict(bought) for place, bought in supply.buys.items()},
            dishes_kcal=dict(supply.dishes),
            **same_named(supply, ("choose", "spread", "sweat")),
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
            for_climbs=self.for_climbs_kcal_per_km,
            gut=self.gut_g_per_h,
            tired=self.tired_h * 3600.0,
            skip=frozenset(self.skip),
            must=frozenset(self.must),
            waits=frozenset(self.waits),
            meals=dict(self.meals_kcal),
            strapped=dict(self.strapped_l),
            foods=tuple(food.core() for food in self.foods),
            shelves={place: tuple(keys) for place, keys in self.shelves.items()},
            buys={place: dict(bought) for place, bought in self.buys_kcal.items()},
            dishes=dict(self.dishes_kcal),
            **same_named(self, ("choose", "spread", "sweat")),
        )


class ElsewhereDocument(Part):
    """Where a thing rides from one stop (or `start`) until another; without the second, to the finish."""

    to: Id
    since: Id
    until: Id | None = None

    @classmethod
    def of(cls, there: Elsewhere) -> "ElsewhereDocument":
        """Return the document of a place for some legs."""
        return cls(to=there.to, since=there.since, until=there.until or None)

    def core(self) -> Elsewhere:
        """Return the place for some legs."""
        return Elsewhere(to=self.to, since=self.since, until=self.until or "")


class WheelLoadDocument(Part):
    """Front and rear wheel on the scale."""

    what: Literal["bare", "loaded", "ridden"]
    front_kg: Annotated[float, limit("wheel_load")]
    rear_kg: Annotated[float, limit("wheel_load")]
    taken: LocalClock | None = None

    @classmethod
    def of(cls, load: WheelLoad) -> "WheelLoadDocument":
        """Return the document of a weighing."""
        return cls.model_validate(
            {"what": load.what, "front_kg": load.front, "rear_kg": load.rear, "taken": load.taken}
        )

    def core(self) -> WheelLoad:
        """Return the weighing."""
        return WheelLoad(what=self.what, front=self.front_kg, rear=self.rear_kg, taken=self.taken)


class WishesDocument(Part):
    """What the rider leaves to the packing, or wants of it."""

    free_carriers: list[Id] = Field([], max_length=80)
    decide_maybe: bool = False
    sets_together: bool = False
    keep_free_in: Annotated[str, Field(max_length=60)] = ""
    keep_free_l: Annotated[float, limit("carrier_volume_least", 1e3)] = 0.5
    body: Annotated[float, Field(ge=0.0, le=5.0)] = 1.0
    way: Literal["", "rooms", "one_end", "tools_low"] = ""

    @classmethod
    def of(cls, wishes: Wishes) -> "WishesDocument":
        """Return the document of wishes."""
        return cls(
            free_carriers=sorted(wishes.free_carriers),
            keep_free_l=l_from_m3(wishes.keep_free),
            **same_named(wishes, ("decide_maybe", "sets_together", "keep_free_in", "body", "way")),
        )

    def core(self) -> Wishes:
        """Return the wishes."""
        return Wishes(
            free_carriers=frozenset(self.free_carriers),
            keep_free=m3_from_l(self.keep_free_l),
            **same_named(self, ("decide_maybe", "sets_together", "keep_free_in", "body", "way")),
        )


class VariantDocument(Part):
    """A variant. `places` maps things to carriers or to `home`; `joins` and `posts` map things to stops.

    `food_in_l` is how much food goes into each carrier first. `orders` lists the things of a carrier from its mouth
    inwards, where the rider has set it; `assumed` lists what the rider has not said yet.
    """

    id: Id
    name: Name
    rider: RiderDocument
    rhythm: RhythmDocument
    bike: BikeDocument
    carriers: list[CarrierDocument] = Field([], max_length=80)
    places: dict[Id, Id] = {}
    food_in_l: dict[Id, Annotated[float, Field(ge=0.0, le=200.0)]] = {}
    pins: list[Id] = []
    supply: SupplyDocument = SupplyDocument()
    charging: ChargingDocument = ChargingDocument()
    mending: MendingDocument = MendingDocument()
    printing: PrintingDocument = PrintingDocument()
    diary: list[NoteDocument] = Field([], max_length=MOST_NOTES)
    rides: list[RideDocument] = Field([], max_length=MOST_RIDES)
    debrief: DebriefDocument = DebriefDocument()
    shakedown: ShakedownDocument = ShakedownDocument()
    repacks: dict[Id, Annotated[list[ElsewhereDocument], Field(min_length=1, max_length=400)]] = {}
    joins: dict[Id, Id] = {}
    posts: dict[Id, Id] = {}
    checks_off: list[Word] = []
    jobs_off: list[Word] = []
    ticked: list[Word] = []
    wheel_loads: list[WheelLoadDocument] = Field([], max_length=60)
    wishes: WishesDocument = WishesDocument()
    orders: dict[Id, list[Id]] = {}
    assumed: list[Literal["start", "rider", "nights", "bike"]] = []

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
            food_in_l={key: l_from_m3(room) for key, room in sorted(variant.food_in.items())},
            pins=sorted(variant.pins),
            supply=SupplyDocument.of(variant.supply),
            charging=ChargingDocument.of(variant.charging),
            mending=MendingDocument.of(variant.mending),
            printing=PrintingDocument.of(variant.printing),
            diary=[NoteDocument.of(note) for note in variant.diary],
            rides=[RideDocument.of(ride) for ride in variant.rides],
            debrief=DebriefDocument.of(variant.debrief),
            shakedown=ShakedownDocument.of(variant.shakedown),
            repacks={
                key: [ElsewhereDocument.of(there) for there in windows]
                for key, windows in sorted(variant.repacks.items())
            },
            joins=dict(sorted(variant.joins.items())),
            posts=dict(sorted(variant.posts.items())),
            checks_off=sorted(variant.checks_off),
            jobs_off=sorted(variant.jobs_off),
            ticked=sorted(variant.ticked),
            wheel_loads=[WheelLoadDocument.of(load) for load in variant.wheel_loads],
            wishes=WishesDocument.of(variant.wishes),
            orders={key: list(order) for key, order in sorted(variant.orders.items())},
            assumed=sorted(variant.assumed),
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
            food_in={key: m3_from_l(room) for key, room in self.food_in_l.items()},
            pins=frozenset(self.pins),
            supply=self.supply.core(),
            charging=self.charging.core(),
            mending=self.mending.core(),
            printing=self.printing.core(),
            diary=tuple(note.core() for note in self.diary),
            rides=tuple(ride.core() for ride in self.rides),
            debrief=self.debrief.core(),
            shakedown=self.shakedown.core(),
            repacks={key: tuple(there.core() for there in windows) for key, windows in self.repacks.items()},
            joins=dict(self.joins),
            posts=dict(self.posts),
            checks_off=frozenset(self.checks_off),
            jobs_off=frozenset(self.jobs_off),
            ticked=frozenset(self.ticked),
            wheel_loads=tuple(load.core() for load in self.wheel_loads),
            wishes=self.wishes.core(),
            orders={key: tuple(order) for key, order in self.orders.items()},
            assumed=frozenset(self.assumed),
        )
