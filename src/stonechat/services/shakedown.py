"""The loaded ride: its findings, and the change that each asks for, done in one step with the tick."""

from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID

from stonechat.core.diary.shakedown import MOST_FINDINGS, REMEDIES, TROUBLES, Shaken
from stonechat.core.plan import remedies
from stonechat.core.plan.plan import Plan, Variant
from stonechat.errors import InvalidInput, NotFound
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.variant import change_variant
from stonechat.services.workspace import Workspace


def set_shakedown(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, day: date | None, km: float, rough_km: float
) -> OpenPlan:
    """Say how far the loaded bike was ridden."""
    if rough_km > km:
        raise InvalidInput("More of it was rough than was ridden.", subject="rough_km")
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="said how the loaded bike was ridden",
        change=lambda variant: replace(
            variant, shakedown=replace(variant.shakedown, day=day, km=km, rough_km=rough_km)
        ),
    )


def add_finding(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, finding: Shaken) -> OpenPlan:
    """Write down what a loaded ride showed."""
    if finding.trouble not in TROUBLES:
        raise InvalidInput("Choose from the list what it was.", subject="trouble")

    def change(variant: Variant) -> Variant:
        if len(variant.shakedown.findings) >= MOST_FINDINGS:
            raise InvalidInput(f"A ride holds {MOST_FINDINGS} findings.")
        findings = (*variant.shakedown.findings, finding)
        return replace(variant, shakedown=replace(variant.shakedown, findings=findings))

    return change_variant(
        workspace, plan_id, variant_id, revision=revision, label=f"found: {TROUBLES[finding.trouble]}", change=change
    )


@dataclass(frozen=True, kw_only=True)
class Mended:
    """What is done about a finding."""

    number: int
    remedy: str = ""  # key of REMEDIES
    to: str = ""
    done: bool = False  # it is done now: the change is made, and the finding ticked off
    drop: bool = False


def mend_finding(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, mended: Mended
) -> tuple[OpenPlan, str]:
    """Choose what is done about a finding, do it and tick it off, or take it out; say what was changed."""
    if mended.remedy not in (*REMEDIES, ""):
        raise InvalidInput("Choose from the list what is done about it.", subject="remedy")
    if mended.done and not mended.remedy:
        raise InvalidInput("Choose what is done about it first.", subject="remedy")
    told: list[str] = []

    def change(plan: Plan) -> Plan:
        told.clear()
        variant = plan.variant(variant_id)
        findings = list(variant.shakedown.findings)
        if not 0 <= mended.number < len(findings):
            raise NotFound("That finding is gone already.", subject=str(mended.number))
        one = findings[mended.number]
        if mended.drop:
            del findings[mended.number]
        else:
            findings[mended.number] = replace(one, remedy=mended.remedy, to=mended.to, done=mended.done)
            if mended.done and not one.done:
                variant, words = remedies.mended(plan, variant, findings[mended.number])
                told.append(words)
        return plan.with_variant(replace(variant, shakedown=replace(variant.shakedown, findings=tuple(findings))))

    words = "took a finding out" if mended.drop else "mended a finding" if mended.done else "chose what to mend"
    opened = change_plan(workspace, plan_id, revision=revision, label=words, change=change)
    return opened, " ".join(told)
