"""The simulated weather service: the same question, the same answer; surer as the day nears, and honest about it."""

from datetime import date, timedelta

import numpy as np
import pytest

from stonechat.outside.weather import MOST_DAYS, Place, SimulatedWeather, skill_ahead, usual_mean

PLACE = Place(latitude=44.6, longitude=-28.4, height=500.0)
DAY = date(2027, 9, 24)


def test_the_same_question_has_the_same_answer_and_another_seed_another() -> None:
    service = SimulatedWeather(3)
    one = service.daily(PLACE, DAY, 7, DAY - timedelta(days=2))
    assert one == SimulatedWeather(3).daily(PLACE, DAY, 7, DAY - timedelta(days=2))
    assert one != SimulatedWeather(4).daily(PLACE, DAY, 7, DAY - timedelta(days=2))
    assert [report.day for report in one] == [DAY + timedelta(days=k) for k in range(7)]
    assert len(service.daily(PLACE, DAY, 500, DAY)) == MOST_DAYS


def test_weeks_ahead_it_says_what_is_usual_and_afterwards_what_was() -> None:
    service = SimulatedWeather()
    far, near, past = (service.daily(PLACE, DAY, 1, DAY - timedelta(days=ahead))[0] for ahead in (200, 1, -3))
    assert (far.kind, near.kind, past.kind) == ("usual", "forecast", "observed")
    middle = 0.5 * (far.weather.temp_low + far.weather.temp_high)
    assert middle == pytest.approx(usual_mean(PLACE, DAY), abs=0.1)
    assert past.weather == service.truth(PLACE, DAY)
    assert far.weather.temp_band == 3.0 and past.weather.temp_band == 0.0 < near.weather.temp_band < 3.0


@pytest.mark.parametrize("ahead", [1, 3, 5, 8])
def test_the_truth_lies_about_the_forecast_as_far_as_its_band_says(ahead: int) -> None:
    service = SimulatedWeather(11)
    errors, bands = [], []
    for k in range(0, 1_200, 3):
        day = date(2024, 1, 1) + timedelta(days=k)
        said = service.daily(PLACE, day, 1, day - timedelta(days=ahead))[0].weather
        true = service.truth(PLACE, day)
        errors.append(0.5 * (true.temp_low + true.temp_high - said.temp_low - said.temp_high))
        bands.append(said.temp_band)
    assert np.std(errors) == pytest.approx(np.mean(bands), rel=0.15)
    assert abs(np.mean(errors)) < 0.3
    assert np.std(errors) == pytest.approx(3.0 * np.sqrt(1.0 - skill_ahead(ahead) ** 2), rel=0.15)


def test_days_remember_the_day_before_and_wind_has_its_shape() -> None:
    service = SimulatedWeather(7)
    days = [date(2025, 1, 1) + timedelta(days=k) for k in range(700)]
    truth = [service.truth(PLACE, day) for day in days]
    warmth = np.array(
        [0.5 * (t.temp_low + t.temp_high) - usual_mean(PLACE, d) for t, d in zip(truth, days, strict=True)]
    )
    assert warmth.std() == pytest.approx(3.0, rel=0.15)
    assert np.corrcoef(warmth[1:], warmth[:-1])[0, 1] == pytest.approx(np.exp(-24 / 60), abs=0.08)
    winds = np.array([t.wind_speed for t in truth])
    # Weibull of shape 2: the standard deviation is 0.523 of the mean
    assert winds.mean() == pytest.approx(4.0, rel=0.08) and winds.std() / winds.mean() == pytest.approx(0.523, rel=0.1)
    assert all(0.2 <= (t.humidity or 0) <= 1.0 and 0.0 <= t.wind_from < 360.0 for t in truth)
    rainy = np.array([t.rain > 0 for t in truth]).mean()
    assert 0.2 < rainy < 0.42


def test_it_is_cooler_poleward_upward_and_in_winter() -> None:
    there = usual_mean(PLACE, DAY)
    assert usual_mean(Place(latitude=60.0, longitude=0.0, height=500.0), DAY) < there
    assert usual_mean(Place(latitude=44.6, longitude=0.0, height=1_500.0), DAY) == pytest.approx(there - 6.5)
    assert usual_mean(PLACE, date(2027, 1, 15)) < there < usual_mean(PLACE, date(2027, 7, 19))
    south = Place(latitude=-44.6, longitude=0.0, height=500.0)
    assert usual_mean(south, date(2027, 7, 19)) < usual_mean(south, date(2027, 1, 15))
