"""What Load shows of the solver: wishes, a packing under way or finished, and what if."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from stonechat.core.kit.containers import units_to_pack
from stonechat.core.kit.item import HOME, Item
from stonechat.core.load.together.ways import WAYS
from stonechat.core.plan.plan import Variant, Wishes
from stonechat.core.plan.scenario import carried_items
from stonechat.core.rig import places
from stonechat.core.rig.carrier import Carrier
from stonechat.services.load.packing import BUDGET, packing_run, trial_of
from stonechat.services.load.proposal import Proposal, proposal_of
from stonechat.services.work import Run
from stonechat.web.desk import Desk

_NAMES = {
    "behind": "nothing behind the saddle",
    "bars": "nothing on the bars",
    "fork": "nothing on the fork",
    "back": "nothing on the back",
    "frame": "bottles in the frame, no frame bag",
}
PACKING_SCHOOLS = {  # name, and the places that it leaves empty
    key: (name, frozenset(place.key for place in places.ALL if place.school == key)) for key, name in _NAMES.items()
}


@dataclass(frozen=True, kw_only=True)
class PackView:
    """Pack it for me, wherever it stands."""

    run: Run | None
    proposal: Proposal | None
    is_elsewhere: bool  # whether a what-if is being solved
    budget: float  # 1, how much worse a different plan may be
    start_address: str
    stop_address: str
    take_address: str
    refuse_address: str
    different_address: str
    way_address: str
    watch_address: str
    limit_s: float


@dataclass(frozen=True, kw_only=True)
class WishesView:
    """What the rider leaves to the packing."""

    wishes: Wishes
    carriers: tuple[tuple[Carrier, bool], ...]  # those that may be left to it, and whether they are
    bags: tuple[Carrier, ...]  # those that may keep room free
    maybe: int  # things marked maybe
    ways: tuple[tuple[str, str], ...]  # of packing, key and name
    address: str

    @property
    def words(self) -> str:
        """What is wished, in one line."""
        said = [
            f"{len(self.wishes.free_carriers)} carriers may come off or on" if self.wishes.free_carriers else "",
            "things marked maybe may stay or come" if self.wishes.decide_maybe else "",
            "sets together" if self.wishes.sets_together else "",
            next((f"{self.wishes.keep_free * 1e3:.1f} l free in {c.name}" for c in self.bags
                  if c.id == self.wishes.keep_free_in), ""),
            WAYS[self.wishes.way] if self.wishes.way else "",
            f"the body counts {self.wishes.body:g} times" if self.wishes.body != 1.0 else "",
        ]  # fmt: skip
        return "; ".join(part for part in said if part) or "only where things go"


@dataclass(frozen=True, kw_only=True)
class WhatIfView:
    """What would be, beside what is."""

    pack: PackView
    things: tuple[Item, ...]
    places: tuple[Carrier, ...]  # mounted, that take things
    off: tuple[Carrier, ...]  # on the rig, not mounted
    schools: tuple[tuple[str, str], ...]  # key, name; those that would change something
    asked: tuple[str, ...]  # what was tried, in sentences
    base: float  # min of the best as things are, NaN where there is none
    after: float  # min of the best as tried, on the same footing
    base_gap: float  # 1
    base_unkept: tuple[str, ...]
    try_address: str


def wishes_view(desk: Desk) -> WishesView:
    """Return what is left to the packing."""
    variant = desk.variant
    bags = tuple(c for c in variant.carriers if "items" in c.takes and "water" not in c.takes)
    return WishesView(
        wishes=variant.wishes,
        carriers=tuple((carrier, carrier.id in variant.wishes.free_carriers) for carrier in bags),
        bags=tuple(carrier for carrier in bags if carrier.mounted),
        maybe=sum(1 for item in desk.opened.plan.items if item.need == "maybe"),
        ways=tuple(WAYS.items()),
        address=desk.do("wishes"),
    )


def _run_of(desk: Desk, kinds: tuple[str, ...]) -> tuple[Run | None, Proposal | None]:
    """Return the newest run of some kinds that is under way, or is of the plan as it stands, with what it proposes."""
    runs = [packing_run(desk.workspace, desk.opened.id, desk.variant_id, kind) for kind in kinds]
    run = max((entry for entry in runs if entry is not None), key=lambda entry: entry.id, default=None)
    if run is None or run.is_active:
        return run, None
    if run.revision != desk.opened.revision:
        return None, None
    return run, proposal_of(desk.opened, desk.variant_id, desk.evaluation, run)


def pack_view(desk: Desk, part: str = "bike") -> PackView:
    """Return where Pack it for me stands; on its own part, what if."""
    mine = ("what-if",) if part == "whatif" else ("pack", "different")
    newest = packing_run(desk.workspace, desk.opened.id, desk.variant_id)
    run, proposal = _run_of(desk, mine)
    return PackView(
        run=run,
        proposal=proposal,
        is_elsewhere=newest is not None and newest.is_active and newest.kind not in mine,
        budget=BUDGET,
        start_address=desk.do("pack"),
        stop_address=desk.do("pack", "stop"),
        take_address=desk.do("pack", "take"),
        refuse_address=desk.do("pack", "refuse"),
        different_address=desk.do("pack", "different"),
        way_address=desk.do("pack", "way"),
        watch_address=desk.do("pack", leg=desk.leg, part=part),
        limit_s=desk.workspace.settings.pack_limit_s,
    )


def _figure(result: Mapping[str, Any], key: str) -> float:
    """Return a figure of a run, NaN where it is not known."""
    figure = result.get(key)
    return math.nan if figure is None else float(figure)


def _schools(variant: Variant) -> tuple[tuple[str, str], ...]:
    """Return the schools that would take something off this rig."""
    hung = {carrier.place for carrier in variant.carriers if carrier.mounted}
    return tuple((key, name) for key, (name, places) in PACKING_SCHOOLS.items() if places & hung)


def whatif_view(desk: Desk) -> WhatIfView:
    """Return the form of what if, and what came out of the last one."""
    pack, variant = pack_view(desk, "whatif"), desk.variant
    result = (pack.run.result or {}) if pack.proposal and pack.run else {}
    base, gap = (_figure(result, key) for key in ("base_minutes", "base_gap"))
    return WhatIfView(
        pack=pack,
        things=tuple(units_to_pack(carried_items(desk.opened.plan, variant))),
        places=variant.bags,
        off=tuple(c for c in variant.carriers if not c.mounted and c.takes & {"items", "water"} == {"items"}),
        schools=_schools(variant),
        asked=_asked(desk, pack.run) if pack.run else (),
        base=base,
        after=pack.proposal.minutes - float(result.get("saved", 0.0)) if pack.proposal else math.nan,
        base_gap=gap,
        base_unkept=tuple(result.get("base_unkept", ())),
        try_address=desk.do("what-if"),
    )


def _asked(desk: Desk, run: Run) -> tuple[str, ...]:
    trial = trial_of(run)
    carriers = {carrier.id: carrier.name for carrier in desk.variant.carriers} | {HOME: "home"}
    things = {item.id: item.name for item in desk.opened.plan.items}
    return (
        *(f"{things.get(key, key)} in {carriers.get(place, place)}" for key, place in trial.held.items()),
        *(f"without {carriers.get(key, key)}" for key in sorted(trial.closed)),
        *(f"{carriers.get(key, key)} may be mounted" for key in sorted(trial.opened)),
    )
