"""The form of the weather: four figures a day, as many days as the race may last."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any

from pydantic import create_model, model_validator

from stonechat.core.line.weather import DayWeather, Weather
from stonechat.units import kmh_from_ms, ms_from_kmh
from stonechat.web.forms.binding import Form, figure

MOST_DAYS = 20
GENERAL = 2  # fields before those of the days


class WeatherForm(Form):
    """What holds for all days; `weather_form` adds the days."""

    height_m: float = figure("Given for a height of", unit="m", limit="height", help="it cools 6.5 °C a kilometre up")
    humidity_pct: float = figure("Humidity", unit="%", limit="share", factor=100.0)

    @model_validator(mode="after")
    def _lows_are_low(self) -> "WeatherForm":
        for day in range(1, days_in(type(self).model_fields) + 1):
            low, high = getattr(self, f"low_{day}"), getattr(self, f"high_{day}")
            if low > high:
                raise ValueError(f"On day {day} the low, {low:g} °C, is above the high, {high:g} °C. Swap them.")
        return self

    def to_core(self) -> Weather:
        """Return the weather."""
        days = tuple(
            DayWeather(
                temp_low=getattr(self, f"low_{day}"),
                temp_high=getattr(self, f"high_{day}"),
                wind_speed=ms_from_kmh(getattr(self, f"wind_{day}")),
                wind_from=getattr(self, f"from_{day}"),
            )
            for day in range(1, days_in(type(self).model_fields) + 1)
        )
        return Weather(days=days, reference_height=self.height_m, relative_humidity=round(self.humidity_pct / 100.0, 9))


def days_in(names: Mapping[str, Any]) -> int:
    """Return how many days a form's fields name."""
    return min(sum(1 for name in names if name.startswith("low_")), MOST_DAYS)


def weather_form(count: int, start: datetime | None = None) -> type[WeatherForm]:
    """Return the form for so many days, each named by its weekday where the start is known."""
    fields: dict[str, Any] = {}
    for day in range(1, count + 1):
        name = f"{start + timedelta(days=day - 1):%a}" if start else f"Day {day}"
        fields[f"low_{day}"] = (float, figure(f"{name} low", unit="°C", limit="temp"))
        fields[f"high_{day}"] = (float, figure(f"{name} high", unit="°C", limit="temp"))
        fields[f"wind_{day}"] = (float, figure(f"{name} wind at 10 m", unit="km/h", limit="wind_speed", factor=3.6))
        fields[f"from_{day}"] = (float, figure(f"{name} wind from", unit="°", limit="wind_from"))
    made: type[WeatherForm] = create_model("WeatherDays", __base__=WeatherForm, **fields)
    return made


def weather_values(weather: Weather, count: int) -> dict[str, Any]:
    """Return what the form shows: days past the last are as the last."""
    values: dict[str, Any] = {
        "height_m": weather.reference_height,
        "humidity_pct": weather.relative_humidity * 100.0,
    }
    for day in range(1, count + 1):
        given = weather.days[min(day, len(weather.days)) - 1]
        values |= {
            f"low_{day}": given.temp_low,
            f"high_{day}": given.temp_high,
            f"wind_{day}": kmh_from_ms(given.wind_speed),
            f"from_{day}": given.wind_from,
        }
    return values
