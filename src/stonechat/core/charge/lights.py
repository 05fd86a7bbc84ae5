"""The lamps of a race: what lights which hours, and which second lamp can be found in the dark."""

from dataclasses import dataclass

from stonechat.core.charge.light import DarkHours
from stonechat.core.charge.things import Electric


@dataclass(frozen=True, kw_only=True)
class SecondLamp:
    """A lamp that lights the way when the first fails."""

    id: str
    name: str
    hours: float  # h that it burns in its low mode
    where: str  # carrier or spot, in words
    is_at_hand: bool  # whether it is found in the dark without another light


@dataclass(frozen=True, kw_only=True)
class Lights:
    """What lights the dark hours of a race."""

    dark: DarkHours
    front: Electric | None  # lamp with a battery
    front_hours: float  # h that it burns on its own battery in this race's modes
    front_wanted: float  # h that it is wanted, those left to the hub's lamp not among them
    unlit: float  # h of them that it is flat
    front_left: float  # h that it would burn on where it is lowest
    by_hub: bool  # whether a lamp on the hub lights the way
    dim: float  # h in the dark too slow for the hub's lamp
    seconds: tuple[SecondLamp, ...]
    rear: Electric | None
    rear_by_hub: bool
    rear_hours: float  # h that it burns on its own battery
    rear_unlit: float  # h in the dark that it is flat
    rear_left: float  # h that it would burn on where it is lowest
    seen: tuple[str, ...]  # names of what makes one seen besides

    @property
    def has_front(self) -> bool:
        """Whether anything lights the way."""
        return self.front is not None or self.by_hub
