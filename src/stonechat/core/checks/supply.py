"""Checks of water and food on every leg."""

from collections.abc import Iterator

import numpy as np

from stonechat.core.checks.check import Check
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import FOOD_OFFERS, OFFERS, WATER_OFFERS, wait_words
from stonechat.core.numerics.findings import Finding, State, state_of
from stonechat.core.supply.carry import Levels
from stonechat.core.supply.mixing import mixable, mixed
from stonechat.text import listed

SHOULDERED = 4.0  # l of food that one rides with over the shoulder for some hours (estimate)


def _worst_leg(levels: Levels) -> int:
    """Return the leg with least to spare; of several the one that needs most, whatever the last digits say."""
    margins = np.round(levels.leaving - levels.needs, 6)
    return int(np.lexsort((-levels.needs, margins))[0])


def water_enough(ridden: Ridden) -> Iterator[Finding]:
    """The leg on which water is shortest."""
    leg = ridden.timetable.legs[_worst_leg(ridden.provisions.water)]
    has, needs = float(ridden.provisions.water.leaving[leg.index]), float(ridden.provisions.water.needs[leg.index])
    margin = has - needs
    wanted = float(ridden.provisions.water.until[leg.index])
    room = ridden.provisions.capacity
    advice = f"All bottles together hold {room:.1f} l." if wanted > room else f"Leave with {wanted:.1f} l."
    yield Finding(
        code="water",
        state=state_of(margin + 1e-9, 0.8 * ridden.provisions.reserve),
        title=f"Water from {leg.start_name} to {leg.end_name}",
        sentence=f"{has:.1f} l aboard, {needs:.1f} l needed for {(leg.end - leg.start) / 1000:.0f} km and "
        f"{leg.elapsed / 3600:.1f} h. {advice}",
        margin=margin,
        unit="l",
        subject=str(leg.index),
        room="supply",
    )


def food_enough(ridden: Ridden) -> Iterator[Finding]:
    """The leg on which food is shortest."""
    food = ridden.provisions.eaten
    leg = ridden.timetable.legs[_worst_leg(food)]
    has, needs = float(food.leaving[leg.index]), float(food.needs[leg.index])
    yield Finding(
        code="food",
        state=state_of(has - needs + 1e-6, 100.0),
        title=f"Food from {leg.start_name} to {leg.end_name}",
        sentence=f"{has:,.0f} kcal aboard, {needs:,.0f} kcal needed. "
        f"Leave with {float(food.until[leg.index]):,.0f} kcal.",
        margin=has - needs,
        unit="kcal",
        subject=str(leg.index),
        room="supply",
    )


def food_has_room(ridden: Ridden) -> Iterator[Finding]:
    """Whether the food of the heaviest leg finds room."""
    worst = max(range(len(ridden.film)), key=lambda k: ridden.film[k].food_left_over)
    over = ridden.film[worst].food_left_over * 1000.0
    free = min(_food_room(ridden, k) for k in range(len(ridden.film)))
    margin = -over if over > 1e-6 else free
    leg = ridden.timetable.legs[worst]
    state, sentence = state_of(margin, 0.3), f"At least {free:.1f} l stay free in the food bags on every leg."
    if over > 1e-6:
        sentence = f"{over:.1f} l of food find no room. Free a food bag or buy more often."
        bag = next((item for item in ridden.kit.items if "shop_bag" in item.roles), None)
        if bag is not None and over <= SHOULDERED:
            rate = float(ridden.provisions.food.needs[worst]) / max(leg.moving / 3600.0, 1e-9)
            hours = over * float(ridden.provisions.larder.bulk[worst]) / max(rate, 1e-9)
            state = State.TIGHT
            sentence = f"{over:.1f} l of food ride in {bag.name} over the shoulder until they are eaten, "
            sentence += f"about {hours:.0f} h. Free a food bag or buy more often."
    yield Finding(
        code="food-room",
        state=state,
        title=f"Room for food from {leg.start_name} to {leg.end_name}" if over > 1e-6 else "Room for food",
        sentence=sentence,
        margin=margin,
        unit="l",
    )


def _food_room(ridden: Ridden, leg: int) -> float:
    states = [s for s in ridden.film[leg].carriers if "food" in s.carrier.takes]
    return sum(max(0.0, s.carrier.capacity - s.volume) for s in states) * 1000.0


def powder_has_a_bottle(ridden: Ridden) -> Iterator[Finding]:
    """Whether drink powder finds bottles that may hold it."""
    powder = ridden.provisions.powder
    if float(powder.sum()) <= 0.001:
        return
    room = mixable(ridden.rig.carriers)
    leg = int(np.argmax(powder))
    names = ridden.timetable.legs[leg]
    wants = min(mixed(float(powder[leg])), float(ridden.provisions.water.needs[leg]))
    most = min(wants, float(ridden.provisions.capacity))
    yield Finding(
        code="powder",
        state=state_of(room - min(most, 0.5) + 1e-9, 0.0),
        title="A bottle for drink powder",
        sentence=f"{1000.0 * float(powder[leg]):.0f} g of powder from {names.start_name} to {names.end_name} want "
        f"{wants:.1f} l mixed; bottles that may be mixed hold {room:.1f} l."
        + ("" if room > 0.0 else " Every bottle is for plain water: say in the Rig which may be mixed."),
        margin=room - min(most, 0.5),
        unit="l",
        subject=str(leg),
        room="supply",
    )


def open_when_reached(ridden: Ridden) -> Iterator[Finding]:
    """Stops that give water or food and are shut on arrival."""
    for visit in ridden.timetable.visits:
        stop = visit.stop
        if stop is None or visit.passed:
            continue
        missed = (stop.offers & (WATER_OFFERS | FOOD_OFFERS)) - visit.gives
        if not missed:
            continue
        still = [OFFERS[offer] for offer in OFFERS if offer in visit.gives]
        kept = f" Only {' and '.join(still)} can be had then." if still else " Nothing is counted as taken on there."
        shut = f"it {wait_words(visit.wait)}" if visit.is_known else "its hours are not known, and such places are shut"
        yield Finding(
            code="shut",
            state=State.TIGHT,
            title=f"{visit.name} is shut" if visit.is_known else f"{visit.name} may be shut",
            sentence=f"You pass on {visit.arrives:%a %H:%M}; {shut}.{kept}",
            margin=-min(visit.wait, 1e6) / 3600.0,
            unit="h",
            subject=stop.id,
            room="rhythm",
        )


def hours_known(ridden: Ridden) -> Iterator[Finding]:
    """Stops whose food is counted on though nobody knows when they are open."""
    doubted = [v for v in ridden.timetable.visits if v.stop and not v.is_known and v.gives & FOOD_OFFERS]
    if not doubted:
        return
    names = listed((f"{v.name} ({v.arrives:%a %H:%M})" for v in doubted), 4)
    yield Finding(
        code="hours",
        state=State.TIGHT,
        title=f"Hours not known: {len(doubted)}",
        sentence=f"Food is counted on at {names} because such places are usually open then. Ask, and set their hours.",
        margin=0.0,
        unit="stops",
        subject=doubted[0].stop.id if doubted[0].stop else "",
        room="line",
    )


CHECKS = (
    Check(
        code="water",
        title="Water",
        reason="Running dry ends more races than a puncture does.",
        run=water_enough,
    ),
    Check(code="food", title="Food", reason="An empty rider is a slow rider.", run=food_enough),
    Check(
        code="food-room",
        title="Room for food",
        reason="Every regret about volume is about the leg with most food.",
        run=food_has_room,
    ),
    Check(
        code="powder",
        title="A bottle for drink powder",
        reason="Powder spoils a hose and a filter; one bottle stays plain, one is mixed.",
        run=powder_has_a_bottle,
    ),
    Check(
        code="shut",
        title="Open on arrival",
        reason="A shut door gives neither water nor food.",
        run=open_when_reached,
    ),
    Check(
        code="hours",
        title="Hours known",
        reason="A door that nobody has asked about is not open for that.",
        run=hours_known,
    ),
)
