"""How near momentum and steady speed come to a ride integrated metre by metre, on the demo route and on rollers.

Run: .venv/bin/python benchmarks/momentum.py
The integration takes grade, heading, ground, power and caps as the ride fixed them, and grade either as the segments
have it or as the smoothed heights at every 20 m have it.
"""

import numpy as np

from stonechat.core.line.heights import height_noise, without_noise, without_spikes
from stonechat.core.line.track import distances_of
from stonechat.core.plan.evaluate import evaluate
from stonechat.core.plan.film import masses_along
from stonechat.core.plan.setting import make_setting
from stonechat.core.rhythm.times import segment_times
from stonechat.demo.corvane import demo_plan
from tests.core.physics.test_momentum import rollers
from tests.oracles.dynamics import dynamic_times


def demo_route() -> None:
    """Compare on the demo route, where it is ridden: walked segments are left out on both sides."""
    plan = demo_plan()
    ridden = evaluate(plan, "a").ridden
    setting = make_setting(plan, plan.variants[0], ridden.way.profile)
    masses, drags = masses_along(setting, ridden.settled.values())
    held, profile = ridden.ride.conditions, ridden.way.profile
    times, on_foot = segment_times(setting.course, held, setting.rider, masses, drags)
    steady, _ = segment_times(setting.course, held, setting.rider._replace(momentum=False), masses, drags)
    track = plan.line.track
    at = distances_of(track)
    fine = np.linspace(0.0, profile.length, round(profile.length / 20.0) + 1)
    heights = without_spikes(np.interp(fine, at, track.heights))
    heights = without_noise(heights, 20.0, height_noise(at, track.heights) or 0.0, at)
    fine_grades = np.diff(heights) / np.diff(fine)
    ends = profile.distances
    values = {
        "power": held.wheel_power, "cap": held.caps, "rolling": held.rolling, "head": held.headwinds,
        "cross": held.crosswinds, "drag": drags, "density": held.density, "mass": masses,
    }  # fmt: skip
    ride = (on_foot == 0.0) & (np.roll(on_foot, 1) == 0.0)
    for grades, name in ((profile.grades, "grades of the segments"), (None, "grades every 20 m")):

        def at(what: str, marks: np.ndarray, grades: np.ndarray | None = grades) -> np.ndarray:
            segment = np.clip(np.searchsorted(ends, marks, side="right") - 1, 0, profile.grades.size - 1)
            if what != "grade":
                return values[what][segment]
            if grades is not None:
                return grades[segment]
            return fine_grades[np.minimum((marks // 20.0).astype(int), fine_grades.size - 1)]

        metres = dynamic_times(profile.length, at)
        marks = np.clip(np.searchsorted(ends, np.arange(metres.size), side="right") - 1, 0, profile.grades.size - 1)
        by_segment = np.bincount(marks, weights=metres, minlength=profile.grades.size)
        truth = by_segment[ride].sum()
        print(
            f"demo route, {name}: momentum {100 * (times[ride].sum() / truth - 1):+.2f} %, "
            f"steady {100 * (steady[ride].sum() / truth - 1):+.2f} % ({ride.mean():.1%} of the way)"
        )


if __name__ == "__main__":
    for wavelength, steepest in ((500.0, 0.04), (1_000.0, 0.05), (2_000.0, 0.06), (5_000.0, 0.06)):
        for segment in (100.0, 50.0, 25.0):
            momentum, steady = rollers(wavelength, steepest, segment)
            print(f"sine of {wavelength:5.0f} m, {steepest:.0%}, segments of {segment:3.0f} m: "
                  f"momentum {100 * (momentum - 1):+.2f} %, steady {100 * (steady - 1):+.2f} %")  # fmt: skip
    demo_route()
