"""What rooms add to an evaluation: what is settled with the ride, what is read from it, and checks.

A new room is one `Feature` more: docs/builders/how-to/add-a-room.md.
"""

from collections.abc import Callable
from dataclasses import dataclass

from stonechat.core.checks.check import Check
from stonechat.core.checks.registry import BASE
from stonechat.core.ledger.ridden import Ridden, Settled
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.charging import charge_of, power, sockets_at
from stonechat.core.plan.cutlist import demands_of
from stonechat.core.plan.dressing import dressing_of
from stonechat.core.plan.lights import lights_of
from stonechat.core.plan.mend_places import answer_places
from stonechat.core.plan.mending import mend_of
from stonechat.core.plan.nights import cold_of
from stonechat.core.plan.providing import provide
from stonechat.core.plan.scenario import Scenario
from stonechat.core.plan.warmth import warmth_of
from stonechat.core.plan.wearing import wearing_of
from stonechat.core.rhythm.inputs import RideResult


@dataclass(frozen=True, kw_only=True)
class Feature:
    """What one room adds."""

    settlers: tuple[Callable[[Scenario, RideResult], Settled], ...] = ()  # gone through in turn with the ride
    readers: tuple[Callable[[Ridden], object], ...] = ()  # in order: a later one may use what earlier ones read
    checks: tuple[Check, ...] = ()


FIRST_ROOMS = Feature(
    settlers=(provide, power),
    readers=(
        demands_of,
        cold_of,
        dressing_of,
        warmth_of,
        charge_of,
        lights_of,
        sockets_at,
        mend_of,
        wearing_of,
        answer_places,
    ),
    checks=BASE,
)
FEATURES: tuple[Feature, ...] = (FIRST_ROOMS,)


def settle(scenario: Scenario, ride: RideResult) -> dict[type, Settled]:
    """Return what depends on a ride and weighs on it, each by its type.

    Parameters
    ----------
    scenario : Scenario
        The variant as it stands.
    ride : RideResult
        The race by the clock.

    Returns
    -------
    settled : dict of type to Settled
        Of every room.
    """
    parts = [one(scenario, ride) for feature in FEATURES for one in feature.settlers]
    return {type(part): part for part in parts}


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
    for feature in FEATURES:
        for read in feature.readers:
            ridden = ridden.with_report(read(ridden))
    return ridden


def all_checks() -> tuple[Check, ...]:
    """Return every check there is, in order of severity."""
    return tuple(check for feature in FEATURES for check in feature.checks)


def run_checks(ridden: Ridden, switched_off: frozenset[str]) -> tuple[Finding, ...]:
    """Return what the checks find, worst first.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    switched_off : frozenset of str
        Codes of checks that this plan does without.

    Returns
    -------
    findings : tuple of Finding
        Broken, then tight, then fine; within a state in the order of the list.
    """
    found = [finding for entry in all_checks() if entry.code not in switched_off for finding in entry.run(ridden)]
    return tuple(sorted(found, key=lambda finding: finding.state.rank))
