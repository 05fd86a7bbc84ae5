"""What a move would cost, and which place is best for what lies about."""

from collections.abc import Sequence

from stonechat.core.load.moves import MoveOption, move_options, options_together
from stonechat.services.editing import item_named
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.packing import problem_of


def options_for(opened: OpenPlan, variant_id: str, item_ids: Sequence[str]) -> tuple[MoveOption, ...]:
    """Return what things would cost together in each mounted carrier; nothing for what stays at home."""
    for item_id in item_ids:
        item_named(opened.plan, item_id)
    problem = problem_of(opened, variant_id, evaluated(opened, variant_id))
    packed = {item.id for item in problem.items}
    if not set(item_ids) <= packed:
        return ()
    return options_together(problem, opened.plan.variant(variant_id).places, item_ids)


def best_places(opened: OpenPlan, variant_id: str) -> dict[str, MoveOption | None]:
    """Return the cheapest possible place for each thing that has none; None where there is none."""
    evaluation = evaluated(opened, variant_id)
    problem = problem_of(opened, variant_id, evaluation)
    places = opened.plan.variant(variant_id).places
    best: dict[str, MoveOption | None] = {}
    packed = {item.id for item in problem.items}  # what is in a pouch goes where the pouch goes
    for item in (entry for entry in evaluation.ridden.unplaced if entry.id in packed):
        open_to = [option for option in move_options(problem, places, item.id) if not option.reason]
        best[item.id] = min(open_to, key=lambda option: option.minutes, default=None)
    return best
