"""What things are worth that are judged by what their lack costs, and not by a job that they tick."""

from collections.abc import Iterable
from typing import Protocol

from stonechat.core.kit.item import Item
from stonechat.core.ledger.lost import Lost
from stonechat.core.ledger.ridden import Ridden
from stonechat.core.plan.mending import mend_worth_of
from stonechat.core.plan.power_worth import power_worth_of
from stonechat.core.plan.warm_worth import warm_worth_of


class MarginWorth(Protocol):
    """What judges things by a margin."""

    @property
    def what(self) -> str:
        """By what things are judged, in a word."""

    def judges(self, item: Item) -> bool:
        """Tell whether it judges a thing."""

    def worth(self, item: Item, items: Iterable[Item]) -> Lost:
        """Return what more is lost without a thing than with it."""

    def words(self, item: Item, items: Iterable[Item]) -> tuple[str, ...]:
        """Say where its lack would be felt."""


def margins_of(ridden: Ridden) -> tuple[MarginWorth, ...]:
    """Return all that judges things by a margin.

    Parameters
    ----------
    ridden : Ridden
        The variant as ridden.

    Returns
    -------
    margins : tuple of MarginWorth
        To be asked; they remember what they were asked.
    """
    return warm_worth_of(ridden), power_worth_of(ridden), mend_worth_of(ridden)
