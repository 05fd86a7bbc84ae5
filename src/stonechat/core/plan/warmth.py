"""How warm the rests of a ridden race are."""

from collections.abc import Iterable

import numpy as np

from stonechat.core.ledger.ridden import Ridden
from stonechat.core.line.stops import DAY
from stonechat.core.line.weather import temperature_at_height
from stonechat.core.night.ladder import Ladder
from stonechat.core.night.report import RestWarmth, Warmth
from stonechat.core.night.sleep import ground_temperature
from stonechat.core.numerics.arrays import BoolArray, FloatArray
from stonechat.core.plan.nights import Rest, rests_of

_RIDDEN_IN, _RAINED_ON = 1.0, 0.5  # h, what is worn riding for so long, or in rain, is no dry change (estimates)
_NEARLY_DRY = 0.5  # 1, of what a piece holds when it is wet: with less it does for the night (estimate)
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
    ladder, rests = ridden.report(Ladder), rests_of(ridden)
    beds = [rest for rest in rests if _in_bed(rest)]
    return Warmth(rests=tuple(_rest(ridden, rest, damp_at_night(ladder, rest, beds)) for rest in rests))


def damp_at_night(ladder: Ladder, rest: Rest, beds: Iterable[Rest]) -> frozenset[str]:
    """Return what is no dry change at a rest: worn long next to the skin or over it, or out in the rain.

    Parameters
    ----------
    ladder : Ladder
        What is worn when.
    rest : Rest
        The rest; what is worn later does not matter to it.
    beds : iterable of Rest
        Rests indoors, where all dries that had time to.

    Returns
    -------
    damp : frozenset of str
        Ids.
    """
    spells = ladder.spells
    earlier = [bed for bed in beds if bed.ends <= rest.begins]
    found = set()
    for piece in ladder.pieces:
        garment, zone = piece.garment, ladder.zones[piece.garment.cut.zone]
        dried = max((bed.ends for bed in earlier if bed.length >= 3600.0 * garment.dries), default=-np.inf)
        since = (spells.clocks < rest.begins) & (spells.clocks >= dried)
        worn = zone.worn(garment.id)[since]
        hours = spells.lengths[since] / 3600.0
        shed = np.array([outfit.sheds_rain for outfit in zone.outfits])[zone.chosen][since]
        sweated = garment.cut.layer <= _OUTERMOST and float(hours[worn].sum()) >= _RIDDEN_IN
        if sweated or _stays_wet(worn * hours, spells.wet[since] & ~shed, garment.dries):
            found.add(garment.id)
    return frozenset(found)


def _stays_wet(hours: FloatArray, rained_on: BoolArray, dries: float) -> bool:
    """Tell whether a piece is still wet: rain wets it in half an hour, riding in the dry dries it, a bag does not."""
    wet = 0.0
    for length, rain in zip(hours.tolist(), rained_on.tolist(), strict=True):
        wet = min(1.0, wet + length / _RAINED_ON) if rain else max(0.0, wet - length / dries)
    return wet >= 1.0 - _NEARLY_DRY


def _in_bed(rest: Rest) -> bool:
    return rest.stop is not None and rest.stop.has_warm_bed


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
        in_bed=_in_bed(rest),
        shift=ridden.body.runs_cold,
        items=tuple(ridden.aboard_on(leg)),
        ridden_in=ridden_in,
        rain=bool(sky.wet[day] > 0.0),
    )
