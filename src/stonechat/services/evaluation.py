"""Evaluate a variant, and keep the result by what is in the plan."""

from dataclasses import dataclass

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.profile import Profile, make_profile
from stonechat.core.plan.evaluate import Evaluation, evaluate, finish_of, summed_up
from stonechat.core.plan.halting import choosing
from stonechat.core.plan.plan import Plan, Variant
from stonechat.services.history import OpenPlan, step_before
from stonechat.services.kept import Kept
from stonechat.services.workspace import Workspace

_PROFILES: Kept[Profile] = Kept(16)
_EVALUATIONS: Kept[Evaluation] = Kept(64)


@dataclass(frozen=True, kw_only=True)
class LastChange:
    """What the last change did to this variant."""

    label: str
    minutes: float  # min of carrying, wind and reaching
    finish: float  # s, of the finish, a staircase


def cleaned_profile(plan: Plan, course_hash: str) -> Profile:
    """Return the cleaned course of a plan."""
    line = plan.line
    key = (course_hash, line.cleaning, line.spans, line.default_surface)
    return _PROFILES.of(
        key,
        lambda: make_profile(
            track=line.track, cleaning=line.cleaning, spans=line.spans, default_surface=line.default_surface
        ),
    )


def evaluated(opened: OpenPlan, variant_id: str) -> Evaluation:
    """Return a variant ridden, supplied, priced and checked."""
    return _EVALUATIONS.of((opened.content, variant_id), lambda: previewed(opened, opened.plan.variant(variant_id)))


def evaluated_choosing(opened: OpenPlan, variant_id: str) -> Evaluation:
    """Return a variant as it would be ridden if stops were chosen."""
    variant = opened.plan.variant(variant_id)
    if variant.supply.choose:
        return evaluated(opened, variant_id)
    return _EVALUATIONS.of((opened.content, variant_id, "choosing"), lambda: previewed(opened, choosing(variant)))


def previewed(opened: OpenPlan, variant: Variant) -> Evaluation:
    """Return what a variant would come to if it were changed; nothing is kept of it."""
    profile = cleaned_profile(opened.plan, opened.course_hash)
    return evaluate(opened.plan.with_variant(variant), variant.id, profile=profile)


def summed_up_as(opened: OpenPlan, variant: Variant) -> Ridden:
    """Return what riding a variant would come to if it were changed, without reports and checks."""
    profile = cleaned_profile(opened.plan, opened.course_hash)
    return summed_up(opened.plan.with_variant(variant), variant.id, profile=profile)


def finish_as(opened: OpenPlan, plan: Plan, variant_id: str) -> float:
    """Return when a variant would finish if the plan were changed, its course left as it is. [s]"""
    return finish_of(plan, variant_id, profile=cleaned_profile(opened.plan, opened.course_hash))


def last_change(workspace: Workspace, opened: OpenPlan, variant_id: str) -> LastChange | None:
    """Return what the last change did, or None where there is none or the variant is new."""
    before = step_before(workspace, opened)
    if before is None or variant_id not in {variant.id for variant in before.plan.variants}:
        return None
    was, now = evaluated(before, variant_id).ridden.ledger, evaluated(opened, variant_id).ridden.ledger
    return LastChange(label=opened.undo_label or "", minutes=now.carried - was.carried, finish=now.finish - was.finish)
