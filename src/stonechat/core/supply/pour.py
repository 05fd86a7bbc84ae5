"""Which bottle the water of a leg rides in."""

from collections.abc import Mapping

from stonechat.core.rig.carrier import ACCESS_RANK, Carrier

WATER_DENSITY = 1.0  # kg/l
ICE_BELOW = -2.0  # °C of the air on a leg from which water in the open is at risk (estimate)
_KEPT_WARM = {"body": 0, "frame": 1, "open": 2}


def holds(carrier: Carrier) -> float:
    """Return how much water a carrier holds.

    Parameters
    ----------
    carrier : Carrier
        The carrier.

    Returns
    -------
    capacity : float
        As far as its load limit bears it; none where it takes none. [l]
    """
    if "water" not in carrier.takes:
        return 0.0
    return min(carrier.capacity * 1000.0, carrier.load_limit / WATER_DENSITY)


def water_capacity(carriers: tuple[Carrier, ...]) -> float:
    """Return how much water a set of carriers holds.

    Parameters
    ----------
    carriers : tuple of Carrier
        Mounted carriers.

    Returns
    -------
    capacity : float
        All together. [l]

    Examples
    --------
    >>> water_capacity(())
    0.0
    """
    return float(sum(holds(carrier) for carrier in carriers))


def pour(
    carriers: tuple[Carrier, ...], heights: Mapping[str, float], litres: float, coldest: float
) -> dict[str, float]:
    """Return the water in each carrier on leaving with so much.

    Parameters
    ----------
    carriers : tuple of Carrier
        Mounted carriers.
    heights : mapping of str to float
        Of each over the ground. [m]
    litres : float
        How much there is. [l]
    coldest : float
        Lowest air temperature on the leg. [°C]

    Returns
    -------
    poured : dict of str to float
        By carrier; what finds no room is not in it. [l]

    Notes
    -----
    One that is drunk from while riding comes first, then what holds nothing but water, then the lowest. In frost what
    the body or the frame keeps from freezing comes before all that.

    Examples
    --------
    >>> water = frozenset({"water"})
    >>> low = Carrier(id="low", name="low", place="bottle_down", capacity=0.75e-3, load_limit=1.0, mass=0.1,
    ...               longest=0.2, takes=water, access="foot")
    >>> hand = Carrier(id="hand", name="hand", place="stem", capacity=0.5e-3, load_limit=1.0, mass=0.1, longest=0.2,
    ...                takes=water, access="riding")
    >>> pour((low, hand), {"low": 0.4, "hand": 1.0}, 0.8, 15.0)
    {'low': 0.3, 'hand': 0.5}
    """
    freezing = coldest < ICE_BELOW

    def rank(carrier: Carrier) -> tuple[int, bool, float, str]:
        warm = _KEPT_WARM[carrier.freezes] if freezing else 0
        return warm, carrier.takes != {"water"}, heights[carrier.id], carrier.id

    able = sorted((carrier for carrier in carriers if "water" in carrier.takes), key=rank)
    at_hand = [carrier for carrier in able if ACCESS_RANK[carrier.access] == 0][:1]
    poured = {carrier.id: 0.0 for carrier in carriers}
    for carrier in (*at_hand, *(carrier for carrier in able if carrier not in at_hand)):
        poured[carrier.id] = min(litres, holds(carrier))
        litres = round(litres - poured[carrier.id], 12)
    return poured
