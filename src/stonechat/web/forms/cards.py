"""The forms of Cards: what is printed and how, and the emergency page."""

from typing import Any

from stonechat.core.plan.printing import CARDS, EMERGENCY, PAPERS, STRIPS, PrintRule
from stonechat.web.forms.binding import Form, choice, figure, text, tick


class PrintForm(Form):
    """What is printed, and how."""

    strip: bool = tick(CARDS["strip"])
    bags: bool = tick(CARDS["bags"])
    packing: bool = tick(CARDS["packing"])
    order: bool = tick(CARDS["order"])
    stops: bool = tick(CARDS["stops"])
    shopping: bool = tick(CARDS["shopping"])
    repacking: bool = tick(CARDS["repacking"])
    camp: bool = tick(CARDS["camp"])
    charging: bool = tick(CARDS["charging"])
    clothes: bool = tick(CARDS["clothes"])
    mending: bool = tick(CARDS["mending"])
    bolts: bool = tick(CARDS["bolts"])
    countdown: bool = tick(CARDS["countdown"])
    emergency: bool = tick(CARDS["emergency"])
    strip_for: str = choice("Strip for", {key: entry[0] for key, entry in STRIPS.items()})
    paper: str = choice("Paper", {key: entry[0] for key, entry in PAPERS.items()})
    type_size: float = figure("Type", unit="pt", limit="type_size", help="of the strip; 7 to 14")
    margin: float = figure("Margin", unit="mm", limit="print_margin", help="waterproof paper may want 15 or more")
    two_sided: bool = tick("Two-sided: cards begin on a front page")
    bold: bool = tick("For the night: black on white, no grey")

    def rule(self) -> PrintRule:
        """Return what is printed."""
        return PrintRule(
            cards=frozenset(key for key in CARDS if getattr(self, key)),
            strip=self.strip_for,
            paper=self.paper,
            type_size=self.type_size,
            margin=self.margin,
            two_sided=self.two_sided,
            bold=self.bold,
        )


def print_values(rule: PrintRule) -> dict[str, Any]:
    """Return what the form shows of what is printed."""
    return {
        **{key: key in rule.cards for key in CARDS}, "strip_for": rule.strip, "paper": rule.paper,
        "type_size": rule.type_size, "margin": rule.margin, "two_sided": rule.two_sided, "bold": rule.bold,
    }  # fmt: skip


class EmergencyForm(Form):
    """The rider's own words for an emergency; nothing of it is made up or taken from elsewhere."""

    name: str = text(EMERGENCY["name"], most=300)
    born: str = text(EMERGENCY["born"], most=300)
    blood: str = text(EMERGENCY["blood"], most=300)
    conditions: str = text(EMERGENCY["conditions"], most=300)
    medicine: str = text(EMERGENCY["medicine"], most=300)
    allergies: str = text(EMERGENCY["allergies"], most=300)
    contact: str = text(EMERGENCY["contact"], most=300, help="name and number")
    other: str = text(EMERGENCY["other"], most=300)
    doctor: str = text(EMERGENCY["doctor"], most=300)
    insurance: str = text(EMERGENCY["insurance"], most=300, help="number, and whom to call")

    def words(self) -> dict[str, str]:
        """Return what was written."""
        return {key: value for key in EMERGENCY if (value := getattr(self, key))}
