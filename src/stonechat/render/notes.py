"""What is done at a stop, in the words of the note on the bars: the same on tape, table, strip and command line."""

from stonechat.core.ledger.ridden import Ridden
from stonechat.render.filters import kcal, litres_of_water


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
