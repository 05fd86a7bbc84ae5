"""The bike by its measures."""

from dataclasses import dataclass

MEASURE_NAMES = {
    "wheel_radius": "wheel radius with tyre",
    "wheelbase": "wheelbase",
    "chainstay": "chainstay",
    "bottom_bracket_drop": "bottom-bracket drop",
    "stack": "stack",
    "reach": "reach",
    "head_tube": "head tube",
    "seat_tube": "seat tube",
    "saddle_height": "saddle height",
    "fork_rake": "fork rake",
    "crank": "crank",
}


@dataclass(frozen=True, kw_only=True)
class Bike:
    """Measures of a bike, ready to ride but with nothing hung on it."""

    name: str = "drop-bar rigid bike"
    mass: float = 10.2  # kg
    wheel_radius: float = 0.345  # m, with the tyre
    wheelbase: float = 1.045  # m
    chainstay: float = 0.430  # m
    bottom_bracket_drop: float = 0.072  # m
    head_angle: float = 71.0  # °
    seat_angle: float = 73.5  # °
    stack: float = 0.600  # m
    reach: float = 0.385  # m
    head_tube: float = 0.165  # m
    seat_tube: float = 0.520  # m
    saddle_height: float = 0.735  # m, bottom bracket to saddle along the seat tube
    fork_rake: float = 0.050  # m
    fork_travel: float = 0.0  # m
    crank: float = 0.172  # m
    bars: str = "drop"  # drop or flat
    aero_bars: bool = True
    tyre: str = "gravel"  # key of TYRES in stonechat.core.line.surface
