"""The whole chain for one variant: ride it, supply it, load it, price it, check it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from stonechat.core.checks.registry import run_checks
from stonechat.core.kit.containers import contents_of, units_to_pack
from stonechat.core.ledger.state import Ridden
from stonechat.core.line.profile import Profile
from stonechat.core.load.balance import Mass
from stonechat.core.load.problem import PackingProblem, Provisions, build_problem
from stonechat.core.numerics.findings import Finding
from stonechat.core.plan.film import (
    WATER_DENSITY,
    first_guess,
    load_legs,
    masses_along,
    reach_share,
    ride_setting,
)
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.setting import carried_items, make_setting
from stonechat.core.plan.summary import summarise
from stonechat.core.rig.geometry import bike_position, carrier_position, rider_position

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
    The first ride is by steady speed, the others carry momentum.
    """
    setting = make_setting(plan, plan.variant(variant_id), profile)
    masses, drags = first_guess(setting)
    share, finish, settled = 0.0, -1.0, False
    for turn in range(_ROUNDS):
        # steady speed is quick to ride and near enough to begin with
        ride = ride_setting(setting, masses, drags, share, momentum=turn > 0)
        aboard = load_legs(setting, ride)
        masses, drags = masses_along(setting, ride, aboard)
        share = reach_share(setting, ride)
        settled = turn > 0 and abs(float(ride.clocks[-1]) - finish) < _SETTLED
        if settled:
            break
        finish = float(ride.clocks[-1])
    ridden = summarise(setting, ride, aboard, settled=settled)
    return Evaluation(ridden=ridden, findings=run_checks(ridden, setting.variant.checks_off))


def packing_problem(plan: Plan, variant: Variant, ridden: Ridden) -> PackingProblem:
    """Return the packing problem of a variant: all its things, on the leg that carries most food.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant : Variant
        The variant with its pins.
    ridden : Ridden
        The variant as ridden, for prices and provisions.

    Returns
    -------
    problem : PackingProblem
        Things, carriers, prices and limits. [min]
    """
    heaviest = int(np.argmax(ridden.food.leaving))
    energy, supply = float(ridden.food.leaving[heaviest]), variant.supply
    worn = sum(item.total_mass for item in ridden.items if item.worn)
    fixed: list[Mass] = [
        (variant.rider.mass + worn, *rider_position(variant.bike)),
        (variant.bike.mass, *bike_position(variant.bike)),
    ]
    for state in ridden.film[heaviest].carriers:
        place = carrier_position(variant.bike, state.carrier)
        fixed.append((state.carrier.mass + state.water * WATER_DENSITY, *place))
    pins: Mapping[str, str] = {item_id: variant.places.get(item_id, "") for item_id in variant.pins}
    carried = carried_items(plan, variant)
    return build_problem(
        items=units_to_pack(carried),
        members=contents_of(carried),
        carriers=variant.carriers,
        bike=variant.bike,
        prices=ridden.prices,
        provisions=Provisions(
            food_mass=energy / supply.food_density,
            food_volume=energy / supply.food_bulk / 1000.0,
            fixed=tuple(fixed),
        ),
        pins=pins,
    )


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
