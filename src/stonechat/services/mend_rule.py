"""Mend: what the rider says of failures, of the age of parts, of bolts and of how often mends are wanted."""

import re
from collections.abc import Callable
from dataclasses import replace
from uuid import UUID

from stonechat.core.kit.bolts import Bolt
from stonechat.core.kit.item import Reaches
from stonechat.core.kit.jobs import BY_MARGIN
from stonechat.core.kit.lexicon.kinds import KINDS
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.mend.failures import NEEDS, Failure
from stonechat.core.mend.report import ON_TOOLS, Places, doing
from stonechat.core.mend.rule import MendRule, Told, failures_of, what_is_wrong
from stonechat.core.plan.mending import has_of
from stonechat.core.plan.plan import Plan
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.kit_table import item_id
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.variant import change_variant
from stonechat.services.workspace import Workspace

MOST_OWN, MOST_BOLTS = 60, 200  # 1, failures and bolts of the rider's own in a plan


def change_rule(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    label: str,
    change: Callable[[MendRule], MendRule],
) -> OpenPlan:
    """Change what the rider says of failures."""
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label=label,
        change=lambda variant: replace(variant, mending=change(variant.mending)),
    )


def tell(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, key: str, told: Told) -> OpenPlan:
    """Say what the rider knows better of a failure; nothing known: as the table says."""
    known = failures_of(replace(opened.plan.variant(variant_id).mending, told={key: told}))
    if key not in known:
        raise NotFound("That failure is none of this plan any more. Load the page again.", subject=key)
    if wrong := what_is_wrong(known[key]):
        raise InvalidInput(wrong, subject="rate")

    def change(rule: MendRule) -> MendRule:
        others = {other: value for other, value in rule.told.items() if other != key}
        return replace(rule, told=others if told == Told() else {**others, key: told})

    label = f"changed what is known of {known[key].name}"
    return change_rule(workspace, opened.id, variant_id, revision=revision, label=label, change=change)


def keep_own(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int, failure: Failure) -> OpenPlan:
    """Keep a failure of the rider's own; one without a key is new."""
    rule = opened.plan.variant(variant_id).mending
    made = replace(failure, key=failure.key or item_id(failure.name, {*failures_of(rule)}))
    if wrong := what_is_wrong(made) or _nowhere(made, evaluated(opened, variant_id).ridden):
        raise InvalidInput(wrong, subject=failure.name)

    def change(rule: MendRule) -> MendRule:
        others = tuple(own for own in rule.own if own.key != made.key)
        if len(others) >= MOST_OWN:
            raise InvalidInput(f"A plan knows {MOST_OWN} failures of your own. Take one out before you add another.")
        return replace(rule, own=(*others, made))

    label = f"kept the failure {made.name}"
    return change_rule(workspace, opened.id, variant_id, revision=revision, label=label, change=change)


def forget_own(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, key: str) -> OpenPlan:
    """Take a failure of the rider's own out."""

    def change(rule: MendRule) -> MendRule:
        told = {other: value for other, value in rule.told.items() if other != key}
        return replace(rule, own=tuple(own for own in rule.own if own.key != key), told=told)

    label = "took a failure out"
    return change_rule(workspace, plan_id, variant_id, revision=revision, label=label, change=change)


def keep_bolt(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, bolt: Bolt) -> OpenPlan:
    """Keep a bolt as the rider knows it."""

    def change(rule: MendRule) -> MendRule:
        others = tuple(own for own in rule.bolts if own.part != bolt.part)
        if len(others) >= MOST_BOLTS:
            raise InvalidInput(f"A plan knows {MOST_BOLTS} bolts of your own. Take one out before you add another.")
        return replace(rule, bolts=(*others, bolt))

    label = f"took off the bolt {bolt.part}" if bolt.count == 0 else f"changed the bolt {bolt.part}"
    return change_rule(workspace, plan_id, variant_id, revision=revision, label=label, change=change)


def tool_does(workspace: Workspace, opened: OpenPlan, *, revision: int, item_id: str, word: str) -> OpenPlan:
    """Say that a tool does what its name does not tell."""
    tool = next((item for item in opened.plan.items if item.id == item_id), None)
    if tool is None or tool.kind != "multi_tool" or word not in ON_TOOLS:
        raise NotFound("That tool is not in the kit any more. Load the page again.", subject=item_id)

    def change(plan: Plan) -> Plan:
        return replace(plan, items=tuple(doing(item, word) if item.id == tool.id else item for item in plan.items))

    label = f"{tool.name} {ON_TOOLS[word]}"
    return change_plan(workspace, opened.id, revision=revision, label=label, change=change)


def count_uses(workspace: Workspace, opened: OpenPlan, variant_id: str, *, revision: int) -> OpenPlan:
    """Let Load count the things that only mend by how often a mend is expected to want them."""
    ridden = evaluated(opened, variant_id).ridden
    days = ridden.ledger.prices.days
    wanted = {
        place.item.id: place.uses / days
        for place in ridden.report(Places).things
        if place.item.roles <= BY_MARGIN and KINDS.get(place.item.kind) and KINDS[place.item.kind].category == "tools"
    }

    def change(plan: Plan) -> Plan:
        return replace(
            plan,
            items=tuple(
                replace(item, reaches=Reaches(per_day=round(wanted[item.id], 4))) if item.id in wanted else item
                for item in plan.items
            ),
        )

    return change_plan(workspace, opened.id, revision=revision, label="counted mends in Load", change=change)


def _nowhere(failure: Failure, ridden: Ridden) -> str:
    """Say that what fails is nowhere on this bike or in this kit; empty where it is, or nobody can tell."""
    has = has_of(ridden)
    for need, words in _WORDS.items():
        if re.search(words, failure.name.lower()) and not has[need]:
            return f"There is no {NEEDS[need].removeprefix('a ')} on this bike. Set it in Rig, or name what is on it."
    kinds = {item.kind for item in ridden.kit.items}
    if failure.part in ("kit", "rider") and failure.fails and failure.fails not in kinds:
        return f"No {KINDS[failure.fails].title} is in this kit, so it cannot fail. Put it into Kit first."
    return ""


_WORDS = {
    "dropper": r"\bdropper", "aero": r"\baero ?-?bars?\b|\barm ?pads?\b",
    "fork": r"\bfork (seal|air|damper)|suspension fork",
    "rear": r"\brear shock|\bshock\b",
    "electronic": r"\belectronic|\bgear battery|\bshift(ing)? battery",
    "mechanical": r"\bgear cable|\bshift(ing)? cable", "bladder": r"\bbladder", "tent": r"\btent",
}  # fmt: skip
