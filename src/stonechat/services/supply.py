"""Supply: which stops are used, and what to leave one with."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from uuid import UUID

from stonechat.core.plan.buying import foods_of
from stonechat.core.plan.plan import START, Elsewhere, Plan, Supply
from stonechat.core.supply.foods import DISHES, FOODS, SHELF_NAMES, SHELVES, START_SHELF, Food
from stonechat.errors import InvalidInput, NotFound
from stonechat.formats.kit_csv import item_id
from stonechat.services.history import OpenPlan, change_plan
from stonechat.services.line import stop_named
from stonechat.services.workspace import Workspace


def set_supply(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    stop_id: str,
    water: float | None,
    food: float | None,
    meal: float | None = None,
) -> OpenPlan:
    """Set litres and kcal to leave a stop with (`start` for the start), and what is eaten there; None: as is best."""

    def with_value(current: Mapping[str, float], value: float | None) -> Mapping[str, float]:
        kept = {key: amount for key, amount in current.items() if key != stop_id}
        return kept if value is None else {**kept, stop_id: value}

    def change(plan: Plan) -> Plan:
        if stop_id != START:
            stop_named(plan, stop_id)
        variant = plan.variant(variant_id)
        supply = replace(
            variant.supply,
            water_by_stop=with_value(variant.supply.water_by_stop, water),
            food_by_stop=with_value(variant.supply.food_by_stop, food),
            meals=with_value(variant.supply.meals, meal or None),
        )
        return plan.with_variant(replace(variant, supply=supply))

    return change_plan(workspace, plan_id, revision=revision, label="set what to leave with", change=change)


Changing = Callable[[Supply], Supply]
MOST_FOODS = 100  # of a rider's own
WISHES = {"past": "ride past", "stop": "stop here", "wait": "wait for the door", "best": "as is best"}


def choose_stops(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, choose: bool) -> OpenPlan:
    """Let the program choose which stops to ride past, or stop at every one again."""
    label = "choose the stops" if choose else "stop at every stop"
    return _changed(workspace, plan_id, variant_id, revision, label, lambda supply: replace(supply, choose=choose))


def wish_stop(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, stop_id: str, wish: str
) -> OpenPlan:
    """Ride past a stop, stop there in any case, wait for its door, or leave it to the program."""
    if wish not in WISHES:
        raise InvalidInput(f"“{wish[:20]}” is no wish for a stop. Choose: {', '.join(WISHES.values())}.")

    def change(supply: Supply) -> Supply:
        return replace(
            supply,
            skip=supply.skip - {stop_id} | ({stop_id} if wish == "past" else set()),
            must=supply.must - {stop_id} | ({stop_id} if wish == "stop" else set()),
            waits=supply.waits - {stop_id} | ({stop_id} if wish == "wait" else set()),
        )

    return _changed(workspace, plan_id, variant_id, revision, WISHES[wish], change, stop_id)


def strap_bottle(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, stop_id: str, litres: float
) -> OpenPlan:
    """Strap a bought bottle on at a stop until the next refill; none takes it off again."""

    def change(supply: Supply) -> Supply:
        kept = {key: size for key, size in supply.strapped.items() if key != stop_id}
        return replace(supply, strapped={**kept, stop_id: litres} if litres > 0.0 else kept)

    label = "strap a bottle on" if litres > 0.0 else "take the strapped bottle off"
    return _changed(workspace, plan_id, variant_id, revision, label, change, stop_id)


def keep_food(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, key: str, food: Food) -> OpenPlan:
    """Keep a kind of food as the rider knows it; a new one (without key) is had before the start, and nowhere yet."""

    def change(supply: Supply) -> Supply:
        taken = foods_of(supply).keys()
        made = key or item_id(food.name, set(taken))
        others = tuple(known for known in supply.foods if known.key != made)
        if len(others) >= MOST_FOODS:
            raise InvalidInput(f"A plan knows {MOST_FOODS} foods of your own. Take one out before you add another.")
        shelves = dict(supply.shelves)
        if made not in taken:
            shelves[START_SHELF] = (*shelves.get(START_SHELF, SHELVES[START_SHELF]), made)
        return replace(supply, foods=(*others, replace(food, key=made)), shelves=shelves)

    return _changed(workspace, plan_id, variant_id, revision, f"know {food.name}", change)


def forget_food(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, key: str) -> OpenPlan:
    """Take a food as is usual again; one that only the rider knows is gone, and what was bought of it too."""

    def change(supply: Supply) -> Supply:
        if key not in {known.key for known in supply.foods}:
            raise NotFound("That food is as is usual.", subject=key)
        foods = tuple(known for known in supply.foods if known.key != key)
        if key in FOODS:
            return replace(supply, foods=foods)
        shelves = {place: tuple(k for k in sold if k != key) for place, sold in supply.shelves.items()}
        bought = {place: {k: kcal for k, kcal in some.items() if k != key} for place, some in supply.buys.items()}
        buys = {place: some for place, some in bought.items() if some}
        return replace(supply, foods=foods, shelves=shelves, buys=buys)

    return _changed(workspace, plan_id, variant_id, revision, "take a food as usual", change)


def fill_shelves(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    shelves: Mapping[str, tuple[str, ...]],
) -> OpenPlan:
    """Say what places sell; a shelf that is as is usual is not kept, one that holds nothing is refused."""
    for key, sold in shelves.items():
        if not sold:
            raise InvalidInput(
                f"Nothing is sold at “{SHELF_NAMES[key]}”. Leave one food there, or say in the Line that such stops "
                "give no food."
            )

    def change(supply: Supply) -> Supply:
        own = {key: sold for key, sold in shelves.items() if frozenset(sold) != frozenset(SHELVES[key])}
        others = {place: sold for place, sold in supply.shelves.items() if place not in SHELVES}
        return replace(supply, shelves={**others, **own})

    return _changed(workspace, plan_id, variant_id, revision, "set what places sell", change)


def set_dishes(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, dishes: Mapping[str, float]
) -> OpenPlan:
    """Say what is eaten on the spot; none of them is as is usual."""

    def change(supply: Supply) -> Supply:
        return replace(supply, dishes={} if dict(dishes) == dict(DISHES) else dict(dishes))

    return _changed(workspace, plan_id, variant_id, revision, "set what is eaten at stops", change)


def buy(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    stop_id: str,
    food: str,
    energy: float,
) -> OpenPlan:
    """Buy so much of a food at a stop in any case; none of it leaves it to the program again."""

    def change(supply: Supply) -> Supply:
        if energy > 0.0 and food not in foods_of(supply):
            raise InvalidInput(f"“{food[:30]}” is no food that is known. Choose one from the list.")
        here = {key: kcal for key, kcal in supply.buys.get(stop_id, {}).items() if key != food}
        here = {**here, food: energy} if energy > 0.0 else here
        others = {place: bought for place, bought in supply.buys.items() if place != stop_id}
        return replace(supply, buys={**others, stop_id: here} if here else others)

    label = "buy this" if energy > 0.0 else "leave it out of the basket"
    return _changed(workspace, plan_id, variant_id, revision, label, change, stop_id)


def clear_stop(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, stop_id: str) -> OpenPlan:
    """Leave a stop to the program: nothing is wished of it any more."""

    def change(supply: Supply) -> Supply:
        def left(values: Mapping[str, float]) -> dict[str, float]:
            return {key: value for key, value in values.items() if key != stop_id}

        return replace(
            supply,
            skip=supply.skip - {stop_id},
            must=supply.must - {stop_id},
            waits=supply.waits - {stop_id},
            water_by_stop=left(supply.water_by_stop),
            food_by_stop=left(supply.food_by_stop),
            strapped=left(supply.strapped),
            meals=left(supply.meals),
            buys={place: bought for place, bought in supply.buys.items() if place != stop_id},
        )

    return _changed(workspace, plan_id, variant_id, revision, "leave it to the program", change, stop_id)


def repack(
    workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, places: Mapping[str, tuple[Elsewhere, ...]]
) -> OpenPlan:
    """Let things ride elsewhere for some legs, beside those that do."""

    def change(plan: Plan) -> Plan:
        variant = plan.variant(variant_id)
        return plan.with_variant(replace(variant, repacks={**variant.repacks, **places}))

    return change_plan(workspace, plan_id, revision=revision, label="repack on the way", change=change)


def leave_in_place(workspace: Workspace, plan_id: UUID, variant_id: str, *, revision: int, item_id: str) -> OpenPlan:
    """Leave a thing in its usual place all the way."""

    def change(plan: Plan) -> Plan:
        variant = plan.variant(variant_id)
        if item_id not in variant.repacks:
            raise NotFound("That thing rides in its usual place all the way.", subject=item_id)
        kept = {key: there for key, there in variant.repacks.items() if key != item_id}
        return plan.with_variant(replace(variant, repacks=kept))

    return change_plan(workspace, plan_id, revision=revision, label="leave it in its place", change=change)


def carry_for(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    *,
    revision: int,
    change: Changing,
) -> OpenPlan:
    """Set reserves, what is carried beyond the needs, and how long one kind of food will do."""
    return _changed(workspace, plan_id, variant_id, revision, "set what is carried for", change)


def _changed(
    workspace: Workspace,
    plan_id: UUID,
    variant_id: str,
    revision: int,
    label: str,
    change: Changing,
    stop_id: str = START,
) -> OpenPlan:
    def changed(plan: Plan) -> Plan:
        if stop_id != START:
            stop_named(plan, stop_id)
        variant = plan.variant(variant_id)
        return plan.with_variant(replace(variant, supply=change(variant.supply)))

    return change_plan(workspace, plan_id, revision=revision, label=label, change=changed)
