"""Which cards are printed, and how."""

from collections.abc import Mapping
from dataclasses import dataclass

CARDS = {
    "strip": "bar strip", "bags": "bag map, one wherever things move", "packing": "packing list",
    "order": "packing in order", "stops": "long sheet by stop",
    "shopping": "shopping", "repacking": "repacking", "camp": "camp", "charging": "charging", "clothes": "clothes",
    "mending": "mending", "bolts": "bolts and torques", "countdown": "countdown", "emergency": "emergency page",
}  # fmt: skip
STRIPS: Mapping[str, tuple[str, float, float]] = {  # name, mm of width, mm of length
    "bar": ("bars, 58 × 120 mm", 58.0, 120.0),
    "stem": ("stem, 42 × 90 mm", 42.0, 90.0),
    "top_tube": ("top tube, 50 × 150 mm", 50.0, 150.0),
    "aero": ("aero bars, 75 × 130 mm", 75.0, 130.0),
}
PAPERS: Mapping[str, tuple[str, float, float]] = {  # name, mm of width, mm of height
    "A4": ("A4", 210.0, 297.0),
    "A5": ("A5", 148.0, 210.0),
    "letter": ("letter, 216 by 279 mm", 215.9, 279.4),
}


@dataclass(frozen=True, kw_only=True)
class PrintRule:
    """What is printed, and how."""

    cards: frozenset[str] = frozenset({"strip", "bags", "packing"})  # keys of CARDS
    strip: str = "bar"  # key of STRIPS
    paper: str = "A4"  # key of PAPERS
    type_size: float = 9.0  # pt, of the strip; lists are set as large or larger
    margin: float = 12.0  # mm; waterproof paper and some printers want more
    two_sided: bool = False  # each card begins on a front page; strips have a back to fold to
    bold: bool = False  # for the night: black on white, heavier, no grey


EMERGENCY = {
    "name": "Name", "born": "Born", "blood": "Blood group", "conditions": "Conditions", "medicine": "Medicine taken",
    "allergies": "Allergies", "contact": "Call first", "other": "Call then", "doctor": "Doctor",
    "insurance": "Insurance",
}  # fmt: skip
