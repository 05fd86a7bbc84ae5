"""What is otherwise than in the last race of this rider, and why."""

from dataclasses import dataclass

from stonechat.core.plan.between import Difference, Side, differences
from stonechat.services.memory import last_race
from stonechat.web.desk import Desk

_KINDS = {"thing": "Things", "place": "Riding elsewhere", "bag": "Bags", "rider": "Rider"}


@dataclass(frozen=True, kw_only=True)
class SinceView:
    """The part that sets this plan beside the last race."""

    title: str  # empty: no earlier race is known
    groups: tuple[tuple[str, tuple[Difference, ...]], ...]
    heavier: str  # by how much what goes along is heavier or lighter


def since_view(desk: Desk) -> SinceView:
    """Return what changed since the last race."""
    last = last_race(desk.workspace, desk.opened)
    if last is None:
        return SinceView(title="", groups=(), heavier="")
    plan, variant = last
    before, now = Side(plan=plan, variant=variant), Side(plan=desk.opened.plan, variant=desk.variant)
    found = differences(before, now)
    groups = ((name, tuple(one for one in found if one.kind == kind)) for kind, name in _KINDS.items())
    heavier = sum(item.total_mass for item in now.aboard.values()) - sum(i.total_mass for i in before.aboard.values())
    words = f"{abs(heavier) * 1e3:.0f} g {'more' if heavier > 0.0 else 'less'}"
    return SinceView(title=plan.name, groups=tuple(pair for pair in groups if pair[1]), heavier=words)
