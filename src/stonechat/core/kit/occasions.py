"""Occasions: what is done at one go and takes several things. It, and not the single thing, is what reaching costs."""

from dataclasses import dataclass
from typing import NamedTuple

from stonechat.core.kit.item import Item
from stonechat.core.kit.reach import Often

AT_A_TILL = frozenset({"pay", "papers"})  # jobs of what is taken along to a counter
RARE_REPAIR = 0.3  # 1 per day, up to which a tool is taken out for repairs rather than by itself (estimate)


@dataclass(frozen=True, kw_only=True)
class Occasion:
    """One such occasion."""

    key: str
    name: str
    at_camp: bool = False  # where the race has stopped anyway: no halt is charged


OCCASIONS: dict[str, Occasion] = {
    occasion.key: occasion
    for occasion in (
        Occasion(key="camp", name="making and breaking camp", at_camp=True),
        Occasion(key="rain", name="rain things on or off"),
        Occasion(key="cold", name="warm things on or off"),
        Occasion(key="layer", name="a layer on or off"),
        Occasion(key="dusk", name="dusk and dawn"),
        Occasion(key="puncture", name="a puncture"),
        Occasion(key="repair", name="a repair"),
        Occasion(key="till", name="at a till or a desk"),
    )
}


class Use(NamedTuple):
    """A thing's part in an occasion."""

    occasion: str  # key of OCCASIONS; empty: it is taken out by itself
    often: float  # 1 per day


def uses_of(item: Item, often: Often) -> tuple[Use, ...]:
    """Return on which occasions a thing is taken out, and how often.

    Parameters
    ----------
    item : Item
        The thing.
    often : Often
        What the days are like.

    Returns
    -------
    uses : tuple of Use
        They add up to `reaches_a_day`; those of no times are left out. [1 per day]

    Examples
    --------
    >>> from stonechat.core.kit.item import Reaches
    >>> jacket = Item(id="j", name="jacket", category="clothes", mass=0.2, volume=0.001,
    ...               reaches=Reaches(per_day=1.0, rain=4.0))
    >>> [(use.occasion, use.often) for use in uses_of(jacket, Often(wet=0.5))]
    [('layer', 1.0), ('rain', 2.0)]
    """
    reaches = item.reaches
    uses = (
        Use(_plain_occasion(item), reaches.per_day),
        Use("rain", often.wet * reaches.rain),
        Use("cold", often.cold * reaches.cold),
        Use("dusk", often.nights * reaches.night),
        Use("puncture", often.punctures * reaches.puncture),
    )
    return tuple(use for use in uses if use.often > 0.0)


def _plain_occasion(item: Item) -> str:
    """Return on which occasion a thing is taken out that is taken out whatever the day is like."""
    if item.access == "camp":
        return "camp"
    if item.category == "tools" and item.access in ("off", "last") and item.reaches.per_day <= RARE_REPAIR:
        return "repair"
    if item.category == "clothes" and item.access in ("foot", "off"):
        return "layer"
    return "till" if item.roles & AT_A_TILL else ""
