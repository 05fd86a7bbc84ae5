"""Carriers of the catalogue hung so that they fit the bike at hand: set up where that helps, else a smaller kind."""

from collections.abc import Iterable
from dataclasses import replace

from stonechat.core.numerics.findings import State
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier
from stonechat.core.rig.catalogue import KINDS
from stonechat.core.rig.clearance import LEAST_BAG, clearances
from stonechat.core.rig.fitting import fit_rig
from stonechat.core.rig.geometry import shift_range
from stonechat.core.rig.places import FRAME_PLACES

INSTEAD: dict[str, str] = {  # what is hung where a kind does not fit; a kind that is not named is left off then
    "bar_roll": "bar_roll_small",
    "seat_large": "seat_middle",
    "seat_middle": "seat_small",
    "frame_full": "frame_half",
    "frame_half": "frame_wedge",
    "fork_bottles": "bladder",
    "bottle_top": "bottle_low",
    "bottle_side": "bottle_low_rear",
}
_TRIES = 12  # 1, changes of a stock rig until it fits


def parts_of(kind: str) -> tuple[Carrier, ...]:
    """Return the carriers of a kind, each with an id of its own name.

    Parameters
    ----------
    kind : str
        Key of KINDS.

    Returns
    -------
    carriers : tuple of Carrier
        As the catalogue has them.

    Examples
    --------
    >>> [part.id for part in parts_of("fork_bottles")]
    ['fork-bottle-left', 'fork-bottle-right']
    """
    return tuple(
        replace(part, kind=kind, id="-".join(part.name.replace(",", "").lower().split())) for part in KINDS[kind].parts
    )


def fitting_carriers(bike: Bike, kinds: Iterable[str], position: str) -> tuple[Carrier, ...]:
    """Return carriers of some kinds as they fit a bike: no clearance broken, nothing on bosses that are not there.

    Parameters
    ----------
    bike : Bike
        The bike.
    kinds : iterable of str
        Keys of KINDS.
    position : str
        The rider's usual posture.

    Returns
    -------
    carriers : tuple of Carrier
        Set as far up or forward as they go where that clears them, else of a smaller kind, else left off.

    Examples
    --------
    >>> from stonechat.core.rig.bike import usual_bike
    >>> [part.kind for part in fitting_carriers(usual_bike("hardtail", "m"), ("fork_bottles",), "hoods")]
    ['bladder']
    """
    chosen = list(dict.fromkeys(kinds))
    lifted: set[str] = set()
    hung: tuple[Carrier, ...] = ()
    for _ in range(_TRIES):
        parts = (part for kind in chosen for part in parts_of(kind))
        hung = fit_rig(bike, tuple(_lifted(bike, part) if part.kind in lifted else part for part in parts), position)
        wrong = next((c for c in clearances(bike, hung) if c.state == State.BROKEN), None)
        if wrong is None:
            return tuple(part for part in hung if part.place not in FRAME_PLACES or part.capacity >= LEAST_BAG)
        kind = next(part.kind for part in hung if part.id == wrong.carrier_id)
        if wrong.code == "tyre" and kind not in lifted:
            lifted.add(kind)
        elif kind in INSTEAD and INSTEAD[kind] not in chosen:
            chosen[chosen.index(kind)] = INSTEAD[kind]
        else:
            chosen.remove(kind)
    return hung


def lifted_where_needed(bike: Bike, carrier: Carrier) -> Carrier:
    """Return a carrier set up or forward where it would meet a tyre as the catalogue hangs it.

    Parameters
    ----------
    bike : Bike
        The bike.
    carrier : Carrier
        As the catalogue has it, with an id.

    Returns
    -------
    carrier : Carrier
        The same, or shifted as far as it goes.

    Examples
    --------
    >>> from stonechat.core.rig.bike import usual_bike
    >>> roll, bike = parts_of("bar_roll_small")[0], usual_bike("hardtail", "s")
    >>> lifted_where_needed(bike, roll).shift > 0.0
    True
    """
    meets = any(c.code == "tyre" and c.state == State.BROKEN for c in clearances(bike, (carrier,)))
    return _lifted(bike, carrier) if meets else carrier


def _lifted(bike: Bike, carrier: Carrier) -> Carrier:
    """Return a carrier set as far up or forward as it goes."""
    return replace(carrier, shift=round(shift_range(bike, carrier)[1] * 1e3) / 1e3)
