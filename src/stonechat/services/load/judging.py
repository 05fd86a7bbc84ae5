"""What a load is worth beside others: rules of thumb against the best possible, and why a thing rides where it does."""

from dataclasses import dataclass

from stonechat.core.kit.item import Item
from stonechat.core.load.greedy import RULES, pack_greedily
from stonechat.core.load.judge import judge
from stonechat.core.load.problem import PackingProblem
from stonechat.core.load.solve import lower_bound
from stonechat.core.load.why import PlaceReason as PlaceReason
from stonechat.core.load.why import why_here
from stonechat.core.plan.evaluate import Evaluation
from stonechat.errors import NotFound
from stonechat.services.history import OpenPlan
from stonechat.services.load.packing import problem_of


@dataclass(frozen=True, kw_only=True)
class RuleOfThumb:
    """A way of packing held against the best possible."""

    key: str
    name: str
    minutes: float
    over: float  # 1, share over the bound
    broken: tuple[str, ...]
    moved: int  # things that it would move


@dataclass(frozen=True, kw_only=True)
class Starts:
    """Rules of thumb, and the load as it is."""

    bound: float  # min that no packing can be under
    rules: tuple[RuleOfThumb, ...]
    now: RuleOfThumb


def rules_of_thumb(opened: OpenPlan, variant_id: str, evaluation: Evaluation) -> Starts:
    """Return rules of thumb with how far each is from the best possible."""
    problem = problem_of(opened, variant_id, evaluation)
    bound = lower_bound(problem)
    present = {item.id: evaluation.ridden.kit.places.get(item.id, "") for item in problem.items}

    def judged(key: str, name: str, places: dict[str, str]) -> RuleOfThumb:
        verdict = judge(problem, places)
        return RuleOfThumb(
            key=key,
            name=name,
            minutes=verdict.minutes,
            over=verdict.minutes / bound - 1.0 if bound > 0.0 else 0.0,
            broken=verdict.broken,
            moved=sum(1 for item_id, place in places.items() if present.get(item_id) != place),
        )

    return Starts(
        bound=bound,
        rules=tuple(judged(rule.key, rule.name, dict(pack_greedily(problem, rule))) for rule in RULES),
        now=judged("now", "as it is packed now", present),
    )


@dataclass(frozen=True, kw_only=True)
class Reasons:
    """What stands for and against each place of a thing."""

    item: Item
    problem: PackingProblem
    places: tuple[PlaceReason, ...]  # of the carriers that take things


def reasons_for(opened: OpenPlan, variant_id: str, evaluation: Evaluation, item_id: str) -> Reasons:
    """Return why a thing rides where it does; refused where it is not to be packed."""
    problem = problem_of(opened, variant_id, evaluation)
    item = next((entry for entry in problem.items if entry.id == item_id), None)
    if item is None:
        raise NotFound(f"There is no thing “{item_id[:60]}” to pack in this variant.", subject=item_id)
    takes = {carrier.id for carrier in problem.carriers if "items" in carrier.takes}
    found = why_here(problem, evaluation.ridden.kit.places, item.id)
    return Reasons(item=item, problem=problem, places=tuple(entry for entry in found if entry.carrier_id in takes))
