"""What the Rhythm room shows."""

from dataclasses import dataclass

from stonechat.core.ledger.state import Visit
from stonechat.core.line.stops import OFFERS
from stonechat.render.drawings.time_distance import TimeDistance, time_distance
from stonechat.web.desk import Desk
from stonechat.web.forms.binding import BoundForm, start_values
from stonechat.web.forms.rhythm import RhythmForm


@dataclass(frozen=True, kw_only=True)
class TimetableRow:
    """Passing a stop."""

    visit: Visit
    id: str
    offers: str
    open_words: str
    climbed: float  # m on the leg to it
    distance: float  # m of the leg to it
    moving: float  # s on the leg to it
    rest: float  # s rested on the leg to it


@dataclass(frozen=True, kw_only=True)
class RhythmView:
    """The Rhythm room."""

    form: BoundForm[RhythmForm]
    form_address: str
    picture: TimeDistance
    rows: tuple[TimetableRow, ...]
    leaves: str
    finish: float  # s
    spread: float  # s
    moving: float  # s
    nights: float  # min
    pushing: float  # min
    per_kg: float  # min
    per_drag: float  # min per 100 cm²
    per_watt: float  # min
    focus: str


def rhythm_view(desk: Desk) -> RhythmView:
    """Return what the Rhythm room shows."""
    ridden, variant = desk.evaluation.ridden, desk.variant
    form = desk.forms.get("rhythm") or start_values(RhythmForm, RhythmForm.values(variant.rider, variant.rhythm))
    return RhythmView(
        form=form,
        form_address=desk.do("rhythm"),
        picture=time_distance(ridden),
        rows=tuple(_row(desk, k) for k in range(len(ridden.visits))),
        leaves=f"{ridden.start:%A %d %B %Y, %H:%M}",
        finish=ridden.ledger.finish,
        spread=ridden.ledger.spread,
        moving=ridden.ledger.moving,
        nights=ridden.ledger.minutes("nights"),
        pushing=ridden.ledger.pushing,
        per_kg=ridden.prices.per_kg,
        per_drag=ridden.prices.per_drag,
        per_watt=ridden.minutes_per_watt,
        focus=desk.edit,
    )


def _row(desk: Desk, k: int) -> TimetableRow:
    ridden = desk.evaluation.ridden
    visit, leg = ridden.visits[k], ridden.legs[k]
    offers = visit.stop.offers if visit.stop else frozenset()
    return TimetableRow(
        visit=visit,
        id=visit.stop.id if visit.stop else "finish",
        offers=", ".join(OFFERS[key] for key in OFFERS if key in offers),
        open_words=_open_words(visit),
        climbed=leg.ascent,
        distance=leg.end - leg.start,
        moving=leg.moving,
        rest=leg.rest,
    )


def _open_words(visit: Visit) -> str:
    if visit.stop is None:
        return ""
    if visit.stop.hours is None:
        return "always open"
    if visit.is_open:
        return "open"
    return "never opens" if visit.wait == float("inf") else f"shut, opens in {visit.wait / 3600:.1f} h"
