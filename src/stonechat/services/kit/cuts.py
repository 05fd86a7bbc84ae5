"""The cut list of a variant, kept by what is in the plan."""

from stonechat.core.plan.cutlist import CutList, cut_list
from stonechat.services.evaluation import evaluated
from stonechat.services.history import OpenPlan
from stonechat.services.kept import Kept

_CUTS: Kept[CutList] = Kept(16)


def cuts_of(opened: OpenPlan, variant_id: str) -> CutList:
    """Return what may stay at home, and what its worth is beside its price."""
    ridden, variant = evaluated(opened, variant_id).ridden, opened.plan.variant(variant_id)
    return _CUTS.of((opened.content, variant_id), lambda: cut_list(ridden, variant))
