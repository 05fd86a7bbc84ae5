"""Rules of how things ride together: words, rows for the solver, judgement of a load and check of each in one class.

How to add one: docs/builders/how-to/add-a-rule.md.
"""

from collections.abc import Mapping

from stonechat.core.kit.item import Item
from stonechat.core.load.together.bags import CampTogether, OffAsOne, OilApart, SetsTogether, SparesApart
from stonechat.core.load.together.places import (
    CleanApart,
    FirstAnswer,
    FragilePadded,
    HeavyLow,
    NotFrozen,
    NotLost,
    NotMelted,
)
from stonechat.core.load.together.rule import Conditions, Given, Rule
from stonechat.core.load.together.sums import LightBack, LightBars, RoomLeft
from stonechat.core.load.together.ways import NightAtOneEnd, OwnRooms, ToolsLowest
from stonechat.core.rig.bike import Bike
from stonechat.core.rig.carrier import Carrier

RULES: tuple[type[Rule], ...] = (  # in the order of their checks
    FirstAnswer,
    NotLost,
    FragilePadded,
    CleanApart,
    HeavyLow,
    CampTogether,
    RoomLeft,
    LightBack,
    OffAsOne,
    OilApart,
    SparesApart,
    NotFrozen,
    NotMelted,
    LightBars,
    SetsTogether,
    OwnRooms,
    NightAtOneEnd,
    ToolsLowest,
)


def given_by(
    *,
    items: tuple[Item, ...],
    parts: Mapping[str, tuple[Item, ...]],
    carriers: tuple[Carrier, ...],
    bike: Bike,
    conditions: Conditions,
    fits: Mapping[str, frozenset[str]] | None = None,
) -> Given:
    """Return things and carriers as rules look at them.

    Parameters
    ----------
    items : tuple of Item
        Things as they are packed.
    parts : mapping of str to tuple of Item
        What is in a pouch, the pouch itself first.
    carriers : tuple of Carrier
        Those that may hold them.
    bike : Bike
        For what turns with the bars.
    conditions : Conditions
        Cold, limits and switches.
    fits : mapping of str to frozenset of str, optional
        Carriers that take each thing; all of them where it is not said.

    Returns
    -------
    given : Given
        What is worn or fixed is left out.

    Examples
    --------
    >>> given_by(items=(), parts={}, carriers=(), bike=Bike(), conditions=Conditions()).units
    {}
    """
    units = {item.id: parts.get(item.id, (item,)) for item in items if item.packed}
    everywhere = frozenset(carrier.id for carrier in carriers)
    known = fits or {}
    return Given(
        units=units,
        carriers=carriers,
        bike=bike,
        conditions=conditions,
        fits={key: known.get(key, everywhere) for key in units},
    )


def called_for(given: Given) -> tuple[Rule, ...]:
    """Return the rules that things and carriers call for, those of checks that are switched off left out.

    Parameters
    ----------
    given : Given
        Things and carriers.

    Returns
    -------
    rules : tuple of Rule
        In the order of `RULES`; what nothing could break is left out.

    Examples
    --------
    >>> called_for(given_by(items=(), parts={}, carriers=(), bike=Bike(), conditions=Conditions()))
    ()
    """
    return tuple(rule for kind in RULES if kind.code not in given.conditions.off for rule in kind.called_for(given))
