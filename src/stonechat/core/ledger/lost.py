"""What is lost where something is lacking."""

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Lost:
    """What is expected to be lost in one race."""

    minutes: float  # min
    ending: float  # 1, chance that it ends the race
