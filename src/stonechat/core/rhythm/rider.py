"""The rider: mass, power and how it fades, position on the bike, and the hours ridden."""

from dataclasses import dataclass, field
from datetime import datetime

POSITIONS = {  # drag area of rider and bare bike, low, default, high [m²]; estimates around [Defraeye2010]
    "aero": (0.24, 0.28, 0.33),
    "drops": (0.28, 0.32, 0.37),
    "hoods": (0.31, 0.36, 0.42),
    "upright": (0.37, 0.44, 0.54),
}
POSITION_NAMES = {"aero": "aero bars", "drops": "drops", "hoods": "hoods", "upright": "upright"}


@dataclass(frozen=True, kw_only=True)
class Rider:
    """What the ride needs to know of a rider. All but mass and power are estimates that may be edited."""

    mass: float = 72.0  # kg, in riding clothes
    power: float = 145.0  # W, what is held on the flat in the first hours
    endurance: float = 0.65  # 1, share of power left without any recovery (0.45 to 0.85)
    fade_time: float = 30 * 3600.0  # s of riding over which power fades (12 to 80 h)
    recovery_time: float = 8 * 3600.0  # s of sleep over which it comes back (3 to 20 h)
    night_dip: float = 0.06  # 1, loss of power at 04:00 (0 to 0.15)
    pace_uphill: float = 1.5  # 1 per unit grade, extra power uphill (0 to 3)
    pace_downhill: float = 5.0  # 1 per unit grade, power saved downhill (2 to 10)
    pace_most: float = 1.15  # 1, most power against the flat (1 to 1.4)
    drivetrain: float = 0.96  # 1, share of power that reaches the wheel (0.93 to 0.98)
    gross_efficiency: float = 0.22  # 1 (0.18 to 0.25) [Coyle1992]
    position: str = "hoods"  # key of POSITIONS
    intake: float = 260.0  # kcal/h eaten while riding (150 to 400)

    @property
    def drag_area(self) -> float:
        """Drag area of rider and bare bike. [m²]"""
        return POSITIONS[self.position][1]


@dataclass(frozen=True, kw_only=True)
class Rhythm:
    """When the rider starts, and between which hours of the day the rider rides."""

    start: datetime = field(default=datetime(2027, 9, 24, 6, 0))  # local clock at the start
    zone: str = "UTC"  # name of the time zone at the start
    rise: float = 5.0 * 3600.0  # s after midnight, first riding hour
    halt: float = 22.0 * 3600.0  # s after midnight, last riding hour; equal to `rise`: never rests
    first_night: bool = False  # ride through the first night
    camp_time: float = 2_400.0  # s of each rest that go to pitching, eating and packing
