"""The form of what to leave a stop with."""

from stonechat.web.forms.binding import Form, figure


class SupplyForm(Form):
    """Water and food to leave with; empty takes what the model needs."""

    water_l: float | None = figure("Water to leave with", unit="l", limit="water", optional=True)
    food_kcal: float | None = figure("Food to leave with", unit="kcal", limit="food", optional=True)
