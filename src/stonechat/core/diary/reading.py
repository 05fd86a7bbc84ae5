"""A ride read: cleaned, put onto the course, fitted; what it tells and what it cannot."""

import hashlib
from dataclasses import dataclass
from datetime import UTC, datetime
from math import hypot

import numpy as np

from stonechat.core.diary.drag_fit import DragFit, Refusal, Setting, fit_drag
from stonechat.core.diary.power_fit import PowerFit, fit_power
from stonechat.core.diary.record import MOVING, RideRecord, Usable, pauses_of, usable
from stonechat.core.diary.rides import Curve, Ride, Told
from stonechat.core.diary.trail import Matched, Trail, match_trail
from stonechat.core.line.profile import Profile
from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.rhythm.rider import Rider

_MOST_POINTS = 240  # of a curve
_OFF_COURSE = 0.5  # 1, share of positions off the course from which it was another way
_ANOTHER_DAY = 6.0 * 3600.0  # s from the planned start from which the day is doubted
# 1, by how much more than the power meter drag and rolling are off, as simulated rides show: what is too much of
# power on climbs looks like rolling, which then leaves too little for drag
_METER_IN_DRAG, _METER_IN_ROLLING = 1.0, 4.5
_TOO_FAR = 1.15  # 1, rolling over the most that a surface has, from which the meter is doubted


@dataclass(frozen=True, kw_only=True)
class Asked:
    """What the rider says of a ride, and what the plan says of its rider."""

    name: str
    purpose: str
    mass: float  # kg
    surface: str
    rider: Rider
    drag_area: float  # m², with bags, as planned; used where there is no power meter
    bag_drag: float  # m² of it, of bags and what is fixed
    rolling: float  # 1
    rolling_most: float = 0.0  # 1, the most that the surface has; 0: not known
    inertia: float  # kg
    start: datetime  # planned start, with its zone
    profile: Profile


def read_in(record: RideRecord, asked: Asked) -> Ride:
    """Return what a ride came to.

    Parameters
    ----------
    record : RideRecord
        As read from its file.
    asked : Asked
        What must be known beside it.

    Returns
    -------
    ride : Ride
        With what it tells, what was wrong with it, and what it cannot tell.
    """
    good = usable(record)
    record = good.record
    start = datetime.fromtimestamp(float(record.times[0]), UTC)
    matched = _on_course(record, asked)
    told, refusals, hours, residual, from_speed = _fits(good, asked)
    speeds, halts = np.nan_to_num(record.speeds), pauses_of(record)
    is_race = asked.purpose == "race" and matched.off < _OFF_COURSE
    # a file that has grown is the same ride
    mark = f"{record.times[0]:.0f} {np.nan_to_num(record.latitudes[0]):.4f} {asked.purpose}"
    return Ride(
        id=hashlib.sha256(mark.encode()).hexdigest()[:12],
        name=asked.name,
        purpose=asked.purpose if is_race or asked.purpose != "race" else "other",
        start=start,
        length=record.length,
        moving=float(record.steps[speeds > MOVING].sum()),
        distance=float((speeds * record.steps).sum()),
        mass=asked.mass,
        surface=asked.surface,
        has_power=record.has_power,
        faults=good.faults + _of_place(matched, asked, start),
        refusals=refusals,
        figures=told,
        from_speed=from_speed,
        trail=matched.trail if is_race else Trail(),
        off_course=matched.off,
        pauses=len(halts),
        paused=float(sum(halts)),
        hours=hours,
        residual=residual,
    )


def _on_course(record: RideRecord, asked: Asked) -> Matched:
    if asked.purpose != "race":
        return Matched(trail=Trail(), off=0.0)
    elapsed = record.times - record.times[0]
    every = max(1, record.times.size // 20_000)
    return match_trail(elapsed[::every], record.latitudes[::every], record.longitudes[::every], asked.profile)


def _of_place(matched: Matched, asked: Asked, start: datetime) -> tuple[str, ...]:
    if asked.purpose != "race":
        return ()
    if matched.off >= _OFF_COURSE:
        return (f"{100.0 * matched.off:.0f} % of its positions lie off this course: it is kept as another ride.",)
    trail = matched.trail
    said = []
    if matched.off > 0.02:
        said.append(f"{100.0 * matched.off:.0f} % of its positions lie off the course and are left out.")
    if not trail.is_empty and trail.distances[-1] < 0.98 * asked.profile.length:
        said.append(f"It ends at {trail.distances[-1] / 1e3:.0f} km: what lies beyond is not known.")
    off = (start - asked.start).total_seconds()
    if abs(off) > _ANOTHER_DAY:
        side = "after" if off > 0.0 else "before"
        said.append(f"It begins {abs(off) / 3600.0:.0f} h {side} the planned start: is its day right?")
    return tuple(said)


_Fits = tuple[dict[str, Told], tuple[str, ...], Curve, Curve, bool]


def _fits(good: Usable, asked: Asked) -> _Fits:
    record = good.record
    if not record.is_cycling:
        return {}, (), Curve(), Curve(), False
    told: dict[str, Told] = {}
    refusals: list[str] = []
    hours, residual = Curve(), Curve()
    drag = _drag(record, asked)
    if isinstance(drag, Refusal):
        refusals.append(f"Drag: {drag.reason} What would: {drag.would}")
    elif drag is not None:
        told |= _of_drag(drag, asked.bag_drag)
        if asked.rolling_most and drag.rolling > _TOO_FAR * asked.rolling_most:
            refusals.append(
                f"Rolling of {drag.rolling:.4f} is more than this surface has: the power meter may read high, the mass "
                "may be wrong, or a brake rubbed. Take none of its figures before you know."
            )
        residual = _curve(np.arange(drag.residuals.size) / 6.0, drag.residuals, np.zeros(drag.residuals.size))
    zone = asked.start.utcoffset()
    power = fit_power(
        record, asked.rider, mass=asked.mass, local_offset=zone.total_seconds() if zone else 0.0,
        rolling=asked.rolling, drag_area=asked.drag_area,
    )  # fmt: skip
    if isinstance(power, str):
        refusals.append(f"Power: {power}")
        return told, tuple(refusals), hours, residual, False
    told |= _of_power(power)
    hours = _curve(power.hours / 3600.0, power.measured, power.fitted)
    if power.why_not:
        refusals.append(power.why_not)
    return told, tuple(refusals), hours, residual, power.from_speed


def _drag(record: RideRecord, asked: Asked) -> DragFit | Refusal | None:
    """Return what a ride tells of drag, nothing where it has no heights, which is said already."""
    if not record.has_heights:
        return None
    if not asked.surface:
        return Refusal(
            reason="It was ridden on several surfaces, whose rolling cannot be told apart from it.",
            would="A ride on one surface, named when it is read in.",
        )
    return fit_drag(record, Setting(mass=asked.mass, efficiency=asked.rider.drivetrain, inertia=asked.inertia))


def _of_drag(fit: DragFit, bags: float) -> dict[str, Told]:
    # the meter's own error is added: no ride shows it
    drag = hypot(fit.drag_band, 1.96 * fit.meter_band * _METER_IN_DRAG * fit.drag_area)
    rolling = hypot(fit.rolling_band, 1.96 * fit.meter_band * _METER_IN_ROLLING * fit.rolling)
    return {
        "drag_area": Told(
            value=fit.drag_area - bags, low=fit.drag_area - bags - drag, high=fit.drag_area - bags + drag
        ),
        "rolling": Told(value=fit.rolling, low=max(0.0005, fit.rolling - rolling), high=fit.rolling + rolling),
    }


def _of_power(fit: PowerFit) -> dict[str, Told]:
    told = {"power": Told(value=fit.power, low=fit.power - fit.power_band, high=fit.power + fit.power_band)}
    if fit.endurance is None or fit.fade_time is None or fit.recovery_time is None:
        return told
    told["endurance"] = Told(
        value=fit.endurance,
        low=max(0.0, fit.endurance - fit.endurance_band),
        high=min(1.0, fit.endurance + fit.endurance_band),
    )
    for key, value, factor in (
        ("fade_time", fit.fade_time / 3600.0, fit.fade_factor),
        ("recovery_time", fit.recovery_time / 3600.0, fit.recovery_factor),
    ):
        told[key] = Told(value=value, low=value / factor, high=value * factor)
    return told


def _curve(at: FloatArray, measured: FloatArray, fitted: FloatArray) -> Curve:
    if not at.size:
        return Curve()
    keep = np.unique(np.linspace(0, at.size - 1, min(at.size, _MOST_POINTS)).astype(np.int64))
    lines = (tuple(values[keep].round(3).tolist()) for values in (at, measured, fitted))
    return Curve(**dict(zip(("at", "measured", "fitted"), lines, strict=True)))
