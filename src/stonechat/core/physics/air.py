"""Pressure and density of the air. Scalars only and compiled: the ride calls them at every segment."""

import math

from numba import njit

from stonechat.core.physics.constants import (
    GAS_CONSTANT_DRY_AIR,
    GAS_CONSTANT_VAPOUR,
    KELVIN_OFFSET,
    PRESSURE_SEA_LEVEL,
)


@njit(cache=True)
def standard_pressure(height: float) -> float:
    """Return the air pressure of the standard atmosphere.

    Parameters
    ----------
    height : float
        Height above the sea, up to 11,000. [m]

    Returns
    -------
    pressure : float
        Air pressure. [Pa]

    References
    ----------
    [ISO2533].

    Examples
    --------
    >>> round(standard_pressure(1000.0), 1)
    89874.6
    """
    pressure: float = PRESSURE_SEA_LEVEL * (1.0 - 2.25577e-5 * height) ** 5.25588
    return pressure


@njit(cache=True)
def air_density(pressure: float, temp_air: float, relative_humidity: float) -> float:
    """Return the density of moist air, taken as two ideal gases that share the pressure.

    Parameters
    ----------
    pressure : float
        Absolute pressure. [Pa]
    temp_air : float
        Air temperature, -45 to 60. [°C]
    relative_humidity : float
        Share of the saturation vapour pressure over water, 0 to 1. [1]

    Returns
    -------
    density : float
        Density. [kg/m³]

    Notes
    -----
    ``rho = (p - e)/(R_d T) + e/(R_v T)`` with ``e = RH 610.94 exp(17.625 t/(243.04 + t))``. Within 0.09 % of
    the reference equation from -15 to 45 °C.

    References
    ----------
    [ISO2533], vapour pressure [Alduchov1996], reference equation [CIPM2007].

    Examples
    --------
    >>> round(air_density(101325.0, 15.0, 0.0), 3)
    1.225
    """
    temp_kelvin = temp_air + KELVIN_OFFSET
    vapour = relative_humidity * 610.94 * math.exp(17.625 * temp_air / (243.04 + temp_air))
    dry = (pressure - vapour) / (GAS_CONSTANT_DRY_AIR * temp_kelvin)
    density: float = dry + vapour / (GAS_CONSTANT_VAPOUR * temp_kelvin)
    return density
