"""A ride integrated metre by metre: Runge and Kutta's rule of fourth order on speed squared, from the forces alone."""

import math
from collections.abc import Callable

import numpy as np
from numba import njit

from stonechat.core.physics.power_balance import Push, resisting_force


@njit
def _rise(kinetic: float, power: float, mass: float, moved: float, grade: float, rolling: float, drag: float,
          density: float, head: float, cross: float) -> float:  # fmt: skip
    speed = math.sqrt(2.0 * max(kinetic, 0.05))
    force = resisting_force(speed, Push(0.0, mass, 1.5, grade, rolling, drag, density, head, cross, 0.0))
    return (power / speed - force) / moved


@njit
def _integrate(grades, powers, caps, rollings, heads, crosses, drags, densities, masses, inertia, start, step):
    kinetic, times = 0.5 * start * start, np.zeros(grades.size // 2)
    for k in range(times.size):
        before = math.sqrt(2.0 * kinetic)
        slopes, at = np.zeros(4), kinetic
        for stage in range(4):
            here = 2 * k + (0, 1, 1, 2)[stage]
            at = kinetic + (0.0, 0.5, 0.5, 1.0)[stage] * step * (slopes[stage - 1] if stage else 0.0)
            slopes[stage] = _rise(
                at, powers[here], masses[here], masses[here] + inertia, grades[here], rollings[here], drags[here],
                densities[here], heads[here], crosses[here],
            )  # fmt: skip
        kinetic += step / 6.0 * (slopes[0] + 2 * slopes[1] + 2 * slopes[2] + slopes[3])
        most = 0.5 * caps[2 * k + 1] ** 2
        kinetic = min(max(kinetic, 0.05), most)
        times[k] = 2.0 * step / (before + math.sqrt(2.0 * kinetic))
    return times


def dynamic_times(length: float, at: Callable[[str, np.ndarray], np.ndarray], *, inertia: float = 1.5,
                  start: float = 5.0, step: float = 1.0) -> np.ndarray:  # fmt: skip
    """Return the time of each metre; `at` gives grade, power, cap, … at distances."""
    marks = np.arange(0.0, length + 0.25 * step, 0.5 * step)
    names = ("grade", "power", "cap", "rolling", "head", "cross", "drag", "density", "mass")
    values = [np.ascontiguousarray(at(name, marks), dtype=np.float64) for name in names]
    return np.asarray(_integrate(*values, inertia, start, step))
