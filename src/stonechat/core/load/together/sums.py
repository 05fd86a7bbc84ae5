"""Rules of sums over carriers: room kept, weight on the back, inertia about the steering axis."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Self

from stonechat.core.load.balance import turning_lever
from stonechat.core.load.stow import FREE_LEAST, keeps_room
from stonechat.core.load.together.rule import Given, Load
from stonechat.core.load.together.shapes import LeverMost, RoomKept
from stonechat.core.rig.geometry import carrier_position
from stonechat.core.rig.places import TURNING

FREE_BAND = 0.2  # l below what is kept, from which it is broken (estimate)
BACK_MOST = 1.5  # kg on the back (estimate)
BACK_BAND = 0.2  # kg below that, within which it is tight (estimate)
STEERING_BAND = 0.02  # kg·m² below the limit, within which it is tight (estimate)


@dataclass(frozen=True, kw_only=True)
class RoomLeft(RoomKept):
    """One bag keeps room for what is bought, found or wet."""

    code = "room-left"
    title = "Room left free in one bag"
    reason = "Something is always bought, found or wet."
    unit = "l"
    gives = FREE_BAND
    says_fine = True

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Always, where anything is carried at all."""
        able = frozenset(carrier.id for carrier in given.carriers if keeps_room(carrier))
        if given.carriers:
            yield cls(words=f"no bag keeps {FREE_LEAST:.1f} l free", carriers=able, room=FREE_LEAST / 1e3)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say how much there is."""
        words = (
            f"{self.free(load) * 1e3:.1f} l are free in the roomiest bag leaving {load.leaving}; "
            f"{FREE_LEAST:.1f} l take what is bought, found or wet."
        )
        return "Room left in one bag", words, ""


@dataclass(frozen=True, kw_only=True)
class LightBack(LeverMost):
    """Nothing much rides on the back."""

    code = "back"
    title = "Nothing much on the back"
    reason = "What hangs on the back sits in the saddle too."
    unit = "kg"
    gives = BACK_BAND
    says_fine = True

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Where something hangs there."""
        levers = {carrier.id: 1.0 for carrier in given.carriers if carrier.place == "back"}
        if levers:
            yield cls(words="too much rides on the back", levers=levers, limit=BACK_MOST - BACK_BAND)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say how much it is."""
        words = (
            f"{self.total(load):.1f} kg leaving {load.leaving}; more than {BACK_MOST:.1f} kg are felt in back, neck "
            "and seat within a day (estimate)."
        )
        return "Load on the back", words, ""


@dataclass(frozen=True, kw_only=True)
class LightBars(LeverMost):
    """Not too much turns with the bars."""

    code = "steering"
    title = "Weight on the bars"
    reason = "Mass on the bars is slow to turn in and slow to straighten."
    unit = "kg m²"
    gives = STEERING_BAND
    says_fine = True

    @classmethod
    def called_for(cls, given: Given) -> Iterator[Self]:
        """Wherever the bike is loaded."""
        bike = given.bike
        levers = {c.id: turning_lever(carrier_position(bike, c), bike) for c in given.carriers if c.place in TURNING}
        if given.carriers:
            limit = given.conditions.steering - STEERING_BAND
            yield cls(words="too much turns with the bars", levers=levers, limit=limit)

    def finding_on(self, load: Load, given: Given) -> tuple[str, str, str]:
        """Say how much it is."""
        most = given.conditions.steering
        words = f"The load adds {self.total(load):.2f} of {most:.2f} kg m² of steering inertia."
        return "Weight on the bars", words, ""
