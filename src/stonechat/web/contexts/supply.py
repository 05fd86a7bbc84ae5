"""What the Supply room shows."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from stonechat.core.ledger.loaded import LegLoad
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.ledger.timetable import Leg
from stonechat.core.plan.buying import foods_of
from stonechat.core.plan.eating import EnergyDay, energy_days
from stonechat.core.plan.plan import START, SWEAT, Supply, Variant
from stonechat.core.plan.providing import drunk_riding
from stonechat.core.plan.scenario import stay_at
from stonechat.core.rhythm.rider import Rider
from stonechat.core.supply.carry import Levels
from stonechat.core.supply.energy import DEFICIT_MOST, EMPTY, SODIUM_IN_SWEAT, gut_limit, resting_metabolism
from stonechat.core.supply.lots import Passing
from stonechat.core.supply.mixing import mixed
from stonechat.core.supply.rations import FUEL
from stonechat.core.supply.wishes import (
    STRAPPED_MOST,
    Change,
    bottle_for,
    change_to,
    riding_past,
    stopping,
    without_wishes,
)
from stonechat.render.drawings.supply_line import Drawn, SupplyLine, supply_line
from stonechat.render.filters import (
    distance_km,
    duration,
    kcal,
    litres_of_water,
    mass_g,
    mass_kg,
    minutes_signed,
    percent,
)
from stonechat.services.evaluation import evaluated_choosing
from stonechat.services.starts import other_starts
from stonechat.services.supplying import (
    Judged,
    by_night,
    deciding_leg,
    dry_stretches,
    indoors,
    judged_of,
    minutes_by_part,
    node_name,
    repack_list,
    repack_words,
    repacking_of,
    short_words,
    treated_words,
    way_words,
)
from stonechat.text import listed
from stonechat.web.contexts.food import FOOD, Buying, FoodView, buying, dishes_of, food_view
from stonechat.web.contexts.window import Window, window
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm, start_values
from stonechat.web.forms.supply import CarryForm, SupplyForm

PARTS = {
    "detour": "way there",
    "fill": "filling",
    "treat": "treating",
    "queue": "queueing",
    "buy": "buying",
    "eat": "eating",
    "stay": "there",
    "wait": "waiting",
    "rest": "sleep",
}
_SPARE = ("bottle", "bottle_soft", "bladder", "water_container")  # kinds of the kit that hold water when filled
_MOST_WAYS = 4
_SAME_FILL = 0.02  # 1, of a carrier, that says nothing
STARTS = "starts"  # the tab of other starts
CARRYING = "carrying"  # the tab of what is carried for


@dataclass(frozen=True, kw_only=True)
class SupplyRow:
    """A leg: what is done where it begins, what is needed, carried, and set by hand."""

    leg: Leg
    stop_id: str
    passed: bool
    parts: tuple[tuple[str, float], ...]  # words and minutes
    treated: str
    bottles: str  # litres by container
    water_need: float  # l
    water_leaving: float  # l
    water_arriving: float  # l
    water_short: float  # l
    food_need: float  # kcal
    food_leaving: float  # kcal
    food_short: float  # kcal
    bought: float  # kcal
    basket: str  # the most of what is bought, in words
    fills_water: bool
    buys_food: bool
    must: bool
    said: str  # what the rider wishes of it, empty where nothing
    odds: tuple[tuple[str, str], ...]  # of running short on the leg, by name; those of one percent and more
    mass: float  # kg
    is_current: bool
    edit_address: str

    @property
    def minutes(self) -> float:
        """Minutes at the stop, sleep left out."""
        return sum(minutes for part, minutes in self.parts if part != PARTS["rest"])

    @property
    def takes(self) -> str:
        """What is done about food."""
        return "take" if self.stop_id == START else "buy"


@dataclass(frozen=True, kw_only=True)
class Offer:
    """What choosing the stops would bring."""

    passed: int
    minutes: float  # min earlier at the finish
    short: int  # stretches on which too little can be carried


@dataclass(frozen=True, kw_only=True)
class OddsLine:
    """How likely it is to run short of something, and what halving that costs."""

    words: str
    halving: str
    spread: float  # 1, to carry beyond the needs; 0: nothing to be done by it


@dataclass(frozen=True, kw_only=True)
class Way:
    """A way out."""

    words: str
    minutes: float
    address: str  # of the button that takes it, empty where there is none
    link: str  # to where it is done by hand, empty where there is no such place
    values: Mapping[str, object]


@dataclass(frozen=True, kw_only=True)
class Wished:
    """What a wish of the rider costs."""

    name: str
    words: str
    minutes: float | None
    address: str
    values: Mapping[str, object]


@dataclass(frozen=True, kw_only=True)
class Option:
    """One of the things that can be done at a stop."""

    wish: str
    label: str
    words: str  # what it comes to
    is_now: bool


@dataclass(frozen=True, kw_only=True)
class OpenStop:
    """The stop whose panel is open."""

    name: str
    sentences: tuple[str, ...]  # the reckoning, as a rider would do it
    options: tuple[Option, ...]
    buying: Buying | None  # None where nothing is sold
    dishes: tuple[tuple[str, str], ...]  # kcal and name of what may be eaten on the spot
    wish_address: str
    form: BoundForm[SupplyForm]
    address: str


@dataclass(frozen=True, kw_only=True)
class DayRow:
    """Energy of a day."""

    number: int
    riding: float  # s
    asleep: float  # s
    spent: float  # kcal
    eaten: float  # kcal
    share: float  # 1, deficit of what is spent
    tissue: float  # kg
    said: str  # what to mind, empty where nothing


@dataclass(frozen=True, kw_only=True)
class Repacked:
    """A thing that rides elsewhere for some legs."""

    words: str
    address: str  # to leave it in its place


@dataclass(frozen=True, kw_only=True)
class StartRow:
    """The race begun at another hour."""

    words: str
    value: str  # as a form sends it
    is_now: bool
    minutes: float  # min from start to finish more than as planned
    short: str  # water that is lacking, empty where none is
    shut: int
    dark: str


@dataclass(frozen=True, kw_only=True)
class SupplyView:
    """The Supply room."""

    rows: Window[SupplyRow]
    pictures: tuple[tuple[str, SupplyLine], ...]  # by the width of the screen
    chooses: bool
    used: int
    passed: int
    at_stops: float  # s at stops, sleep left out
    water_capacity: float  # l
    water_total: float  # l
    food_total: float  # kcal
    kit_total: float  # kcal of it from the kit
    heaviest: SupplyRow
    lightest: SupplyRow
    reserve: float  # l
    offer: Offer | None
    choose_address: str
    short: tuple[str, ...]
    ways: tuple[Way, ...]
    odds: tuple[OddsLine, ...]
    spread_address: str
    wished: tuple[Wished, ...]
    repacks: tuple[str, ...]  # moves on the way that would pay
    repack_address: str
    repacked: tuple[Repacked, ...]  # what rides elsewhere for some legs
    repack_gap: str  # how much the moves gain of what could be at most, empty where that is nothing
    repack_left: str  # the best that does not, empty where there is none
    fullest: tuple[tuple[str, str, str], ...]  # carrier, how full at most, and on which leg
    days: tuple[DayRow, ...]
    body: str  # of which body the rest metabolism is
    stop: OpenStop | None
    carry: BoundForm[CarryForm] | None
    carry_address: str
    carry_open_address: str
    rig_address: str
    starts: tuple[StartRow, ...]  # the race begun at other hours, where that is asked
    starts_address: str  # to ask, empty where nothing is short
    start_address: str  # of the button that takes one
    food: FoodView | None
    food_address: str
    salt: str  # what sweat takes and food gives
    close_address: str


def supply_view(desk: Desk) -> SupplyView:
    """Return what the Supply room shows."""
    ridden, supply = desk.evaluation.ridden, desk.variant.supply
    found = judged_of(desk.opened, desk.variant_id)
    rows = tuple(_row(desk, found, k) for k in range(len(ridden.timetable.legs)))
    visits = ridden.timetable.visits[:-1]
    repacks = repacking_of(desk.opened, desk.variant_id)
    drawn = Drawn(
        leg=desk.leg,
        addresses=[row.edit_address for row in rows],
    )
    carrying = "carry" in desk.forms or desk.look.tab == CARRYING
    return SupplyView(
        rows=window(desk, rows, desk.leg),
        pictures=(("wide", supply_line(ridden, drawn)), ("narrow", supply_line(ridden, replace(drawn, narrow=True)))),
        chooses=supply.choose,
        used=sum(not visit.passed for visit in visits),
        passed=sum(visit.passed for visit in visits),
        at_stops=60.0 * sum(row.minutes for row in rows),
        water_capacity=ridden.provisions.capacity,
        water_total=float(ridden.provisions.water.needs.sum()),
        food_total=float(ridden.provisions.eaten.needs.sum()),
        kit_total=float(ridden.provisions.rations.energy.sum()),
        heaviest=max(rows, key=lambda row: row.mass),
        lightest=min(rows, key=lambda row: row.mass),
        reserve=supply.water_reserve,
        offer=_offer(desk, ridden),
        choose_address=desk.do("supply-choice"),
        short=_short(ridden, found),
        ways=_ways(desk, found),
        odds=_odds(found, supply),
        spread_address=desk.do("supply-spread"),
        wished=_wished(desk, found),
        repacks=tuple(repack_words(desk.opened.plan, ridden, move) for move in repacks.moves),
        repack_address=desk.do("supply-repack"),
        repacked=_repacked(desk),
        repack_gap=f"{repacks.net:.1f} min, the best of {repacks.tried} moves and exchanges" if repacks.moves else "",
        repack_left=repack_words(desk.opened.plan, ridden, repacks.best_left) if repacks.best_left else "",
        fullest=_fullest(ridden),
        days=tuple(_day_row(day, supply.gut) for day in energy_days(ridden, desk.variant)),
        body=_body(desk.variant.rider),
        stop=_open_stop(desk, found, rows),
        carry=_carry_form(desk) if carrying else None,
        carry_address=desk.do("supply-carrying"),
        carry_open_address=desk.at(tab=CARRYING),
        rig_address=desk.at("rig"),
        starts=_starts(desk) if desk.look.tab == STARTS else (),
        starts_address=desk.at(tab=STARTS) if _is_short(found, ridden) else "",
        start_address=desk.do("supply-start"),
        food=food_view(desk) if desk.look.tab == FOOD or "food" in desk.forms else None,
        food_address=desk.at(tab=FOOD),
        salt=_salt(ridden, desk.variant),
        close_address=desk.at(),
    )


def _repacked(desk: Desk) -> tuple[Repacked, ...]:
    ridden, plan = desk.evaluation.ridden, desk.opened.plan
    names = {stop.id: stop.name for stop in plan.line.stops} | {START: "the start"}
    items = {item.id: item.name for item in plan.items}
    bags = {carrier.id: carrier.name for carrier in desk.variant.carriers}
    found = []
    for key, windows in desk.variant.repacks.items():
        aside = "" if key in ridden.kit.moved else ": not so, as a stop or a bag is not used"
        parts = []
        for there in windows:
            until = f"until {names.get(there.until, 'a stop that is gone')}" if there.until else "to the finish"
            bag, since = bags.get(there.to, "a bag that is gone"), names.get(there.since, "a stop that is gone")
            parts.append(f"in {bag} from {since} {until}")
        words = f"{items.get(key, key)} {listed(parts, 6)}{aside}"
        found.append(Repacked(words=words, address=desk.do("supply-repack", key, "leave")))
    return tuple(found)


def _fullest(ridden: Ridden) -> tuple[tuple[str, str, str], ...]:
    """Return the carriers whose fill changes on the way, each with the leg that decides its size."""
    found = []
    for c, state in enumerate(ridden.film[0].carriers):
        fills = [load.carriers[c].fill for load in ridden.film]
        if max(fills) - min(fills) < _SAME_FILL:
            continue
        leg = ridden.timetable.legs[deciding_leg(ridden, c)]
        count = sum(fill >= max(fills) - 1e-6 for fill in fills)
        on = f"{leg.start_name} to {leg.end_name}" + (f", and {count - 1} legs more" if count > 1 else "")
        found.append((state.carrier.name, percent(max(fills)), on))
    return tuple(found)


def _day_row(day: EnergyDay, gut: float) -> DayRow:
    balance = day.balance
    by_hour = day.spent.eaten / max(day.spent.riding, 1e-9)
    words = [f"{percent(balance.share)} of it is not eaten"] if balance.share > DEFICIT_MOST else []
    words += ["little glycogen left"] if balance.glycogen < EMPTY else []
    words += ["more than the gut takes riding"] if by_hour > gut_limit(gut) and day.spent.awake < 1.0 else []
    return DayRow(
        number=day.number,
        riding=3600.0 * day.spent.riding,
        asleep=3600.0 * day.spent.asleep,
        spent=balance.spent,
        eaten=balance.eaten,
        share=balance.share,
        tissue=balance.tissue,
        said=", ".join(words),
    )


def _short(ridden: Ridden, found: Judged | None) -> tuple[str, ...]:
    """Say what is short where, and which empty bottles of the kit could be filled for it."""
    told = short_words(ridden, found.asked.stuck if found else dry_stretches(ridden))
    spare = [item.name for item in ridden.kit.items if item.kind in _SPARE and item.packed]
    return (
        (*told, f"Your kit has {listed(spare, 2)}, not counted yet: fill it, as a bottle strapped on.")
        if (told and spare)
        else told
    )


def _is_short(found: Judged | None, ridden: Ridden) -> bool:
    """Tell whether too little goes in somewhere; without any bottle no other start mends that."""
    runs_dry = float(ridden.provisions.water.short.sum()) > 0.05
    return ridden.provisions.capacity > 0.0 and (runs_dry or bool(found and found.asked.stuck))


def _starts(desk: Desk) -> tuple[StartRow, ...]:
    now = desk.variant.rhythm.start
    return tuple(
        StartRow(
            words=f"{other.start:%a %d %b %H:%M}",
            value=other.start.isoformat(),
            is_now=other.start == now,
            minutes=other.minutes,
            short=litres_of_water(other.water_short) if other.water_short > 0.05 else "",
            shut=other.shut,
            dark=percent(other.dark),
        )
        for other in other_starts(desk.opened, desk.variant_id)
    )


def _salt(ridden: Ridden, variant: Variant) -> str:
    """Say what the other way to reckon sweat asks for, how much sodium goes, and how much bought food gives."""
    provisions, days = ridden.provisions, max(ridden.ledger.finish / 86_400.0, 1e-9)
    litres = float(provisions.water.needs.sum()) / days
    usual = litres * SODIUM_IN_SWEAT
    given = sum(
        basket.sodium * float(taken)
        for basket, taken in zip(provisions.larder.baskets, provisions.food.taken, strict=True)
        if basket is not None
    )
    method = next(key for key in SWEAT if key != variant.supply.sweat)
    clock, power = ridden.timetable.clock, variant.rider.power
    drunk = float(drunk_riding(ridden.ride, clock, power=power, method=method, own=variant.rider.sweat).sum())
    other = "heat balance, from 15 °C up," if method == "heat_balance" else "what riders lose"
    return (
        f"By {other} {litres_of_water(drunk)} would be drunk riding. "
        f"Sweat takes about {mass_g(usual / 1e3)} of sodium a day (half to one and a half of that); food bought to "
        f"ride on gives {mass_g(given / days / 1e3)}, meals not counted."
    )


def _body(rider: Rider) -> str:
    """Say of which body the rest metabolism is, and what is not known of it."""
    unsaid = [name for name, known in (("height", rider.height), ("age", rider.age), ("sex", rider.sex)) if not known]
    rate = resting_metabolism(mass=rider.mass, height=rider.height, age=rider.age, sex=rider.sex)
    words = f"At rest {kcal(rate)} a day by mass, height, age and sex"
    return f"{words}; {listed(unsaid, 3)} not said in Rhythm, a usual one is taken." if unsaid else f"{words}."


def _row(desk: Desk, found: Judged | None, k: int) -> SupplyRow:
    ridden, supply = desk.evaluation.ridden, desk.variant.supply
    leg, visit = ridden.timetable.legs[k], ridden.timetable.visits[k - 1] if k else None
    stop_id = visit.stop.id if visit and visit.stop else START
    water, food = ridden.provisions.water, ridden.provisions.food
    parts = minutes_by_part(ridden, k, _passing(found, k), eats=bool(supply.meals.get(stop_id)))
    return SupplyRow(
        leg=leg,
        stop_id=stop_id,
        passed=bool(visit and visit.passed),
        parts=tuple((PARTS[part], minutes) for part, minutes in parts.items()),
        treated=(treated_words(ridden, visit) or "") if water.refilled[k] else "",
        bottles=_bottles(ridden.film[k]),
        water_need=float(water.needs[k]),
        water_leaving=float(water.leaving[k]),
        water_arriving=float(water.arriving[k]),
        water_short=float(water.short[k]),
        food_need=float(ridden.provisions.eaten.needs[k]),
        food_leaving=float(ridden.provisions.eaten.leaving[k]),
        food_short=float(food.short[k]),
        bought=float(food.taken[k]),
        basket=_most_of(ridden, supply, k),
        fills_water=bool(water.refilled[k]),
        buys_food=bool(food.refilled[k]),
        must=bool(ridden.provisions.must[k]),
        said=_said(supply, stop_id),
        odds=_odds_on(found, k),
        mass=ridden.film[k].mass,
        is_current=k == desk.leg,
        edit_address=desk.at(open=stop_id, leg=k),
    )


def _most_of(ridden: Ridden, supply: Supply, k: int) -> str:
    """Return the foods of which most is bought where a leg begins."""
    basket, foods = ridden.provisions.larder.baskets[k], foods_of(supply)
    if basket is None or float(ridden.provisions.food.taken[k]) < 1.0:
        return ""
    return listed((foods[key].name for key, _ in basket.shares if key in foods), 2)


def _passing(found: Judged | None, k: int) -> Passing | None:
    return None if found is None or found.asked.lots is None else found.asked.lots.passings[k]


def _bottles(load: LegLoad) -> str:
    """Return the litres by container, as one would pour them."""
    filled = [(s.carrier.name, litres_of_water(s.water)) for s in load.carriers if s.water > 0.005]
    return "; ".join(f"{amount} into {name}" for name, amount in filled)


def _said(supply: Supply, stop_id: str) -> str:
    words = ["ride past"] * (stop_id in supply.skip) + ["stop here"] * (stop_id in supply.must)
    words += ["wait for the door"] * (stop_id in supply.waits)
    words += [f"leave with {litres_of_water(supply.water_by_stop[stop_id])}"] if stop_id in supply.water_by_stop else []
    words += [f"leave with {kcal(supply.food_by_stop[stop_id])}"] if stop_id in supply.food_by_stop else []
    words += [f"eat {kcal(supply.meals[stop_id])} there"] if stop_id in supply.meals else []
    foods = foods_of(supply)
    hand = supply.buys.get(stop_id, {})
    words += [f"buy {kcal(amount)} of {foods[key].name}" for key, amount in hand.items() if key in foods]
    words += [f"bottle of {litres_of_water(supply.strapped[stop_id])}"] if stop_id in supply.strapped else []
    return ", ".join(words)


def _odds_on(found: Judged | None, k: int) -> tuple[tuple[str, str], ...]:
    if found is None:
        return ()
    parts = [(name, float(odds.by_leg[k])) for name, odds in found.odds.items()]
    return tuple((name, percent(odds)) for name, odds in parts if odds >= 0.01)


def _offer(desk: Desk, ridden: Ridden) -> Offer | None:
    """Return what choosing the stops would bring, None where they are chosen or it brings nothing."""
    if desk.variant.supply.choose or len(ridden.timetable.visits) < 2 or ridden.provisions.capacity <= 0.0:
        return None
    other = evaluated_choosing(desk.opened, desk.variant_id).ridden
    asked = other.provisions.asked
    passed = sum(visit.passed for visit in other.timetable.visits)
    if asked is None or asked.lots is None or not passed:
        return None
    minutes = (ridden.ledger.finish - other.ledger.finish) / 60.0
    return Offer(passed=passed, minutes=minutes, short=sum(" " not in entry.what for entry in asked.stuck))


def _node_id(ridden: Ridden, node: int) -> str:
    stop = ridden.timetable.visits[node - 1].stop if node else None
    return stop.id if stop else START


def _ways(desk: Desk, found: Judged | None) -> tuple[Way, ...]:
    """Return the ways out: one button for a bottle that is strapped on, the way to the Rig for one that stays."""
    if found is None:
        return _plain_ways(desk)
    ways = []
    for way in found.ways[:_MOST_WAYS]:
        stop_id, more = _node_id(found.ridden, way.node), found.asked.trip.water.more.get(way.node, 0.0)
        buttons: dict[str, tuple[str, dict[str, object]]] = {
            "strapped": (desk.do("supply", stop_id, "strap"), {"litres": way.amount + more}),
            "wait": (desk.do("supply", stop_id, "wish"), {"wish": "wait"}),
        }
        address, values = buttons.get(way.kind, ("", {}))
        ways.append(
            Way(
                words=way_words(found.ridden, way),
                minutes=way.change.minutes or 0.0,
                address=address,
                link="" if address else desk.at("rig"),
                values=values,
            )
        )
    return (*ways, *_unused(desk, [(e.node, e.end) for e in found.asked.stuck if e.what == "water"]))


def _plain_ways(desk: Desk) -> tuple[Way, ...]:
    """Return the ways out where every stop is stopped at: a bottle strapped on for the stretch, a stop not used yet."""
    ridden, supply = desk.evaluation.ridden, desk.variant.supply
    dry, ways = dry_stretches(ridden), []
    for entry in dry:
        lacking, stop_id = entry.needs - entry.capacity, _node_id(ridden, entry.node)
        if lacking > STRAPPED_MOST or stop_id in supply.water_by_stop:
            continue
        litres = bottle_for(lacking)
        legs = ridden.timetable.legs[entry.node : entry.end]
        minutes = 0.5 * lacking * sum(leg.minutes_per_kg for leg in legs)
        words = f"Strap a bottle of {litres:.1f} l on at {node_name(ridden, entry.node)}"
        values = {"litres": litres + supply.strapped.get(stop_id, 0.0)}
        address = desk.do("supply", stop_id, "strap")
        ways.append(Way(words=words, minutes=minutes, address=address, link="", values=values))
    return (*ways[:_MOST_WAYS], *_unused(desk, [(entry.node, entry.end) for entry in dry]))


def _unused(desk: Desk, stretches: Sequence[tuple[int, int]]) -> tuple[Way, ...]:
    """Return stops that are not used and give water on a stretch on which it is short, each from node to node."""
    legs, ways = desk.evaluation.ridden.timetable.legs, []
    dry = [(legs[node].start, legs[end - 1].end) for node, end in stretches]
    for stop in desk.opened.plan.line.stops:
        if stop.used or not stop.gives_water or not any(low < stop.distance < high for low, high in dry):
            continue
        spent = stay_at(stop, desk.variant)
        words = f"Use {stop.name} at {distance_km(stop.distance)}"
        ways.append(
            Way(words=words, minutes=spent / 60.0, address=desk.do("stops", stop.id, "use"), link="", values={})
        )
    return tuple(ways)


def _odds(found: Judged | None, supply: Supply) -> tuple[OddsLine, ...]:
    if found is None:
        return ()
    lines = []
    for name, odds in found.odds.items():
        half = found.halved[name]
        words = f"{percent(odds.ever)} ± {percent(2.0 * odds.error)} of races run short of {name} somewhere"
        if half is None:
            halving = "" if odds.ever <= 0.0 else "more of it does not halve that, as no more goes in"
            lines.append(OddsLine(words=words, halving=halving, spread=0.0))
            continue
        halving = f"{percent(half.ever)} with {percent(half.spread)} of both beyond the needs"
        halving += f", {minutes_signed(half.minutes)}"
        lines.append(OddsLine(words=words, halving=halving, spread=half.spread if half.spread > supply.spread else 0.0))
    return tuple(lines)


def _wished(desk: Desk, found: Judged | None) -> tuple[Wished, ...]:
    """Return what each wish of the rider costs beside the plan without it."""
    if found is None:
        return ()
    trip, free, supply = found.asked.trip, found.asked.free, desk.variant.supply
    lines = []
    for node in range(len(found.ridden.timetable.legs)):
        stop_id = _node_id(found.ridden, node)
        if not _said(supply, stop_id):
            continue
        change = change_to(without_wishes(trip, free, node), trip)
        lines.append(
            Wished(
                name="Start" if node == 0 else found.ridden.timetable.visits[node - 1].name,
                words=_said(supply, stop_id),
                minutes=change.minutes,
                address=desk.do("supply", stop_id, "clear"),
                values={},
            )
        )
    return tuple(lines)


def _open_stop(desk: Desk, found: Judged | None, rows: tuple[SupplyRow, ...]) -> OpenStop | None:
    form = desk.forms.get("supply")
    node = next((k for k, row in enumerate(rows) if row.stop_id == desk.look.open), None)
    if node is None:
        return None
    ridden, supply, stop_id = desk.evaluation.ridden, desk.variant.supply, rows[node].stop_id
    values = {"water_l": supply.water_by_stop.get(stop_id), "food_kcal": supply.food_by_stop.get(stop_id)}
    values["meal_kcal"] = supply.meals.get(stop_id)
    return OpenStop(
        name=rows[node].leg.start_name,
        sentences=(
            *_at_the_stop(rows[node]),
            *_mixing(ridden, node),
            *_boxes(desk, stop_id),
            *filter(None, (by_night(ridden, node), indoors(ridden, node))),
            *(f"Repack: {words}." for words in repack_list(desk.opened.plan, desk.variant, ridden).get(stop_id, ())),
            *reckoned(ridden, node),
        ),
        options=_options(supply, found, ridden, node) if node else (),
        buying=buying(desk, node, stop_id),
        dishes=dishes_of(supply),
        wish_address=desk.do("supply", stop_id, "wish"),
        form=form or start_values(SupplyForm, values),
        address=desk.do("supply", stop_id),
    )


def _at_the_stop(row: SupplyRow) -> tuple[str, ...]:
    if row.passed:
        return ("It is ridden past.",)
    spent = ", ".join(f"{words} {max(1.0, minutes):.0f} min" for words, minutes in row.parts)
    told = [f"At the stop: {spent}."] if spent else []
    if row.fills_water and row.bottles:
        told.append(f"Pour {row.bottles}{f'; {row.treated}' if row.treated else ''}.")
    return tuple(told)


def _boxes(desk: Desk, stop_id: str) -> tuple[str, ...]:
    """Say what comes out of a drop box at a stop, and what is posted home from it."""
    names = {item.id: item.name for item in desk.evaluation.ridden.kit.items}
    found = []
    for words, moved in (("From the box", desk.variant.joins), ("Posted home", desk.variant.posts)):
        here = [names[key] for key, stop in moved.items() if stop == stop_id and key in names]
        found += [f"{words}: {listed(here, 6)}."] if here else []
    return tuple(found)


def _mixing(ridden: Ridden, node: int) -> tuple[str, ...]:
    """Say how much powder goes into which bottle, until bottles are filled again."""
    water, powder = ridden.provisions.water, ridden.provisions.powder
    end = next((k for k in range(node + 1, powder.size) if water.refilled[k]), powder.size)
    mass = float(powder[node:end].sum())
    if mass < 0.001 or not water.refilled[node]:
        return ()
    able = [s.carrier.name for s in ridden.film[node].carriers if s.water > 0.005 and s.carrier.drink != "plain"]
    plain = "no bottle: those that are filled are for plain water"
    into = listed(able, 2) if able else plain if ridden.provisions.capacity > 0.0 else "no bottle is on the bike yet"
    return (f"Mix {mass_g(mass)} of powder with {litres_of_water(mixed(mass))}: {into}.",)


def reckoned(ridden: Ridden, node: int) -> tuple[str, ...]:
    """Return the hand reckoning of what a node is left with, as a rider would do it."""
    water, food = (_Stretch(ridden, levels, node) for levels in (ridden.provisions.water, ridden.provisions.eaten))
    rate = f"{water.need / max(water.hours, 1e-9):.2f} l/h, {litres_of_water(water.need)}"
    eaten = f"{duration(3600.0 * food.riding)} of it riding at {food.need / max(food.riding, 1e-9):.0f} kcal/h"
    rations, larder = ridden.provisions.rations, ridden.provisions.larder
    own = float(rations.energy[node : food.end].sum())
    kit = f"; {kcal(own)} of it from your kit" if own > 0.0 else ""
    much, bought = kcal(food.need) + kit, max(0.0, food.need - own)
    if bought >= 1.0:
        bag = f"{1000.0 * larder.volume(bought, node):.1f} l of bag"
        much += f"; {f'{kcal(bought)} bought, ' if kit else ''}{mass_kg(larder.mass(bought, node), 1)}, {bag}"
    meals = int(np.count_nonzero(rations.cooked)) if not node else 0
    boiled = litres_of_water(float(rations.water.sum()))
    cooked = (
        f"Cooked: {kcal(float(rations.cooked.sum()))} on {meals} nights, {boiled} of the water carried; a litre "
        f"takes about {mass_g(FUEL)} of gas."
    )
    return (
        f"Water: {water.way} at your pace, {rate}; bottles hold {litres_of_water(ridden.provisions.capacity)}.",
        f"Food: {food.way}, {eaten}: {much}.",
        *((cooked,) if meals else ()),
    )


class _Stretch:
    """The way from a node to the next refill of something."""

    def __init__(self, ridden: Ridden, levels: Levels, node: int) -> None:
        count = len(levels.refilled)
        end = next((k for k in range(node + 1, count) if levels.refilled[k]), count)
        self.end = end
        legs = ridden.timetable.legs[node:end]
        self.need = float(levels.needs[node:end].sum())
        self.hours = sum(leg.elapsed for leg in legs) / 3600.0
        self.riding = sum(leg.moving for leg in legs) / 3600.0
        length = distance_km(sum(leg.end - leg.start for leg in legs))
        self.way = f"{length} to {legs[-1].end_name} is {duration(3600.0 * self.hours)}"


def _options(supply: Supply, found: Judged | None, ridden: Ridden, node: int) -> tuple[Option, ...]:
    visit = ridden.timetable.visits[node - 1]
    if visit.stop is None or not (visit.stop.gives_water or visit.stop.gives_food):
        return ()
    stop_id = visit.stop.id
    wished = {"past": supply.skip, "stop": supply.must, "wait": supply.waits}
    now = next((key for key, stops in wished.items() if stop_id in stops), "best")
    words = {"best": "", "past": "", "stop": "", "wait": ""}
    if found is not None:
        trip, free = found.asked.trip, found.asked.free
        base = without_wishes(trip, free, node)
        if free.halts[node - 1].held:
            return ()
        words["past"] = change_words(change_to(base, riding_past(base, node)))
        words["stop"] = change_words(change_to(base, stopping(base, free, node)))
    labels = {"best": "As is best", "past": "Ride past", "stop": "Stop here"}
    labels |= {"wait": "Wait for the door"} if now == "wait" else {}
    return tuple(Option(wish=key, label=label, words=words[key], is_now=key == now) for key, label in labels.items())


def change_words(change: Change) -> str:
    """Say what another decision comes to, empty where that is nothing."""
    if change.minutes is None:
        return "a door stays shut then"
    minutes = f"{change.minutes:+.1f} min" if abs(change.minutes) >= 0.05 else ""
    short = f"{litres_of_water(change.short)} more lacking" if change.short > 0.05 else ""
    return ", ".join(part for part in (minutes, short) if part)


def _carry_form(desk: Desk) -> BoundForm[CarryForm]:
    supply = desk.variant.supply
    return desk.forms.get("carry") or start_values(
        CarryForm,
        {
            "water_reserve_l": supply.water_reserve,
            "food_reserve_kcal": supply.food_reserve,
            "spread": 100.0 * supply.spread,
            "for_climbs": supply.for_climbs,
            "sweat": supply.sweat,
            "gut_g_h": supply.gut,
            "tired_h": supply.tired / 3600.0,
        },
    )
