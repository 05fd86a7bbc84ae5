"""How warm the rests of a ridden race are."""

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.line.weather import temperature_at_height
from stonechat.core.night.ladder import Ladder
from stonechat.core.night.report import RestWarmth, Warmth
from stonechat.core.night.sleep import ground_temperature
from stonechat.core.plan.nights import Rest, rests_of

_RIDDEN_IN, _RAINED_ON = 1.0, 0.5  # h, what is worn riding for so long, or in rain, is no dry change (estimates)
_OUTERMOST = 1  # layer that is still next to the sweat
_SNOW = -2.0  # °C, mean of a day at the place from which the ground is taken for snow (estimate)
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
    ridden_in = damp_at_night(ridden.report(Ladder))
    return Warmth(rests=tuple(_rest(ridden, rest, ridden_in) for rest in rests_of(ridden)))


def damp_at_night(ladder: Ladder) -> frozenset[str]:
    """Return what is no dry change at night: worn long next to the skin or over it, or out in the rain.

    Parameters
    ----------
    ladder : Ladder
        What is worn when.

    Returns
    -------
    damp : frozenset of str
        Ids.
    """
    found = set()
    hours, wet = ladder.spells.lengths / 3600.0, ladder.spells.wet
    for piece in ladder.pieces:
        zone = ladder.zones[piece.garment.cut.zone]
        worn = zone.worn(piece.garment.id)
        dry = np.array([outfit.sheds_rain for outfit in zone.outfits])[zone.chosen]
        rained_on = float(hours[worn & wet & ~dry].sum())
        if (piece.garment.cut.layer <= _OUTERMOST and piece.hours >= _RIDDEN_IN) or rained_on >= _RAINED_ON:
            found.add(piece.garment.id)
    return frozenset(found)


def _rest(ridden: Ridden, rest: Rest, ridden_in: frozenset[str]) -> RestWarmth:
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
        ground=ground_temperature(low=rest.low, mean=max(mean, rest.low), snow=mean <= _SNOW),
        on_snow=mean <= _SNOW,
        wind=_LYING * sky.shelter * float(sky.wind_speeds[day]),
        leg=leg,
        in_bed=rest.stop is not None and rest.stop.has_warm_bed,
        shift=ridden.body.runs_cold,
        items=tuple(ridden.aboard_on(leg)),
        ridden_in=ridden_in,
        rain=bool(sky.wet[day] > 0.0),
    )
