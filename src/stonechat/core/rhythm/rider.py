"""The rider: mass, power and how it fades, position on the bike, walking. Every figure with its band and source."""

from dataclasses import dataclass

POSITIONS = {  # drag area of rider and bare bike, low, default, high [m²]; estimates around [Defraeye2010]
    "aero": (0.24, 0.28, 0.33),
    "drops": (0.28, 0.32, 0.37),
    "hoods": (0.31, 0.36, 0.42),
    "upright": (0.37, 0.44, 0.54),
}
POSITION_NAMES = {"aero": "aero bars", "drops": "drops", "hoods": "hoods", "upright": "upright"}
ALTITUDE_EFFECTS = {"none": "none", "acclimatised": "used to height", "fresh": "fresh from the lowlands"}
BOLDNESS = {"cautious": "cautious", "normal": "normal", "bold": "bold"}


@dataclass(frozen=True, kw_only=True)
class Band:
    """How sure a default is, and where it comes from."""

    low: float
    high: float
    source: str  # key in docs/builders/references.md, or "estimate"


@dataclass(frozen=True, kw_only=True)
class Rider:
    """What the ride needs to know of a rider. All but mass and power are estimates that may be edited."""

    mass: float = 72.0  # kg, in riding clothes
    power: float = 145.0  # W, what is held on the flat in the first hours
    endurance: float = 0.65  # 1, share of power left without any recovery
    fade_time: float = 30 * 3600.0  # s of riding over which power fades
    recovery_time: float = 8 * 3600.0  # s of sleep over which it comes back
    night_dip: float = 0.06  # 1, loss of power at 04:00
    coasting: float = 0.03  # 1, share of the time on level and rising ground without pedalling
    pace_uphill: float = 1.5  # 1 per unit grade, extra power uphill
    pace_downhill: float = 5.0  # 1 per unit grade, power saved downhill
    pace_most: float = 1.15  # 1, most power against the flat
    altitude: str = "acclimatised"  # key of ALTITUDE_EFFECTS
    drivetrain: float = 0.96  # 1, share of power that reaches the wheel
    gross_efficiency: float = 0.22  # 1
    position: str = "hoods"  # key of POSITIONS, on smooth ground that is flat or nearly so
    position_climbing: str = "hoods"
    position_descending: str = "drops"
    position_rough: str = "hoods"  # on rough gravel and worse
    drag_scale: float = 1.0  # 1, own drag area over the usual one of each position
    tired: float = 0.0  # 1, tiredness at the start, where one begins in the middle of a race
    awake: float = 0.0  # s awake at the start, likewise
    climb_from: float = 0.04  # 1, grade from which it is climbing
    descending: str = "normal"  # key of BOLDNESS
    night_cap: float = 0.80  # 1, descents by night against by day
    walk_factor: float = 0.85  # 1, walking with a bike against free hiking
    push_efficiency: float = 0.20  # 1, work at the bars per metabolic work
    intake: float = 260.0  # kcal/h eaten while riding
    height: float | None = None  # m; None: not said
    age: float | None = None  # years; None: not said
    sex: str = ""  # key of SEXES in core/supply/energy.py; empty: not said
    runs_cold: float = 0.0  # K by which the air feels colder than it does to others; below 0 warmer
    sweat: float = 1.0  # 1, own loss of water by sweat over the usual
    handling: float = 1.0  # 1, own time at bags over the usual
    punctures: float = 1.0  # 1, own punctures over the usual on the same ground

    @property
    def drag_area(self) -> float:
        """Drag area of rider and bare bike in the usual position. [m²]"""
        return POSITIONS[self.position][1] * self.drag_scale


BANDS: dict[str, Band] = {
    "power": Band(low=80.0, high=280.0, source="your own rides"),
    "endurance": Band(low=0.45, high=0.85, source="estimate, form after Maunder2021"),
    "fade_time": Band(low=12 * 3600.0, high=80 * 3600.0, source="estimate"),
    "recovery_time": Band(low=3 * 3600.0, high=20 * 3600.0, source="estimate"),
    "night_dip": Band(low=0.0, high=0.15, source="estimate"),
    "coasting": Band(low=0.0, high=0.15, source="estimate"),
    "pace_uphill": Band(low=0.0, high=3.0, source="estimate, form after Atkinson2007"),
    "pace_downhill": Band(low=2.0, high=10.0, source="estimate"),
    "pace_most": Band(low=1.0, high=1.4, source="estimate"),
    "drivetrain": Band(low=0.93, high=0.98, source="Martin1998"),
    "gross_efficiency": Band(low=0.18, high=0.25, source="Coyle1992"),
    "drag_scale": Band(low=0.8, high=1.3, source="your own rides"),
    "sweat": Band(low=0.6, high=1.7, source="your own notes"),
    "handling": Band(low=0.5, high=2.0, source="your own rides"),
    "punctures": Band(low=0.4, high=2.5, source="your own notes"),
    "climb_from": Band(low=0.02, high=0.08, source="estimate"),
    "night_cap": Band(low=0.6, high=1.0, source="estimate"),
    "walk_factor": Band(low=0.5, high=0.95, source="estimate on Tobler1993"),
    "push_efficiency": Band(low=0.1, high=0.3, source="estimate"),
    "intake": Band(low=150.0, high=400.0, source="estimate"),
}
