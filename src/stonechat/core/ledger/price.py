"""What one thing adds to the ledger."""

from dataclasses import dataclass

from stonechat.core.kit.along import fixed_drag
from stonechat.core.kit.item import Item
from stonechat.core.ledger.ledger import MassCurve
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.load.problem import DRAG_STEP, Prices, wind_minutes
from stonechat.core.rig.carrier import Carrier


@dataclass(frozen=True, kw_only=True)
class ItemPrice:
    """Moving minutes of a thing on this route."""

    weight: float  # min
    wind: float  # min, of the room that it fills in its bag, or of itself in a spot
    reaching: float = 0.0  # min that it adds to reaching, all others staying
    body: float = 0.0  # min that carrying it on the body costs
    mishap: float = 0.0  # min expected to be lost by its being far in a hurry, or lost

    @property
    def placing(self) -> float:
        """What it costs by where it is: reaching, wind, the body's burden, and mishaps. [min]"""
        return self.reaching + self.wind + self.body + self.mishap

    @property
    def total(self) -> float:
        """All together. [min]"""
        return self.weight + self.placing


def item_price(
    *,
    item: Item,
    carrier: Carrier | None,
    prices: Prices,
    mass_curve: MassCurve,
    share: float = 1.0,
    reaching: float = 0.0,
    body: float = 0.0,
    mishap: float = 0.0,
) -> ItemPrice:
    """Return what a thing costs on this route.

    Parameters
    ----------
    item : Item
        The thing.
    carrier : Carrier or None
        Where it rides.
    prices : Prices
        Prices on this route.
    mass_curve : MassCurve
        Minutes by mass, ridden with and without. [min]
    share : float
        Share of the price that it pays, where it is aboard on some legs only. [1]
    reaching, body, mishap : float
        What it adds to reaching, what the body bears of it, and what may happen. [min]

    Returns
    -------
    price : ItemPrice
        Minutes. [min]

    Examples
    --------
    >>> import numpy as np
    >>> curve = MassCurve(masses=np.array([0.0, 1.0]), minutes=np.array([0.0, 25.0]))
    >>> item_price(item=Item(id="p", name="pump", mass=0.1, volume=0), carrier=None,
    ...            prices=Prices(per_kg=25, per_drag=10, days=3), mass_curve=curve).total
    2.5
    """
    wind = wind_minutes(item.total_volume, carrier, prices) if carrier is not None else 0.0
    wind += prices.per_drag * fixed_drag([item]) / DRAG_STEP
    weight = share * mass_curve.saved(item.total_mass)
    return ItemPrice(weight=weight, wind=share * wind, reaching=reaching, body=body, mishap=mishap)


def price_of(item: Item, ridden: Ridden) -> ItemPrice:
    """Return what a thing costs where it rides in a variant.

    Parameters
    ----------
    item : Item
        The thing.
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    price : ItemPrice
        Over the legs on which it is aboard. [min]
    """
    place = ridden.kit.places.get(item.id)
    return item_price(
        item=item,
        carrier=next((carrier for carrier in ridden.rig.carriers if carrier.id == place), None),
        prices=ridden.ledger.prices,
        mass_curve=ridden.ledger.mass_curve,
        share=ridden.share_aboard(item.id),
        reaching=ridden.reaching.get(item.id, 0.0),
        body=ridden.borne.get(item.id, 0.0),
        mishap=ridden.risked.get(item.id, 0.0),
    )
