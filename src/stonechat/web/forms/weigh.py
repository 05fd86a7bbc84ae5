"""The form of a weighing at the wheels."""

from pydantic import model_validator

from stonechat.core.load.wheels import WEIGHED
from stonechat.web.forms.binding import Form, choice, figure


class WheelForm(Form):
    """Front and rear wheel on the scale, one after the other, the bike level."""

    what: str = choice("Weighed", WEIGHED)
    front_kg: float = figure("Under the front wheel", unit="kg", limit="wheel_load")
    rear_kg: float = figure("Under the rear wheel", unit="kg", limit="wheel_load")

    @model_validator(mode="after")
    def _is_believable(self) -> "WheelForm":
        share = self.front_kg / (self.front_kg + self.rear_kg)
        if not 0.25 <= share <= 0.7:
            raise ValueError(
                f"{100 * share:.0f} % on the front wheel is not how a bike stands. Are the two swapped, or one in lb?"
            )
        return self
