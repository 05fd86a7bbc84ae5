"""What the Supply room shows of food: what places sell, figures of foods, what is eaten on the spot and bought."""

from collections.abc import Mapping
from dataclasses import dataclass

from stonechat.core.plan.buying import foods_of, shelf_at
from stonechat.core.plan.plan import Supply
from stonechat.core.supply.foods import DISHES, FOODS, SHELF_NAMES, SHELVES, WANTS, Food
from stonechat.render.filters import figure, kcal, litres
from stonechat.render.notes import basket_words
from stonechat.web.desk import NEW, UNNAMED, Desk
from stonechat.web.forms.binding import BoundForm
from stonechat.web.forms.supply import FoodForm

FOOD = "food"  # the tab of what is sold
_LITTLE = 150.0  # kcal up to which one food will do
_BLANKS = 2  # empty lines for dishes of the rider's own
_NEW_FOOD = {"carbs": 60.0, "sodium": 3.0, "tires_h": 4.0, "wants": ""}  # a usual one; energy is asked for


@dataclass(frozen=True, kw_only=True)
class FoodRow:
    """One kind of food, and where it is sold."""

    food: Food
    words: str  # melts, freezes, is eaten with
    sold: tuple[tuple[str, str, bool], ...]  # shelf, its name, and whether it is sold there
    is_own: bool
    edit_address: str


@dataclass(frozen=True, kw_only=True)
class OpenFood:
    """The food whose figures are open."""

    name: str
    form: BoundForm[FoodForm]
    address: str
    usual_address: str  # to take it as is usual, or out; empty where it is so
    usual_words: str


@dataclass(frozen=True, kw_only=True)
class FoodView:
    """What places sell."""

    shelves: tuple[str, ...]
    rows: tuple[FoodRow, ...]
    shelves_address: str
    new_address: str
    dishes: tuple[tuple[str, str], ...]  # name and kcal, empty ones last
    dishes_address: str
    opened: OpenFood | None


def food_view(desk: Desk) -> FoodView:
    """Return what is known of food."""
    supply = desk.variant.supply
    foods, own = foods_of(supply), {food.key for food in supply.foods}
    sold = {key: frozenset(supply.shelves.get(key, usual)) for key, usual in SHELVES.items()}
    dishes = [(name, f"{amount:g}") for name, amount in (supply.dishes or DISHES).items()]
    return FoodView(
        shelves=tuple(SHELF_NAMES[key] for key in SHELVES),
        rows=tuple(
            FoodRow(
                food=food,
                words=_words(food),
                sold=tuple((key, SHELF_NAMES[key], food.key in there) for key, there in sold.items()),
                is_own=food.key in own,
                edit_address=desk.at(tab=FOOD, open=food.key),
            )
            for food in foods.values()
        ),
        shelves_address=desk.do("supply-shelves"),
        new_address=desk.at(tab=FOOD, open=NEW),
        dishes=(*dishes, *((("", ""),) * _BLANKS)),
        dishes_address=desk.do("supply-dishes"),
        opened=_opened(desk, foods, own),
    )


def _words(food: Food) -> str:
    words = [f"melts from {food.melts:.0f}\u00a0°C"] if food.melts is not None else []
    words += [f"hard below {food.freezes:.0f}\u00a0°C".replace("-", "−")] if food.freezes is not None else []
    words += [f"wants {WANTS[food.wants]}"] if food.wants else []
    return ", ".join(words)


def _opened(desk: Desk, foods: Mapping[str, Food], own: set[str]) -> OpenFood | None:
    key = desk.look.open
    food = foods.get(key)
    if food is None and key != NEW:
        return None
    values: dict[str, object] = dict(_NEW_FOOD)
    if food is not None:
        values = {
            "name": food.name,
            "energy": 100.0 * food.energy,
            "bulk": 100.0 * food.bulk,
            "carbs": 100.0 * food.carbs,
            "sodium": food.sodium,
            "tires_h": food.tires,
            "melts": food.melts,
            "freezes": food.freezes,
            "wants": food.wants,
        }
    return OpenFood(
        name=food.name if food else "A food of your own",
        form=desk.form("food", FoodForm, values),
        address=desk.do("supply-food", food.key if food else UNNAMED),
        usual_address=desk.do("supply-food", food.key, "usual") if food and food.key in own else "",
        usual_words="As is usual" if key in FOODS else "Take it out",
    )


@dataclass(frozen=True, kw_only=True)
class Bought:
    """A food that the rider buys at a stop in any case."""

    words: str
    address: str
    values: Mapping[str, object]


@dataclass(frozen=True, kw_only=True)
class Buying:
    """What is bought at an open stop."""

    sentence: str  # the list, empty where nothing is bought
    caution: str  # what to mind of it, empty where nothing
    by_hand: tuple[Bought, ...]
    choices: tuple[tuple[str, str], ...]  # food and its name, what the stop sells first
    address: str


def buying(desk: Desk, node: int, stop_id: str) -> Buying | None:
    """Return what is bought where a leg begins; None where nothing is sold."""
    supply, ridden = desk.variant.supply, desk.evaluation.ridden
    provisions = ridden.provisions
    shelf = shelf_at(supply, ridden.timetable.visits[node - 1].stop if node else None)
    if not shelf:
        return None
    foods, basket = foods_of(supply), provisions.larder.baskets[node]
    energy = float(provisions.food.taken[node])
    listed = basket_words(foods, basket, energy)
    sentence = caution = ""
    if basket is not None and listed:
        mass, room = energy / basket.density, energy / basket.bulk
        verb, first = "Buy" if node else "Take", foods[basket.shares[0][0]].name
        if energy < _LITTLE:
            listed = f"a little, such as {first}"
        sentence = f"{verb} {kcal(energy)}: {listed}; {figure(mass, 1)} kg, {litres(room / 1e3)}."
        if basket.tired:
            caution = "You will be tired of some of it before the next shop; other food is not sold here."
    others = [key for key in foods if key not in shelf]
    return Buying(
        sentence=sentence,
        caution=caution,
        by_hand=tuple(
            Bought(
                words=f"{foods[key].name}, {kcal(amount)}",
                address=desk.do("supply", stop_id, "buy"),
                values={"food": key, "kcal": 0},
            )
            for key, amount in supply.buys.get(stop_id, {}).items()
            if key in foods
        ),
        choices=tuple((key, foods[key].name) for key in (*shelf, *others) if key in foods),
        address=desk.do("supply", stop_id, "buy"),
    )


def dishes_of(supply: Supply) -> tuple[tuple[str, str], ...]:
    """Return what is eaten on the spot, as suggestions: kcal and name."""
    return tuple((f"{amount:g}", name) for name, amount in (supply.dishes or DISHES).items())
