"""What the command line and the room tell of supply: every stop with what is taken on, odds, and ways out."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise
from typing import Any

import numpy as np

from stonechat.core.ledger.loaded import CarrierState, LegLoad
from stonechat.core.ledger.ridden import Asked, Ridden
from stonechat.core.ledger.timetable import Visit
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.halting import TREATED_BY, WATER_STOP, choosing, treatment_among
from stonechat.core.plan.plan import START, Elsewhere, Plan, Variant
from stonechat.core.plan.repacking import Repack, Repacking, repacking_for
from stonechat.core.plan.scenario import DETOUR_SPEED
from stonechat.core.rig.carrier import ACCESS_RANK
from stonechat.core.supply.lots import MOST_OFFERS, Passing, Stuck, Trip
from stonechat.core.supply.odds import Halved, Odds, halved, odds_of_running_short
from stonechat.core.supply.wishes import STRAPPED_MOST, WayOut, ways_out
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.kept import Kept
from stonechat.text import listed

NAMES = ("water", "food")
_TAKEN_IN = ("sleep", "hygiene", "papers", "power")  # categories of things that come in for a night
_QUEUE = 0.3  # 1, of the time in a shop that is spent waiting to pay (estimate)
_DARK = 0.35  # 1, share of a leg in the dark from which one rides it as by night (estimate)
UNITS = {"water": "l", "food": "kcal"}
_REPACKED: Kept[Repacking] = Kept(32)


@dataclass(frozen=True, kw_only=True)
class Judged:
    """What follows from a supply that was chosen: odds, their price, ways out. Each is computed when it is asked."""

    ridden: Ridden
    asked: Asked

    @cached_property
    def planned(self) -> Trip:
        """The trip with the needs as planned, nothing carried beyond them."""
        provisions = self.ridden.provisions
        return replace(
            self.asked.trip,
            water=replace(self.asked.trip.water, needs=provisions.water.needs),
            food=replace(self.asked.trip.food, needs=provisions.food.needs),
        )

    @cached_property
    def odds(self) -> Mapping[str, Odds]:
        """Of running short, of water and of food."""
        lots = self.asked.lots
        if lots is None:
            return {}
        return {
            name: odds_of_running_short(self.planned, passings=lots.passings, confidences=self._confidences, name=name)
            for name in NAMES
        }

    @cached_property
    def halved(self) -> Mapping[str, Halved | None]:
        """What it costs to have those halved."""
        finish = self.asked.lots.finish if self.asked.lots else 0.0
        return {
            name: halved(self.planned, confidences=self._confidences, name=name, now=odds, finish=finish)
            for name, odds in self.odds.items()
        }

    @cached_property
    def ways(self) -> tuple[WayOut, ...]:
        """Out of what is short."""
        return ways_out(self.asked.trip, self.asked.stuck)

    @property
    def _confidences(self) -> tuple[float, ...]:
        return tuple(stop.confidence for stop in self.ridden.way.stops)


_JUDGED: Kept[Judged | None] = Kept(16)


def judged(ridden: Ridden) -> Judged | None:
    """Return what follows from the supply of a variant, None where every stop is stopped at as it is."""
    asked = ridden.provisions.asked
    return None if asked is None else Judged(ridden=ridden, asked=asked)


def judged_of(opened: OpenPlan, variant_id: str) -> Judged | None:
    """Return what follows from the supply of an open plan's variant; what was reckoned of it once is kept."""
    return _JUDGED.of((opened.content, variant_id), lambda: judged(evaluated(opened, variant_id).ridden))


def node_name(ridden: Ridden, node: int) -> str:
    """Return the name of a node: the start, a stop, or the finish."""
    return "Start" if node == 0 else ridden.timetable.visits[node - 1].name


def supply_report(plan: Plan, variant_id: str, *, every_stop: bool = False) -> dict[str, Any]:
    """Return what to leave every stop with; the fastest choice of stops, or all of them as they are."""
    told = evaluate(plan, variant_id).ridden
    ridden = told if every_stop else evaluate(plan.with_variant(choosing(plan.variant(variant_id))), variant_id).ridden
    found = judged(ridden)
    lots = None if found is None else found.asked.lots
    return {
        "plan": plan.name,
        "variant": variant_id,
        "finish_h": ridden.ledger.finish / 3600.0,
        "every_stop_finish_h": told.ledger.finish / 3600.0,
        "settled": ridden.timetable.settled,
        "objective_min": None if lots is None else lots.finish / 60.0,
        "bound_min": None if lots is None else lots.finish / 60.0,
        "proof": _proof(found),
        "water_capacity_l": ridden.provisions.capacity,
        "kit_food_kcal": float(ridden.provisions.rations.energy.sum()),
        "stops": [_node_entry(ridden, found, node) for node in range(len(ridden.timetable.legs))],
        "odds_of_running_short": {} if found is None else {name: _odds_entry(found, name) for name in found.odds},
        "short": [] if found is None else list(short_words(ridden, found.asked.stuck)),
        "ways_out": [] if found is None else [_way_entry(ridden, way) for way in found.ways],
    }


def _proof(found: Judged | None) -> str:
    if found is None:
        return "none: every stop is stopped at, and left with what is needed until the next"
    if found.asked.lots is None:
        return "none: with what is wished, nothing reaches a stop"
    words = "a dynamic programme over every choice of stops and lots, on the hours and needs of the last ride"
    stops = found.ridden.way.stops
    if max(sum(stop.gives_water for stop in stops), sum(stop.gives_food for stop in stops)) > MOST_OFFERS:
        words += "; of very many stops those close to a quicker one are left out"
    return words if not found.asked.stuck else f"{words}; where no plan carries enough, with as much as goes in"


def _node_entry(ridden: Ridden, found: Judged | None, node: int) -> dict[str, Any]:
    passing = None if found is None or found.asked.lots is None else found.asked.lots.passings[node]
    visit = None if node == 0 else ridden.timetable.visits[node - 1]
    water, food = ridden.provisions.water, ridden.provisions.food
    load = ridden.film[node]
    used = node == 0 or not (visit and visit.passed)
    entry: dict[str, Any] = {
        "id": visit.stop.id if visit and visit.stop else START,
        "name": node_name(ridden, node),
        "used": used,
        "arrival": None if visit is None else visit.arrives.isoformat(),
        "water_l": float(water.leaving[node]),
        "water_by_container_l": {s.carrier.id: s.water for s in load.carriers if "water" in s.carrier.takes},
        "fills_water": bool(water.refilled[node]),
        "treated": treated_words(ridden, visit) if bool(water.refilled[node]) else None,
        "food_kcal": float(ridden.provisions.eaten.leaving[node]),
        "buys_food": bool(food.refilled[node]),
        "bought_kcal": float(food.taken[node]),
        "bought_by_food_kcal": _by_food(ridden, node),
        "food_in_bags_kg": ridden.provisions.larder.mass(float(food.leaving[node]), node),
        "food_in_bags_l": 1000.0 * ridden.provisions.larder.volume(float(food.leaving[node]), node),
        "minutes": minutes_by_part(ridden, node, passing),
    }
    for name in () if found is None else found.odds:
        entry[f"odds_short_of_{name}"] = float(found.odds[name].by_leg[node]) if found else None
    return entry


def _by_food(ridden: Ridden, node: int) -> dict[str, float]:
    """Return what is bought where a leg begins, by kind of food. [kcal]"""
    basket, taken = ridden.provisions.larder.baskets[node], float(ridden.provisions.food.taken[node])
    return {key: share * taken for key, share in basket.shares} if basket else {}


def treated_words(ridden: Ridden, visit: Visit | None) -> str | None:
    """Return how the water of a stop is made safe, None where it needs not be."""
    if visit is None or visit.stop is None or "water" in visit.stop.offers:
        return None
    return TREATED_BY[treatment_among(ridden.kit.items)]


def minutes_by_part(ridden: Ridden, node: int, passing: Passing | None, *, eats: bool = False) -> dict[str, float]:
    """Return what a stop costs by part; empty at the start, and where it is ridden past. [min]

    `eats`: whether a meal is planned there.
    """
    visit = ridden.timetable.visits[node - 1] if node else None
    if visit is None or visit.passed:
        return {}
    if passing is None or passing.stay is None:
        detour = visit.stop.detour / DETOUR_SPEED if visit.stop else 0.0
        spent = max(0.0, (visit.leaves - visit.arrives).total_seconds() - visit.rested - visit.waited - detour)
        parts = {"detour": detour, "wait": visit.waited, "rest": visit.rested}
    else:
        spent, stay = passing.stay.stay, passing.stay
        parts = {"detour": stay.detour, "treat": stay.rate, "wait": stay.wait, "rest": stay.rest}
    provisions = ridden.provisions
    fills, buys = bool(provisions.water.refilled[node]), float(provisions.food.taken[node]) >= 1.0
    fill = min(spent, WATER_STOP if buys or eats else spent) if fills else 0.0
    buy = spent - fill if buys and not eats else 0.0
    rest = spent - fill - buy
    parts |= {"fill": fill, "queue": _QUEUE * buy, "buy": (1.0 - _QUEUE) * buy, "eat" if eats else "stay": rest}
    return {part: seconds / 60.0 for part, seconds in parts.items() if seconds >= 1.0}


def _odds_entry(found: Judged, name: str) -> dict[str, Any]:
    odds, half = found.odds[name], found.halved[name]
    return {
        "ever": odds.ever,
        "error": odds.error,
        "halved_by": None if half is None else {"spread": half.spread, "minutes": half.minutes, "ever": half.ever},
    }


def stuck_words(ridden: Ridden, entry: Stuck) -> str:
    """Say what is short where, as a rider would reckon it."""
    name = entry.what
    if not name:
        return f"With what you wish, nothing reaches {node_name(ridden, entry.end)}; every stop is stopped at instead."
    legs = ridden.timetable.legs[entry.node : entry.end]
    length, time = sum(leg.end - leg.start for leg in legs) / 1000.0, sum(leg.elapsed for leg in legs) / 3600.0
    unit = UNITS[name]
    places = f"{node_name(ridden, entry.node)} to {node_name(ridden, entry.end)}"
    figures = (f"{entry.needs:.1f}", f"{entry.capacity:.1f}", f"{entry.needs - entry.capacity:.1f}")
    if unit == "kcal":
        figures = (f"{entry.needs:,.0f}", f"{entry.capacity:,.0f}", f"{entry.needs - entry.capacity:,.0f}")
    wanted, holds, short = figures
    return (
        f"{places}: {length:.0f} km, {time:.1f} h, {wanted} {unit} of {name} with the reserve; "
        f"{holds} {unit} go in, {short} {unit} {'are lacking' if name == 'water' else 'find no room'}."
    )


def dry_stretches(ridden: Ridden) -> tuple[Stuck, ...]:
    """Return the stretches on which too little water goes in, where every stop is stopped at."""
    water, capacity, count = ridden.provisions.water, ridden.provisions.capacity, len(ridden.film)
    if capacity <= 0.0:
        return ()
    bounds = [*(k for k in range(count) if water.refilled[k]), count]
    return tuple(
        Stuck(node=a, end=b, what="water", needs=float(water.until[a]), capacity=float(water.leaving[a]))
        for a, b in pairwise(bounds)
        if water.short[a:b].any() and water.until[a] > water.leaving[a] + _DROP
    )


_DROP = 0.05  # l that are not worth a word
_TOLD = 2  # stretches of one kind that are told one by one


def short_words(ridden: Ridden, stuck: tuple[Stuck, ...]) -> tuple[str, ...]:
    """Say what is short where; what has one cause is one sentence."""
    shut = _shut_words(ridden, stuck)
    told = [shut] if shut else []
    for what in dict.fromkeys(entry.what for entry in stuck if " " not in entry.what):
        ones = [entry for entry in stuck if entry.what == what]
        if len(ones) <= _TOLD:
            told += [stuck_words(ridden, entry) for entry in ones]
        else:
            worst = max(ones, key=lambda entry: entry.needs - entry.capacity)
            many = f"Too little {what} goes in on" if what == "water" else "Food finds no room on"
            told.append(f"{many} {len(ones)} stretches. Worst: {stuck_words(ridden, worst)}")
    if any(entry.what == "water" and entry.needs - entry.capacity > STRAPPED_MOST for entry in stuck):
        told.append("No bottle mends that: where there is water on the way, say so in the Line.")
    return tuple(told)


def _shut_words(ridden: Ridden, stuck: tuple[Stuck, ...]) -> str:
    """Say which stops are shut for too long, empty where none is."""
    missed: dict[int, list[str]] = {}
    for entry in stuck:
        name, _, door = entry.what.partition(" ")
        if door:
            missed.setdefault(entry.node, []).append(name)
    if not missed:
        return ""
    whats = [name for name in NAMES if any(name in names for names in missed.values())]
    counted = f"{' and '.join(whats)} there {'is' if len(whats) == 1 else 'are'} not counted on"
    names = listed((node_name(ridden, node) for node in sorted(missed)), 3)
    return f"Shut for too long when one comes by: {names}; {counted}."


def way_words(ridden: Ridden, way: WayOut) -> str:
    """Say a way out in words."""
    if way.kind == "bottle":
        return f"One more bottle of {way.amount:.1f} l on the bike, all the way"
    if way.kind == "wait":
        return f"Wait for the door at {node_name(ridden, way.node)}"
    return f"Strap a bottle of {way.amount:.1f} l on at {node_name(ridden, way.node)}"


def _way_entry(ridden: Ridden, way: WayOut) -> dict[str, Any]:
    stop = ridden.timetable.visits[way.node - 1].stop if way.node else None
    return {
        "words": way_words(ridden, way),
        "kind": way.kind,
        "stop": stop.id if stop else START,
        "litres": None if way.kind == "wait" else way.amount,
        "minutes": way.change.minutes,
        "short_less": -way.change.short,
    }


def repacking_of(opened: OpenPlan, variant_id: str) -> Repacking:
    """Return the moves on the way that pay."""
    variant, ridden = opened.plan.variant(variant_id), evaluated(opened, variant_id).ridden
    return _REPACKED.of((opened.content, variant_id), lambda: repacking_for(opened.plan, variant, ridden))


def elsewhere_of(ridden: Ridden, move: Repack) -> tuple[Elsewhere, ...]:
    """Return a move as a plan keeps it: by its stops."""
    stops = [START, *(stop.id for stop in ridden.way.stops)]
    return tuple(
        Elsewhere(to=to, since=stops[since], until=stops[until] if until < len(stops) else "")
        for to, since, until in move.windows
    )


def repack_list(plan: Plan, variant: Variant, ridden: Ridden) -> dict[str, tuple[str, ...]]:
    """Return what is repacked at each stop, in sentences; at the start things are packed so from the first."""
    items = {item.id: item.name for item in plan.items}
    bags = {carrier.id: carrier.name for carrier in ridden.rig.carriers}
    found: dict[str, list[str]] = {}
    for key, windows in variant.repacks.items():
        if key not in ridden.kit.moved:
            continue
        home = bags.get(ridden.kit.places.get(key, ""), "its place")
        begins = {there.since for there in windows}
        for there in windows:
            found.setdefault(there.since, []).append(f"{items[key]} into {bags.get(there.to, 'a bag that is gone')}")
            if there.until and there.until not in begins:
                found.setdefault(there.until, []).append(f"{items[key]} back into {home}")
    return {stop: tuple(words) for stop, words in found.items()}


def indoors(ridden: Ridden, node: int) -> str:
    """Say what comes in with the rider where one rests at a stop, and what stays on the bike; empty elsewhere."""
    visit = ridden.timetable.visits[node - 1] if node else None
    if visit is None or visit.rested <= 0.0 or visit.stop is None or not visit.stop.has_warm_bed:
        return ""
    holding = [(s.carrier, _wanted_inside(s)) for s in ridden.film[node].carriers]
    wanted = [(carrier, names) for carrier, names in holding if names]
    wanted.sort(key=lambda entry: (not entry[0].quick_off, entry[0].open_time))
    told = [
        f"{carrier.name}{' in one grip' if carrier.quick_off else ''} ({listed(names, 3)})" for carrier, names in wanted
    ]
    stay = [carrier.name for carrier, names in holding if not names and carrier.takes != {"water"}]
    words = f"Indoors: {'; '.join(told)}" if told else "Indoors: nothing has to come in"
    return f"{words}. On the bike stay {listed(stay, 4)}." if stay else f"{words}."


def by_night(ridden: Ridden, node: int) -> str:
    """Say what is brought to hand where the next leg goes into the dark, or put away where it leaves it; else empty."""
    legs = ridden.timetable.legs
    now, before = legs[node].dark >= _DARK, node > 0 and legs[node - 1].dark >= _DARK
    if now == before:
        return ""
    far = [
        f"{item.name} ({state.carrier.name})"
        for state in ridden.film[node].carriers
        for item in state.items
        if item.reaches.night > 0.0 and ACCESS_RANK[state.carrier.access] > ACCESS_RANK[item.access]
    ]
    if not far:
        return ""
    return f"Before dark, to hand: {listed(far, 4)}." if now else f"By day again, away: {listed(far, 4)}."


def _wanted_inside(state: CarrierState) -> list[str]:
    """Return the things of a carrier that are wanted for the night, or are not left outside."""
    return [item.name for item in state.items if item.access == "camp" or item.category in _TAKEN_IN]


def repack_words(plan: Plan, ridden: Ridden, move: Repack) -> str:
    """Say a move on the way, and what it brings."""
    items = {item.id: item.name for item in plan.items}
    bags = {carrier.id: carrier.name for carrier in ridden.rig.carriers}
    parts = []
    for to, since, until in move.windows:
        there = "from the start" if since == 0 else f"from {node_name(ridden, since)}"
        back = "to the finish" if until == len(ridden.film) else f"to {node_name(ridden, until)}"
        parts.append(f"in {bags[to]} {there} {back}")
    words = f"{items[move.item]} {listed(parts, 6)}, else in {bags[move.home]}"
    saved = f"saves {move.gain:.1f} min" if move.gain >= 0.0 else f"{-move.gain:.1f} min dearer to reach"
    return f"{words}: {saved}, takes {move.cost:.1f}"


def film_report(plan: Plan, variant_id: str) -> dict[str, Any]:
    """Return what every carrier holds on every leg, the leg that decides each, and what would be repacked."""
    ridden = evaluate(plan, variant_id).ridden
    found = repacking_for(plan, plan.variant(variant_id), ridden)
    listed = repack_list(plan, plan.variant(variant_id), ridden)
    return {
        "plan": plan.name,
        "variant": variant_id,
        "finish_h": ridden.ledger.finish / 3600.0,
        "legs": [_film_entry(ridden, k, load) for k, load in enumerate(ridden.film)],
        "deciding_legs": {
            state.carrier.id: _deciding_entry(ridden, c) for c, state in enumerate(ridden.film[0].carriers)
        },
        "repack_list": {stop: list(words) for stop, words in listed.items()},
        "repacks_that_would_pay": [_repack_entry(plan, ridden, move) for move in found.moves],
        "best_repack_left": None if found.best_left is None else _repack_entry(plan, ridden, found.best_left),
        "repacks_tried": found.tried,
        "objective_min": found.net,
        "bound_min": found.bound,
        "gap_min": found.bound - found.net,
    }


def _repack_entry(plan: Plan, ridden: Ridden, move: Repack) -> dict[str, Any]:
    return {
        "words": repack_words(plan, ridden, move),
        "thing": move.item,
        "from": move.home,
        "windows": [{"to": to, "since_leg": since, "until_leg": until} for to, since, until in move.windows],
        "gain_min": move.gain,
        "cost_min": move.cost,
    }


def _film_entry(ridden: Ridden, k: int, load: LegLoad) -> dict[str, Any]:
    leg = ridden.timetable.legs[k]
    return {
        "from": leg.start_name,
        "to": leg.end_name,
        "mass_kg": load.mass,
        "front_share": load.balance.front_share,
        "carriers": {state.carrier.id: _state_entry(state) for state in load.carriers},
    }


def _state_entry(state: CarrierState) -> dict[str, Any]:
    return {
        "things": [item.id for item in state.items],
        "worn": sorted(state.worn),
        "water_l": state.water,
        "food_l": state.food * 1000.0,
        "volume_l": state.volume * 1000.0 + state.water,
        "mass_kg": state.mass,
        "fill": state.fill,
    }


def deciding_leg(ridden: Ridden, c: int) -> int:
    """Return the leg on which a carrier is fullest; the first of several."""
    return int(np.argmax([round(load.carriers[c].fill, 9) for load in ridden.film]))


def _deciding_entry(ridden: Ridden, c: int) -> dict[str, Any]:
    k = deciding_leg(ridden, c)
    leg = ridden.timetable.legs[k]
    return {"leg": k, "from": leg.start_name, "to": leg.end_name, "fill": ridden.film[k].carriers[c].fill}
