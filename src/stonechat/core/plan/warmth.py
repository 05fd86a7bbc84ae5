"""How warm the rests of a ridden race are."""

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.line.weather import temperature_at_height
from stonechat.core.night.bedding import bedding_of
from stonechat.core.night.report import RestWarmth, Warmth
from stonechat.core.night.sleep import ground_temperature
from stonechat.core.plan.nights import Rest, rests_of

_LYING = 0.4  # 1, of the wind 10 m above open ground that reaches who lies on it (estimate)


def warmth_of(ridden: Ridden) -> Warmth:
    """Return how warm every rest is, in what is aboard where it falls.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    warmth : Warmth
        In order; a rest at a stop with a bed is in it.
    """
    return Warmth(rests=tuple(_rest(ridden, rest) for rest in rests_of(ridden)))


def _rest(ridden: Ridden, rest: Rest) -> RestWarmth:
    sky = ridden.timetable.clock.sky
    day = int(np.clip((ridden.timetable.clock.start_of_day + rest.begins) // DAY, 0, sky.lows.size - 1))
    mean = float(temperature_at_height(0.5 * float(sky.lows[day] + sky.highs[day]), rest.height, sky.reference_height))
    leg = next((leg.index for leg in ridden.timetable.legs if rest.distance < leg.end), len(ridden.timetable.legs) - 1)
    return RestWarmth(
        night=rest.index,
        distance=rest.distance,
        height=rest.height,
        length=rest.length,
        low=rest.low,
        ground=ground_temperature(low=rest.low, mean=max(mean, rest.low)),
        wind=_LYING * sky.shelter * float(sky.wind_speeds[day]),
        in_bed=rest.stop is not None and rest.stop.has_warm_bed,
        bedding=bedding_of(ridden.aboard_on(leg)),
    )
