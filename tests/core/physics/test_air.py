"""Air pressure and density against the standard atmosphere and the gas laws."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.core.physics.air import air_density, standard_pressure


# [ISO2533] at 0, 1000 and 2000 m: pressure and density of the standard's own table, six digits
@pytest.mark.parametrize(
    ("height", "temp_air", "pressure", "density"),
    [(0.0, 15.0, 101_325.0, 1.22500), (1000.0, 8.5, 89_874.6, 1.11164), (2000.0, 2.0, 79_495.2, 1.00649)],
)
def test_pressure_and_dry_density_are_those_of_the_standard_atmosphere(
    height: float, temp_air: float, pressure: float, density: float
) -> None:
    assert standard_pressure(height) == pytest.approx(pressure, rel=2e-6)
    assert air_density(pressure, temp_air, 0.0) == pytest.approx(density, rel=1e-5)


def test_moist_density_is_near_the_reference_equation() -> None:
    # [CIPM2007] gives 1.19931 kg/m³ at 20 °C, 101,325 Pa and 50 %; two ideal gases stay within 0.09 %
    assert air_density(101_325.0, 20.0, 0.5) == pytest.approx(1.19931, rel=9e-4)


@given(st.floats(60_000, 103_000), st.floats(-20, 45), st.floats(0, 1))
def test_moist_air_is_never_denser_than_dry_air(pressure: float, temp_air: float, humidity: float) -> None:
    assert air_density(pressure, temp_air, humidity) <= air_density(pressure, temp_air, 0.0)
