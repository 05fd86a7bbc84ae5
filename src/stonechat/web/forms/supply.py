"""The forms of what to leave a stop with, and of what is carried for."""

from stonechat.web.forms.binding import Form, figure


class SupplyForm(Form):
    """Water and food to leave with; empty takes what the model needs."""

    water_l: float | None = figure("Water to leave with", unit="l", limit="water", optional=True)
    food_kcal: float | None = figure("Food to leave with", unit="kcal", limit="food", optional=True)
    meal_kcal: float | None = figure(
        "Eaten there", unit="kcal", limit="meal", optional=True, help="a meal, beside what is eaten riding"
    )


class CarryForm(Form):
    """What is carried beyond the needs."""

    water_reserve_l: float = figure("Water left at each refill", unit="l", limit="water")
    food_reserve_kcal: float = figure("Food left at each shop", unit="kcal", limit="food")
    spread: float = figure(
        "Carried beyond the needs", unit="%", limit="share", factor=100.0,
        help="For heat, headwind and a slow day. Only where the stops are chosen.",
    )  # fmt: skip
    tired_h: float = figure(
        "Other food at least every", unit="h", limit="tired", factor=1.0 / 3600.0,
        help="Where a shop can be reached so soon.",
    )  # fmt: skip
