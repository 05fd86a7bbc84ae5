"""What Load shows of the inside of bags: what lies above what, and the side on which the bike is laid down."""

from dataclasses import dataclass

from stonechat.core.load.order import DIGGING, BagOrder, LaySide, bag_order, lay_side
from stonechat.web.contexts.rig import leg_name
from stonechat.web.desk import Desk


@dataclass(frozen=True, kw_only=True)
class InsideView:
    """Every bag from its mouth inwards."""

    leg_name: str
    bags: tuple[tuple[BagOrder, str], ...]  # and the address of its order
    digging: float  # min over the race
    best: float  # min in the best orders
    side: LaySide
    seconds_per_litre: float  # s


def inside_view(desk: Desk) -> InsideView:
    """Return the order inside every bag on the current leg, most digging first."""
    ridden = desk.evaluation.ridden
    states = ridden.film[desk.leg].carriers
    orders = [
        bag_order(
            state.carrier,
            state.items,
            often=ridden.ledger.prices.often,
            days=ridden.ledger.prices.days,
            own=desk.variant.orders.get(state.carrier.id, ()),
        )
        for state in states
        if "items" in state.carrier.takes and state.items
    ]
    orders.sort(key=lambda order: -order.digging)
    return InsideView(
        leg_name=leg_name(desk),
        bags=tuple((order, desk.do("carriers", order.carrier.id, "order")) for order in orders),
        digging=sum(order.digging for order in orders),
        best=sum(order.best for order in orders),
        side=lay_side([state.carrier for state in states], [state.items for state in states]),
        seconds_per_litre=DIGGING,
    )
