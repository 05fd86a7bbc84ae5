"""The rest of a race as a plan of its own: from where one is, when one is there, with what is left aboard."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import exp
from typing import TypeVar

from stonechat.core.diary.debrief import Debrief
from stonechat.core.diary.trail import NIGHT, Trail, stands
from stonechat.core.kit.item import HOME
from stonechat.core.line.surface import SurfaceSpan
from stonechat.core.line.track import trimmed_track
from stonechat.core.line.weather import Weather
from stonechat.core.plan.plan import START, Elsewhere, Plan, Variant
from stonechat.core.rhythm.rhythm import Rhythm, on_the_clock
from stonechat.core.rhythm.rider import Rider

T = TypeVar("T")


@dataclass(frozen=True, kw_only=True)
class Here:
    """How it stands with a rider on the way."""

    distance: float  # m along the course
    elapsed: float  # s since the planned start
    tired: float  # 1
    awake: float = 0.0  # s
    water: float  # l aboard
    food: float  # kcal aboard
    gone: frozenset[str] = frozenset()  # things that were lost, broken or posted home


def tired_after(trail: Trail, rider: Rider) -> float:
    """Return how tired a rider is at the end of a trail.

    Parameters
    ----------
    trail : Trail
        Where one was when.
    rider : Rider
        How the rider fades and comes back.

    Returns
    -------
    tired : float
        Standing for two hours and more counts as slept. [1]

    Examples
    --------
    >>> ridden = Trail(elapsed=(0.0, 61_200.0), distances=(0.0, 3e5))
    >>> round(tired_after(ridden, Rider(fade_time=108_000.0)), 4)
    0.4326
    """
    fatigue, now = rider.tired, trail.elapsed[0] if not trail.is_empty else 0.0
    last = trail.elapsed[-1] if not trail.is_empty else 0.0
    for stand in (*stands(trail), None):
        until = last if stand is None else stand.begins
        fatigue = 1.0 - (1.0 - fatigue) * exp(-max(0.0, until - now) / rider.fade_time)
        if stand is not None:
            slept = stand.length >= NIGHT
            fatigue *= exp(-stand.length / (rider.recovery_time * (1.0 if slept else 3.0)))
            now = stand.begins + stand.length
    return float(fatigue)


def awake_after(trail: Trail, rider: Rider) -> float:
    """Return how long a rider has been awake at the end of a trail.

    Parameters
    ----------
    trail : Trail
        Where one was when.
    rider : Rider
        How long awake at its beginning.

    Returns
    -------
    awake : float
        Since standing for two hours or more ended, which counts as slept. [s]

    Examples
    --------
    >>> ridden = Trail(elapsed=(0.0, 36_000.0, 54_000.0, 61_200.0), distances=(0.0, 2e5, 2e5, 2.4e5))
    >>> awake_after(ridden, Rider())
    7200.0
    """
    if trail.is_empty:
        return rider.awake
    nights = [stand.begins + stand.length for stand in stands(trail) if stand.length >= NIGHT]
    return trail.elapsed[-1] - nights[-1] if nights else rider.awake + trail.elapsed[-1] - trail.elapsed[0]


def plan_from(plan: Plan, variant_id: str, here: Here, *, name: str) -> Plan:
    """Return the rest of a race as a plan.

    Parameters
    ----------
    plan : Plan
        The race as planned.
    variant_id : str
        The variant that is being ridden; it alone goes on.
    here : Here
        How it stands.
    name : str
        Of the new plan.

    Returns
    -------
    plan : Plan
        Its course begins here and its clock now; stops, boxes and repacks that lie behind are settled.

    Raises
    ------
    InvalidInput
        If less than 100 m would be left.
    """
    line, cut = plan.line, here.distance
    ahead = tuple(replace(stop, distance=round(stop.distance - cut, 3)) for stop in line.stops if stop.distance > cut)
    spans = tuple(
        SurfaceSpan(start=round(max(span.start, cut) - cut, 3), end=round(span.end - cut, 3), surface=span.surface)
        for span in line.spans
        if span.end > cut
    )
    variant = plan.variant(variant_id)
    days = _days_gone(variant.rhythm, here.elapsed)
    kept = {item.id for item in plan.items} - here.gone
    known = {stop.id for stop in ahead}
    changed = _variant_from(variant, here, known=known, kept=kept, days=days)
    return replace(
        plan,
        name=name,
        line=replace(
            line, track=trimmed_track(line.track, cut, float("inf")), stops=ahead, spans=spans,
            weather=_weather_from(line.weather, days),
        ),
        items=tuple(item for item in plan.items if item.id in kept),
        variants=(changed,),
    )  # fmt: skip


def _days_gone(rhythm: Rhythm, elapsed: float) -> int:
    return max(0, (on_the_clock(rhythm, elapsed).date() - rhythm.start.date()).days)


def _weather_from(weather: Weather, days: int) -> Weather:
    """Return the weather of the days that are left; the last holds on."""
    return replace(weather, days=weather.days[min(days, len(weather.days) - 1) :])


def _variant_from(variant: Variant, here: Here, *, known: set[str], kept: set[str], days: int) -> Variant:
    rhythm, supply = variant.rhythm, variant.supply
    places = {key: place for key, place in variant.places.items() if key in kept}
    for key, stop in variant.posts.items():
        if stop not in known and key in places:
            places[key] = HOME  # posted already
    repacks, places = _repacks_from(variant, places, known)
    return replace(
        variant,
        rider=replace(variant.rider, tired=here.tired, awake=here.awake),
        rhythm=replace(
            rhythm,
            start=on_the_clock(rhythm, here.elapsed),
            sleep_at=_only(rhythm.sleep_at, known),
            stays=_only(rhythm.stays, known),
            leave_at=_only(rhythm.leave_at, known),
            nights={k - days: night for k, night in rhythm.nights.items() if k >= days},
            first_night=rhythm.first_night and days == 0,
            no_rooms=rhythm.no_rooms & known,
        ),
        supply=replace(
            supply,
            water_by_stop={**_only(supply.water_by_stop, known), START: round(here.water, 2)},
            food_by_stop={**_only(supply.food_by_stop, known), START: round(here.food, 0)},
            skip=supply.skip & known,
            must=supply.must & known,
            waits=supply.waits & known,
            meals=_only(supply.meals, known),
            strapped=_only(supply.strapped, known),
            buys=_only(supply.buys, known),
        ),
        places=places,
        repacks=repacks,
        joins={key: stop for key, stop in variant.joins.items() if stop in known and key in kept},
        posts={key: stop for key, stop in variant.posts.items() if stop in known and key in kept},
        pins=variant.pins & kept,
        orders={key: tuple(one for one in order if one in kept) for key, order in variant.orders.items()},
        diary=(),
        rides=(),
        debrief=Debrief(),
        assumed=frozenset(),
    )


def _only(values: Mapping[str, T], known: set[str]) -> dict[str, T]:
    return {key: value for key, value in values.items() if key in known}


def _repacks_from(
    variant: Variant, places: dict[str, str], known: set[str]
) -> tuple[dict[str, tuple[Elsewhere, ...]], dict[str, str]]:
    """Return the repacks that are still to come, and where each thing is now."""
    repacks, now = dict[str, tuple[Elsewhere, ...]](), dict(places)
    for key, windows in variant.repacks.items():
        if key not in places:
            continue
        left = []
        for window in windows:
            if window.since in known:
                left.append(window)
            elif window.until in known or not window.until:
                if window.until:  # it rides there now, and goes back at a stop ahead
                    left.append(replace(window, since=START))
                else:
                    now[key] = window.to
        if left:
            repacks[key] = tuple(left)
    return repacks, now
