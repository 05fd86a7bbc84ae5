"""Which cards a variant prints, and how."""

from typing import Annotated

from pydantic import Field

from stonechat.core.plan.printing import CARDS, PAPERS, STRIPS, PrintRule
from stonechat.formats.documents.part import OneOf, Part, limit, same_named

_SAME = ("strip", "paper", "two_sided", "bold")


class PrintingDocument(Part):
    """What is printed, and how."""

    cards: list[Annotated[str, OneOf(CARDS, "card")]] = Field(["bags", "packing", "strip"], max_length=40)
    strip: Annotated[str, OneOf(STRIPS, "place of the strip")] = "bar"
    paper: Annotated[str, OneOf(PAPERS, "paper")] = "A4"
    type_pt: Annotated[float, limit("type_size")] = 9.0
    margin_mm: Annotated[float, limit("print_margin")] = 12.0
    two_sided: bool = False
    bold: bool = False

    @classmethod
    def of(cls, rule: PrintRule) -> "PrintingDocument":
        """Return the document of what is printed."""
        cards = sorted(rule.cards)
        return cls(cards=cards, type_pt=rule.type_size, margin_mm=rule.margin, **same_named(rule, _SAME))

    def core(self) -> PrintRule:
        """Return what is printed."""
        cards = frozenset(self.cards)
        return PrintRule(cards=cards, type_size=self.type_pt, margin=self.margin_mm, **same_named(self, _SAME))
