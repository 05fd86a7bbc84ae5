"""The forms of what to leave a stop with, and of what is carried for."""

from stonechat.core.plan.plan import SWEAT
from stonechat.core.supply.foods import WANTS
from stonechat.web.forms.binding import Form, choice, figure, text


class SupplyForm(Form):
    """Water and food to leave with; empty takes what the model needs."""

    water_l: float | None = figure("Water to leave with", unit="l", limit="water", optional=True)
    food_kcal: float | None = figure("Food to leave with", unit="kcal", limit="food", optional=True)
    meal_kcal: float | None = figure(
        "Eaten there", unit="kcal", limit="meal", optional=True, help="on the spot, beside what is eaten riding",
        suggestions="dishes",
    )  # fmt: skip


class CarryForm(Form):
    """What is carried beyond the needs."""

    water_reserve_l: float = figure("Water left at each refill", unit="l", limit="water")
    food_reserve_kcal: float = figure("Food left at each shop", unit="kcal", limit="food")
    spread: float = figure(
        "Carried beyond the needs", unit="%", limit="share", factor=100.0,
        help="For heat, headwind and a slow day. Only where the stops are chosen.",
    )  # fmt: skip
    for_climbs: float = figure(
        "More for each 1,000 m climbed", unit="kcal", limit="for_climbs", help="Held back for big climbs; 0: none."
    )
    sweat: str = choice("Sweat by", SWEAT, optional="table")
    gut_g_h: float = figure(
        "Carbohydrate the gut takes", unit="g/h", limit="gut",
        help="60 of one sugar, up to 90 of several when trained. More is not carried for.",
    )  # fmt: skip
    tired_h: float = figure(
        "Other food at least every", unit="h", limit="tired", factor=1.0 / 3600.0,
        help="Where a shop can be reached so soon.",
    )  # fmt: skip


class FoodForm(Form):
    """A kind of food, as its label gives it."""

    name: str = text("Food", least=1, most=60)
    energy: float = figure("Energy", unit="kcal/100 g", limit="food_energy", factor=100.0)
    bulk: float = figure(
        "By volume", unit="kcal/100 ml", limit="food_by_ml", factor=100.0, help="as it rides in its wrapping"
    )
    carbs: float = figure("Of it from carbohydrate", unit="%", limit="share", factor=100.0)
    sodium: float = figure("Sodium", unit="g/kg", limit="sodium", help="salt contains 39 % of it")
    tires_h: float = figure(
        "Tired of it after", unit="h", limit="tired", factor=1.0 / 3600.0, help="of riding on it between two shops"
    )
    melts: float | None = figure("Melts from", unit="°C", limit="temp", optional=True)
    freezes: float | None = figure("Too hard to bite below", unit="°C", limit="temp", optional=True)
    wants: str = choice("Eaten with", WANTS, optional="")
