"""What the cut list, the jobs, the countdown and the shelf show."""

import math
from dataclasses import dataclass

from stonechat.core.kit.bolts import TOOLS, BoltCover
from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import BY_MARGIN, JOBS, Coverage, Demands, Job
from stonechat.core.plan.countdown import Task, countdown
from stonechat.core.plan.cutlist import FIRST_STEP, Cut
from stonechat.core.plan.wearing import bolts_on
from stonechat.services.kit.cuts import cuts_of
from stonechat.services.kit.pair import Pair, pair_of
from stonechat.services.kit.shelf import mark_of, shelf_items
from stonechat.web.desk import Desk

_WORST = {"missing": 0, "once": 1, "several": 2, "spare": 3}


@dataclass(frozen=True, kw_only=True)
class CutView:
    """The cut list."""

    cuts: tuple[Cut, ...]  # those that gain
    dear: tuple[Cut, ...]  # those whose worth is more than their price
    kept: tuple[tuple[Item, str], ...]
    unjudged: tuple[tuple[Item, str], ...]  # with the address at which to say what it is
    step: float  # kg
    step_mass: float  # kg of the next step
    step_minutes: float
    step_gain: float  # min, of that what is more than their worth
    step_ending: float  # 1
    move_address: str


def cut_view(desk: Desk) -> CutView:
    """Return what the cut list shows."""
    found = cuts_of(desk.opened, desk.variant_id)
    step = found.next_step()
    return CutView(
        cuts=tuple(cut for cut in found.cuts if cut.is_clear),
        dear=tuple(cut for cut in found.cuts if not cut.is_clear),
        kept=found.kept,
        unjudged=tuple((item, desk.at(open=item.id)) for item in found.unjudged),
        step=FIRST_STEP,
        step_mass=sum(cut.item.total_mass for cut in step),
        step_minutes=sum(cut.saving for cut in step),
        step_gain=sum(cut.net for cut in step),
        step_ending=1.0 - math.prod(1.0 - cut.worth.ending for cut in step),
        move_address=desk.do("move"),
    )


@dataclass(frozen=True, kw_only=True)
class JobsView:
    """Jobs and bolts."""

    coverage: tuple[Coverage, ...]
    missing: int
    dropped: tuple[Job, ...]
    job_address: str
    bolts: tuple[BoltCover, ...]
    tools: dict[str, str]
    loose_bolts: int
    night_address: str
    charge_address: str


def jobs_view(desk: Desk) -> JobsView:
    """Return what the jobs show."""
    ridden = desk.evaluation.ridden
    coverage = tuple(c for c in ridden.coverage if c.job.key not in desk.variant.jobs_off)
    bolts = bolts_on(ridden)
    return JobsView(
        coverage=tuple(sorted(coverage, key=lambda c: _WORST[c.state])),
        missing=sum(1 for c in coverage if c.state == "missing"),
        dropped=tuple(JOBS[key] for key in sorted(desk.variant.jobs_off - BY_MARGIN) if key in JOBS),
        job_address=desk.do("job-off"),
        bolts=bolts,
        tools=TOOLS,
        loose_bolts=sum(1 for entry in bolts if not entry.items),
        night_address=desk.at("night"),
        charge_address=desk.at("charge"),
    )


@dataclass(frozen=True, kw_only=True)
class CountdownView:
    """The countdown."""

    tasks: tuple[Task, ...]
    done: int
    tick_address: str
    pdf_address: str


def countdown_view(desk: Desk) -> CountdownView:
    """Return what the countdown shows."""
    tasks = countdown(desk.opened.plan, desk.variant, desk.evaluation.ridden.report(Demands))
    return CountdownView(
        tasks=tasks,
        done=sum(1 for task in tasks if task.done),
        tick_address=desk.do("tick"),
        pdf_address=desk.do("countdown.pdf"),
    )


@dataclass(frozen=True, kw_only=True)
class PairView:
    """Riding in two."""

    pair: Pair
    mine: tuple[Item, ...]  # that may be shared or handed over
    partner_id: str
    set_address: str
    share_address: str
    hand_address: str


def pair_view(desk: Desk) -> PairView:
    """Return what riding in two shows."""
    pair = pair_of(desk.workspace, desk.opened)
    along = desk.evaluation.ridden.kit.items
    return PairView(
        pair=pair,
        mine=tuple(sorted((i for i in along if not i.shared and not i.container), key=lambda i: i.name.lower())),
        partner_id=str(pair.partner.id) if pair.partner else "",
        set_address=desk.do("pair"),
        share_address=desk.do("pair", "share"),
        hand_address=desk.do("pair", "hand"),
    )


@dataclass(frozen=True, kw_only=True)
class ShelfView:
    """The shelf."""

    others: tuple[Item, ...]  # not in this plan's kit
    off: int  # things of this plan that are not on the shelf
    count: int
    own_address: str
    take_address: str
    drop_address: str


def shelf_view(desk: Desk) -> ShelfView:
    """Return what the shelf shows."""
    owned = shelf_items(desk.workspace, demo=desk.opened.demo)
    marks = {mark_of(item) for item in owned}
    here = {mark_of(item) for item in desk.opened.plan.items}
    return ShelfView(
        others=tuple(item for item in owned if mark_of(item) not in here),
        off=sum(1 for item in desk.opened.plan.items if mark_of(item) not in marks),
        count=len(owned),
        own_address=desk.do("shelf", "own"),
        take_address=desk.do("shelf", "take"),
        drop_address=desk.do("shelf", "drop"),
    )
