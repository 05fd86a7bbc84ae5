"""Rides by an independent simulator: forces integrated in time, ten steps a second, with wind, gusts, brakes and noisy
sensors. Nothing of it is shared with the program: other equations of motion (acceleration in time, not work over a
segment), other code."""

import math
from dataclasses import dataclass
from datetime import UTC, datetime

import numpy as np
from numba import njit

_STEP = 0.1  # s
_G = 9.80665


@dataclass(frozen=True, kw_only=True)
class Truth:
    """A rider and a day as they really are."""

    mass: float = 95.0  # kg, all that rolls
    crr: float = 0.0068
    cda: float = 0.36  # m²
    efficiency: float = 0.96
    wind: tuple[float, float] = (1.5, -1.0)  # m/s it blows towards east and north, at the rider
    gust: float = 0.3  # sd of gusts over mean wind
    power: float = 160.0  # W on the flat, fresh
    endurance: float = 0.65
    fade_hours: float = 30.0
    recovery_hours: float = 8.0
    temp: float = 18.0  # °C
    meter: float = 1.0  # what the power meter shows over what is pedalled


@dataclass(frozen=True, kw_only=True)
class Hills:
    """A course: heights and directions as sums of waves."""

    length: float  # m
    waves: tuple[tuple[float, float, float], ...]  # height m, wave length m, phase
    turns: float = 4.0  # times the course goes round; 0: straight on
    base: float = 300.0  # m

    @staticmethod
    def of(seed: int, length: float, *, steep: float = 0.035, turns: float = 4.0) -> "Hills":
        """Return a course of some seed."""
        rng = np.random.default_rng(seed + 77)
        waves = []
        for wave in (900.0, 2_300.0, 5_100.0, 11_000.0):
            waves.append((steep * wave / (2.0 * math.pi) * rng.uniform(0.4, 1.0) / 1.6, wave * rng.uniform(0.8, 1.2),
                          rng.uniform(0.0, 6.28)))  # fmt: skip
        return Hills(length=length, waves=tuple(waves), turns=turns)

    def height(self, s: np.ndarray) -> np.ndarray:
        """Return heights. [m]"""
        return self.base + sum(a * np.sin(2.0 * math.pi * s / w + p) for a, w, p in self.waves)

    def slope(self, s: np.ndarray) -> np.ndarray:
        """Return slopes. [1]"""
        return sum(a * 2.0 * math.pi / w * np.cos(2.0 * math.pi * s / w + p) for a, w, p in self.waves)

    def heading(self, s: np.ndarray) -> np.ndarray:
        """Return directions, radians from north, clockwise."""
        return 2.0 * math.pi * self.turns * s / self.length + 0.7 * np.sin(2.0 * math.pi * s / 3_700.0)


@njit
def _integrate(slope, heading, ds, length, wanted, crr, cda, mass, efficiency, wind_e, wind_n, gusts, rho, cap, halts,
               halt_time, fade, recover, endurance, night, start, most):  # fmt: skip
    """Return rows of a second: distance, speed, power pedalled."""
    rows = np.zeros((most, 3))
    s, v, f, k = 0.0, 3.0, 0.0, 0
    halt, standing = 0, 0.0
    work = 0.0
    steps = 0
    coasting = False
    while s < length and k < most - 1:
        if standing > 0.0:
            standing -= 1.0
            # who stands for long sleeps
            f *= math.exp(-1.0 / (recover if halt_time[halt - 1] > 7200.0 else 3.0 * recover))
            k += 1
            rows[k] = (s, 0.0, 0.0)
            v = 0.5
            continue
        if halt < halts.size and s >= halts[halt]:
            standing = halt_time[halt]
            halt += 1
            continue
        i = min(int(s / ds), slope.size - 1)
        grade = slope[i]
        pace = min(max(1.0 + (1.5 if grade > 0.0 else 5.0) * grade, 0.0), 1.15)
        hour = (start + k) / 3600.0 % 24.0
        d = (hour - 4.0 + 12.0) % 24.0 - 12.0
        dip = 1.0 - night * max(0.0, math.cos(math.pi * d / 12.0))
        p = wanted[min(k, wanted.size - 1)] * pace * dip * (1.0 - (1.0 - endurance) * f)
        # fast enough: feet still until it is clearly slower again
        coasting = v >= cap or (coasting and v > 0.88 * cap)
        if coasting:
            p = 0.0
        air = v - wind_e * math.sin(heading[i]) - wind_n * math.cos(heading[i]) + gusts[min(k, gusts.size - 1)]
        drag = 0.5 * rho * cda * air * abs(air)
        force = efficiency * p / max(v, 0.5) - mass * _G * (grade + crr) / math.sqrt(1.0 + grade * grade) - drag
        force -= 0.091 + 0.0087 * v
        if v > cap and force > 0.0:
            force = -5.0  # brakes
        v = max(v + force / (mass + 1.5) * _STEP, 0.8)
        s += v * _STEP
        work += p * _STEP
        steps += 1
        if steps % 10 == 0:
            f = 1.0 - (1.0 - f) * math.exp(-1.0 / fade)
            k += 1
            rows[k] = (s, v, work)
            work = 0.0
    return rows[: k + 1]


def _walk(rng: np.random.Generator, count: int, deviation: float, time: float) -> np.ndarray:
    """Return noise that remembers itself for so many seconds."""
    out, keep = np.empty(count), math.exp(-1.0 / time)
    shocks = rng.normal(0.0, deviation * math.sqrt(1.0 - keep * keep), count)
    value = rng.normal(0.0, deviation)
    for k in range(count):
        value = keep * value + shocks[k]
        out[k] = value
    return out


@dataclass(frozen=True, kw_only=True)
class Recorded:
    """What the sensors wrote, a row a second."""

    times: np.ndarray  # s since 1970
    latitudes: np.ndarray
    longitudes: np.ndarray
    heights: np.ndarray
    distances: np.ndarray
    speeds: np.ndarray
    powers: np.ndarray
    temps: np.ndarray


def ride(
    truth: Truth,
    hills: Hills,
    seed: int,
    *,
    steps: tuple[float, ...] = (),
    halts: tuple[tuple[float, float], ...] = (),
    cap: float = 13.5,
    night: float = 0.06,
    start: datetime = datetime(2027, 5, 2, 7, tzinfo=UTC),
) -> Recorded:
    """Ride a course. `steps`: what is held, over `power`, by stretches of ten minutes; `halts`: m, s."""
    rng = np.random.default_rng(seed)
    ds = 5.0
    grid = np.arange(0.0, hills.length + 200.0, ds)
    most = int(hills.length / 2.0 + sum(time for _, time in halts)) + 4_000
    held = np.ones(most) if not steps else np.repeat(steps, 600)[np.arange(most) % (600 * len(steps))]
    wanted = truth.power * held * (1.0 + _walk(rng, most, 0.06, 40.0))
    speed = math.hypot(*truth.wind)
    gusts = _walk(rng, most, truth.gust * speed, 8.0)
    rho = 101_325.0 * (1.0 - 2.25577e-5 * hills.base) ** 5.25588 / (287.05 * (truth.temp + 273.15))
    rows = _integrate(hills.slope(grid), hills.heading(grid), ds, hills.length, wanted, truth.crr, truth.cda,
                      truth.mass, truth.efficiency, truth.wind[0], truth.wind[1], gusts, rho, cap,
                      np.array([h for h, _ in halts]), np.array([t for _, t in halts]), truth.fade_hours * 3600.0,
                      truth.recovery_hours * 3600.0, truth.endurance, night,
                      float(start.hour * 3600), most)  # fmt: skip
    s, v, p = rows.T
    n = s.size
    heading = hills.heading(s)
    east = np.concatenate(([0.0], np.cumsum(np.diff(s) * np.sin(heading[1:]))))
    north = np.concatenate(([0.0], np.cumsum(np.diff(s) * np.cos(heading[1:]))))
    heights = hills.height(s)
    return Recorded(
        times=start.timestamp() + np.arange(n, dtype=float),
        latitudes=46.0 + (north + _walk(rng, n, 2.0, 30.0)) / 111_200.0,
        longitudes=8.0 + (east + _walk(rng, n, 2.0, 30.0)) / (111_320.0 * math.cos(math.radians(46.0))),
        heights=heights + _walk(rng, n, 1.0, 600.0) + rng.normal(0.0, 0.25, n),
        distances=s,
        speeds=np.maximum(v + rng.normal(0.0, 0.03, n), 0.0),
        powers=np.maximum(p * truth.meter * (1.0 + rng.normal(0.0, 0.02, n)), 0.0).round(),
        temps=np.full(n, truth.temp),
    )
