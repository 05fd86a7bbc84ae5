"""Sweat by heat balance, where it holds: a table that `scripts/heat_balance.py` makes with the field's library."""

import csv
from importlib import resources

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.core.supply.needs import water_loss

COLDEST, HOTTEST = 15.0, 40.0  # °C, between which the table holds [ISO7933]
DRIEST, DAMPEST = 0.2, 0.6  # 1, relative humidity at its edges
_LEAST = 0.04  # l/h, by breath alone


def _tables() -> dict[str, RegularGridInterpolator]:
    text = resources.files(__package__).joinpath("heat_balance.csv").read_text("utf-8")
    rows = list(csv.DictReader(text.splitlines()))
    axes = [sorted({float(row[name]) for row in rows}) for name in ("temp_c", "humidity_pct", "power_w")]
    shape = tuple(len(axis) for axis in axes)
    return {
        name: RegularGridInterpolator(
            axes,
            np.array([float(row[f"{name}_l_h"]) for row in rows]).reshape(shape),
            bounds_error=False,
            fill_value=None,
        )
        for name in ("shade", "sun")
    }


_BY_LIGHT = _tables()


def heat_balance_loss(*, temp_air: FloatArray, power: FloatArray, humidity: FloatArray, dark: BoolArray) -> FloatArray:
    """Return how much water a rider loses by sweat and breath, by heat balance where it holds.

    Parameters
    ----------
    temp_air : ndarray, shape (n,)
        Air temperature. [°C]
    power : ndarray, shape (n,)
        Power at the pedals. [W]
    humidity : ndarray, shape (n,)
        Relative humidity; held within DRIEST and DAMPEST. [1]
    dark : ndarray of bool, shape (n,)
        Whether it is ridden between sunset and sunrise; by day half of it is taken to be in the sun.

    Returns
    -------
    loss : ndarray, shape (n,)
        Below 15 °C, where the model does not hold, the table that riders go by; above 40 °C as at 40. [l/h]

    Notes
    -----
    Predicted heat strain in its form of 2004 for 75 kg, 1.80 m, 0.4 clo and 3 m/s (the most it knows); straight
    between its rows, and beyond 185 W along the last two.

    References
    ----------
    [ISO7933], [Malchaire2001].

    Examples
    --------
    >>> heat_balance_loss(temp_air=np.array([20.0]), power=np.array([150.0]), humidity=np.array([0.4]),
    ...                   dark=np.array([True])).round(2)
    array([0.26])
    """
    points = np.stack(
        (
            np.clip(temp_air, COLDEST, HOTTEST),
            100.0 * np.clip(humidity, DRIEST, DAMPEST),
            np.maximum(np.asarray(power, dtype=np.float64), 80.0),
        ),
        axis=-1,
    )
    shade, sun = (np.asarray(_BY_LIGHT[name](points), dtype=np.float64) for name in ("shade", "sun"))
    balanced = np.maximum(np.where(dark, shade, 0.5 * (shade + sun)), _LEAST)
    return np.where(np.asarray(temp_air) >= COLDEST, balanced, water_loss(temp_air=temp_air, power=power))


def humidity_at(*, humidity: FloatArray, temp_mean: FloatArray, temp_air: FloatArray) -> FloatArray:
    """Return the relative humidity at a temperature of a day, its vapour staying the same.

    Parameters
    ----------
    humidity : ndarray, shape (n,)
        Of the day, at its mean temperature. [1]
    temp_mean : ndarray, shape (n,)
        Mean of the day. [°C]
    temp_air : ndarray, shape (n,)
        At the hour. [°C]

    Returns
    -------
    humidity : ndarray, shape (n,)
        At the hour, at most 1. [1]

    References
    ----------
    Saturation by the Magnus formula with the figures of [Alduchov1996].

    Examples
    --------
    >>> humidity_at(humidity=np.array([0.6]), temp_mean=np.array([20.0]), temp_air=np.array([30.0])).round(2)
    array([0.33])
    """
    return np.minimum(1.0, humidity * _saturation(temp_mean) / _saturation(temp_air))


def _saturation(temp: FloatArray) -> FloatArray:
    """Return the vapour pressure at saturation. [hPa]"""
    return np.asarray(6.1094 * np.exp(17.625 * temp / (temp + 243.04)), dtype=np.float64)
