"""The simulated scale: settling, tare, overload, draught, a loose cable."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from stonechat.outside.scale import MAKES, SimulatedScale


class Clock:
    """A clock that a test sets."""

    def __init__(self) -> None:
        self.now = 1_000.0

    def __call__(self) -> float:
        return self.now


def scale(make: str = "kitchen") -> tuple[SimulatedScale, Clock]:
    clock = Clock()
    return SimulatedScale(make, now=clock), clock


@given(st.sampled_from(sorted(MAKES)), st.floats(0.0, 1.0))
def test_a_settled_reading_is_the_mass_to_a_division(make: str, share: float) -> None:
    device, clock = scale(make)
    mass = share * MAKES[make].most
    device.put(mass)
    clock.now += MAKES[make].settling + 0.05
    reading = device.read()
    # what is left of the swing, the slow drift, and half a division
    slack = 0.035 * MAKES[make].swing * mass + 0.0002 + 0.5 * MAKES[make].division
    assert reading.is_stable and reading.mass == pytest.approx(mass, abs=slack + 1e-9)
    clock.now += 20.0
    assert device.read().mass == pytest.approx(mass, abs=0.0002 + 0.5 * MAKES[make].division + 1e-9)


def test_it_swings_before_it_settles() -> None:
    device, clock = scale()
    device.put(0.5)
    clock.now += 0.1
    assert device.read().state == "settling" and device.read().mass != pytest.approx(0.5, abs=0.001)


def test_tare_sets_what_lies_there_to_zero() -> None:
    device, clock = scale()
    device.put(0.2)
    clock.now += 30.0
    device.tare()
    assert device.read().mass == pytest.approx(0.0, abs=0.001)
    device.put(0.35)
    clock.now += 30.0
    assert device.read().mass == pytest.approx(0.15, abs=0.001)


def test_too_much_is_an_overload_not_a_figure() -> None:
    device, clock = scale()
    device.put(5.4)
    clock.now += 5.0
    assert device.read().state == "overload" and device.read().mass == 0.0


def test_in_a_draught_it_never_settles() -> None:
    device, clock = scale()
    device.trouble = "draught"
    device.put(0.3)
    for _ in range(200):
        clock.now += 0.7
        assert not device.read().is_stable


def test_a_loose_cable_goes_silent_in_mid_reading_and_comes_back() -> None:
    device, clock = scale()
    device.trouble = "cable"
    device.put(0.3)
    clock.now += 0.3
    assert device.read().state == "settling"
    clock.now += 1.0
    assert device.read().state == "silent"
    device.trouble = "none"
    clock.now += 2.0
    assert device.read().mass == pytest.approx(0.3, abs=0.001)
