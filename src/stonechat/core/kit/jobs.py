"""The jobs that a kit does: what asks for each on a route, what fails without it, and which things do it.

Chances and minutes are engineering estimates for one race; records of use move the chance of each thing.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

from stonechat.core.kit.item import Item

ENDING = 720.0  # min that an ended ride is priced at beside its own chance, which is always shown (estimate)
PRIOR_RACES = 4.0  # races that the estimated chance counts for against the rider's own records (estimate)
BUYING = {"shop": 0.35, "bike_shop": 0.50, "": 1.0}  # 1, share of the loss that stays where it can be bought (estimate)


class Demands(NamedTuple):
    """What a race asks of a kit."""

    days: float = 4.0
    km: float = 1000.0
    rough_km: float = 300.0  # on loose and rough ground
    nights_out: int = 2  # slept away from a bed
    nights: int = 3  # slept at all
    low: float = 2.0  # °C, coldest while riding
    low_night: float = 0.0  # °C, coldest while sleeping
    high: float = 28.0  # °C
    wet: float = 0.3  # 1, share of wet days
    dark_hours: float = 12.0  # h ridden in the dark
    punctures: float = 1.0  # expected
    doubtful_water: int = 3  # stops whose water must be treated
    shops: int = 8
    bike_shops: int = 2
    tubeless: bool = True
    electronic: bool = False
    dynamo: bool = False
    indoor_stops: int = 8  # meals and shops
    compulsory: tuple[str, ...] = ()


class Asked(NamedTuple):
    """Why a job is asked for, and how likely its lack would be felt."""

    chance: float  # 1, in one race
    reason: str


Ask = Callable[[Demands], Asked | None]
# jobs that are not done or left undone, but well or badly: judged in kelvin by core/night and in hours of power and
# light by core/charge, in minutes and odds by core/mend, not ticked
BY_MARGIN = frozenset(
    {
        "sleep_warm", "ground", "rain_top", "rain_legs", "rain_hands", "wind", "warm_legs", "warm_arms", "warm_hands",
        "warm_head", "warm_feet", "front_light", "rear_light", "power_store", "power_plug", "power_cable",
        "shift_power", "plug", "tube", "patch", "boot", "pump", "lever", "sealant", "turn_bolts", "chain_tool",
        "quick_link", "hanger", "spoke", "pads", "cleat", "bolts", "bind", "spare_light", "navigate_spare",
        "saddle_skin", "wounds",
    }
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Job:
    """One job."""

    key: str
    name: str
    fails: str  # what happens without it
    minutes: float  # lost when it is lacking and needed
    ends: float = 0.0  # 1, share of those cases that end the ride
    bought: str = ""  # shop, bike_shop, or not on the way
    never_cut: bool = False
    alike: bool = False  # only things of one kind stand for one another: a shirt is no pair of socks
    personal: bool = False  # only the rider knows whether it is wanted: never said to be lacking
    ask: Ask


def _degrees(value: float) -> str:
    return f"{value:.0f}\u00a0°C".replace("-", "−")


def _always(chance: float, reason: str) -> Ask:
    return lambda demands: Asked(chance, reason)


def _when(test: Callable[[Demands], bool], chance: float, reason: Callable[[Demands], str]) -> Ask:
    return lambda demands: Asked(chance, reason(demands)) if test(demands) else None


def _punctured(share: float, what: str, with_tubes: float | None = None) -> Ask:
    """Ask by punctures: a share of them, another share with tubes; 0: not asked with tubes."""

    def ask(d: Demands) -> Asked | None:
        mine = share if d.tubeless or with_tubes is None else with_tubes
        if mine == 0.0:
            return None
        events = mine * d.punctures
        return Asked(
            1.0 - math.exp(-events), f"{d.punctures:.1f} punctures expected, {100.0 * mine:.0f} % of them {what}"
        )

    return ask


def _nights(chance: float) -> Ask:
    return _when(
        lambda d: d.nights_out > 0, chance, lambda d: f"{d.nights_out} nights out, down to {_degrees(d.low_night)}"
    )


def _colder(than: float, chance: float) -> Ask:
    return _when(lambda d: d.low < than, chance, lambda d: f"down to {_degrees(d.low)} while riding")


def _rain() -> Ask:
    return _when(lambda d: d.wet > 0.0, 0.9, lambda d: f"rain on {100.0 * d.wet:.0f} % of the days")


def _dark() -> Ask:
    return _when(lambda d: d.dark_hours > 0.2, 1.0, lambda d: f"{d.dark_hours:.0f} h in the dark")


def _electronic(chance: float) -> Ask:
    return _when(lambda d: d.electronic, chance, lambda d: "electronic shifting")


def _over(km: float, chance: float, what: str) -> Ask:
    return _when(lambda d: d.km > km, chance, lambda d: f"{d.km:.0f} km, {what}")


JOBS_LIST: tuple[Job, ...] = (
    Job(key="sleep_warm", name="keep warm asleep", minutes=240,
        ends=0.2,
        fails="cold nights without sleep, a slow next day", ask=_nights(1.0)),
    Job(key="ground", name="lie dry and warm on the ground", minutes=60,
        fails="short sleep on cold ground", ask=_nights(1.0)),
    Job(key="shelter", name="keep rain and dew off asleep", minutes=180, ends=0.1,
        fails="a wet night soaks what keeps you warm", ask=_nights(0.6)),
    Job(key="rescue", name="stay alive where you must stop", minutes=60, ends=0.6,
        fails="a fall or breakdown on a cold pass becomes an emergency", never_cut=True, ask=_colder(12.0, 0.03)),
    Job(key="rain_top", name="keep rain off the trunk", minutes=120, ends=0.25,
        fails="hours in a shelter, or hypothermia", bought="shop", ask=_rain()),
    Job(key="rain_legs", name="keep rain off the legs", minutes=25,
        fails="cold legs", ask=_rain()),
    Job(key="rain_hands", alike=True, name="keep rain off the hands", minutes=20,
        fails="soaked gloves on a cold descent",
        ask=_when(lambda d: d.wet > 0.0 and d.low < 12.0, 0.6,
                  lambda d: f"rain on {100.0 * d.wet:.0f} % of the days, down to {_degrees(d.low)}")),
    Job(key="wind", name="cut the wind", minutes=30, fails="cold descents",
        ask=_colder(14.0, 0.9)),
    Job(key="warm_top", name="keep warm when stopped", minutes=70,
        ends=0.05, fails="cold repairs and halts", ask=_colder(8.0, 0.8)),
    Job(key="warm_legs", name="warm legs", minutes=30,
        fails="stiff knees in the cold", ask=_colder(8.0, 0.9)),
    Job(key="warm_arms", alike=True, name="warm arms", minutes=15, fails="cold arms at dawn",
        ask=_colder(12.0, 0.9)),
    Job(key="warm_hands", alike=True, name="warm hands", minutes=60, ends=0.05,
        fails="hands that cannot brake or shift", bought="shop", ask=_colder(7.0, 0.9)),
    Job(key="warm_head", alike=True, name="warm head and neck", minutes=15,
        fails="cold nights and descents", ask=_colder(7.0, 0.9)),
    Job(key="warm_feet", alike=True, name="warm feet", minutes=15, fails="numb feet",
        ask=_colder(4.0, 0.6)),
    Job(key="change", alike=True, name="dry change for the skin", minutes=20, fails="sores from salt and damp",
        ask=_over(600, 0.4, "days in the same clothes")),
    Job(key="head", name="protect the head", minutes=600, ends=1.0, never_cut=True,
        fails="no start", ask=_always(1.0, "every race")),
    Job(key="front_light", name="light the way", minutes=300, ends=0.3,
        never_cut=True,
        fails="no riding in the dark", bought="bike_shop", ask=_dark()),
    Job(key="rear_light", name="be seen from behind", minutes=240, ends=0.3, never_cut=True,
        fails="not seen on the road at night", bought="bike_shop", ask=_dark()),
    Job(key="spare_light", name="second light", minutes=120,
        ends=0.1,
        fails="a failed light at night stops you, and repairs are done blind", ask=_when(
            lambda d: d.dark_hours > 2.0, 0.12, lambda d: f"{d.dark_hours:.0f} h in the dark")),
    Job(key="seen", alike=True, name="be seen", minutes=30, never_cut=True, bought="shop",
        fails="overlooked at dusk", ask=_dark()),
    Job(key="navigate", name="find the way", minutes=200, ends=0.1,
        fails="slow, with stops at every junction", ask=_always(1.0, "every race")),
    Job(key="navigate_spare", name="find the way when the first unit fails",
        minutes=150, ends=0.1, fails="lost without the first unit", ask=_always(0.12, "screens crack, mounts break")),
    Job(key="call", name="call for help", minutes=60, ends=0.3, never_cut=True,
        fails="no help in an emergency", ask=_always(0.05, "every race")),
    Job(key="power_store", name="store power", minutes=180, ends=0.1, bought="shop",
        fails="devices go flat between sockets", ask=_over(300, 0.95, "several days of light and navigation")),
    Job(key="power_plug", name="charge at a socket", minutes=90, bought="shop",
        fails="a long stop brings no power",
            ask=_when(lambda d: not d.dynamo, 0.9, lambda d: "no dynamo on this bike")),
    Job(key="power_cable", name="connect devices to power", minutes=90, bought="shop",
        fails="nothing charges", ask=_over(300, 0.9, "several days of light and navigation")),
    Job(key="shift_power", name="power the shifting", minutes=240, ends=0.1,
        fails="one gear until a shop", bought="bike_shop", ask=_electronic(0.12)),
    Job(key="plug", name="plug a hole", minutes=25, fails="a tube for every hole",
        bought="bike_shop", ask=_punctured(0.26, "want a plug", with_tubes=0.0)),
    Job(key="tube", name="ride on with a tube", minutes=300, ends=0.15, bought="bike_shop",
        fails="a walk to the next shop", ask=_punctured(0.09, "want a tube", with_tubes=1.0)),
    Job(key="patch", name="patch a tube", minutes=120, bought="bike_shop",
        fails="out of tubes after the second", ask=_punctured(0.02, "come when tubes are used up", with_tubes=0.25)),
    Job(key="boot", name="close a cut tyre", minutes=240, ends=0.3,
        bought="bike_shop", fails="a cut tyre ends the day", ask=_punctured(0.03, "are cuts")),
    Job(key="pump", name="put air in", minutes=300, ends=0.3, bought="bike_shop",
        fails="a flat stays flat", ask=_punctured(0.5, "want air", with_tubes=1.0)),
    Job(key="lever", name="lift a tyre off", minutes=30, fails="sore thumbs, a pinched tube",
        bought="bike_shop", ask=_punctured(0.09, "want a tube", with_tubes=1.0)),
    Job(key="sealant", name="top up sealant", minutes=40, fails="small holes do not close",
        bought="bike_shop", ask=_when(
            lambda d: d.tubeless and d.km > 800, 0.10, lambda d: f"{d.km:.0f} km, sealant dries and bleeds away")),
    Job(key="turn_bolts", name="turn every bolt", minutes=240, ends=0.2,
        bought="bike_shop", fails="a loose bolt stays loose", ask=_always(0.5, "bolts loosen on rough ground")),
    Job(key="chain_tool", name="open a chain", minutes=240, ends=0.3,
        bought="bike_shop", fails="a broken chain is walked", ask=_over(300, 0.04, "chains break")),
    Job(key="quick_link", name="close a chain", minutes=240, ends=0.3,
        bought="bike_shop", fails="a broken chain is walked", ask=_over(300, 0.04, "chains break")),
    Job(key="hanger", name="replace a bent hanger", minutes=420, ends=0.4,
        fails="no gears, and no shop has this one", ask=_always(0.03, "a fall bends it; every frame has its own")),
    Job(key="spoke", name="mend a wheel", minutes=90, ends=0.1, bought="bike_shop",
        fails="a wheel that rubs, then breaks", ask=_over(500, 0.03, "spokes break under load")),
    Job(key="pads", name="replace brake pads", minutes=180, ends=0.1, bought="bike_shop",
        fails="no brakes in a wet descent", ask=_over(500, 0.25, "wet grit eats pads")),
    Job(key="cleat", name="hold the shoe", minutes=90, bought="bike_shop",
        fails="a foot that will not clip in", ask=_always(0.05, "walking wears and loosens cleats")),
    Job(key="bolts", name="replace a lost bolt", minutes=150, ends=0.1,
        fails="a saddle or cage that cannot be fixed", ask=_always(0.06, "bolts are lost on rough ground")),
    Job(key="bind", name="tie and strap", minutes=90,
        bought="shop", fails="a broken bag or mount hangs in the wheel", ask=_always(0.20, "straps and zips break")),
    Job(key="lube", name="keep the chain running", minutes=40, bought="bike_shop",
        fails="a dry chain costs watts", ask=_over(300, 0.9, "a chain wants oil every 120 to 350 km")),
    Job(key="saddle_skin", name="save the skin in the saddle", minutes=240,
        ends=0.25,
        bought="shop", fails="sores end more races than legs do", ask=_over(300, 0.7, "days in the saddle")),
    Job(key="sun", alike=True, name="keep the sun off", minutes=45, bought="shop",
        fails="burnt skin, bad sleep", ask=_when(lambda d: d.high > 20, 0.6, lambda d: f"up to {_degrees(d.high)}")),
    Job(key="teeth", name="clean teeth", minutes=10, bought="shop",
        fails="a mouth sore from sugar", ask=_over(600, 0.5, "days of sweet food")),
    Job(key="wash", alike=True, name="keep clean", minutes=30, bought="shop", fails="sores",
        ask=_over(400, 0.5, "days without a shower")),
    Job(key="toilet", name="toilet", minutes=10, bought="shop", fails="leaves",
        ask=_always(0.9, "every race")),
    Job(key="wounds", alike=True, name="dress wounds", minutes=120, ends=0.1, never_cut=True,
        bought="shop", fails="a dirty wound", ask=_always(0.25, "falls and blisters")),
    Job(key="medicine", personal=True, name="own medicine", minutes=600, ends=0.5, never_cut=True,
        fails="what your doctor says", ask=_always(0.5, "only you know; by a professional's advice")),
    Job(key="read", personal=True, name="see small print and thorns", minutes=60,
        fails="maps, splinters and valve cores out of focus", ask=_always(0.3, "if you read with glasses")),
    Job(key="eyes", name="shield the eyes", minutes=60, bought="shop",
        fails="dust and insects", ask=_always(0.5, "every race")),
    Job(key="ears", personal=True, name="sleep through noise and light", minutes=25, bought="shop",
        fails="light sleep", ask=_when(lambda d: d.nights > 0, 0.4, lambda d: f"{d.nights} nights")),
    Job(key="treat", name="make water safe", minutes=180, ends=0.15,
        fails="thirst past doubtful water, or illness", ask=_when(
            lambda d: d.doubtful_water > 0, 0.8, lambda d: f"{d.doubtful_water} stops with doubtful water")),
    Job(key="pay", alike=True, name="pay", minutes=240, ends=0.2, never_cut=True,
        fails="nothing to eat", ask=_always(1.0, "every race")),
    Job(key="papers", alike=True, name="show who you are", minutes=60, ends=0.1,
        never_cut=True, fails="no start, no border", ask=_always(0.3, "registration and borders")),
    Job(key="follow", personal=True, name="be followed by the race", minutes=120, ends=0.5, never_cut=True,
        fails="no ranking", ask=_always(0.5, "most races ask for it")),
    Job(key="shop_bag", name="carry food out of a shop", minutes=10, bought="shop",
        fails="food balanced on the bars", ask=_when(lambda d: d.shops > 0, 0.5, lambda d: f"{d.shops} shops")),
    Job(key="bin", name="carry wrappers", minutes=5, bought="shop",
        fails="litter, sticky pockets", ask=_always(0.9, "every race")),
)  # fmt: skip
JOBS: dict[str, Job] = {job.key: job for job in JOBS_LIST}


SPARE_OF = {"navigate_spare": "navigate", "spare_light": "front_light"}  # what does the first is no spare of itself


def doers(key: str, items: tuple[Item, ...]) -> tuple[Item, ...]:
    """Return the things that do a job; what alone does the first is not also its spare.

    Parameters
    ----------
    key : str
        The job.
    items : tuple of Item
        What goes along.

    Returns
    -------
    doing : tuple of Item
        In the order of the kit.

    Examples
    --------
    >>> phone = Item(id="p", name="phone", mass=0.2, volume=0.0, roles=frozenset({"navigate", "navigate_spare"}))
    >>> len(doers("navigate", (phone,))), len(doers("navigate_spare", (phone,)))
    (1, 0)
    """
    doing = tuple(item for item in items if key in item.roles)
    first = [item for item in items if SPARE_OF.get(key) in item.roles]
    return tuple(item for item in doing if len(first) != 1 or item.id != first[0].id)


@dataclass(frozen=True, kw_only=True)
class Coverage:
    """One job of a race, and what does it."""

    job: Job
    asked: Asked | None  # None: this race does not ask for it
    items: tuple[Item, ...]

    @property
    def state(self) -> str:
        """Missing, once, several, or spare for a job that is not asked for."""
        if self.asked is None:
            return "spare"
        return "missing" if not self.items else "once" if len(self.items) == 1 else "several"


def cover(items: tuple[Item, ...], demands: Demands, dropped: frozenset[str] = frozenset()) -> tuple[Coverage, ...]:
    """Return each job of a race with the things that do it; one thing may do several.

    Parameters
    ----------
    items : tuple of Item
        What goes along.
    demands : Demands
        What the race asks.
    dropped : frozenset of str
        Jobs that the rider does without.

    Returns
    -------
    coverage : tuple of Coverage
        Those asked for, and those done without being asked for; missing ones first. What is judged by its margin is not
        among them.

    Examples
    --------
    >>> found = cover((), Demands())
    >>> "lube" in {entry.job.key for entry in found if entry.state == "missing"}
    True
    """
    found = []
    for job in JOBS_LIST:
        asked = None if job.key in dropped else job.ask(demands)
        doing = doers(job.key, items)
        if job.key in BY_MARGIN:
            continue
        if doing or (asked is not None and not job.personal):
            found.append(Coverage(job=job, asked=asked, items=doing))
    order = ("missing", "once", "several", "spare")
    return tuple(sorted(found, key=lambda entry: order.index(entry.state)))


def chance_of(item: Item, asked: Asked) -> float:
    """Return how likely a thing is used in a race, the estimate moved by the rider's own records.

    Parameters
    ----------
    item : Item
        With its records: carried n times, used in m of them.
    asked : Asked
        The estimate.

    Returns
    -------
    chance : float
        Mean of a beta distribution whose prior weighs as much as PRIOR_RACES races. [1]

    Examples
    --------
    >>> from stonechat.core.kit.item import Record
    >>> pump = Item(id="p", name="pump", mass=0.1, volume=0.0, record=Record(carried=6))
    >>> chance_of(pump, Asked(0.5, ""))
    0.2
    """
    return (asked.chance * PRIOR_RACES + item.record.used) / (PRIOR_RACES + item.record.carried)
