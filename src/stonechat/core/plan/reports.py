"""What rooms add to an evaluation: settlers, which depend on the ride and weigh on it, and readers of the settled ride.

A new room adds itself to `SETTLERS` or `READERS`.
"""

from collections.abc import Callable

from stonechat.core.ledger.ridden import Ridden, Settled
from stonechat.core.plan.cutlist import demands_of
from stonechat.core.plan.film import provide
from stonechat.core.plan.setting import Setting
from stonechat.core.rhythm.inputs import RideResult

SETTLERS: tuple[Callable[[Setting, RideResult], Settled], ...] = (provide,)  # gone through in turn with the ride
READERS: tuple[Callable[[Ridden], object], ...] = (demands_of,)  # in order: a later one may use what earlier ones read


def with_reports(ridden: Ridden) -> Ridden:
    """Return a ridden variant with what every room reads from it.

    Parameters
    ----------
    ridden : Ridden
        As summed up from its ride.

    Returns
    -------
    ridden : Ridden
        With a report of each reader, to be asked for by its type.
    """
    for read in READERS:
        ridden = ridden.with_report(read(ridden))
    return ridden
