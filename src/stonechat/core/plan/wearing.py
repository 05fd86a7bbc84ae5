"""What wears on a ridden race, where each part is swapped, and where the new one waits."""

import numpy as np

from stonechat.core.charge.report import Charge
from stonechat.core.kit.bolts import BoltCover, bolts_of, cover_bolts, with_own
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.line.surface import SURFACES
from stonechat.core.mend.report import Swap, Wearing
from stonechat.core.mend.wear import Ground, WearLine, wear_of
from stonechat.core.plan.sky import wet_at

MUDDY = ("track", "singletrack", "sand_mud")  # surfaces that are soft in the wet
_HOT = 22.0  # °C, mean of the riding from which sealant dries quickly (estimate)
_IN_TIME = 0.8  # 1, of its life at which a part is swapped (estimate)
_SURE = 0.10  # 1, chance of wearing through that is taken for lasting
SPARES = {  # what takes the place of a part
    "chain": frozenset({"chain"}),
    "front_tyre": frozenset({"tyre_spare"}),
    "rear_tyre": frozenset({"tyre_spare"}),
    "front_pads": frozenset({"brake_pads"}),
    "rear_pads": frozenset({"brake_pads"}),
    "sealant": frozenset({"sealant"}),
    "cleats": frozenset({"cleats"}),
    "cables": frozenset({"gear_cable"}),
    "gear_battery": frozenset({"shift_battery", "shift_charger"}),
}


def ground_of(ridden: Ridden) -> Ground:
    """Return what a race asks of parts that wear.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    ground : Ground
        By segment; mass and drag area are the mean of the film.
    """
    ride, profile = ridden.ride, ridden.way.profile
    names = np.array([surface.key for surface in SURFACES])[profile.surfaces]
    rough = np.array([surface.is_rough for surface in SURFACES])[profile.surfaces]
    return Ground(
        lengths=profile.lengths,
        grades=profile.grades,
        speeds=profile.lengths / np.maximum(ride.times, 1e-6),
        wet=wet_at(ridden.timetable.clock, ride.clocks[:-1]) > 0.5,
        rough=rough,
        muddy=np.isin(names, MUDDY),
        mass=float(np.mean([leg.mass for leg in ridden.film])),
        drag=float(np.mean([leg.drag_area for leg in ridden.film])),
        walked=ride.walked,
        gears=_gears(ridden),
        tubeless=ridden.rig.bike.tubeless,
        days=float(ride.clocks[-1]) / DAY,
        hot=float(ride.temps.mean()) > _HOT,
    )


def _gears(ridden: Ridden) -> float:
    """Return how much of a full gear battery the race takes. [1]"""
    hours = float(ridden.ride.times.sum()) / 3600.0
    found = [line.thing for line in ridden.report(Charge).lines if line.thing.role == "shifting"]
    return max((thing.riding * hours / thing.capacity for thing in found), default=0.0)


def wearing_of(ridden: Ridden) -> Wearing:
    """Return what wears over a race, by the age of parts where the rider told it.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    wearing : Wearing
        What lasts shortest first; pads of both kinds where the rider has not said which.
    """
    lines = wear_of(ground_of(ridden), ridden.said.mending)
    return Wearing(lines=lines, swaps=tuple(swap_of(ridden, line) for line in lines))


def swap_of(ridden: Ridden, line: WearLine) -> Swap | None:
    """Return where a part is swapped; None where it lasts.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    line : WearLine
        The part.

    Returns
    -------
    swap : Swap or None
        At four fifths of its usual life, or where it stands at the start if that is past.
    """
    if line.chance <= _SURE:
        return None
    total = ridden.way.profile.length / 1e3
    at = max(0.0, (_IN_TIME - line.before) * total / line.used) if line.used > 0.0 else 0.0
    new = [item for item in ridden.kit.items if item.kind in SPARES[line.key]]
    stops = {stop.id: stop for stop in ridden.way.stops}
    boxed = [(item, stops[ridden.kit.joins[item.id]]) for item in new if ridden.kit.joins.get(item.id) in stops]
    shops = [stop for stop in ridden.way.stops if "bike_shop" in stop.offers and stop.distance <= 1e3 * at]
    return Swap(
        at=at,
        aboard=tuple(item for item in new if item.id not in ridden.kit.joins),
        boxed=tuple((item, stop) for item, stop in boxed if stop.distance <= 1e3 * max(at, line.km)),
        shop=shops[-1] if shops else None,
        needless=line.lasts_new and line.before > 0.0,
    )


def bolts_on(ridden: Ridden) -> tuple[BoltCover, ...]:
    """Return every bolt of a bike and its carriers, with what turns it.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    covers : tuple of BoltCover
        Those that nothing turns first.
    """
    usual = bolts_of(ridden.rig.bike, ridden.rig.carriers)
    return cover_bolts(with_own(usual, ridden.said.mending.bolts), (*ridden.kit.items, *ridden.kit.relied))
