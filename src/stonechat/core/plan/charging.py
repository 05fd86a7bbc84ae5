"""The electricity of a ridden race: its steps, and what becomes of every battery."""

import numpy as np

from stonechat.core.charge.dynamo import charger_output
from stonechat.core.charge.report import Charge
from stonechat.core.charge.run import STEP, Batteries, Steps, run_batteries
from stonechat.core.charge.things import Electrics, electrics_of
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.numerics.arrays import FloatArray

_SLOW, _LOW_MODE = 4.0, 0.53  # m/s below which the front light is turned down; 1, of its draw then (estimates)
_REST = 3600.0  # s, in a halt of an hour everything is put on the bank (estimate)
_INDOORS = 18.0  # °C where one charges at a socket (estimate)


def charge_of(ridden: Ridden) -> Charge:
    """Return what becomes of every battery.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    charge : Charge
        All begin full; things that join on the way are there from the start.
    """
    electrics = electrics_of(ridden.kit.items, electronic=ridden.rig.bike.electronic)
    steps, hub, wall = steps_of(ridden, electrics)
    every = (*electrics.devices, *electrics.banks)
    capacities = np.array([one.capacity for one in every], dtype=np.float64)
    loads = np.zeros((steps.lengths.size, len(electrics.devices)))
    lit_by_hub = ridden.rig.bike.dynamo and electrics.has_hub_light
    for k, one in enumerate(electrics.devices):
        dark = 0.0 if lit_by_hub and one.role in ("light", "rear") else one.dark
        rides = steps.speeds > 0.0
        slow = np.where(steps.speeds < _SLOW, _LOW_MODE if one.role == "light" else 1.0, 1.0)
        loads[:, k] = one.always + one.riding * rides + dark * slow * (rides & steps.dark)
    run = run_batteries(
        steps,
        loads,
        Batteries(
            capacities=capacities,
            levels=capacities.copy(),
            takes=np.array([one.charge for one in every], dtype=np.float64),
            devices=len(electrics.devices),
        ),
    )
    return Charge(
        electrics=electrics,
        steps=steps,
        run=run,
        dark_hours=float(ridden.ride.times[ridden.ride.dark].sum()) / 3600.0,
        hub=hub,
        wall=wall,
    )


def steps_of(ridden: Ridden, electrics: Electrics) -> tuple[Steps, float, float]:
    """Return a race by steps of a minute at most, and what hub and sockets could give.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.
    electrics : Electrics
        For chargers.

    Returns
    -------
    steps : Steps
        Riding, then halting, segment by segment.
    hub, wall : float
        Energy from the hub, and from sockets. [Wh]
    """
    ride, profile = ridden.ride, ridden.way.profile
    spans = np.diff(ride.clocks)
    reaching = 1.0 + ridden.timetable.clock.reach_share
    riding = np.minimum(ride.times * reaching, spans)
    halting = np.maximum(spans - riding, 0.0)
    hub = _hub(ridden, electrics)
    wall = _walls(ridden, electrics, halting)
    next_temps = np.append(ride.temps[1:], ride.temps[-1:])

    def woven(first: FloatArray, second: FloatArray) -> FloatArray:
        return np.column_stack((first, second)).ravel()

    lengths = woven(riding, halting)
    parts = np.maximum(np.ceil(lengths / STEP), 1).astype(np.int64)
    kept = np.repeat(lengths > 1e-6, parts)

    def spread(values: FloatArray) -> FloatArray:
        return np.asarray(np.repeat(values, parts)[kept])

    begins = woven(ride.clocks[:-1], ride.clocks[:-1] + riding)
    number = np.arange(parts.sum()) - np.repeat(np.cumsum(parts) - parts, parts)
    each = np.repeat(lengths / parts, parts)
    ends = np.append(profile.distances[1:], profile.length)[: riding.size]
    outside = woven(hub, wall)
    steps = Steps(
        begins=(np.repeat(begins, parts) + number * each)[kept],
        lengths=each[kept],
        distances=spread(woven(profile.distances[: riding.size], ends)),
        speeds=spread(woven(profile.lengths / np.maximum(ride.times, 1e-6), np.zeros(riding.size))),
        dark=spread(woven(ride.dark.astype(np.float64), ride.dark.astype(np.float64))) > 0.5,
        temps=spread(woven(ride.temps, np.where(wall > 0.0, _INDOORS, next_temps))),
        outside=spread(outside),
        resting=spread(woven(np.zeros(halting.size), (halting >= _REST).astype(np.float64))) > 0.5,
    )
    return steps, float((hub * riding).sum() / 3600.0), float((wall * halting).sum() / 3600.0)


def _hub(ridden: Ridden, electrics: Electrics) -> FloatArray:
    """Return what the hub gives to charge on each segment: by day alone where it lights by night. [W]"""
    ride, lengths = ridden.ride, ridden.way.profile.lengths
    if not (ridden.rig.bike.dynamo and electrics.has_hub_charger):
        return np.zeros(lengths.size)
    output = charger_output(lengths / np.maximum(ride.times, 1e-6))
    return np.where(ride.dark, 0.0, output) if electrics.has_hub_light else output


def _walls(ridden: Ridden, electrics: Electrics, halting: FloatArray) -> FloatArray:
    """Return what a socket gives in the halt after each segment. [W]"""
    found = np.zeros(halting.size)
    segments = ridden.timetable.clock.stays.segments
    for k, visit in enumerate(ridden.timetable.visits[:-1]):
        if visit.stop is not None and not visit.passed and "socket" in visit.stop.offers:
            found[max(int(segments[k]) - 1, 0)] = electrics.wall
    return found
