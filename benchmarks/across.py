"""The ride by steady speed in NumPy, all races at once: a loop over segments, arrays over races; to compare with."""

import numpy as np

from stonechat.core.numerics.arrays import FloatArray
from stonechat.core.physics.constants import BEARING_CONSTANT, BEARING_SLOPE, GRAVITY, LAPSE_RATE
from stonechat.core.rhythm.inputs import Clock, Course, RiderNumbers
from stonechat.core.rhythm.many import Luck
from stonechat.core.rhythm.ride import WALKING_EFFORT
from stonechat.core.rhythm.segment import BLUR, CHANGE_COST, STOP_COST

_DAY = 86_400.0
_WIND = 0.604


def _temperature(clock: Clock, local: FloatArray, warmth: FloatArray) -> FloatArray:
    """Return temperatures at the reference height; every day is alike in the benchmark."""
    rise, down = clock.sky.sunrises[0, 0] / 3600.0, clock.sky.sunsets[0, 0] / 3600.0
    low, high = clock.sky.lows[0] + warmth, clock.sky.highs[0] + warmth
    hour, length, start = (local % _DAY) / 3600.0, down - rise, rise - 0.17
    night = 24.0 - length - 0.17
    day = low + (high - low) * np.sin(np.pi * (hour - start) / (length + 3.72))
    warm = low + (high - low) * np.sin(np.pi * (down - start) / (length + 3.72))
    since = np.where(hour > down, hour - down, hour + 24.0 - down)
    floor = np.exp(-2.2)
    dark = low + (warm - low) * (np.exp(-2.2 * since / night) - floor) / (1.0 - floor)
    return np.where((hour >= start) & (hour <= down), day, dark)


def _density(height: float, temp: FloatArray, humidity: float) -> FloatArray:
    pressure = 101_325.0 * (1.0 - 2.25577e-5 * height) ** 5.25588
    kelvin = temp + 273.15
    vapour = humidity * 610.94 * np.exp(17.625 * temp / (243.04 + temp))
    return (pressure - vapour) / (287.053 * kelvin) + vapour / (461.495 * kelvin)


def _steady(wheel: FloatArray, base: float, half: FloatArray, head: FloatArray, cross: FloatArray,
            guess: FloatArray) -> FloatArray:  # fmt: skip
    """Return steady speeds by Newton's rule held in a bracket."""

    def force(speed: FloatArray) -> tuple[FloatArray, FloatArray]:
        along = speed + head
        air = np.sqrt(along * along + cross * cross)
        curved = np.where(air > 0.0, along * along / np.maximum(air, 1e-12), 0.0)
        return base + half * air * along + BEARING_SLOPE * speed, half * (air + curved) + BEARING_SLOPE

    low, high = np.zeros(guess.size), np.maximum(guess, 1.0)
    for _ in range(60):
        under = force(high)[0] - wheel / high <= 0.0
        if not under.any():
            break
        low, high = np.where(under, high, low), np.where(under, 2.0 * high, high)
    speed = np.clip(guess, np.maximum(low, 1e-3), high)
    for _ in range(100):
        resists, slope = force(speed)
        balance = resists - wheel / speed
        high, low = np.where(balance > 0.0, speed, high), np.where(balance > 0.0, low, speed)
        step = speed - balance / (slope + wheel / (speed * speed))
        step = np.where((low <= step) & (step <= high) & (step > 0.0), step, 0.5 * (low + high))
        if (np.abs(step - speed) <= 1e-9 * speed).all():
            return step
        speed = step
    return speed


def ride_across(
    course: Course, rider: RiderNumbers, clock: Clock, masses: FloatArray, drags: FloatArray, luck: Luck
) -> FloatArray:
    """Return the finish of each race. [s]"""
    races = luck.power.size
    now, fatigue, speed, before = np.zeros(races), np.zeros(races), np.full(races, 5.0), np.zeros(races)
    night, k, stops = np.zeros(races, dtype=np.int64), 0, clock.stays.segments
    for i in range(course.lengths.size):
        while k < stops.size and stops[k] <= i:
            stay = clock.stays.dwells[k] + STOP_COST
            now += stay
            fatigue *= np.exp(-stay / (3.0 * rider.legs.recovery_time))
            speed[:] = 1.5
            k += 1
        come = clock.start_of_day + now >= clock.nights.begin[night]
        if come.any():
            rest = np.where(come, np.maximum(clock.nights.until[night] - clock.start_of_day - now, 0.0), 0.0)
            asleep = np.maximum(rest - clock.nights.camp_time, 0.0)
            fatigue = np.where(rest > 0.0, fatigue * np.exp(-asleep / rider.legs.recovery_time), fatigue)
            speed = np.where(rest > 0.0, 1.5, speed)
            now, night = now + rest, night + come
        local, height, grade = clock.start_of_day + now, float(course.heights[i]), float(course.grades[i])
        of_day, length = local % _DAY, float(course.lengths[i])
        temp = _temperature(clock, local, luck.warmth) - LAPSE_RATE * (height - clock.sky.reference_height)
        density = _density(height, temp, float(clock.sky.humidities[0]))
        light = (clock.sky.sunrises[0, 0] <= of_day) & (of_day < clock.sky.sunsets[0, 0])
        cap = course.caps[i] * np.where(light, 1.0, rider.night_cap)
        angle = np.radians(clock.sky.winds_from[0] - course.headings[i])
        wind = _WIND * clock.sky.shelter * clock.sky.wind_speeds[0] * luck.wind
        from_four = (of_day / 3600.0 - 4.0 + 12.0) % 24.0 - 12.0
        dip = 1.0 - rider.legs.night_dip * np.maximum(0.0, np.cos(np.pi * from_four / 12.0))
        km = min(max(height, 0.0), 4_500.0) / 1000.0
        thin = (-1.12 * km * km - 1.90 * km + 99.9) / 99.9
        held = (
            rider.legs.power
            * luck.power
            * (1.0 - rider.pace.coasting)
            * (1.0 - (1.0 - rider.legs.endurance) * fatigue)
            * dip
            * thin
        )
        pace = rider.pace.uphill if grade >= 0.0 else rider.pace.downhill
        wheel = held * min(max(1.0 + pace * grade, 0.0), rider.pace.most) * rider.drivetrain
        cosine = 1.0 / np.sqrt(1.0 + grade * grade)
        rolling = float(course.rolling[i])
        pushed = masses[i] - rider.body_mass
        s = min(max(grade, -0.45), 0.45)
        walk = ((((280.5 * s - 58.7) * s - 76.8) * s + 51.9) * s + 19.6) * s + 2.5
        push = max(0.0, pushed * GRAVITY * (grade + rolling) * cosine)
        cost = walk * rider.body_mass + push / rider.on_foot.push_efficiency
        hiking = rider.on_foot.walk_factor * 6.0 / 3.6 * np.exp(-3.5 * abs(grade + 0.05))
        foot = np.maximum(0.15, np.minimum(hiking, WALKING_EFFORT * held / rider.on_foot.gross_efficiency / cost))
        share = np.ones(races)
        time = length / foot
        leaving = foot
        if grade <= course.grades_most[i]:
            base = masses[i] * GRAVITY * cosine * (grade + rolling) + BEARING_CONSTANT
            steady = _steady(
                wheel,
                base,
                0.5 * density * drags[i],
                wind * np.cos(angle),
                wind * np.sin(angle),
                np.maximum(speed, 1.5),
            )
            riding = np.minimum(steady, cap)
            slowest = np.maximum(course.speeds_least[i], foot)
            z = np.clip((slowest - riding) / (BLUR * slowest), -20.0, 20.0)
            share = np.where(z <= -20.0, 0.0, np.where(z >= 20.0, 1.0, 1.0 / (1.0 + np.exp(-z))))
            time = length / riding + share * (length / foot - length / riding)
            leaving = riding + share * (foot - riding)
        time = time + CHANGE_COST * np.abs(share - before)
        before, speed = share, leaving
        now = now + time * (1.0 + clock.reach_share)
        fatigue = 1.0 - (1.0 - fatigue) * np.exp(-time / rider.legs.fade_time)
    return now
