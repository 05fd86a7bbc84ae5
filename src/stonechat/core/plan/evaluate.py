"""The whole chain for one variant: ride it, supply it, load it, price it, check it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from stonechat.core.ledger.ridden import Provided, Ridden, part_of
from stonechat.core.line.profile import Profile
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.numerics.findings import Finding
from stonechat.core.physics.momentum import MASS
from stonechat.core.plan.dressing import worn_through
from stonechat.core.plan.features import run_checks, settle, with_reports
from stonechat.core.plan.film import (
    braked,
    by_leg,
    film_of,
    first_guess,
    masses_along,
    overhead_share,
    ride_scenario,
)
from stonechat.core.plan.halting import with_lots
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.providing import rations_of
from stonechat.core.plan.scenario import Scenario, make_scenario, with_rations
from stonechat.core.plan.summary import summarise
from stonechat.core.rhythm.inputs import RideResult
from stonechat.core.rhythm.times import time_gradients

_ROUNDS = 10  # most passes of the fixed point
_CHOOSING = 4  # 1, passes after which the choice of stops stays as it is
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
    """
    scenario, ride, met = _settled(plan, variant_id, profile)
    parts = settle(scenario, ride)
    ridden = with_reports(summarise(scenario, ride, parts, met=met))
    ridden = replace(ridden, film=film_of(scenario, part_of(parts, Provided), worn_through(ridden)))
    return Evaluation(ridden=ridden, findings=run_checks(ridden, scenario.variant.checks_off))


def summed_up(plan: Plan, variant_id: str, *, profile: Profile | None = None) -> Ridden:
    """Ride, supply, load and price one variant, without the reports of rooms and without checks: half the work.

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
    ridden : Ridden
        Timetable, ledger and prices; it has no reports to be asked for.

    Raises
    ------
    NotFound
        If there is no such variant.
    """
    scenario, ride, met = _settled(plan, variant_id, profile)
    return summarise(scenario, ride, settle(scenario, ride), met=met)


def finish_of(plan: Plan, variant_id: str, *, profile: Profile | None = None) -> float:
    """Ride one variant to its finish, and reckon nothing else.

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
    finish : float
        After the start. [s]

    Raises
    ------
    NotFound
        If there is no such variant.
    """
    return float(_settled(plan, variant_id, profile)[1].clocks[-1])


def _settled(plan: Plan, variant_id: str, profile: Profile | None) -> tuple[Scenario, RideResult, bool]:
    """Return a variant as it is ridden in the end, that ride, and whether it settled.

    Mass depends on provisions, provisions on the timetable (hours, heat, what is open), the timetable on mass:
    the three are gone through in turn until the finish moves by less than a second.
    The first ride is by steady speed, the others carry momentum. Where two answers take turns, as about a door that
    shuts between them, the later one stands.
    """
    told = whole = make_scenario(plan, plan.variant(variant_id), profile)
    masses, drags = first_guess(told)
    # steady speed is quick to ride and near enough to begin with
    rides = [ride_scenario(told, masses, drags, 0.0, momentum=False)]
    told = priced(with_rations(told, rations_of(told, rides[-1])), rides[-1], (masses, drags))
    ridden_as, settled = [told], False  # the scenario of each ride
    for turn in range(_ROUNDS):
        if turn == 1 and told.rations.left:  # by the hours of a ride that carries momentum
            told = replace(with_rations(whole, rations_of(whole, rides[-1])), supplied=told.supplied)
        parts = settle(ridden_as[-1], rides[-1])
        scenario = supplied(told, ridden_as[-1], part_of(parts, Provided), held=turn >= _CHOOSING)
        scenario = braked(scenario, parts.values())
        masses, drags = masses_along(scenario, parts.values())
        share = overhead_share(scenario, rides[-1], part_of(parts, Provided))
        rides.append(ride_scenario(scenario, masses, drags, share, before=rides[-1]))
        ridden_as.append(scenario)
        settled = len(rides) > 2 and _apart(rides[-1], rides[-2]) < _SETTLED
        if not settled and len(rides) > 4 and _apart(rides[-1], rides[-3]) < _SETTLED:
            later = -1 if rides[-1].clocks[-1] >= rides[-2].clocks[-1] else -2
            rides.append(rides[later])
            ridden_as.append(ridden_as[later])
            settled = True
        if settled:
            break
    return holding(ridden_as[-1]), rides[-1], settled


def priced(scenario: Scenario, ride: RideResult, load: tuple[FloatArray, FloatArray]) -> Scenario:
    """Return a scenario that knows what a kilogram costs on each leg, where the choice of stops asks for it.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        A ride of it.
    load : tuple of ndarray
        Mass [kg] and drag area [m²] on each segment of that ride.

    Returns
    -------
    scenario : Scenario
        With prices by leg. [s/kg]
    """
    supply = scenario.variant.supply
    if not (supply.choose or supply.skip):
        return scenario
    _, slopes = time_gradients(scenario.course, ride.conditions, scenario.rider, *load)
    prices = np.maximum(by_leg(scenario, slopes[MASS]), 0.0)
    return replace(scenario, supplied=replace(scenario.supplied, prices=prices))


def supplied(told: Scenario, scenario: Scenario, provided: Provided, *, held: bool) -> Scenario:
    """Return the scenario for the next ride: its stops as the lot programme has them.

    Parameters
    ----------
    told : Scenario
        With every stop as it is.
    scenario : Scenario
        As it was ridden last.
    provided : Provided
        Water and food of that ride.
    held : bool
        Whether the choice stays as it is from now on.

    Returns
    -------
    scenario : Scenario
        That of every stop where nothing is chosen, or every plan runs dry.
    """
    if scenario.supplied.held:
        return scenario
    if provided.asked is None or provided.asked.lots is None:
        return replace(told, supplied=replace(told.supplied, larder=provided.larder, held=held))
    made = with_lots(told, provided.asked.lots)
    known = replace(made.supplied, stuck=provided.asked.stuck, held=held, larder=provided.larder)
    return replace(made, supplied=known)


def holding(scenario: Scenario) -> Scenario:
    """Return a scenario whose choice of stops stays as it was ridden.

    Parameters
    ----------
    scenario : Scenario
        As it was ridden.

    Returns
    -------
    scenario : Scenario
        The same otherwise.
    """
    return replace(scenario, supplied=replace(scenario.supplied, held=True))


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
