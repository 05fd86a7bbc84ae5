"""What follows from how a rig is drawn: the volume of frame bags, and what each carrier costs in the wind."""

from dataclasses import dataclass, replace

from shapely import Polygon
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.front import Exposure, exposures
from stonechat.core.rig.geometry import carrier_box, carrier_outline
from stonechat.core.rig.places import FRAME_PLACES

SHADOW_BAND = 0.10  # 1, how far the flow may be smoothed or stirred by what lies in the shadow (estimate)
SEAMS = 0.92  # 1, room of a frame bag for its drawn shape: seams, foam and rounded edges (estimate)
BOTTLE_PLACES = frozenset({"bottle_down", "bottle_seat"})


@dataclass(frozen=True, kw_only=True)
class Drag:
    """Drag area that a carrier adds: a fixed part, and what it grows to when full."""

    fixed: float  # m²
    full: float  # m²
    low: float  # m², full, least of its band
    high: float  # m², full, most of its band


def drag_of(carrier: Carrier, exposure: Exposure) -> Drag:
    """Return the drag area that a carrier adds by its area in the wind and its shielding.

    Parameters
    ----------
    carrier : Carrier
        For drag coefficient and shielding; rolled small its area shrinks by the two-thirds power of its volume.
    exposure : Exposure
        What of it stands in the wind.

    Returns
    -------
    drag : Drag
        Drag coefficient times area times what is not shielded; what lies in the shadow only widens the band. [m²]

    Notes
    -----
    The form of the increment and all defaults are estimates; each carrier's figures may be typed in instead.

    Examples
    --------
    >>> from stonechat.core.rig.front import exposures
    >>> roll = Carrier(id="r", name="r", place="bar", capacity=0.009, load_limit=3, mass=0.3, longest=0.5,
    ...                shield=0.7, shield_low=0.45, shield_high=0.9)
    >>> drag = drag_of(roll, exposures(Bike(), (roll,), "hoods")[0])
    >>> drag.low < drag.full < drag.high
    True
    """
    coefficient, area = carrier.drag_coefficient, exposure.area
    full = coefficient * area * (1.0 - carrier.shield)
    stirred = coefficient * SHADOW_BAND * exposure.covered
    more = coefficient * area * (carrier.shield - carrier.shield_low)
    less = coefficient * area * (carrier.shield_high - carrier.shield)
    small = (carrier.capacity_least / carrier.capacity) ** (2.0 / 3.0) if carrier.capacity > 0.0 else 1.0
    return Drag(
        fixed=full * small,
        full=full,
        low=full - float((less**2 + stirred**2) ** 0.5),
        high=full + float((more**2 + stirred**2) ** 0.5),
    )


def frame_room(bike: Bike, carrier: Carrier, others: tuple[Carrier, ...]) -> float:
    """Return the volume of a frame bag from the drawn triangle and its thickness, less bottles in its way.

    Parameters
    ----------
    bike : Bike
        The bike.
    carrier : Carrier
        A bag in the main triangle; its width is the thickness at the knees.
    others : tuple of Carrier
        What else is mounted.

    Returns
    -------
    volume : float
        Drawn area without bottles, times thickness, times what seams and edges leave. [m³]

    Examples
    --------
    >>> bag = Carrier(id="f", name="f", place="frame", capacity=0.004, load_limit=4, mass=0.2, longest=0.4, width=0.06)
    >>> 0.003 < frame_room(Bike(), bag, ()) < 0.008
    True
    """
    _, width, _ = carrier_box(carrier)
    shape = Polygon(carrier_outline(bike, carrier))
    bottles: list[BaseGeometry] = [
        Polygon(carrier_outline(bike, other)).buffer(0.008)
        for other in others
        if other.mounted and other.place in BOTTLE_PLACES
    ]
    bladders = sum(c.capacity for c in others if c.mounted and c.kind == "bladder" and c.id != carrier.id)
    room = float(shape.difference(unary_union(bottles)).area) * width * SEAMS
    return max(0.0, room - bladders) if carrier.place != "frame_upper" else room


def fit_rig(bike: Bike, carriers: tuple[Carrier, ...], position: str) -> tuple[Carrier, ...]:
    """Return carriers with capacity and drag as drawn, where they are not set by hand.

    Parameters
    ----------
    bike : Bike
        The bike.
    carriers : tuple of Carrier
        All carriers of the rig; those not mounted are drawn as if each alone were added.
    position : str
        The rider's usual posture.

    Returns
    -------
    carriers : tuple of Carrier
        In the same order; volumes to whole millilitres, drag to a hundredth of a square centimetre.

    Examples
    --------
    >>> bag = Carrier(id="f", name="f", place="frame", capacity=0.001, load_limit=4, mass=0.2, longest=0.4,
    ...               capacity_by_hand=False)
    >>> fit_rig(Bike(), (bag,), "hoods")[0].capacity > 0.003
    True
    """
    fitted = tuple(
        replace(c, capacity=max(round(frame_room(bike, c, carriers) * 1e6), 50) / 1e3 / 1e3)
        if c.place in FRAME_PLACES and not c.capacity_by_hand
        else c
        for c in carriers
    )
    drags = drags_of(bike, fitted, position)
    return tuple(c if c.drag_by_hand else _with_drag(c, drags[c.id]) for c in fitted)


def drags_of(bike: Bike, carriers: tuple[Carrier, ...], position: str) -> dict[str, Drag]:
    """Return the drag area of every carrier as drawn, whatever is set by hand.

    Parameters
    ----------
    bike : Bike
        The bike.
    carriers : tuple of Carrier
        All carriers; one that is not mounted is judged as if it were added to those that are.
    position : str
        The rider's usual posture.

    Returns
    -------
    drags : dict of str to Drag
        By carrier. [m²]

    Examples
    --------
    >>> drags_of(Bike(), (), "hoods")
    {}
    """
    hung = tuple(carrier for carrier in carriers if carrier.mounted)
    seen = {entry.carrier_id: entry for entry in exposures(bike, hung, position)}
    for carrier in carriers:
        if not carrier.mounted:
            seen[carrier.id] = exposures(bike, (*hung, carrier), position)[-1]
    return {carrier.id: drag_of(carrier, seen[carrier.id]) for carrier in carriers}


def _with_drag(carrier: Carrier, drag: Drag) -> Carrier:
    growing = (drag.full - drag.fixed) / carrier.capacity
    return replace(carrier, drag=round(drag.fixed * 1e4, 2) / 1e4, drag_fill=round(growing * 10.0, 3) / 10.0)
