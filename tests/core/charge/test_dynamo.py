"""The hub, against the model's table and worked example."""

import numpy as np
import pytest

from stonechat.core.charge.dynamo import charger_output, hub_drag, lamp_output

KMH = np.array([8, 10, 15, 20, 25, 30, 40]) / 3.6


def test_output_and_drag_are_those_of_the_table() -> None:
    given = charger_output(KMH)
    assert given == pytest.approx([0.85, 1.33, 2.67, 3.83, 4.67, 5.26, 5.93], abs=0.006)
    assert hub_drag(KMH, given) == pytest.approx([1.9, 2.7, 5.1, 7.2, 8.8, 9.9, 11.3], abs=0.06)
    assert hub_drag(KMH, np.zeros(7)) == pytest.approx([0.44, 0.51, 0.66, 0.81, 0.96, 1.12, 1.42], abs=0.006)
    lamp = lamp_output(KMH)
    assert lamp == pytest.approx([1.15, 1.61, 2.96, 3.0, 3.0, 3.0, 3.0], abs=0.006)
    assert hub_drag(KMH, lamp) == pytest.approx([2.4, 3.2, 5.6, 5.8, 6.0, 6.1, 6.4], abs=0.06)


def test_two_days_of_riding_give_and_brake_what_the_example_says() -> None:
    clock = np.arange(5 * 3600, 53 * 3600, 10.0)
    hour = clock / 3600.0 % 24.0
    riding = (hour >= 5) & (hour < 22)
    speed = 6.1 + 3.0 * np.sin(clock / 900.0)
    given = np.where(riding, charger_output(speed), 0.0)
    sun = np.where((hour >= 9) & (hour < 17), 0.6, 0.0)
    assert (given + sun).sum() * 10.0 / 3600.0 == pytest.approx(140.93, rel=0.01)
    braked = np.where(riding, hub_drag(speed, given), 0.0)
    assert braked.sum() * 10.0 / 1e3 == pytest.approx(894.6, rel=0.01)
    assert braked[riding].mean() == pytest.approx(7.31, rel=0.01)
