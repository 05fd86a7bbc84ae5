"""The form of the weather: six figures a day, as many days as the race may last."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from pydantic import create_model, model_validator

from stonechat.core.line.weather import DayWeather, Weather
from stonechat.units import kmh_from_ms, ms_from_kmh
from stonechat.web.forms.binding import Form, figure

MOST_DAYS = 20
GENERAL = 3  # fields before those of the days


class WeatherForm(Form):
    """What holds for all days; `weather_form` adds the days."""

    height_m: float = figure("Given for a height of", unit="m", limit="height", help="it cools 6.5 °C a kilometre up")
    humidity_pct: float = figure("Humidity", unit="%", limit="share", factor=100.0, help="where a day says none")
    shelter_pct: float = figure(
        "Wind that reaches you", unit="%", limit="share", factor=100.0,
        help="open ground 100, hedges 75, villages 60, forest 35; estimates",
    )  # fmt: skip

    @model_validator(mode="after")
    def _lows_are_low(self) -> "WeatherForm":
        for day in range(1, days_in(type(self).model_fields) + 1):
            low, high = getattr(self, f"low_{day}"), getattr(self, f"high_{day}")
            if low > high:
                raise ValueError(f"On day {day} the low, {low:g} °C, is above the high, {high:g} °C. Swap them.")
        return self

    def to_core(self, known: Weather) -> Weather:
        """Return the weather; a day left as it was keeps its band, and so does the source."""
        count = days_in(type(self).model_fields)
        days = (*(self._day(day, known) for day in range(1, count + 1)), *known.days[count:])
        kept = all(day == known.days[min(k, len(known.days) - 1)] for k, day in enumerate(days))
        return Weather(
            days=days,
            reference_height=self.height_m,
            relative_humidity=round(self.humidity_pct / 100.0, 9),
            shelter=round(self.shelter_pct / 100.0, 9),
            source=known.source if kept else "set by hand",
        )

    def _day(self, number: int, known: Weather) -> DayWeather:
        humidity = getattr(self, f"humid_{number}")
        day = DayWeather(
            temp_low=getattr(self, f"low_{number}"),
            temp_high=getattr(self, f"high_{number}"),
            wind_speed=ms_from_kmh(getattr(self, f"wind_{number}")),
            wind_from=getattr(self, f"from_{number}"),
            humidity=None if humidity is None else round(humidity / 100.0, 9),
            rain=getattr(self, f"rain_{number}"),
        )
        before = known.days[min(number, len(known.days)) - 1]
        same = (day.temp_low, day.temp_high) == (before.temp_low, before.temp_high)
        close = abs(day.wind_speed - before.wind_speed) < 1e-6  # it went through km/h
        return replace(
            day,
            temp_band=before.temp_band if same else 0.0,
            wind_speed=before.wind_speed if close else day.wind_speed,
        )


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
        fields[f"humid_{day}"] = (
            float | None,
            figure(f"{name} humidity", unit="%", limit="share", factor=100.0, optional=True),
        )
        fields[f"rain_{day}"] = (float, figure(f"{name} rain", unit="mm", limit="rain"))
    made: type[WeatherForm] = create_model("WeatherDays", __base__=WeatherForm, **fields)
    return made


def weather_values(weather: Weather, count: int) -> dict[str, Any]:
    """Return what the form shows: days past the last are as the last."""
    values: dict[str, Any] = {
        "height_m": weather.reference_height,
        "humidity_pct": weather.relative_humidity * 100.0,
        "shelter_pct": weather.shelter * 100.0,
    }
    for day in range(1, count + 1):
        given = weather.days[min(day, len(weather.days)) - 1]
        values |= {
            f"low_{day}": given.temp_low,
            f"high_{day}": given.temp_high,
            f"wind_{day}": kmh_from_ms(given.wind_speed),
            f"from_{day}": given.wind_from,
            f"humid_{day}": None if given.humidity is None else given.humidity * 100.0,
            f"rain_{day}": given.rain,
        }
    return values
