"""What a ride with the loaded bike showed: findings by carrier and thing, and the change that each asks for."""

from dataclasses import dataclass
from datetime import date

TROUBLES = {
    "rattles": "rattles", "rubs": "rubs", "sways": "sways", "wears": "wears through", "leaks": "leaks",
    "hard": "hard to reach", "loosened": "loosened", "hot": "too hot", "cold": "too cold", "numb": "numb hands",
    "other": "something else",
}  # fmt: skip
REMEDIES = {
    "tape": "tape under it", "strap": "one more strap", "place": "another place", "thing": "another thing",
    "order": "nearer the mouth of its bag", "wrap": "wrapped up", "bolt": "tightened, with thread lock",
    "bars": "bars or grips set otherwise", "none": "left as it is",
}  # fmt: skip
# the remedies that a trouble asks for, the likeliest first
ASKS: dict[str, tuple[str, ...]] = {
    "rattles": ("wrap", "strap", "place", "bolt"), "rubs": ("tape", "strap", "place"),
    "sways": ("strap", "place", "thing"),
    "wears": ("tape", "place", "thing"), "leaks": ("wrap", "place", "thing"), "hard": ("order", "place"),
    "loosened": ("bolt", "strap", "thing"), "hot": ("thing",), "cold": ("thing",), "numb": ("bars", "thing"),
    "other": ("place", "thing", "none"),
}  # fmt: skip
WORKSHOP = frozenset({"tape", "strap", "wrap", "bolt", "bars"})  # remedies that are work on the bike, for the countdown
MOST_FINDINGS = 200  # of a variant
LEAST_KM = 20.0  # km of a ride that shakes a load down (estimate)


@dataclass(frozen=True, kw_only=True)
class Shaken:
    """One finding."""

    trouble: str  # key of TROUBLES
    about: str = ""  # id of a carrier or an item; empty: the bike or the body
    words: str = ""
    remedy: str = ""  # key of REMEDIES that was chosen; empty: none yet
    to: str = ""  # the carrier, place or thing that it means, where it means one
    done: bool = False  # ticked off


@dataclass(frozen=True, kw_only=True)
class Shakedown:
    """A ride with the loaded bike."""

    day: date | None = None  # when; None: not ridden yet
    km: float = 0.0  # km ridden loaded
    rough_km: float = 0.0  # km of them on rough ground
    findings: tuple[Shaken, ...] = ()

    @property
    def was_ridden(self) -> bool:
        """Whether it was ridden far enough to show anything."""
        return self.day is not None and self.km >= LEAST_KM

    @property
    def left(self) -> tuple[Shaken, ...]:
        """Findings that are not ticked off."""
        return tuple(one for one in self.findings if not one.done)
