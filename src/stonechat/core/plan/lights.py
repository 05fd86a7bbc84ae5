"""The lamps of a ridden race."""

from stonechat.core.charge.light import DIMS
from stonechat.core.charge.lights import Lights, SecondLamp
from stonechat.core.charge.report import BatteryLine, Charge
from stonechat.core.charge.things import Electric
from stonechat.core.kit.item import Item
from stonechat.core.kit.jobs import doers
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.power_worth import SECOND, SECONDS
from stonechat.core.rig.spots import SPOTS

_AT_HAND = ("riding", "foot")  # access of carriers in which a lamp is found in the dark


def lights_of(ridden: Ridden) -> Lights:
    """Return what lights the dark hours of a race.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    lights : Lights
        Front, second and rear lamps, and what makes one seen.
    """
    charge = ridden.report(Charge)
    by_hub = ridden.rig.bike.dynamo and charge.electrics.has_hub_light
    front, behind = _first(charge, "light"), _first(charge, "rear")
    rear = front if behind is None and front is not None and front.thing.kind == "light_set" else behind
    riding = charge.steps.dark & (charge.steps.speeds > 0.0)
    dim = float(charge.steps.lengths[riding & (charge.steps.speeds < DIMS)].sum()) / 3600.0
    names = {item.id: item for item in ridden.kit.items}
    burns = 0.0 if rear is None or rear.thing.dark <= 0.0 else rear.thing.capacity / rear.thing.dark
    lamps = [one for one in charge.electrics.devices if one.kind in SECONDS]
    return Lights(
        dark=charge.dark,
        front=None if front is None else front.thing,
        front_hours=0.0 if front is None else charge.hours_of(front.thing),
        front_wanted=float(charge.beam.sum()),
        unlit=0.0 if front is None else front.without,
        front_left=0.0 if front is None else front.lowest * charge.hours_of(front.thing),
        by_hub=by_hub,
        dim=dim if by_hub else 0.0,
        seconds=tuple(_second(ridden, names[one.id], one) for one in lamps if one.id in names),
        rear=None if rear is None else rear.thing,
        rear_by_hub=ridden.rig.bike.dynamo and charge.electrics.has_hub_rear,
        rear_hours=burns,
        rear_left=0.0 if rear is None else rear.lowest * burns,
        rear_unlit=0.0 if rear is None else rear.without,
        seen=tuple(item.name for item in doers("seen", ridden.kit.items)),
    )


def _first(charge: Charge, role: str) -> BatteryLine | None:
    """Return the battery of a role that lasts longest."""
    lines = [line for line in charge.lines if line.thing.role == role]
    return min(lines, key=lambda line: (line.without, -line.thing.capacity), default=None)


def _second(ridden: Ridden, item: Item, lamp: Electric) -> SecondLamp:
    carrier = next((c for c in ridden.rig.carriers if c.id == ridden.kit.places.get(item.id)), None)
    fixed = SPOTS[item.fixed].name if item.fixed in SPOTS else ""
    where = fixed if item.in_spot or carrier is None else carrier.name
    return SecondLamp(
        id=item.id,
        name=item.name,
        hours=lamp.capacity / SECOND,
        where=where or ("worn" if item.worn else "no place yet"),
        is_at_hand=item.in_spot or item.worn or (carrier is not None and carrier.access in _AT_HAND),
    )
