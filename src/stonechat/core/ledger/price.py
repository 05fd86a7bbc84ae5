"""What one thing adds to the ledger."""

from dataclasses import dataclass

from stonechat.core.kit.along import fixed_drag
from stonechat.core.kit.item import Item
from stonechat.core.ledger.ledger import MassCurve
from stonechat.core.load.problem import DRAG_STEP, Prices, placement_minutes
from stonechat.core.rig.carrier import Carrier


@dataclass(frozen=True, kw_only=True)
class ItemPrice:
    """Moving minutes of a thing on this route."""

    weight: float  # min
    placing: float  # min, reaching and wind where it is, in a bag or a spot; 0 without a place

    @property
    def total(self) -> float:
        """Both together. [min]"""
        return self.weight + self.placing


def item_price(
    *,
    item: Item,
    carrier: Carrier | None,
    prices: Prices,
    mass_curve: MassCurve,
    share: float = 1.0,
    lined: bool = False,
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
    lined : bool
        It rides in a dry bag there, which is opened each time.

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
    placing = placement_minutes(item, carrier, prices, lined=lined) if carrier is not None else 0.0
    placing += prices.per_drag * fixed_drag([item]) / DRAG_STEP
    return ItemPrice(weight=share * mass_curve.saved(item.total_mass), placing=share * placing)
