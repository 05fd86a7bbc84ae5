"""The whole chain for one variant: ride it, supply it, load it, price it, check it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from stonechat.core.ledger.ridden import Provided, Ridden, part_of
from stonechat.core.line.profile import Profile
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.features import run_checks, settle, with_reports
from stonechat.core.plan.film import (
    first_guess,
    masses_along,
    overhead_share,
    ride_scenario,
)
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.scenario import make_scenario
from stonechat.core.plan.summary import summarise
from stonechat.core.rhythm.inputs import RideResult

_ROUNDS = 10  # most passes of the fixed point
_SETTLED = 1.0  # s of the finish


@dataclass(frozen=True, kw_only=True)
class Evaluation:
    """A variant ridden and judged."""

    ridden: Ridden
    findings: tuple[Finding, ...]  # worst first


def evaluate(plan: Plan, variant_id: str, *, profile: Profile | None = None) -> Evaluation:
    """Ride, supply, load, price and check one variant.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant_id : str
        Which variant.
    profile : Profile, optional
        The cleaned course, where it is at hand already.

    Returns
    -------
    evaluation : Evaluation
        Timetable, film of the load, ledger, prices and checks.

    Raises
    ------
    NotFound
        If there is no such variant.

    Notes
    -----
    Mass depends on provisions, provisions on the timetable (hours, heat, what is open), the timetable on mass:
    the three are gone through in turn until the finish moves by less than a second.
    The first ride is by steady speed, the others carry momentum. Where two answers take turns, as about a door that
    shuts between them, the later one stands.
    """
    scenario = make_scenario(plan, plan.variant(variant_id), profile)
    masses, drags = first_guess(scenario)
    # steady speed is quick to ride and near enough to begin with
    rides = [ride_scenario(scenario, masses, drags, 0.0, momentum=False)]
    settled = False
    for _ in range(_ROUNDS):
        parts = settle(scenario, rides[-1])
        if settled:
            break
        masses, drags = masses_along(scenario, parts.values())
        share = overhead_share(scenario, rides[-1], part_of(parts, Provided))
        rides.append(ride_scenario(scenario, masses, drags, share, before=rides[-1]))
        settled = len(rides) > 2 and _apart(rides[-1], rides[-2]) < _SETTLED
        if not settled and len(rides) > 4 and _apart(rides[-1], rides[-3]) < _SETTLED:
            rides.append(max(rides[-2:], key=lambda ride: float(ride.clocks[-1])))
            settled = True
    ridden = with_reports(summarise(scenario, rides[-1], parts, met=settled))
    return Evaluation(ridden=ridden, findings=run_checks(ridden, scenario.variant.checks_off))


def _apart(one: RideResult, other: RideResult) -> float:
    """Return how far apart two rides finish. [s]"""
    return abs(float(one.clocks[-1]) - float(other.clocks[-1]))


def with_places(variant: Variant, places: Mapping[str, str]) -> Variant:
    """Return a variant with things moved.

    Parameters
    ----------
    variant : Variant
        The variant.
    places : mapping of str to str
        New places; what is not named stays.

    Returns
    -------
    variant : Variant
        The same with the new places.
    """
    return replace(variant, places={**variant.places, **places})
