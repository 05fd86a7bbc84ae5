"""Ways of packing that riders hold dear: one choice of the rider each, kept like the other rules, and priced."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations
from typing import ClassVar, Self

from stonechat.core.load.together.rule import Given, Load, Rule
from stonechat.core.load.together.shapes import LowShare, OneSide, Separated
from stonechat.core.rig.places import TURNING, where

WAYS = {
    "": "none",
    "rooms": "bedroom, kitchen, workshop apart",
    "one_end": "night kit at one end",
    "tools_low": "tools at the lowest",
}
REAR = where(lambda place: place.sways or place.on_rack)
LOWEST = where(lambda place: place.low > 0.0)  # a rig may have no place lower than the upper triangle
ALL_BUT = 0.9  # 1, share of the tools by mass that rides lowest: the first answer may be at hand (estimate)


def night_kit(given: Given) -> frozenset[str]:
    """Return what is taken out at camp only, for the night.

    Parameters
    ----------
    given : Given
        Things and carriers.

    Returns
    -------
    things : frozenset of str
        Their ids.
    """
    return given.having(lambda part: part.category == "sleep" and part.access == "camp")


@dataclass(frozen=True, kw_only=True)
class WayOfPacking(Rule):
    """A wish of the packing, asked for by the rider."""

    is_check = False
    way: ClassVar[str]  # key of WAYS

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say that it is not kept."""
        return self.title, f"{self.words}.", ""


@dataclass(frozen=True, kw_only=True)
class OwnRooms(WayOfPacking, Separated):
    """Bedroom, kitchen and workshop share no bag."""

    code = "way-rooms"
    title = "Bedroom, kitchen and workshop apart"
    reason = "What is done in one place is packed in one place."
    way = "rooms"

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """For each two of them that there are."""
        if given.conditions.way != cls.way:
            return
        rooms = {
            "bedroom": night_kit(given),
            "kitchen": given.having(lambda part: part.category == "food" or part.kind in COOKING),
            "workshop": given.having(lambda part: part.category == "tools"),
        }
        for (name, ones), (other, others) in combinations(rooms.items(), 2):
            both = ones & others
            if ones - both and others - both:
                yield cls(words=f"{name} and {other} share a bag", ones=ones - both, others=others - both)


@dataclass(frozen=True, kw_only=True)
class NightAtOneEnd(WayOfPacking, OneSide):
    """The night kit is not parted between front and rear."""

    code = "way-one-end"
    title = "Night kit at one end"
    reason = "One end of the bike is opened at camp, the other stays shut."
    way = "one_end"

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Where there is any."""
        things = night_kit(given)
        one, other = (frozenset(c.id for c in given.carriers if c.place in end) for end in (TURNING, REAR))
        if given.conditions.way == cls.way and len(things) > 1 and one and other:
            yield cls(words="the night kit lies at both ends", things=things, one=one, other=other)


@dataclass(frozen=True, kw_only=True)
class ToolsLowest(WayOfPacking, LowShare):
    """Tools ride in the lowest places."""

    code = "way-tools-low"
    title = "Tools at the lowest"
    reason = "The densest things steer least where they are lowest."
    way = "tools_low"

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Where there are tools and a low place."""
        tools = given.having(lambda part: part.category == "tools")
        masses = {key: sum(part.total_mass for part in given.units[key]) for key in sorted(tools)}
        low = {carrier.id: 1.0 for carrier in given.carriers if carrier.place in LOWEST}
        if given.conditions.way == cls.way and masses and low:
            yield cls(words="tools ride higher than they could", masses=masses, counts=low, least=ALL_BUT)


COOKING = frozenset({"stove", "stove_fuel", "pot", "mug", "lighter", "windshield", "cutlery", "plate_bowl"})
