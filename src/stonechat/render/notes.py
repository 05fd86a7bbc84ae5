"""What is done at a stop, in the words of the note on the bars: the same on tape, table, strip and command line."""

from collections.abc import Mapping

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.night.ladder import Ladder
from stonechat.core.supply.basket import Basket
from stonechat.core.supply.foods import Food
from stonechat.render.filters import distance_km, kcal, litres_of_water, mass_g
from stonechat.text import listed


def stop_note(ridden: Ridden, node: int) -> str:
    """Return what is done at the start (0) or a stop: ride past, or how much is left with and bought."""
    if node and ridden.timetable.visits[node - 1].passed:
        return "ride past"
    water, food = ridden.provisions.water, ridden.provisions.food
    words = [litres_of_water(float(water.leaving[node]))] if water.refilled[node] else []
    if food.refilled[node]:
        bought = float(food.taken[node])
        words += [f"{'buy' if node else 'take'} {kcal(bought)}"] if bought >= 1.0 else []
    return ", ".join(words) or "nothing"


def dress_note(ridden: Ridden, node: int) -> str:
    """Return what to have on when leaving a place, and what is put on or taken off on the way to the next."""
    ladder, leg = ridden.report(Ladder), ridden.timetable.legs[node]
    spells = ladder.spells
    inside = [k for k in range(spells.lengths.size) if leg.start - 1.0 <= spells.begins[k] < leg.end - 1.0]
    if not inside:
        return ""
    pieces = [p for z in ladder.zones.values() for p in z.outfits[int(z.chosen[inside[0]])].pieces if not p.is_on]
    words = f"wear {listed([piece.name for piece in pieces], 8)}" if pieces else "wear what you ride in"
    for change in ladder.changes:
        if change.spell in inside[1:]:
            on, off = ([garment.name for garment in side] for side in (change.on, change.off))
            parts = ([f"on {listed(on, 5)}"] if on else []) + ([f"off {listed(off, 5)}"] if off else [])
            words += f"; at {distance_km(float(spells.begins[change.spell]))} {', '.join(parts)}"
    return words


def basket_words(foods: Mapping[str, Food], basket: Basket | None, energy: float, *, most: int = 12) -> str:
    """Return a shopping list in grams; empty where nothing is bought."""
    if basket is None or energy < 1.0:
        return ""
    grams = [
        f"{foods[key].name} {mass_g(round(share * energy / foods[key].energy, -1) / 1000.0)}"
        for key, share in basket.shares[:most]
        if key in foods
    ]
    return ", ".join(grams)
