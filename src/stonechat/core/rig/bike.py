"""The bike by its measures, and believable ones to begin with."""

import math
from dataclasses import dataclass, replace

BOSSES = {  # places for bolts, and what they bear in kg (estimates; the maker's figure comes first)
    "down_tube": ("inside, on the down tube", 3.0),
    "seat_tube": ("inside, on the seat tube", 3.0),
    "top_tube": ("on the top tube", 1.5),
    "under_down_tube": ("under the down tube", 1.8),
    "fork_left": ("left fork leg, three in a row", 3.0),
    "fork_right": ("right fork leg, three in a row", 3.0),
    "rack": ("eyelets for a rear rack", 18.0),
}
BARS = {"drop": "drop bars", "flat": "flat bars"}
FRAMES = {"metal": "steel, titanium or aluminium", "carbon": "carbon"}
FRONT_LIGHTS = {
    "bars": "on the bars",
    "ahead": "on a mount ahead of bars and roll",
    "crown": "at the fork crown",
    "none": "none on the bike",
}
REAR_LIGHTS = {
    "post": "on the seat post",
    "saddle": "under the saddle",
    "stay": "on the seat stay",
    "bag": "on the rear bag itself",
    "none": "none",
}
CHARGE_PORTS = {"none": "none", "top_tube": "on the top tube", "down_tube": "on the down tube", "bars": "at the bars"}
SADDLE_NOSE = 0.165  # m from the saddle's middle forward to its tip
TYRE_HEIGHT = 0.85  # 1, height of a loaded tyre for its width (estimate)
WHEELBASE_OFF = 0.020  # m, a wheelbase further than this from the other measures is doubted

MEASURE_NAMES = {
    "rim": "rim",
    "tyre_width": "tyre",
    "wheelbase": "wheelbase",
    "chainstay": "chainstay",
    "bottom_bracket_drop": "bottom-bracket drop",
    "stack": "stack",
    "reach": "reach",
    "head_tube": "head tube",
    "seat_tube": "seat tube",
    "saddle_height": "saddle height",
    "saddle_setback": "saddle setback",
    "fork_rake": "fork rake",
    "crank": "crank",
    "stem": "stem",
    "bar_width": "bar width",
}


@dataclass(frozen=True, kw_only=True)
class Bike:
    """Measures of a bike, ready to ride but with nothing hung on it."""

    name: str = "drop-bar rigid bike"
    mass: float = 10.2  # kg
    front_share: float = 0.475  # 1, share of the bare bike's weight on its front wheel
    rim: float = 0.622  # m, where the tyre's bead sits
    tyre_width: float = 0.040  # m
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
    saddle_setback: float = 0.044  # m, saddle tip behind the bottom bracket
    fork_rake: float = 0.050  # m
    fork_travel: float = 0.0  # m
    rear_travel: float = 0.0  # m, at the wheel
    dropper_travel: float = 0.0  # m that the saddle goes down
    crank: float = 0.172  # m
    stem: float = 0.085  # m
    bars: str = "drop"  # key of BARS
    bar_width: float = 0.440  # m, middle of the hoods, or end to end of flat bars
    aero_bars: bool = True
    tyre: str = "gravel"  # key of TYRES in stonechat.core.line.surface
    bosses: frozenset[str] = frozenset({"down_tube", "seat_tube", "under_down_tube", "fork_left", "fork_right"})
    tubeless: bool = True  # sealant and plugs in place of tubes
    gear_least: float = 0.75  # 1, teeth in front over teeth behind in the smallest gear
    frame: str = "metal"  # key of FRAMES
    dynamo: bool = False
    electronic: bool = False  # shifting
    front_light: str = "crown"  # key of FRONT_LIGHTS
    rear_light: str = "post"  # key of REAR_LIGHTS
    charge_port: str = "none"  # key of CHARGE_PORTS

    @property
    def wheel_radius(self) -> float:
        """Radius with the loaded tyre. [m]"""
        return 0.5 * self.rim + TYRE_HEIGHT * self.tyre_width


def wheelbase_by_measures(bike: Bike) -> float:
    """Return the wheelbase that the other measures come to.

    Parameters
    ----------
    bike : Bike
        Measures. [m]

    Returns
    -------
    wheelbase : float
        From chainstay, drop, reach, stack, head angle and rake. [m]

    Notes
    -----
    Down the steering axis from the top of the head tube to the height of the axles, then forward by the rake.

    Examples
    --------
    >>> round(wheelbase_by_measures(Bike()), 3)
    1.044
    """
    angle = math.radians(bike.head_angle)
    rear = math.sqrt(bike.chainstay**2 - bike.bottom_bracket_drop**2)
    return (
        rear + bike.reach + (bike.stack - bike.bottom_bracket_drop) / math.tan(angle) + bike.fork_rake / math.sin(angle)
    )


def usual_setback(saddle_height: float, seat_angle: float) -> float:
    """Return how far behind the bottom bracket the saddle's tip lies with a straight seat post.

    Parameters
    ----------
    saddle_height : float
        Along the seat tube. [m]
    seat_angle : float
        Of the seat tube. [°]

    Returns
    -------
    setback : float
        To whole millimetres. [m]

    Examples
    --------
    >>> usual_setback(0.735, 73.5)
    0.044
    """
    return round((saddle_height * math.cos(math.radians(seat_angle)) - SADDLE_NOSE) * 1e3) / 1e3


BIKE_KINDS = {
    "road": "drop bars, rigid, road tyres",
    "drop_rigid": "drop bars, rigid",
    "flat_rigid": "flat bars, rigid",
    "hardtail": "flat bars, suspension fork",
    "full": "flat bars, full suspension",
}
SIZES = {"s": "small", "m": "medium", "l": "large", "xl": "extra large"}
# stack, reach, seat tube, head tube, saddle height [mm], head and seat angle [°]; made-up, in the usual range
_FRAMES = {
    "road": {
        "s": (535, 372, 475, 120, 680, 71.5, 74.2), "m": (563, 382, 508, 145, 720, 72.5, 73.8),
        "l": (592, 391, 540, 172, 755, 73.0, 73.4), "xl": (620, 400, 572, 200, 795, 73.2, 73.0),
    },
    "drop_rigid": {
        "s": (548, 370, 470, 112, 680, 70.3, 74.2), "m": (580, 380, 505, 142, 720, 71.0, 73.8),
        "l": (612, 390, 535, 172, 755, 71.3, 73.4), "xl": (642, 400, 570, 202, 795, 71.5, 73.0),
    },
    "flat_rigid": {
        "s": (592, 408, 405, 100, 680, 68.5, 74.2), "m": (606, 428, 440, 106, 720, 68.8, 74.0),
        "l": (620, 448, 475, 116, 755, 69.0, 73.8), "xl": (636, 470, 515, 130, 795, 69.0, 73.6),
    },
    "hardtail": {
        "s": (600, 412, 400, 95, 680, 67.3, 74.6), "m": (613, 433, 432, 102, 720, 67.5, 74.5),
        "l": (627, 455, 466, 112, 755, 67.5, 74.4), "xl": (642, 478, 508, 126, 795, 67.5, 74.3),
    },
    "full": {
        "s": (598, 425, 395, 95, 680, 66.8, 75.6), "m": (611, 450, 425, 102, 720, 67.0, 75.5),
        "l": (625, 475, 458, 112, 755, 67.0, 75.4), "xl": (641, 500, 498, 126, 795, 67.0, 75.3),
    },
}  # fmt: skip
_BY_KIND: dict[str, Bike] = {
    "road": Bike(
        name="road bike", mass=8.6, tyre_width=0.030, tyre="road", bar_width=0.420, stem=0.100, chainstay=0.415,
        fork_rake=0.047, gear_least=1.0, bosses=frozenset({"down_tube", "seat_tube"}),
    ),
    "drop_rigid": Bike(),
    "flat_rigid": Bike(
        name="flat-bar rigid bike", mass=10.9, tyre_width=0.057, tyre="wide", bars="flat", bar_width=0.740, stem=0.060,
        aero_bars=False, bottom_bracket_drop=0.060, chainstay=0.432, fork_rake=0.051, crank=0.172,
    ),
    "hardtail": Bike(
        name="front-suspension bike", mass=11.9, tyre_width=0.057, tyre="wide", bars="flat", bar_width=0.740,
        stem=0.060, aero_bars=False, bottom_bracket_drop=0.058, chainstay=0.434, fork_rake=0.044, fork_travel=0.100,
        crank=0.172, bosses=frozenset({"down_tube", "seat_tube"}),
    ),
    "full": Bike(
        name="full-suspension bike", mass=13.2, tyre_width=0.057, tyre="wide", bars="flat", bar_width=0.760,
        stem=0.050, aero_bars=False, bottom_bracket_drop=0.034, chainstay=0.436, fork_rake=0.044, fork_travel=0.120,
        rear_travel=0.115, dropper_travel=0.125, crank=0.172, bosses=frozenset({"down_tube"}),
    ),
}  # fmt: skip


def usual_bike(kind: str, size: str, saddle_height: float | None = None) -> Bike:
    """Return a believable bike from three entries, to be corrected with the tape measure.

    Parameters
    ----------
    kind : str
        Key of BIKE_KINDS.
    size : str
        Key of SIZES.
    saddle_height : float, optional
        As measured; usual for the size where it is not given. [m]

    Returns
    -------
    bike : Bike
        Measures of the usual range, with a wheelbase that agrees with the others.

    Examples
    --------
    >>> usual_bike("hardtail", "l").fork_travel
    0.1
    """
    stack, reach, seat_tube, head_tube, saddle, head_angle, seat_angle = _FRAMES[kind][size]
    height = saddle / 1e3 if saddle_height is None else saddle_height
    drafted = replace(
        _BY_KIND[kind],
        stack=stack / 1e3,
        reach=reach / 1e3,
        seat_tube=seat_tube / 1e3,
        head_tube=head_tube / 1e3,
        head_angle=head_angle,
        seat_angle=seat_angle,
        saddle_height=height,
        saddle_setback=usual_setback(height, seat_angle),
        front_light="ahead",
        rear_light="stay",
    )
    return replace(drafted, wheelbase=round(wheelbase_by_measures(drafted) * 1e3) / 1e3)
