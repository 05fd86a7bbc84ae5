"""The form of how cold one runs."""

from stonechat.web.forms.binding import Form, figure


class ColdForm(Form):
    """By how much the air feels colder than to others."""

    kelvin: float = figure(
        "You run cold by", unit="K", limit="runs_cold",
        help="0 as most do; 3 if you wear more than others beside you; below 0 if you wear less",
    )  # fmt: skip
