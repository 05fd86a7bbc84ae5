"""What a change of the whole would do: a kilogram, drag, power, sleep, a later start. Each is ridden again."""

from dataclasses import dataclass

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.plan.film import braked, masses_along
from stonechat.core.plan.plan import Plan
from stonechat.core.plan.scenario import Scenario, make_scenario
from stonechat.core.rhythm.inputs import Clock, RiderNumbers, with_power
from stonechat.core.rhythm.ride import ride_course

HOUR = 3_600.0  # s


@dataclass(frozen=True, kw_only=True)
class WhatIf:
    """One change and what came of it."""

    key: str
    name: str
    moving: float  # min more of moving
    finish: float  # min later at the finish: a staircase


@dataclass(frozen=True, kw_only=True)
class _Change:
    key: str
    name: str
    mass: float = 0.0  # kg
    drag: float = 0.0  # m²
    power: float = 0.0  # W
    sleep: float = 0.0  # s each night
    later: float = 0.0  # s


_CHANGES = (
    _Change(key="kg+", name="1 kg more", mass=1.0),
    _Change(key="kg-", name="1 kg less", mass=-1.0),
    _Change(key="cm2+", name="100 cm² more", drag=0.01),
    _Change(key="cm2-", name="100 cm² less", drag=-0.01),
    _Change(key="w+", name="10 W more", power=10.0),
    _Change(key="w-", name="10 W less", power=-10.0),
    _Change(key="sleep+", name="1 h more sleep each night", sleep=HOUR),
    _Change(key="sleep-", name="1 h less sleep each night", sleep=-HOUR),
    _Change(key="later", name="start 2 h later", later=2 * HOUR),
)


def what_ifs(plan: Plan, variant_id: str, ridden: Ridden) -> tuple[WhatIf, ...]:
    """Return what each change of the whole does.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant_id : str
        Which variant.
    ridden : Ridden
        The same as ridden.

    Returns
    -------
    what_ifs : tuple of WhatIf
        More moving minutes and a later finish. [min]

    Notes
    -----
    Every change is ridden by the clock with what is aboard as it was: water and food are not planned anew. Sleep is
    never made shorter than an hour. The finish counts from the planned start, so starting later counts against it.
    """
    scenario = make_scenario(plan, plan.variant(variant_id), ridden.way.profile)
    scenario = braked(scenario, ridden.settled.values())
    masses, drags = masses_along(scenario, ridden.settled.values())
    before = _ride(scenario, ridden.timetable.clock, scenario.rider, masses, drags)
    found = []
    for change in _CHANGES:
        after = _ride(
            scenario,
            _clock(ridden.timetable.clock, change),
            with_power(scenario.rider, max(20.0, scenario.rider.legs.power + change.power)),
            masses + change.mass,
            drags + change.drag,
        )
        found.append(
            WhatIf(
                key=change.key,
                name=change.name,
                moving=(after[0] - before[0]) / 60.0,
                finish=(after[1] + change.later - before[1]) / 60.0,
            )
        )
    return tuple(found)


def _ride(
    scenario: Scenario, clock: Clock, rider: RiderNumbers, masses: FloatArray, drags: FloatArray
) -> tuple[float, float]:
    """Return moving time and finish. [s]"""
    ride = ride_course(scenario.course, rider, clock, masses, drags)
    return float(ride.times.sum()), float(ride.clocks[-1])


def _clock(clock: Clock, change: _Change) -> Clock:
    """Return the clock with every rest longer or shorter, and the start later."""
    least = clock.nights.camp_time + HOUR

    def longer(rest: FloatArray) -> FloatArray:
        return np.where(rest > 0.0, np.maximum(rest + change.sleep, np.minimum(rest, least)), rest)

    by_clock = clock.nights.lasting <= 0.0
    until = clock.nights.begin + longer(np.where(by_clock, clock.nights.until - clock.nights.begin, 0.0))
    nights = clock.nights._replace(
        until=np.where(by_clock, until, clock.nights.until), lasting=longer(clock.nights.lasting)
    )
    return clock._replace(
        start_of_day=clock.start_of_day + change.later,
        nights=nights,
        stays=clock.stays._replace(rests=longer(clock.stays.rests)),
    )
