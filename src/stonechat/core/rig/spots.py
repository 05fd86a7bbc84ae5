"""Spots on bike and helmet where single things are fixed: lights, navigation unit, pump on its bracket."""

import math
from dataclasses import dataclass

from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.geometry import carrier_position, rider_position

HEAD_HEIGHT = 0.42  # m of a helmet above the rider's middle, low on the bars (estimate)
DRAG_COEFFICIENT = 0.9  # 1, of a small blunt body such as a lamp (estimate, as of carriers)


@dataclass(frozen=True, kw_only=True)
class Spot:
    """One spot. Where it sits is taken from the place named, as for a carrier there."""

    key: str
    name: str
    place: str = ""  # key of PLACES; empty: on the rider's head
    room: int  # how many things sit there without getting in one another's way (estimate)
    shield: float  # 1, share of the wind that bike and rider keep off it (estimate)
    sky: bool = False  # whether it sees the sky
    sight: bool = False  # whether the rider sees it


SPOTS: dict[str, Spot] = {
    spot.key: spot
    for spot in (
        Spot(key="bars", name="on the bars", place="bar_top", room=4, shield=0.4, sky=True, sight=True),
        Spot(key="stem", name="on the stem", place="stem", room=2, shield=0.7, sky=True, sight=True),
        Spot(key="aero", name="on the aero bars", place="aero", room=3, shield=0.5, sky=True, sight=True),
        Spot(key="helmet", name="on the helmet", room=2, shield=0.3, sky=True),
        Spot(key="seatpost", name="on the seat post", place="seat_top", room=3, shield=0.93),
        Spot(key="fork", name="at the fork crown", place="front_guard", room=2, shield=0.5),
        Spot(key="frame", name="on the frame", place="bottle_seat", room=3, shield=0.95),
        Spot(key="bag", name="outside on a bag", place="seat_top", room=3, shield=0.85, sky=True),
    )
}


def spot_position(bike: Bike, key: str) -> tuple[float, float, float]:
    """Return where a thing sits that is fixed in a spot.

    Parameters
    ----------
    bike : Bike
        The bike.
    key : str
        Key of SPOTS.

    Returns
    -------
    position : tuple of float
        x forward from the rear contact, y to the left, z up; that of the place, in the middle. [m]

    Examples
    --------
    >>> bars, post = spot_position(Bike(), "bars"), spot_position(Bike(), "seatpost")
    >>> bars[0] > 0.7 > post[0], bars[1]
    (True, 0.0)
    """
    spot = SPOTS[key]
    if not spot.place:
        x, y, z = rider_position(bike)
        return x + 0.25, y, z + HEAD_HEIGHT
    here = Carrier(id=key, name=key, place=spot.place, capacity=0.001, load_limit=1.0, mass=0.0, longest=0.2)
    x, _, z = carrier_position(bike, here)
    return x, 0.0, z


def spot_drag(key: str, volume: float) -> float:
    """Return the drag area that things add which are fixed in a spot.

    Parameters
    ----------
    key : str
        Key of SPOTS.
    volume : float
        Of one thing, taken to be about as long as it is high and wide. [m³]

    Returns
    -------
    drag_area : float
        Drag coefficient times the area of one side times what is not shielded (estimate). [m²]

    Examples
    --------
    >>> round(1e4 * spot_drag("bars", 64e-6), 2)  # cm² of a lamp of four centimetres
    8.64
    """
    side = math.cbrt(volume) ** 2
    return DRAG_COEFFICIENT * side * (1.0 - SPOTS[key].shield)
