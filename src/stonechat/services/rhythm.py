"""Rhythm: the rider, start and sleep."""

from collections.abc import Callable
from dataclasses import replace
from uuid import UUID

from stonechat.core.rhythm.rhythm import Rhythm
from stonechat.core.rhythm.rider import Rider
from stonechat.services.history import OpenPlan
from stonechat.services.variant import change_variant, fitted
from stonechat.services.workspace import Workspace

RhythmChange = Callable[[Rhythm], Rhythm]


def set_rider(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, rider: Rider) -> OpenPlan:
    """Set the rider of a variant."""
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label="set the rider",
        change=lambda variant: fitted(replace(variant, rider=rider, assumed=variant.assumed - {"rider"})),
    )


def set_rhythm(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    label: str,
    change: RhythmChange,
    says: frozenset[str] = frozenset(),
) -> OpenPlan:
    """Change how a variant sleeps and dawdles; `says` names what is not taken for granted any more."""
    return change_variant(
        workspace,
        plan_id,
        variant_id,
        revision=revision,
        label=label,
        change=lambda v: replace(v, rhythm=change(v.rhythm), assumed=v.assumed - says),
    )
