"""The packing problem of a variant: its things and carriers, what may be chosen, and the leg it is packed for."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations

from stonechat.core.kit.containers import contents_of, jobs_outside, units_to_pack
from stonechat.core.kit.item import HOME, Item
from stonechat.core.kit.jobs import BY_MARGIN, JOBS, Demands
from stonechat.core.kit.reach import Often
from stonechat.core.ledger.ridden import Cold, Ridden
from stonechat.core.line.profile import loose_share
from stonechat.core.load.balance import Mass, bands_for
from stonechat.core.load.eating import fetching
from stonechat.core.load.problem import (
    DRAG_STEP,
    NO_CHOICES,
    Choices,
    Loss,
    PackingProblem,
    Prices,
    Provisions,
    Stretch,
    build_problem,
)
from stonechat.core.load.together.rule import Conditions
from stonechat.core.plan.cutlist import is_protected, loss_of
from stonechat.core.plan.film import eaten_volumes, food_of, heaviest_leg
from stonechat.core.plan.margin_worth import margins_of
from stonechat.core.plan.plan import Plan, Variant
from stonechat.core.plan.scenario import carried_items, worn_and_fixed
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.clearance import clearances
from stonechat.core.rig.geometry import carrier_position
from stonechat.core.supply.pour import WATER_DENSITY


@dataclass(frozen=True, kw_only=True)
class Trial:
    """What is tried in one packing, beside what the plan says."""

    held: Mapping[str, str] = field(default_factory=dict)  # things that stay or go there: carrier, or home
    closed: frozenset[str] = frozenset()  # carriers that are taken off
    opened: frozenset[str] = frozenset()  # carriers that may be mounted although they are not
    kept: frozenset[str] = frozenset()  # carriers that stay mounted, or off, as they are
    decides: bool = False  # whether carriers and things marked free in the plan are for the packing to choose


AS_IT_IS = Trial()


def packing_problem(
    plan: Plan, variant: Variant, ridden: Ridden, trial: Trial = AS_IT_IS, *, often: Often | None = None
) -> PackingProblem:
    """Return the packing problem of a variant, on the leg that carries most food.

    Parameters
    ----------
    plan : Plan
        The plan.
    variant : Variant
        The variant with its pins and wishes.
    ridden : Ridden
        The variant as ridden, for prices and provisions.
    trial : Trial
        What is held, closed or opened in this packing.
    often : Often, optional
        How often things are reached for; as over the whole race where it is not told.

    Returns
    -------
    problem : PackingProblem
        Things, carriers, prices and limits. [min]
    """
    heaviest = heaviest_leg(ridden.provisions)
    food_volume, food_mass = food_of(ridden.provisions, heaviest)
    along = carried_items(plan, variant)
    maybe = _maybe_things(plan, variant, ridden, trial)
    wanted = ({item.id for item in along} | maybe) - {key for key, place in trial.held.items() if place == HOME}
    items = tuple(item for item in plan.items if item.id in wanted)
    units, parts = units_to_pack(items), contents_of(items)
    carriers = _carriers(variant, trial)
    free = _free_carriers(variant, carriers, trial)
    choices = _choices(variant, ridden, units, parts, maybe & {unit.id for unit in units}, carriers, free)
    water = {state.carrier.id: state.water * WATER_DENSITY for state in ridden.film[heaviest].carriers}
    carriers = tuple(_beside_water(carrier, water.get(carrier.id, 0.0)) for carrier in carriers)
    bands = bands_for(loose_share(ridden.way.profile), (carrier.place for carrier in carriers if carrier.mounted))
    return build_problem(
        items=units,
        members=parts,
        carriers=carriers,
        bike=variant.bike,
        prices=ridden.ledger.prices if often is None else replace(ridden.ledger.prices, often=often),
        provisions=Provisions(
            food_mass=food_mass,
            food_volume=food_volume,
            fixed=_fixed(variant, ridden, carriers, free, water),
            water=water,
            wanted=variant.food_in,
            fetching=fetching(eaten_volumes(ridden.provisions)),
            away=_away(ridden, parts, units, heaviest),
            others=_stretches(ridden, parts, units, heaviest),
        ),
        pins={**{key: variant.places.get(key, "") for key in variant.pins}, **trial.held},
        choices=choices,
        bands=bands,
        conditions=Conditions(
            coldest=ridden.report(Cold).coldest,
            hottest=float(ridden.ride.temps.max()),
            frost=ridden.report(Cold).hours,
            way=variant.wishes.way,
            steering=bands.steering,
            groups=variant.wishes.sets_together,
            outside=jobs_outside(along),
            off=variant.checks_off,
        ),
    )


def _away(ridden: Ridden, parts: Mapping[str, tuple[Item, ...]], units: Iterable[Item], leg: int) -> frozenset[str]:
    """Return the things that are not aboard on a leg; a pouch is while anything of it is."""
    aboard = {item.id for item in ridden.aboard_on(leg)}
    along = {item.id for item in ridden.kit.items}
    return frozenset(
        unit.id
        for unit in units
        if unit.id in along and not any(part.id in aboard for part in parts.get(unit.id, (unit,)))
    )


def _stretches(
    ridden: Ridden, parts: Mapping[str, tuple[Item, ...]], units: tuple[Item, ...], heaviest: int
) -> tuple[Stretch, ...]:
    """Return the parts of the race with other things aboard than where most food is carried, each with its most food.

    One on which no more is aboard than on another, and no more food, asks for nothing.
    """
    if not ridden.kit.spans:
        return ()
    most: dict[frozenset[str], tuple[float, float]] = {}
    for leg in range(len(ridden.film)):
        away = _away(ridden, parts, units, leg)
        volume, mass = food_of(ridden.provisions, leg)
        known = most.get(away, (0.0, 0.0))
        most[away] = (max(known[0], volume), max(known[1], mass))
    home = _away(ridden, parts, units, heaviest)
    most[home] = max(most[home], food_of(ridden.provisions, heaviest))
    kept = {
        away: food
        for away, food in most.items()
        if not any(other < away and more[0] >= food[0] and more[1] >= food[1] for other, more in most.items())
    }
    return tuple(
        Stretch(away=away, food_volume=volume, food_mass=mass) for away, (volume, mass) in kept.items() if away != home
    )


def _fixed(
    variant: Variant, ridden: Ridden, carriers: tuple[Carrier, ...], free: frozenset[str], water: Mapping[str, float]
) -> tuple[Mass, ...]:
    """Return rider with what is worn, bike with what is fixed, and carriers that stay mounted with their water."""
    fixed = list(worn_and_fixed(variant, ridden.kit.items))
    fixed += [
        (carrier.mass + water.get(carrier.id, 0.0), *carrier_position(variant.bike, carrier))
        for carrier in carriers
        if carrier.mounted and carrier.id not in free
    ]
    return tuple(fixed)


def _carriers(variant: Variant, trial: Trial) -> tuple[Carrier, ...]:
    """Return the carriers with those closed taken off, and the room that one is to keep free taken away."""
    wishes = variant.wishes

    def one(carrier: Carrier) -> Carrier:
        carrier = replace(carrier, capacity=max(0.0, carrier.capacity - wishes.kept_free(carrier.id)))
        return replace(carrier, mounted=carrier.mounted and carrier.id not in trial.closed)

    return tuple(one(carrier) for carrier in variant.carriers)


def _beside_water(carrier: Carrier, water: float) -> Carrier:
    """Return a carrier with the room and the load that its water leaves to things. `water` in kg."""
    if "water" not in carrier.takes or carrier.takes == {"water"}:
        return carrier
    return replace(
        carrier,
        capacity=max(0.0, carrier.capacity - water / WATER_DENSITY / 1e3),
        load_limit=max(0.0, carrier.load_limit - water),
    )


def _free_carriers(variant: Variant, carriers: tuple[Carrier, ...], trial: Trial) -> frozenset[str]:
    """Return carriers that the packing may mount or take off: without water, and nothing broken where they hang."""
    wished = trial.opened | (variant.wishes.free_carriers if trial.decides else frozenset())
    mounted = tuple(carrier for carrier in carriers if carrier.mounted)
    free = set()
    for carrier in carriers:
        if carrier.id not in wished - trial.kept or carrier.id in trial.closed or "water" in carrier.takes:
            continue
        alone = (*(c for c in mounted if c.id not in wished), replace(carrier, mounted=True))
        broken = any(e.carrier_id == carrier.id and e.margin < 0.0 for e in clearances(variant.bike, alone))
        if carrier.mounted or not broken:
            free.add(carrier.id)
    return frozenset(free)


def _exclusive(bike: Bike, carriers: tuple[Carrier, ...], free: frozenset[str]) -> tuple[frozenset[str], ...]:
    """Return pairs that hang on the same bosses or clamp, or in one another's way."""
    able = [replace(c, mounted=True) for c in carriers if c.mounted or c.id in free]
    pairs = []
    for one, other in combinations(able, 2):
        if not {one.id, other.id} & free:
            continue
        touching = any(e.code in ("frame", "place") and e.margin < 0.0 for e in clearances(bike, (one, other)))
        if one.uses & other.uses or touching:
            pairs.append(frozenset({one.id, other.id}))
    return tuple(pairs)


def _twins(carriers: tuple[Carrier, ...], free: frozenset[str]) -> tuple[frozenset[str], ...]:
    """Return carriers of a kind that hang left and right of the same place, both free."""
    sides = [c for c in carriers if c.id in free and c.side != "centre"]
    return tuple(
        frozenset({one.id, other.id})
        for one, other in combinations(sides, 2)
        if (one.place, one.kind) == (other.place, other.kind) and one.side != other.side and one.kind != "own"
    )


def _maybe_things(plan: Plan, variant: Variant, ridden: Ridden, trial: Trial) -> frozenset[str]:
    """Return things that the packing may leave or take: marked maybe, not pinned, not protected, aboard all the way."""
    if not (trial.decides and variant.wishes.decide_maybe):
        return frozenset()
    demands = ridden.report(Demands)
    along = {item.id for item in ridden.kit.items}
    moving = set(variant.joins) | set(variant.posts) | set(variant.pins) | set(trial.held)
    holders = {item.container for item in plan.items if item.container}
    loose = [item for item in plan.items if item.need == "maybe" and not item.worn and not item.container]
    return frozenset(
        item.id
        for item in loose
        if item.id not in moving | holders and not (item.id in along and is_protected(item, ridden, demands))
    )


def _choices(
    variant: Variant,
    ridden: Ridden,
    units: tuple[Item, ...],
    parts: Mapping[str, tuple[Item, ...]],
    maybe: frozenset[str],
    carriers: tuple[Carrier, ...],
    free: frozenset[str],
) -> Choices:
    if not maybe and not free:
        return NO_CHOICES
    prices = ridden.ledger.prices
    return Choices(
        carriers={carrier.id: mounting_minutes(carrier, prices) for carrier in carriers if carrier.id in free},
        things={unit.id: prices.per_kg * unit.total_mass for unit in units if unit.id in maybe},
        losses=_losses(variant, ridden, [p for unit in units for p in parts.get(unit.id, (unit,))], maybe),
        exclusive=_exclusive(variant.bike, carriers, free),
        twins=_twins(carriers, free),
    )


def mounting_minutes(carrier: Carrier, prices: Prices) -> float:
    """Return what a carrier costs empty: its own mass and its own wind.

    Parameters
    ----------
    carrier : Carrier
        The carrier.
    prices : Prices
        Prices on this route.

    Returns
    -------
    minutes : float
        Over the race; negative where it smooths the flow by more than it weighs. [min]

    Examples
    --------
    >>> bag = Carrier(id="s", name="s", place="seat", capacity=0.01, load_limit=3, mass=0.4, longest=0.4, drag=0.002)
    >>> round(mounting_minutes(bag, Prices(per_kg=25.0, per_drag=10.0, days=4.0)), 3)
    12.0
    """
    return prices.per_kg * carrier.mass + prices.per_drag * carrier.drag / DRAG_STEP


def _losses(variant: Variant, ridden: Ridden, items: Sequence[Item], maybe: frozenset[str]) -> tuple[Loss, ...]:
    """Return what the lack of each job costs that only things of the choice do."""
    demands = ridden.report(Demands)
    doing: dict[str, list[Item]] = {}
    for item in items:
        for key in item.roles - variant.jobs_off - BY_MARGIN:
            doing.setdefault(key, []).append(item)
    losses = []
    for key, doers in sorted(doing.items()):
        if {item.id for item in doers} - maybe:
            continue
        minutes = max(loss_of(item, key, demands) for item in doers)
        if minutes > 0.0:
            job = JOBS[key]
            losses.append(
                Loss(
                    name=job.name,
                    minutes=minutes,
                    things=frozenset(item.id for item in doers),
                    never_cut=job.never_cut and any(item in ridden.kit.items for item in doers),
                )
            )
    return (*losses, *_margin_losses(ridden, items, maybe))


def _margin_losses(ridden: Ridden, items: Iterable[Item], maybe: frozenset[str]) -> Iterator[Loss]:
    """Yield what each thing of the choice is worth by what it keeps warm or lit, all else going along."""
    for margin in margins_of(ridden):
        for item in items:
            if item.id in maybe and margin.judges(item):
                minutes = margin.worth(item, ridden.kit.items).minutes
                if minutes > 0.0:
                    yield Loss(name=f"{margin.what} of {item.name}", minutes=minutes, things=frozenset({item.id}))
